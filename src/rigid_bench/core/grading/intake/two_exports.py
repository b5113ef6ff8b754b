"""The same assembly exported twice, before and after dragging: what moved, and how.

It shows what moved, not what cannot.
"""

import itertools
import math
from collections import defaultdict
from collections.abc import Mapping, Sequence

import numpy as np

from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.grading.intake.submitted_parts import SubmittedInstance, SubmittedPart
from rigid_bench.core.kernel.read_model import read_part
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.model import Model, ModelInstance
from rigid_bench.core.part.symmetry import motions_between
from rigid_bench.core.values.frames import Pose, turn_of
from rigid_bench.core.values.tolerance import Tolerance

#: mm and rad: less is no motion.
STILL_MM, STILL_RAD = 0.01, 1e-3
#: Of a symmetric part, so many of its equal positions are tried.
_MOST_EQUAL = 24


def where_moved(
    instances: Sequence[SubmittedInstance],
    parts: Sequence[SubmittedPart],
    models: Mapping[str, Model],
    *,
    tolerance: Tolerance,
) -> tuple[Pose | None, ...]:
    """Find where each instance stands in the export after dragging.

    Parameters
    ----------
    instances, parts
        Of the first export.
    models
        The second export: the same parts under the same names, elsewhere.
    tolerance
        For laying each part over itself: some programs write places into the shapes.

    Returns
    -------
    tuple of Pose or None
        For each instance, of its part's coordinates; None where it is not found again.
    """
    offered = [(model, instance) for model in models.values() for instance in model.instances]
    names = {(id(model), part.id): part.name.lower() for model in models.values() for part in model.parts}
    by_name: dict[tuple[str, str], list[int]] = defaultdict(list)
    by_part: dict[str, list[int]] = defaultdict(list)
    for k, (model, instance) in enumerate(offered):
        by_name[names[id(model), instance.part], instance.name.lower()].append(k)
        by_part[names[id(model), instance.part]].append(k)
    taken: set[int] = set()
    features: dict[tuple[int, str], PartFeatures] = {}
    poses: list[Pose | None] = []
    for submitted in instances:
        if submitted.part is None:
            poses.append(None)
            continue
        part = parts[submitted.part]
        same = by_name[part.name.lower(), submitted.name.lower()] + by_part[part.name.lower()]
        free = [k for k in [*same, *range(len(offered))] if k not in taken]
        place = None
        for k in free:
            model, offered_instance = offered[k]
            key = id(model), offered_instance.part
            if key not in features:
                shape = next(own.shape for own in model.parts if own.id == offered_instance.part)
                features[key] = read_part(shape, tolerance=tolerance)
            place = _place(submitted, part.features, offered_instance, features[key], tolerance)
            if place is not None:
                taken.add(k)
                break
        poses.append(place)
    return tuple(poses)


def _place(
    submitted: SubmittedInstance, part: PartFeatures, other: ModelInstance, shape: PartFeatures, tolerance: Tolerance
) -> Pose | None:
    """Return where a part stands if the other is its shape, of equal positions the one that moved least."""
    places = [
        other.pose @ motion
        for motion in itertools.islice(motions_between(part, shape, tolerance=tolerance), _MOST_EQUAL)
    ]
    return min(places, key=lambda place: _moved_by(submitted.pose, place, part), default=None)


def _moved_by(before: Pose, after: Pose, part: PartFeatures) -> float:
    gone = after @ before.inverse()
    middle = before.point(part.centroid)
    turn = float(np.linalg.norm(turn_of(gone.rotation)))
    return float(np.linalg.norm(gone.point(middle) - middle)) + part.size * turn


def fitted(gone: Pose) -> tuple[Motion, float] | None:
    """Fit a rigid motion as a turn, a slide or a screw.

    Parameters
    ----------
    gone
        From before to after.

    Returns
    -------
    (Motion, float) or None
        The motion, and its amount: rad for a turn or screw, mm for a slide. None where it stood still.

    Notes
    -----
    Chasles' theorem: every rigid motion is a turn about an axis and a slide along it (O. Bottema
    and B. Roth, Theoretical Kinematics, 1979, ch. 1; from memory).
    """
    turn = turn_of(gone.rotation)
    angle = float(np.linalg.norm(turn))
    if angle < STILL_RAD:
        shift = float(np.linalg.norm(gone.position))
        if shift < STILL_MM:
            return None
        return Motion(kind="translation", direction=gone.position / shift, point=np.zeros(3)), shift
    axis = turn / angle
    along = float(gone.position @ axis)
    across = gone.position - along * axis
    # the point that the turn leaves where it is, nearest to the origin
    point = (across + np.cross(axis, across) / math.tan(angle / 2)) / 2
    if abs(along) < STILL_MM:
        return Motion(kind="rotation", direction=axis, point=point), angle
    return Motion(kind="screw", direction=axis, point=point, pitch=along * 2 * math.pi / angle), angle
