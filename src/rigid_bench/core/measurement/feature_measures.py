"""Measures of named features: patterns, edge treatments, polygons, edges, and of the part as a whole."""

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.kernel.distance import moved, overlap_volume
from rigid_bench.core.measurement.measure_request import MeasureKind, Request, wall_of
from rigid_bench.core.measurement.sizes import length, own_ring, surfaces_of
from rigid_bench.core.part.edges import LINE
from rigid_bench.core.part.faces import Cylinder, Plane
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.flat_bounds import FlatBounds
from rigid_bench.core.part.recognition.edge_treatments import Chamfer
from rigid_bench.core.part.recognition.inventory import Inventory, inventory_of
from rigid_bench.core.part.recognition.patterns import Pattern, find_patterns
from rigid_bench.core.part.walls import flat_walls
from rigid_bench.core.registration.correspond import RegisteredPart, opposite_flat
from rigid_bench.core.registration.rounds import find_round
from rigid_bench.core.values.datums import AxisFeature, ConeFeature, PlaneFeature, PointFeature
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _

_AXES = ("x", "y", "z")
#: How far (as a share of the part's size) a corner may stand from where it should and still be the one meant.
_REACH = 0.25
#: How far (as a share of the part's size) a rounded edge may stand from where it should and still be the one meant.
_SAME_EDGE = 0.05
#: mm: places of a pattern that differ by less are even.
_EVEN = 2e-3


def _features(registered: RegisteredPart, request: Request) -> Inventory:
    registered.need_named(where=request.where)
    return inventory_of(registered.part, Tolerance())


def _patterns(registered: RegisteredPart, request: Request) -> list[tuple[Pattern, NDArray[np.float64]]]:
    """Return the patterns of holes or bosses that the named one belongs to on the part, each with its middles."""
    wall = wall_of(registered, request)
    if wall is None:
        return []
    inventory = _features(registered, request)
    if wall in registered.running_out:
        return _of_those_that_run_out(registered, wall)
    walls = {"hole": [hole.cylinder for hole in inventory.holes], "boss": list(inventory.bosses)}
    own = []
    for pattern in inventory.patterns:
        members = [walls[pattern.of][k] for k in pattern.pattern.members] if pattern.of in walls else []
        if any(member.faces == wall.faces for member in members):
            points = np.array([member.point for member in members])
            own.append((pattern.pattern, points - np.outer(points @ wall.direction, wall.direction)))
    return own


def _of_those_that_run_out(registered: RegisteredPart, wall: Cylinder) -> list[tuple[Pattern, NDArray[np.float64]]]:
    """Return the patterns that holes make which run out over an edge as one of them does, as `_patterns`."""
    alike = [other for other in registered.running_out if abs(other.radius - wall.radius) < _EVEN]
    points = np.array([other.point for other in alike])
    points -= np.outer(points @ wall.direction, wall.direction)
    patterns = find_patterns(points, wall.direction, [])
    return [(pattern, points[list(pattern.members)]) for pattern in patterns]


def pitch(registered: RegisteredPart, request: Request) -> float | None:
    """Measure between neighbours of a pattern, mm: along the reference's `axis` where it has two directions."""
    patterns = _patterns(registered, request)
    # four in a square are a grid and a circle: of several readings, the one that has pitches
    likeliest = min(
        (pattern for pattern, _unused in patterns),
        key=lambda pattern: pattern.kind in ("circular", "radial"),
        default=None,
    )
    likeliest_pitch = registered.shown(likeliest, where=request.where)
    if likeliest_pitch is None:
        return None
    if len(likeliest_pitch.pitches) == 1:
        return likeliest_pitch.pitches[0]
    if request.axis not in _AXES:
        raise InvalidDocument(request.where, _("a grid has two pitches"), _('Say "axis": "x", "y" or "z"'))
    wanted = registered.pose.direction(np.eye(3)[_AXES.index(request.axis)])
    return likeliest_pitch.pitches[0 if abs(float(wanted @ likeliest_pitch.direction)) > math.sqrt(0.5) else 1]


def pitch_circle(registered: RegisteredPart, request: Request) -> float | None:
    """Measure the diameter of the circle through a pattern's middles, mm, however else the pattern may be read."""
    patterns = _patterns(registered, request)
    read_so = next((pattern.pitch_circle for pattern, _ in patterns if pattern.pitch_circle), None)
    circle = read_so or next((circle for _, points in patterns if (circle := _circle_through(points))), None)
    return registered.shown(circle, where=request.where)


def _circle_through(points: NDArray[np.float64]) -> float | None:
    """Return the diameter of the circle on which points stand evenly, mm; None where they do not."""
    offsets = points - points.mean(axis=0)
    radii = np.linalg.norm(offsets, axis=1)
    if len(points) < 3 or np.ptp(radii) > _EVEN or radii.mean() < _EVEN:
        return None
    # its two neighbours on the circle are as near to each as to all others
    beside = np.sort(np.linalg.norm(points[:, None] - points[None], axis=2), axis=1)[:, 1:3]
    return 2 * float(radii.mean()) if np.ptp(beside) < _EVEN else None


def pattern_count(registered: RegisteredPart, request: Request) -> float | None:
    """Count the members of a pattern."""
    patterns = _patterns(registered, request)
    count = max((len(pattern.members) for pattern, _ in patterns), default=None)
    return registered.shown(None if count is None else float(count), where=request.where)


def pierces(registered: RegisteredPart, request: Request) -> float | None:
    """Count the walls that a hole goes right through: holes of its diameter on its axis that end nowhere inside."""
    wall = wall_of(registered, request)
    if wall is None:
        return None
    return float(
        sum(hole.through and _is_on_axis(wall, hole.cylinder) for hole in _features(registered, request).holes)
    )


def _is_on_axis(wall: Cylinder, other: Cylinder) -> bool:
    away = np.linalg.norm(np.cross(other.point - wall.point, wall.direction))
    return bool(away < 1e-3 and abs(wall.radius - other.radius) < 1e-3)


def edge_distance(registered: RegisteredPart, request: Request) -> float | None:
    """Measure from the middle of a hole to the nearest flat outside beside it, mm."""
    wall = wall_of(registered, request)
    if wall is None:
        return None
    bounds, places = FlatBounds(registered.part), wall.point + np.outer([0.5, 0.1, 0.9], wall.length * wall.direction)
    beside = sorted(
        (away, number)
        for number, plane in enumerate(registered.part.surfaces)
        if isinstance(plane, Plane) and abs(float(plane.normal @ wall.direction)) < 1e-6
        if (away := float((plane.point - wall.point) @ plane.normal)) > 0
    )
    return next((away for away, number in beside if bounds.holds(number, places).any()), None)


def fillets(registered: RegisteredPart, request: Request) -> float | None:
    """Count the rounded edges."""
    return _counted(registered, request, len(_features(registered, request).fillets), len(_asked(registered).fillets))


def chamfers(registered: RegisteredPart, request: Request) -> float | None:
    """Count the chamfered edges."""
    return _counted(registered, request, len(_features(registered, request).chamfers), len(_asked(registered).chamfers))


def _asked(registered: RegisteredPart) -> Inventory:
    return inventory_of(registered.reference, Tolerance())


def _counted(registered: RegisteredPart, request: Request, count: int, asked: int) -> float:
    """Return a count of edges; of a mesh only one as asked is known: coarse roundings look like chamfers."""
    if count != asked:
        registered.need_solid(where=request.where)
    return float(count)


def edge_differences(
    registered: RegisteredPart, name: str, *, tolerance: Tolerance
) -> tuple[list[tuple[str, NDArray[np.float64]]], list[tuple[str, NDArray[np.float64]]]]:
    """Return the rounded or chamfered edges that a part lacks, and those that it has besides.

    Parameters
    ----------
    registered
        The reference laid over the part.
    name
        "fillets" or "chamfers".
    tolerance
        For finding features.

    Returns
    -------
    missing, extra : list of (str, (3,) float)
        What each is, and where its middle is in the reference's coordinates, mm.
    """
    wanted = _edge_places(registered.reference, name, tolerance)
    edges = [
        (text, registered.pose.inverse().point(place)) for text, place in _edge_places(registered.part, name, tolerance)
    ]
    missing = []
    for text, place in wanted:
        near = next(
            (edge for edge in edges if np.linalg.norm(edge[1] - place) < _SAME_EDGE * registered.reference.size), None
        )
        if near is None:
            missing.append((text, place))
        else:
            edges.remove(near)
    return missing, edges


def _edge_places(part: PartFeatures, name: str, tolerance: Tolerance) -> list[tuple[str, NDArray[np.float64]]]:
    inventory, edges = inventory_of(part, tolerance), part.edges
    sized = [(f"R{fillet.radius:g}", fillet.surface) for fillet in inventory.fillets]
    if name == "chamfers":
        sized = [(f"{chamfer.legs[0]:g} × {chamfer.legs[1]:g}", chamfer.surface) for chamfer in inventory.chamfers]
    return [
        (text, edges.middles[[edge for edge, _ in edges.neighbours(surface)]].mean(axis=0)) for text, surface in sized
    ]


def _chamfer(registered: RegisteredPart, request: Request) -> Chamfer | None:
    (feature,) = request.features
    if isinstance(feature, ConeFeature):
        cone = find_round(registered, feature, where=request.where)
        own = _features(registered, request).chamfers
        there = next((chamfer for chamfer in own if registered.part.surfaces[chamfer.surface] is cone), None)
        return registered.shown(there, where=request.where)
    surfaces = surfaces_of(registered, feature, request)
    own = _features(registered, request).chamfers
    there = next((chamfer for chamfer in own if chamfer.surface in surfaces), None)
    return registered.shown(there or _chamfer_near(registered, own, request), where=request.where)


def _chamfer_near(registered: RegisteredPart, own: Sequence[Chamfer], request: Request) -> Chamfer | None:
    """Return the chamfer on the edge where the named one should be: at another angle it is another face."""
    feature, place = request.features[0], registered.part.edges
    assert isinstance(feature, PlaneFeature)
    wanted = registered.pose.point(feature.point)
    for chamfer in own:
        lines = [edge for edge, _ in place.neighbours(chamfer.surface)]
        if np.linalg.norm(place.middles[lines].mean(axis=0) - wanted) < _SAME_EDGE * registered.reference.size:
            return chamfer
    return None


def chamfer(registered: RegisteredPart, request: Request) -> float | None:
    """Measure the shorter leg of a chamfer, mm."""
    there = _chamfer(registered, request)
    return there.legs[0] if there else None


def chamfer_angle(registered: RegisteredPart, request: Request) -> float | None:
    """Measure the angle of a chamfer to the face of its longer leg, degrees."""
    chamfer = _chamfer(registered, request)
    return math.degrees(chamfer.angle) if chamfer else None


def across_flats(registered: RegisteredPart, request: Request) -> float | None:
    """Measure across the flats of a regular polygon, by its floor, top or one of its sides, mm.

    Two flats that look away from each other are measured as they stand.
    """
    if len(request.features) == 2:
        return length(registered, request)
    (feature,) = request.features
    assert isinstance(feature, PlaneFeature)
    opposite = opposite_flat(registered.reference, feature, where=request.where)
    if opposite is not None:
        sides = (feature, PlaneFeature(opposite.point, opposite.normal))
        return length(registered, replace(request, features=sides))
    ring = own_ring(registered, request)
    return registered.shown(ring.outline.across_flats or None if ring else None, where=request.where)


def edge_length(registered: RegisteredPart, request: Request) -> float | None:
    """Measure the straight edge in which two flat faces meet, mm."""
    registered.need_named(where=request.where)
    first, second = (surfaces_of(registered, feature, request) for feature in request.features)
    edges = registered.part.edges
    lengths = [
        float(np.linalg.norm(edges.ends[edge] - edges.starts[edge]))
        for a in first
        for edge, other in edges.neighbours(a)
        if other in second and edges.kinds[edge] == LINE
    ]
    return registered.shown(sum(lengths) or None, where=request.where)


def corner(registered: RegisteredPart, request: Request) -> float | None:
    """Measure from a corner of the part to another, or to a flat face, mm."""
    points = [feature for feature in request.features if isinstance(feature, PointFeature)]
    planes = [feature for feature in request.features if isinstance(feature, PlaneFeature)]
    registered.need_named(where=request.where)
    corners = [_corner(registered, point) for point in points]
    first = registered.shown(corners[0], where=request.where)
    if first is None:
        return None
    if planes:
        flat = registered.flat(planes[0], where=request.where)
        return None if flat is None else abs(float((first - flat.point) @ flat.normal))
    second = corners[1]
    return None if second is None else float(np.linalg.norm(first - second))


def _corner(registered: RegisteredPart, feature: PointFeature) -> NDArray[np.float64] | None:
    edges = registered.part.edges
    corners = np.vstack([edges.starts, edges.ends])
    away = np.linalg.norm(corners - registered.pose.point(feature.point), axis=1)
    nearest = int(np.argmin(away))
    return corners[nearest] if away[nearest] < _REACH * registered.reference.size else None


def off_centre(registered: RegisteredPart, request: Request) -> float | None:
    """Measure how far an axis stands from the middle between two flat faces, mm."""
    (axis,) = (feature for feature in request.features if isinstance(feature, AxisFeature))
    wall = registered.wall(axis, where=request.where)
    first, second = (
        registered.flat(feature, where=request.where)
        for feature in request.features
        if isinstance(feature, PlaneFeature)
    )
    if wall is None or first is None or second is None:
        return None
    middle = float((first.point + second.point) @ first.normal) / 2
    return abs(float(wall.point @ first.normal) - middle)


def least_wall(registered: RegisteredPart, request: Request) -> float | None:
    """Measure the thinnest wall between flat and round surfaces, mm."""
    wall = _features(registered, request).least_wall
    return wall.thickness if wall else None


def greatest_wall(registered: RegisteredPart, request: Request) -> float | None:
    """Measure the thickest of the walls between flat surfaces, mm."""
    registered.need_solid(where=request.where)
    walls = flat_walls(registered.part)
    return walls[-1].thickness if walls else None


def wall_spread(registered: RegisteredPart, request: Request) -> float | None:
    """Measure how much the walls between flat surfaces differ, mm: 0 for an even shell."""
    registered.need_solid(where=request.where)
    walls = flat_walls(registered.part)
    return walls[-1].thickness - walls[0].thickness if walls else None


def centre_of_mass(registered: RegisteredPart, request: Request) -> float | None:
    """Return where the centre of mass is along an axis of the reference, from its origin, mm."""
    if request.axis not in _AXES:
        raise InvalidDocument(request.where, _("a centre of mass needs an axis"), _('Say "axis": "x", "y" or "z"'))
    return float(registered.pose.inverse().point(registered.part.centroid)[_AXES.index(request.axis)])


def closed(registered: RegisteredPart, request: Request) -> float | None:
    """Return 1 for a closed body, else 0."""
    return float(registered.part.closed)


def likeness(registered: RegisteredPart, request: Request) -> float | None:
    """Return the volume shared with the reference over the joint volume, per cent."""
    shared = overlap_volume(moved(registered.reference.shape, registered.pose), registered.part.shape)
    return 100 * shared / (registered.reference.volume + registered.part.volume - shared)


OF_FEATURES: dict[str, MeasureKind] = {
    "pitch": MeasureKind(gives="length", find=pitch, takes=(("axis",),)),
    "pitch_circle": MeasureKind(gives="length", find=pitch_circle, takes=(("axis",),)),
    "pattern_count": MeasureKind(gives="count", find=pattern_count, takes=(("axis",),)),
    "pierces": MeasureKind(gives="count", find=pierces, takes=(("axis",),)),
    "edge_distance": MeasureKind(gives="length", find=edge_distance, takes=(("axis",),)),
    "fillets": MeasureKind(gives="count", find=fillets),
    "chamfers": MeasureKind(gives="count", find=chamfers),
    "chamfer": MeasureKind(
        gives="length",
        find=chamfer,
        takes=(
            ("plane",),
            ("cone",),
        ),
    ),
    "chamfer_angle": MeasureKind(
        gives="angle",
        find=chamfer_angle,
        takes=(
            ("plane",),
            ("cone",),
        ),
    ),
    "across_flats": MeasureKind(
        gives="length",
        find=across_flats,
        takes=(
            ("plane",),
            ("plane", "plane"),
        ),
    ),
    "edge_length": MeasureKind(gives="length", find=edge_length, takes=(("plane", "plane"),)),
    "corner": MeasureKind(
        gives="length",
        find=corner,
        takes=(
            ("point", "point"),
            ("point", "plane"),
        ),
    ),
    "off_centre": MeasureKind(gives="length", find=off_centre, takes=(("axis", "plane", "plane"),)),
    "least_wall": MeasureKind(gives="length", find=least_wall),
    "greatest_wall": MeasureKind(gives="length", find=greatest_wall),
    "wall_spread": MeasureKind(gives="length", find=wall_spread),
    "centre_of_mass": MeasureKind(gives="length", find=centre_of_mass),
    "closed": MeasureKind(gives="count", find=closed),
    "likeness": MeasureKind(gives="share", find=likeness),
}
