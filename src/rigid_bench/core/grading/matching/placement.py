"""Where the student's parts should stand, which of them are off and how, and which mates put them there."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from rigid_bench.core.assembly.mates.registry import equations
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.grading.context import Context
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, PlaneFeature
from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.core.values.frames import Pose, turn_of

#: mm and rad: a part that is off by less stands where it should.
_IN_PLACE_MM, _IN_PLACE_RAD = 0.01, 1e-3


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Misplaced:
    """Instances that are off by one and the same motion."""

    #: Required instance ids, in the reference's order.
    instances: tuple[str, ...]
    #: From where they should stand to where they do, in the student's world.
    motion: Pose


def base_of(context: Context) -> Pose | None:
    """Return where the reference's world lies in the student's, by its base; None where that is missing."""
    if context.base is None or not context.registrations(context.base[0]):
        return None
    index, pose = context.base
    return context.submission.instances[index].pose @ context.registrations(index)[0].pose @ pose.inverse()


def left_at_origin(context: Context) -> list[str]:
    """List the instances that were never put in place: they stand where they were drawn, and should not."""
    reference = context.exercise.reference
    away = {instance for group in misplaced(context) for instance in group.instances}
    return [
        instance.id
        for instance in (reference.instances if reference else ())
        if instance.id in away
        and not instance.grounded
        and context.submission.instances[context.matching.instances[instance.id]].pose.is_close(
            Pose.identity(), mm=1e-6, rad=1e-9
        )
    ]


def misplaced(context: Context) -> list[Misplaced]:
    """List what does not stand where it should, parts that are off by the same motion together.

    Parameters
    ----------
    context
        The submission, matched. Of the equal positions of a symmetric part, the nearest one is meant.

    Returns
    -------
    list of Misplaced
        In the reference's order; empty where the base is missing.
    """
    world, reference = base_of(context), context.exercise.reference
    if world is None or reference is None:
        return []
    groups: list[tuple[list[str], Pose]] = []
    for instance in reference.instances:
        index = context.matching.instances.get(instance.id)
        if index is None or not context.registrations(index):
            continue
        motion = _off(context, index, world @ instance.pose)
        if motion is None:
            continue
        group = next(
            (own for own, other in groups if _is_one_motion(motion, other, context.registrations(index)[0].part.size)),
            None,
        )
        if group is None:
            groups.append(([instance.id], motion))
        else:
            group.append(instance.id)
    return [Misplaced(instances=tuple(own), motion=motion) for own, motion in groups]


def _off(context: Context, index: int, wanted: Pose) -> Pose | None:
    """Return the least motion from where an instance should stand; None where it stands there."""
    own = context.submission.instances[index].pose
    motions = [own @ registered.pose @ wanted.inverse() for registered in context.registrations(index)]
    middle = wanted.point(context.registrations(index)[0].reference.centroid)
    size = context.registrations(index)[0].reference.size
    least = min(motions, key=lambda motion: _size(motion, middle, size))
    turn = float(np.linalg.norm(turn_of(least.rotation)))
    shift = float(np.linalg.norm(least.point(middle) - middle))
    return None if turn < _IN_PLACE_RAD and shift < _IN_PLACE_MM else least


def _size(motion: Pose, middle: np.ndarray, size: float) -> float:
    turn = float(np.linalg.norm(turn_of(motion.rotation)))
    return float(np.linalg.norm(motion.point(middle) - middle)) + size * turn


def _is_one_motion(a: Pose, b: Pose, size: float) -> bool:
    apart = a @ b.inverse()
    turn = float(np.linalg.norm(turn_of(apart.rotation)))
    return turn < _IN_PLACE_RAD and float(np.linalg.norm(apart.position)) < _IN_PLACE_MM + size * _IN_PLACE_RAD


@dataclass(frozen=True, slots=True, kw_only=True)
class Undo:
    """Which of the student's mates would hold if all stood where it should, and which would not."""

    keep: tuple[str, ...]
    delete: tuple[str, ...]


def mates_to_undo(context: Context, instances: Sequence[str]) -> Undo:
    """Try the student's mates with their own parts in the required positions.

    Parameters
    ----------
    context
        The submission, matched.
    instances
        Required ids: only mates of these are looked at.

    Returns
    -------
    Undo
        Over all equal positions of symmetric parts, in the build file's order.
    """
    build, world, reference = context.submission.build, base_of(context), context.exercise.reference
    if build is None or world is None or reference is None:
        return Undo(keep=(), delete=())
    matched = context.matching.instances
    looked_at = {matched[instance] for instance in instances if instance in matched}
    wanted = {
        matched[instance.id]: [
            world @ instance.pose @ registered.pose.inverse()
            for registered in context.registrations(matched[instance.id])
        ]
        for instance in reference.instances
        if instance.id in matched
    }
    keep: list[str] = []
    delete: list[str] = []
    for mate in build.mates:
        if not looked_at & {mate.a, mate.b} or mate.a not in wanted or mate.b not in wanted:
            continue
        holds = any(_holds(context, mate, a, b) for a in wanted[mate.a] for b in wanted[mate.b])
        (keep if holds else delete).append(mate.id)
    return Undo(keep=tuple(keep), delete=tuple(delete))


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Instead:
    """The feature that a wrong mate should have used, on the one of its instances where it went wrong."""

    #: The student's.
    instance: int
    #: Both in the part's own coordinates.
    used: Feature
    right: Feature


def right_feature(context: Context, mate_id: str) -> Instead | None:
    """Find the feature with which a wrong mate would hold if all stood where it should.

    Parameters
    ----------
    context
        The submission, matched.
    mate_id
        One of the student's mates.

    Returns
    -------
    Instead or None
        The one nearest to what was used; None where no single feature mends it.
    """
    build, world, reference = context.submission.build, base_of(context), context.exercise.reference
    if build is None or world is None or reference is None:
        return None
    mate = next(mate for mate in build.mates if mate.id == mate_id)
    poses = {
        index: world
        @ reference.instances[reference.index_of(name)].pose
        @ context.registrations(index)[0].pose.inverse()
        for name, index in context.matching.instances.items()
        if index in (mate.a, mate.b) and context.registrations(index)
    }
    if len(poses) < 2:
        return None
    tries = [
        *(
            (mate.a, mate.feature_a, feature, replace(mate, feature_a=feature))
            for feature in _alike(context, mate.a, mate.feature_a)
        ),
        *(
            (mate.b, mate.feature_b, feature, replace(mate, feature_b=feature))
            for feature in _alike(context, mate.b, mate.feature_b)
        ),
    ]
    held = [
        (float(np.linalg.norm(feature.point - used.point)), k, Instead(instance=instance, used=used, right=feature))
        for k, (instance, used, feature, tried) in enumerate(tries)
        if _holds(context, tried, poses[mate.a], poses[mate.b])
    ]
    return min(held, key=lambda candidate: candidate[:2])[2] if held else None


def _alike(context: Context, instance: int, used: Feature) -> list[Feature]:
    """List a part's features of the kind that was used."""
    part = context.submission.instances[instance].part
    if part is None:
        return []
    features = context.submission.parts[part].features
    if isinstance(used, PlaneFeature):
        return [PlaneFeature(plane.point, plane.normal) for plane in features.planes]
    if isinstance(used, CylinderFeature):
        return [CylinderFeature(cylinder.point, cylinder.direction, cylinder.radius) for cylinder in features.cylinders]
    if isinstance(used, AxisFeature):
        return [AxisFeature(cylinder.point, cylinder.direction) for cylinder in features.cylinders]
    return []


def _holds(context: Context, mate: Mate, a: Pose, b: Pose) -> bool:
    try:
        rows = equations(mate, mate.feature_a.moved(a), mate.feature_b.moved(b))
    except RigidBenchError:
        return False
    mm = float(np.linalg.norm([equation.residual for equation in rows if not equation.is_angular]))
    rad = float(np.linalg.norm([equation.residual for equation in rows if equation.is_angular]))
    return mm <= _IN_PLACE_MM and rad <= max(_IN_PLACE_RAD, context.tolerance.mate_rad)
