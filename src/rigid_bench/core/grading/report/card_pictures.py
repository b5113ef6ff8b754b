"""Small pictures for the rows of a card: the student's part with the feature lit, the right place as a ghost."""

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.formats.documents import CheckedFeature, nested
from rigid_bench.core.grading.context import Context
from rigid_bench.core.grading.matching.placement import base_of
from rigid_bench.core.grading.report.models import CheckResult, PictureModel, Report
from rigid_bench.core.kernel.distance import behind, moved
from rigid_bench.core.kernel.views import View, draw_view
from rigid_bench.core.part.directions import Direction
from rigid_bench.core.part.faces import Cylinder, Plane
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, PlaneFeature
from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.core.values.frames import Pose, unit

_Array = NDArray[np.float64]
#: Rows that get a picture at most: the first ones are read first.
_MOST = 14
#: mm and cosine: a surface this near to a feature is the feature's.
_ON, _ALONG = 1e-3, 1 - 1e-6
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
    return [CheckedFeature.model_validate(nested(each)).feature(mm=context.exercise.mm) for each in wanted]


def _of_part(result: CheckResult, context: Context, fields: dict[str, object]) -> PictureModel | None:
    laid = context.laid(str(fields["part"]), where=result.id)
    if laid is None or laid.part.is_mesh:
        return None
    wanted = [*_features(context, fields.get("between")), *_features(context, fields.get("of"))]
    if not wanted:
        return None
    features = [laid.feature(feature, where=result.id) for feature in wanted]
    toward = _corner(
        [
            laid.pose.direction(plane_feature.direction)
            for plane_feature in wanted
            if isinstance(plane_feature, PlaneFeature)
        ]
    )
    hidden = next(
        (
            cylinder_feature
            for cylinder_feature in features
            if isinstance(cylinder_feature, CylinderFeature) and _is_hollow(laid.part, cylinder_feature)
        ),
        None,
    )
    if hidden is not None:
        toward = _across(hidden.direction)
    scene = _Picture(toward, section=None if hidden is None else hidden.point)
    scene.add(laid.part, Pose.identity())
    for feature in features:
        if feature is not None:
            scene.light(laid.part, feature, Pose.identity())
    missing = [feature.moved(laid.pose) for feature, own in zip(wanted, features, strict=True) if own is None]
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
    surface = _surface(part, wall)
    return surface is not None and isinstance(found := part.surfaces[surface], Cylinder) and found.is_hollow


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
    scene = _Picture(_corner(normals[:1]))
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


def _ghost(scene: "_Picture", context: Context, index: int, name: str) -> None:
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


def _corner(normals: Sequence[_Array]) -> tuple[float, float, float]:
    """Return from which corner to look so that the faces are seen."""
    total = np.sum(normals, axis=0) if normals else np.zeros(3)
    usual = np.array([-1.0, -1.0, 0.8])
    signs = np.where(np.abs(total) > 0.3, np.sign(total), np.sign(usual))
    x, y, z = np.abs(usual) * signs
    return float(x), float(y), float(z)


class _Picture:
    """A picture as it grows: lines in the plane of the view."""

    def __init__(self, toward: tuple[float, float, float], *, section: _Array | None = None) -> None:
        #: The nearer half is taken away at this point, so that what is inside is seen.
        self.section = section
        away = unit(toward)
        right = unit(np.cross([0.0, 0, 1] if abs(away[2]) < _ALONG else [0.0, 1, 0], away))
        self.axes = np.array([right, np.cross(away, right)])
        x, y, z = (float(coordinate) for coordinate in right)
        self.direction = Direction(name="place", toward=toward, right=(x, y, z))
        self.solids: list[tuple[PartFeatures, Pose]] = []
        self.ghosts: list[tuple[PartFeatures, Pose]] = []
        self.lit: list[list[list[float]]] = []
        self.extra: list[list[list[float]]] = []
        self.ends: list[list[float]] | None = None

    def flat(self, points: _Array) -> list[list[float]]:
        """Return points, (n, 3), as they lie in the view."""
        found: list[list[float]] = np.round(np.atleast_2d(points) @ self.axes.T, 2).tolist()
        return found

    def add(self, part: PartFeatures, pose: Pose) -> None:
        """Draw a part where it stands."""
        self.solids.append((part, pose))

    def ghost(self, part: PartFeatures, pose: Pose) -> None:
        """Draw where a part should stand."""
        self.ghosts.append((part, pose))

    def ghost_ring(self, wall: CylinderFeature) -> None:
        """Draw where a round wall should be."""
        first = unit(np.cross(wall.direction, [0.31, 0.77, 0.55]))
        second = np.cross(wall.direction, first)
        turns = np.linspace(0, 2 * np.pi, 37)
        ring = wall.point + wall.radius * (np.outer(np.cos(turns), first) + np.outer(np.sin(turns), second))
        self.extra.append(self.flat(ring))

    def light(self, part: PartFeatures, feature: Feature, pose: Pose) -> None:
        """Light the edges of the surface that a feature is of."""
        surface = _surface(part, feature)
        if surface is None:
            return
        starts, ends = part.edges.polylines(surface)
        a, b = self.flat(pose.point(starts)), self.flat(pose.point(ends))
        self.lit += [[one, two] for one, two in zip(a, b, strict=True) if one != two]

    def arrow(self, start: _Array, end: _Array) -> None:
        """Draw an arrow between two places."""
        self.ends = self.flat(np.array([start, end]))

    def model(self, label: str) -> PictureModel:
        """Return the picture."""
        cut = None if self.section is None else tuple(float(coordinate) for coordinate in self.section)
        view = _view(tuple(self.solids), self.direction, cut)
        ghost = list(_view(tuple(self.ghosts), self.direction).visible) if self.ghosts else []
        ghosts = [np.round(line, 2).tolist() for line in ghost] + self.extra
        points = [point for line in [*(line.tolist() for line in view.visible), *ghosts] for point in line]
        points += self.ends or []
        return PictureModel(
            box=[np.min(points, axis=0).round(2).tolist(), np.max(points, axis=0).round(2).tolist()],
            visible=[np.round(line, 2).tolist() for line in view.visible],
            hidden=[np.round(line, 2).tolist() for line in view.hidden] if len(self.solids) == 1 and not cut else [],
            lit=self.lit,
            ghost=ghosts,
            arrow=self.ends,
            label=label if len(label) < 40 else "",
        )


@lru_cache(maxsize=64)
def _view(
    placed: tuple[tuple[PartFeatures, Pose], ...], direction: Direction, cut: tuple[float, ...] | None = None
) -> View:
    size = max(part.size for part, _ in placed)
    solids = [moved(part.shape, pose) for part, pose in placed]
    if cut is not None:
        solids = [behind(solid, point=np.array(cut), normal=unit(direction.toward), reach=4 * size) for solid in solids]
    return draw_view(solids, direction, size=8 * size)


def _surface(part: PartFeatures, feature: Feature) -> int | None:
    """Return the surface of a part that a feature is of; the nearest of several in one plane."""
    found: list[tuple[float, int]] = []
    for k, surface in enumerate(part.surfaces):
        if isinstance(feature, CylinderFeature) and isinstance(surface, Cylinder):
            apart = surface.point - feature.point
            beside = np.linalg.norm(apart - float(apart @ feature.direction) * feature.direction)
            if beside < _ON and abs(surface.radius - feature.radius) < _ON:
                found.append((float(np.linalg.norm(apart)), k))
        elif isinstance(feature, PlaneFeature) and isinstance(surface, Plane):
            apart = surface.point - feature.point
            if float(surface.normal @ feature.normal) > _ALONG and abs(float(apart @ feature.normal)) < _ON:
                found.append((float(np.linalg.norm(apart)), k))
    return min(found)[1] if found else None
