"""Small pictures for the rows of a card: the student's part with the feature lit, the right place as a ghost."""

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.formats.documents import CheckedFeature, nested
from rigid_bench.core.formats.pictures import PictureModel
from rigid_bench.core.grading.context import Context
from rigid_bench.core.grading.matching.placement import base_of
from rigid_bench.core.grading.report.lit_picture import LitPicture, corner_towards, surface_of
from rigid_bench.core.grading.report.models import CheckResult, Report
from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, PlaneFeature
from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.core.values.frames import Pose, unit

_Array = NDArray[np.float64]
#: Rows that get a picture at most: the first ones are read first.
_MOST = 14
#: A ghost that would stand nearer than this (mm) is not drawn.
_APART = 0.05


def with_pictures(report: Report, context: Context) -> Report:
    """Return the report with a picture at each row that is off and speaks of a place.

    Parameters
    ----------
    report
        As graded.
    context
        From which it was found.
    """
    done, checks = 0, []
    for check in report.checks:
        picture = None
        if check.verdict in ("near", "missed") and not check.follows and done < _MOST:
            picture = _picture(check, context)
            done += picture is not None
        checks.append(check.model_copy(update={"picture": picture}) if picture else check)
    return report.model_copy(update={"checks": checks})


def _picture(result: CheckResult, context: Context) -> PictureModel | None:
    fields = next(check.fields for check in context.exercise.model.checks if check.id == result.id)
    try:
        if isinstance(fields.get("part"), str):
            return _of_part(result, context, fields)
        return _of_pair(result, context, fields)
    except RigidBenchError:
        return None  # a picture is a help; without it the row still says all


def _features(context: Context, given: object) -> list[Feature]:
    wanted = given if isinstance(given, list) else [given] if given else []
    return [
        CheckedFeature.model_validate(nested(given_feature)).feature(mm=context.exercise.mm) for given_feature in wanted
    ]


def _of_part(result: CheckResult, context: Context, fields: dict[str, object]) -> PictureModel | None:
    registered = context.registered(str(fields["part"]), where=result.id)
    if registered is None or registered.part.is_mesh:
        return None
    wanted = [*_features(context, fields.get("between")), *_features(context, fields.get("of"))]
    if not wanted:
        return None
    features = [registered.feature(feature, where=result.id) for feature in wanted]
    toward = corner_towards(
        [
            registered.pose.direction(plane_feature.direction)
            for plane_feature in wanted
            if isinstance(plane_feature, PlaneFeature)
        ]
    )
    hidden = next(
        (
            cylinder_feature
            for cylinder_feature in features
            if isinstance(cylinder_feature, CylinderFeature) and _is_hollow(registered.part, cylinder_feature)
        ),
        None,
    )
    if hidden is not None:
        toward = _across(hidden.direction)
    scene = LitPicture(toward, section=None if hidden is None else hidden.point)
    scene.add(registered.part, Pose.identity())
    for feature in features:
        if feature is not None:
            scene.light(registered.part, feature, Pose.identity())
    missing = [feature.moved(registered.pose) for feature, own in zip(wanted, features, strict=True) if own is None]
    for feature in missing:
        if isinstance(feature, CylinderFeature):
            scene.ghost_ring(feature)
    ends = [feature.point for feature in features if isinstance(feature, PlaneFeature | AxisFeature)]
    if len(ends) == 2 and all(isinstance(feature, PlaneFeature) for feature in features):
        first = features[0]
        assert isinstance(first, PlaneFeature)
        scene.arrow(ends[0], ends[0] + float((ends[1] - ends[0]) @ first.normal) * first.normal)
    return scene.model(result.measured)


def _is_hollow(part: PartFeatures, wall: CylinderFeature) -> bool:
    surface = surface_of(part, wall)
    return surface is not None and isinstance(round_wall := part.surfaces[surface], Cylinder) and round_wall.is_hollow


def _across(axis: _Array) -> tuple[float, float, float]:
    """Return from where to look at a section through an axis: square to it, the usual way round."""
    usual = np.array([-0.3, -1.0, 0.25]) if abs(axis[1]) < abs(axis).max() - 1e-9 else np.array([1.0, -0.3, 0.25])
    x, y, z = unit(usual - float(usual @ axis) * axis)
    return float(x), float(y), float(z)


def _of_pair(result: CheckResult, context: Context, fields: dict[str, object]) -> PictureModel | None:
    """Draw the two instances of a relation, gap or step; the second one's right place as a ghost."""
    operands = [fields.get("a"), fields.get("b")]
    names = [operand["instance"] if isinstance(operand, dict) else operand for operand in operands]
    if not all(isinstance(name, str) and name in context.matching.instances for name in names):
        return None
    indices = [context.matching.instances[str(name)] for name in names]
    if not all(index in context.solids and context.registrations(index) for index in indices):
        return None
    given = [
        _features(context, {key: value for key, value in operand.items() if key != "instance"})
        if isinstance(operand, dict)
        else []
        for operand in operands
    ]
    between = _features(context, fields.get("between"))
    given = [[feature] for feature in between] if len(between) == 2 else given
    normals = [
        context.placings[index][1].direction(context.registrations(index)[0].pose.direction(feature.normal))
        for index, features in zip(indices, given, strict=True)
        for feature in features
        if isinstance(feature, PlaneFeature)
    ]
    scene = LitPicture(corner_towards(normals[:1]))
    for index, wanted in zip(indices, given, strict=True):
        part, pose = context.placings[index]
        if part.is_mesh:
            return None
        scene.add(part, pose)
        for feature in wanted:
            own = context.registrations(index)[0].feature(feature, where=result.id)
            if own is not None:
                scene.light(part, own, pose)
    _ghost(scene, context, indices[1], str(names[1]))
    return scene.model(result.measured)


def _ghost(scene: LitPicture, context: Context, index: int, name: str) -> None:
    world, reference = base_of(context), context.exercise.reference
    if world is None or reference is None:
        return
    required = world @ reference.instances[reference.index_of(name)].pose
    part = context.references[reference.instances[reference.index_of(name)].part]
    wanted = required.point(part.centroid)
    own, pose = context.placings[index]
    there = pose.point(own.centroid)
    if np.linalg.norm(wanted - there) > _APART:
        scene.ghost(part, required)
        scene.arrow(there, wanted)
