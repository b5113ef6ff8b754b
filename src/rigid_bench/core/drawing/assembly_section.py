"""The assembly cut where its fits lie: parts hatched each in its own way, shafts and fasteners whole (ISO 128-3)."""

import itertools
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.drawing.sections import Drawer, cut_area, rings_of
from rigid_bench.core.exercise.bundle import CheckModel
from rigid_bench.core.formats.build import Instance
from rigid_bench.core.formats.pictures import AssemblyFit, AssemblySection, SectionedInstance
from rigid_bench.core.kernel.distance import behind, moved
from rigid_bench.core.kernel.feature_reader import tight_box
from rigid_bench.core.part.directions import FRONT, SIDE, TOP, Direction, axes_of
from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.part.features import PartFeatures

_Array = NDArray[np.float64]
_SQUARE, _LEVEL = 1e-6, 1e-3
#: mm and share of the radius: more room is no fit.
_ROOM, _ROOM_SHARE = 1.0, 0.1
#: How much more a plane counts that shows a fit than one that only cuts a part.
_FIT_COUNTS = 10


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Fit:
    """A round part in a hole of another, in the world."""

    hole_in: int
    shaft_of: int
    #: (3,) mm, the middle of what they have in common, and (3,) unit.
    point: _Array
    axis: _Array
    hole: float
    shaft: float


def cut_assembly(
    instances: Sequence[Instance],
    features: Mapping[str, PartFeatures],
    checks: Sequence[CheckModel],
    draw: Drawer,
) -> AssemblySection | None:
    """Cut an assembly through the plane that shows most of its fits.

    Parameters
    ----------
    instances
        Of the reference build.
    features
        By part.
    checks
        Those that ask for a gap or fit between two instances are dimensioned.
    draw
        Draws solids from a direction.

    Returns
    -------
    AssemblySection or None
        None for a single instance.

    Raises
    ------
    GeometryError
        The kernel cannot cut a part.
    """
    if len(instances) < 2:
        return None
    solids = [moved(features[own.part].shape, own.pose) for own in instances]
    boxes = [tight_box(solid) for solid in solids]
    fits = list(_fits(instances, features))
    direction, level = _best_plane(fits, boxes)
    right, up, toward = axes_of(direction)
    reach = float(np.abs(np.array(boxes)).max()) * 4 + 1.0
    drawn, cut = [], []
    for own, solid, box in zip(instances, solids, boxes, strict=True):
        low, high = _reach(box, toward)
        if high <= level or _is_left_whole(features[own.part], own, toward, level):
            drawn.append(solid)
        elif low < level:
            rest = behind(solid, point=toward * level, normal=toward, reach=reach)
            drawn.append(rest)
            area = cut_area(rest, direction, level, features[own.part].size)
            cut.append(SectionedInstance(instance=own.id, part=own.part, areas=rings_of(area)))
    middle = np.array([[box.mean(axis=0) @ right, box.mean(axis=0) @ up] for box in boxes]).mean(axis=0)
    return AssemblySection(
        direction=direction.name,
        point=np.round(right * middle[0] + up * middle[1] + toward * level, 6).tolist(),
        view=draw(drawn, direction),
        beside=draw(solids, _beside(direction, boxes)),
        cut=cut,
        fits=list(_asked(fits, instances, checks, toward, level)),
    )


def _beside(direction: Direction, boxes: Sequence[_Array]) -> Direction:
    """Return the view that shows where it is cut: from the side for what is tall, so that both stand in a row."""
    if direction is TOP:
        return FRONT
    low, high = np.min([box[0] for box in boxes], axis=0), np.max([box[1] for box in boxes], axis=0)
    right, up, _ = axes_of(direction)
    is_tall = abs(float((high - low) @ up)) > abs(float((high - low) @ right))
    return (SIDE if direction is FRONT else FRONT) if is_tall else TOP


def _fits(instances: Sequence[Instance], features: Mapping[str, PartFeatures]) -> Iterator[_Fit]:
    for a, b in itertools.permutations(range(len(instances)), 2):
        holes = [wall for wall in features[instances[a].part].cylinders if wall.is_hollow and wall.goes_round]
        shafts = [wall for wall in features[instances[b].part].cylinders if not wall.is_hollow and wall.goes_round]
        for hole, shaft in itertools.product(holes, shafts):
            if abs(hole.radius - shaft.radius) > _ROOM + _ROOM_SHARE * hole.radius:
                continue
            joint = _common(hole, instances[a], shaft, instances[b])
            if joint is not None:
                point, axis = joint
                yield _Fit(hole_in=a, shaft_of=b, point=point, axis=axis, hole=2 * hole.radius, shaft=2 * shaft.radius)


def _common(hole: Cylinder, own: Instance, shaft: Cylinder, other: Instance) -> tuple[_Array, _Array] | None:
    """Return the middle and direction of what a hole and a shaft on one axis have in common; None for no such."""
    axis = own.pose.direction(hole.direction)
    if abs(float(axis @ other.pose.direction(shaft.direction))) < 1 - _SQUARE:
        return None
    start = own.pose.point(hole.point)
    off = other.pose.point(shaft.point) - start
    if float(np.linalg.norm(off - float(off @ axis) * axis)) > _ROOM:
        return None
    of_hole = sorted(float(own.pose.point(end) @ axis) for end in (hole.point, hole.end))
    of_shaft = sorted(float(other.pose.point(end) @ axis) for end in (shaft.point, shaft.end))
    low, high = max(of_hole[0], of_shaft[0]), min(of_hole[1], of_shaft[1])
    if high - low < _LEVEL:
        return None
    return start + ((low + high) / 2 - float(start @ axis)) * axis, axis


def _best_plane(fits: Sequence[_Fit], boxes: Sequence[_Array]) -> tuple[Direction, float]:
    """Return the plane that shows most fits, then cuts most parts: its line of sight, and mm towards the eye."""
    planes: list[tuple[Direction, float]] = []
    for direction in (FRONT, SIDE, TOP):
        toward = axes_of(direction)[2]
        planes += [(direction, float(fit.point @ toward)) for fit in fits if abs(float(fit.axis @ toward)) < _SQUARE]
        planes += [(direction, float(box.mean(axis=0) @ toward)) for box in boxes]

    def worth(plane: tuple[Direction, float]) -> int:
        toward = axes_of(plane[0])[2]
        shown = {
            (fit.hole_in, fit.shaft_of)
            for fit in fits
            if abs(float(fit.axis @ toward)) < _SQUARE and abs(float(fit.point @ toward) - plane[1]) < _LEVEL
        }
        met = sum(low + _LEVEL < plane[1] < high - _LEVEL for low, high in (_reach(box, toward) for box in boxes))
        return _FIT_COUNTS * len(shown) + met

    return max(planes, key=worth)


def _reach(box: _Array, direction: _Array) -> tuple[float, float]:
    ends = np.sort(box * direction, axis=0).sum(axis=1)
    return float(ends[0]), float(ends[1])


def _is_left_whole(part: PartFeatures, own: Instance, toward: _Array, level: float) -> bool:
    """Say whether a part is a shaft, pin or screw that the plane goes through lengthwise: solid, and round about it."""
    if any(wall.is_hollow for wall in part.cylinders):
        return False
    return any(
        abs(float(own.pose.direction(wall.direction) @ toward)) < _SQUARE
        and abs(float(own.pose.point(wall.point) @ toward) - level) < _LEVEL
        for wall in part.bosses
    )


def _asked(
    fits: Sequence[_Fit], instances: Sequence[Instance], checks: Sequence[CheckModel], toward: _Array, level: float
) -> Iterator[AssemblyFit]:
    """Yield the fits that checks ask for and the plane shows, each once."""
    told: set[tuple[float, ...]] = set()
    for check in checks:
        if check.kind != "gap":
            continue
        named = {str(check.fields.get("a")), str(check.fields.get("b"))}
        for fit in fits:
            is_seen = abs(float(fit.axis @ toward)) < _SQUARE and abs(float(fit.point @ toward) - level) < _LEVEL
            key = (fit.hole_in, fit.shaft_of, round(fit.hole, 3), round(fit.shaft, 3))
            if is_seen and key not in told and {instances[fit.hole_in].id, instances[fit.shaft_of].id} == named:
                told.add(key)
                fields = check.fields.get("fit")
                yield AssemblyFit(
                    check=check.id,
                    point=np.round(fit.point, 6).tolist(),
                    direction=np.round(fit.axis, 9).tolist(),
                    hole=round(fit.hole, 6),
                    shaft=round(fit.shaft, 6),
                    fit=fields if isinstance(fields, str) and "/" in fields else "",
                )
                break
