"""Where a part is cut, and what is seen then: full, half and stepped sections, ribs left uncut (ISO 128-3)."""

import itertools
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from rigid_bench.core.drawing.line_cleaning import drawn_once
from rigid_bench.core.formats.pictures import Polyline, SectionModel, ViewModel
from rigid_bench.core.kernel.distance import behind
from rigid_bench.core.kernel.meshes.triangulation import face_triangles
from rigid_bench.core.part.directions import FRONT, SIDE, TOP, Direction, axes_of
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.model import Body
from rigid_bench.core.part.recognition.holes import Hole
from rigid_bench.core.part.recognition.inventory import Inventory

_Array = NDArray[np.float64]
_SQUARE = 1e-6
#: mm: levels that are nearer are one; triangles of a cut face stay so near to what is round; what is narrower than
#: the last is no area.
_LEVEL, _FINE, _SLIVER = 1e-3, 0.02, 1e-4
#: mm: between features that lie in different planes of a stepped cut.
_APART = 1.0
_MOST_STEPS = 3
#: A rib is so many times as long and high as thick, and takes at most this share of what is cut.
_RIB_SLENDER, _RIB_SHARE = 2.5, 0.8
#: A half view shows so much (share of the size) that a full section would take away.
_OUTSIDE = 0.1

Drawer = Callable[[Sequence[Body], Direction], ViewModel]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Inside:
    """What a view would show by hidden lines alone."""

    #: (3,) mm and (3,) unit: a point of its axis, and the axis out of the opening.
    point: _Array
    axis: _Array
    #: mm, half of what it takes across.
    reach: float
    #: Like features have the same; one of them is enough.
    sort: tuple[object, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class _Plane:
    """One plane of a cut, by the section's own coordinates."""

    #: mm to the right, between which it cuts, and towards the eye.
    low: float
    high: float
    level: float


def choose_section(part: PartFeatures, inventory: Inventory, draw: Drawer) -> SectionModel | None:
    """Cut a part where steps, floors and pockets would show as hidden lines only.

    Parameters
    ----------
    part, inventory
        The part and its features.
    draw
        Draws solids from a direction.

    Returns
    -------
    SectionModel or None
        A stepped one where one plane does not meet all of them; a half one where the part is symmetric about it and
        the outside has something to show; None where nothing lies inside.

    Raises
    ------
    GeometryError
        The kernel cannot cut the part.
    """
    inside = list(_inside(inventory))
    if not inside:
        return None
    chosen = max(
        ((direction, _planes(direction, inside)) for direction in (FRONT, SIDE, TOP)),
        key=lambda pair: len(_met(pair[0], pair[1], inside)),
    )
    direction, planes = chosen
    if not planes:
        return None
    return _section(part, direction, planes, draw)


def _inside(inventory: Inventory) -> Iterator[_Inside]:
    for hole in inventory.holes:
        if not hole.through or hole.entry != "plain" or _is_stepped(hole, inventory.holes):
            wall = hole.cylinder
            sort: tuple[object, ...] = ("hole", round(wall.radius, 3), hole.through, hole.entry, round(hole.depth, 3))
            yield _Inside(point=wall.point, axis=wall.direction, reach=wall.radius, sort=sort)
    for slot in inventory.slots:
        if not slot.through:
            sort = ("slot", round(slot.width, 3), round(slot.depth, 3))
            yield _Inside(point=slot.position, axis=slot.direction, reach=slot.width / 2, sort=sort)
    for pocket in inventory.pockets:
        if not pocket.through:
            sort = ("pocket", round(pocket.depth, 3), round(pocket.outline.area, 2))
            reach = float(np.sqrt(pocket.outline.area)) / 2
            yield _Inside(point=pocket.position, axis=pocket.direction, reach=reach, sort=sort)


def _is_stepped(hole: Hole, holes: Sequence[Hole]) -> bool:
    own = hole.cylinder
    return any(
        abs(float(other.cylinder.direction @ own.direction)) > 1 - _SQUARE
        and float(np.linalg.norm(np.cross(other.cylinder.point - own.point, own.direction))) < _FINE
        and abs(other.cylinder.radius - own.radius) > _FINE
        for other in holes
    )


def _planes(direction: Direction, inside: Sequence[_Inside]) -> list[_Plane]:
    """Return the planes of a cut from left to right; empty where nothing lies along it."""
    right, up, toward = axes_of(direction)
    # a step shows only where the features open up or down: the plane is seen on edge from there
    seen = [hollow for hollow in inside if abs(float(hollow.axis @ toward)) < _SQUARE]
    if not seen:
        return []
    first = max(seen, key=lambda hollow: (_met_by(hollow, seen, toward), hollow.reach))
    chosen = [first]
    sorts = {hollow.sort for hollow in seen if abs(float((hollow.point - first.point) @ toward)) < _LEVEL}
    for hollow in sorted(seen, key=lambda inner: -inner.reach):
        levels = {round(float(own.point @ toward), 3) for own in chosen}
        is_upright = all(abs(float(own.axis @ up)) > 1 - _SQUARE for own in (*chosen, hollow))
        is_beside = all(
            abs(float((hollow.point - own.point) @ right)) > hollow.reach + own.reach + _APART for own in chosen
        )
        if hollow.sort in sorts or not is_upright or not is_beside or len(levels) >= _MOST_STEPS:
            continue
        chosen.append(hollow)
        sorts.add(hollow.sort)
    chosen.sort(key=lambda hollow: float(hollow.point @ right))
    bounds = [-np.inf]
    for one, two in itertools.pairwise(chosen):
        bounds.append(float((one.point @ right + one.reach + two.point @ right - two.reach) / 2))
    bounds.append(np.inf)
    planes = [
        _Plane(low=low, high=high, level=float(hollow.point @ toward))
        for hollow, (low, high) in zip(chosen, itertools.pairwise(bounds), strict=True)
    ]
    return _joined(planes)


def _joined(planes: Sequence[_Plane]) -> list[_Plane]:
    """Return planes, neighbours at one level as one."""
    joined: list[_Plane] = []
    for plane in planes:
        if joined and abs(joined[-1].level - plane.level) < _LEVEL:
            joined[-1] = replace(joined[-1], high=plane.high)
        else:
            joined.append(plane)
    return joined


def _met_by(own: _Inside, seen: Sequence[_Inside], toward: _Array) -> int:
    return len({hollow.sort for hollow in seen if abs(float((hollow.point - own.point) @ toward)) < _LEVEL})


def _met(direction: Direction, planes: Sequence[_Plane], inside: Sequence[_Inside]) -> set[tuple[object, ...]]:
    """Return what a cut goes through the middle of, by its sort."""
    right, _, toward = axes_of(direction)
    return {
        hollow.sort
        for hollow in inside
        for plane in planes
        if abs(float(hollow.axis @ toward)) < _SQUARE
        and abs(float(hollow.point @ toward) - plane.level) < _LEVEL
        and plane.low <= float(hollow.point @ right) <= plane.high
    }


def _section(part: PartFeatures, direction: Direction, planes: Sequence[_Plane], draw: Drawer) -> SectionModel:
    right, up, toward = axes_of(direction)
    height = part.box.mean(axis=0) @ up
    visible: list[Polyline] = []
    areas = []
    for plane in planes:
        view, area = _cut(part, direction, plane, draw)
        visible += _without_bounds(view.visible, plane)
        areas.append(area)
    cut = shapely.union_all(areas)
    ribs = _ribs(part, direction, planes[0].level, cut) if len(planes) == 1 else shapely.Polygon()
    if not ribs.is_empty:
        edges = ribs.boundary.intersection(cut.buffer(-_FINE))
        visible += [_points(line) for line in getattr(edges, "geoms", [edges]) if not line.is_empty]
        cut = cut.difference(ribs.buffer(_SLIVER))
    whole = draw([part.shape], direction)
    size = float(np.linalg.norm(np.ptp(np.array(whole.box), axis=0)))
    visible, _ = drawn_once(visible, [], size)
    section = SectionModel(
        direction=direction.name,
        point=np.round(right * _middle(planes, part, right) + up * height + toward * planes[0].level, 6).tolist(),
        form="stepped" if len(planes) > 1 else "full",
        path=[],
        view=ViewModel(name=direction.name, visible=visible, hidden=[], box=whole.box),
        areas=rings_of(cut),
    )
    if len(planes) > 1:
        return section.model_copy(update={"path": _stepped_path(part, direction, planes)})
    return _half(part, direction, section, whole) or section


def _middle(planes: Sequence[_Plane], part: PartFeatures, right: _Array) -> float:
    """Return where the first plane cuts, mm to the right."""
    ends = sorted(float(own) for own in part.box @ right)
    return (max(ends[0], planes[0].low) + min(ends[1], planes[0].high)) / 2


def _cut(part: PartFeatures, direction: Direction, plane: _Plane, draw: Drawer) -> tuple[ViewModel, BaseGeometry]:
    """Return what is seen behind one plane, and what it cuts, in the section's coordinates."""
    right, _, toward = axes_of(direction)
    reach = 4 * part.size + float(np.abs(part.box).max())
    rest = behind(part.shape, point=toward * plane.level, normal=toward, reach=reach)
    for bound, normal in ((plane.low, -right), (plane.high, right)):
        if np.isfinite(bound):
            rest = behind(rest, point=right * bound, normal=normal, reach=reach)
    return draw([rest], direction), cut_area(rest, direction, plane.level, part.size)


def cut_area(rest: Body, direction: Direction, level: float, size: float) -> BaseGeometry:
    """Return what of a body lies in the plane that it was cut by, in the section's coordinates.

    Parameters
    ----------
    rest
        What lies behind the plane.
    direction, level
        The plane: square to the line of sight, mm towards the eye.
    size
        mm, of the body.
    """
    right, up, toward = axes_of(direction)
    vertices, corners, _ = face_triangles(rest, within_mm=_FINE)
    triangles = vertices[corners]
    on_plane = np.all(np.abs(triangles @ toward - level) < _SQUARE * max(1.0, size), axis=1)
    flat = triangles[on_plane] @ np.array([right, up]).T
    return shapely.union_all(shapely.polygons(flat)).buffer(0)


def _without_bounds(lines: Sequence[Polyline], plane: _Plane) -> list[Polyline]:
    """Leave out the lines where one plane of a cut ends and the next begins: they are no edges of the part."""
    return [
        line for line in lines if not any(all(abs(x - at) < _LEVEL for x, _ in line) for at in (plane.low, plane.high))
    ]


def _stepped_path(part: PartFeatures, direction: Direction, planes: Sequence[_Plane]) -> list[list[float]]:
    """Return the corners of a stepped cut from left to right, mm in the part's coordinates."""
    right, up, toward = axes_of(direction)
    low, high = sorted(float(own) for own in part.box @ right)
    height = part.box.mean(axis=0) @ up
    return [
        np.round(right * at + up * height + toward * plane.level, 6).tolist()
        for plane in planes
        for at in (max(low, plane.low), min(high, plane.high))
    ]


def rings_of(cut: BaseGeometry) -> list[list[Polyline]]:
    """Return of each area of a cut its outline, then its holes, mm."""
    areas = [area for area in getattr(cut, "geoms", [cut]) if area.area > _SLIVER]
    return [[_points(area.exterior), *(_points(hole) for hole in area.interiors)] for area in areas]


def _points(line: BaseGeometry) -> Polyline:
    return np.round(shapely.get_coordinates(line.simplify(1e-4)), 4).tolist()  # type: ignore[no-any-return]


def _ribs(part: PartFeatures, direction: Direction, level: float, cut: BaseGeometry) -> BaseGeometry:
    """Return what of a cut lies lengthwise in ribs: thin walls between two faces along the plane (ISO 128-3)."""
    right, up, toward = axes_of(direction)
    vertices, corners, faces = face_triangles(part.shape, within_mm=_FINE)
    triangles = vertices[corners]
    sides: dict[int, list[tuple[float, BaseGeometry]]] = {-1: [], 1: []}
    for number in np.unique(faces):
        own = triangles[faces == number]
        levels = own @ toward - level
        if np.ptp(levels) > _LEVEL or abs(float(levels.mean())) < _LEVEL:
            continue
        outline = shapely.union_all(shapely.polygons(own @ np.array([right, up]).T)).buffer(0)
        sides[1 if levels.mean() > 0 else -1].append((float(levels.mean()), outline))
    deep = float(np.ptp(part.box @ toward))
    ribs = []
    for (far, behind_it), (near, before_it) in itertools.product(sides[-1], sides[1]):
        thick = near - far
        if deep < _RIB_SLENDER * thick:
            continue
        shared = behind_it.intersection(before_it).intersection(cut).buffer(0)
        for area in getattr(shared, "geoms", [shared]):
            if area.area < _SLIVER or area.area > _RIB_SHARE * cut.area:
                continue
            left, low, far_right, top = area.bounds
            if min(far_right - left, top - low) > _RIB_SLENDER * thick:
                ribs.append(area)
    return shapely.union_all(ribs)


def _half(part: PartFeatures, direction: Direction, section: SectionModel, whole: ViewModel) -> SectionModel | None:
    """Return a section of the right half beside a view of the left; None where nothing is won by it.

    The part must be symmetric about the plane between the halves, and its outside show what the cut takes away.
    """
    right, up, toward = axes_of(direction)
    level = float(part.box.mean(axis=0) @ toward)
    middle = float(part.box.mean(axis=0) @ right)
    is_in_middle = abs(float(np.array(section.point) @ toward) - level) < _LEVEL
    if not is_in_middle or not _is_mirrored(whole.visible, middle) or not _is_mirrored(section.view.visible, middle):
        return None
    size = float(np.linalg.norm(np.ptp(np.array(whole.box), axis=0)))
    cut_lines = shapely.union_all([shapely.LineString(line) for line in section.view.visible]).buffer(_FINE)
    lost = sum(shapely.LineString(line).difference(cut_lines).length for line in whole.visible)
    if lost < _OUTSIDE * size:
        return None
    far = 10 * size + abs(middle)
    left_half = shapely.box(-far, -far, middle, far)
    right_half = shapely.box(middle, -far, far, far)
    visible = [*_clipped(whole.visible, left_half, middle), *_clipped(section.view.visible, right_half, middle)]
    areas = shapely.union_all([shapely.Polygon(rings[0], rings[1:]) for rings in section.areas])
    height, eye = part.box.mean(axis=0) @ up, float((part.box @ toward).max())
    ends = [(float((part.box @ right).max()), level), (middle, level), (middle, eye)]
    return section.model_copy(
        update={
            "form": "half",
            "path": [np.round(right * a + up * height + toward * b, 6).tolist() for a, b in ends],
            "view": section.view.model_copy(update={"visible": visible}),
            "areas": rings_of(areas.intersection(right_half)),
        }
    )


def _clipped(lines: Sequence[Polyline], half: BaseGeometry, middle: float) -> list[Polyline]:
    """Return what of lines lies in a half, without what lies on its edge."""
    pieces = []
    for line in lines:
        if all(abs(x - middle) < _LEVEL for x, _ in line):
            continue
        piece = shapely.LineString(line).intersection(half)
        pieces += [_points(own) for own in getattr(piece, "geoms", [piece]) if own.length > _LEVEL]
    return pieces


def _is_mirrored(lines: Sequence[Polyline], middle: float) -> bool:
    """Say whether lines are the same on both sides of an upright line."""
    drawn = shapely.union_all([shapely.LineString(line) for line in lines])
    mirrored = shapely.union_all([shapely.LineString([(2 * middle - x, y) for x, y in line]) for line in lines])
    return bool(drawn.hausdorff_distance(mirrored) < 3 * _FINE)
