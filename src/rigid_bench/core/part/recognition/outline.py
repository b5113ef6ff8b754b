"""Closed outlines of lines and arcs in a plane: of pockets, bosses and whole prismatic bodies."""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

_Array = NDArray[np.float64]
#: mm: lengths, and rad: turns, that differ by less are equal.
_EQUAL_MM, _EQUAL_RAD = 1e-4, 1e-5
#: Chords of arcs stay this near (mm) to them, where outlines are laid over each other.
_CHORD = 1e-4


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Segment:
    """A line, or an arc, of an outline; counter-clockwise round the outline."""

    #: (2,) mm
    start: _Array
    end: _Array
    #: (2,) mm, the centre of an arc; None for a line.
    centre: _Array | None
    #: rad, how far an arc turns; counter-clockwise above 0. 0 for a line.
    turn: float
    #: It runs into the next one without a kink.
    is_tangent: bool

    @property
    def radius(self) -> float:
        """mm; 0 for a line."""
        return 0.0 if self.centre is None else float(np.linalg.norm(self.start - self.centre))

    @property
    def length(self) -> float:
        """mm, along the segment."""
        chord = float(np.linalg.norm(self.end - self.start))
        return chord if self.centre is None else abs(self.turn) * self.radius

    def points(self) -> list[tuple[float, float]]:
        """Points along it from the start to short of the end, their chords within 1e-4 mm of an arc."""
        if self.centre is None:
            return [(float(self.start[0]), float(self.start[1]))]
        step = 2 * math.acos(max(0.0, 1 - _CHORD / self.radius)) if self.radius > _CHORD else math.pi / 4
        count = max(4, math.ceil(abs(self.turn) / step))
        begin = math.atan2(*(self.start - self.centre)[::-1])
        return [
            (self.centre[0] + self.radius * math.cos(angle), self.centre[1] + self.radius * math.sin(angle))
            for angle in begin + self.turn * np.arange(count) / count
        ]


@dataclass(frozen=True, eq=False)
class Outline:
    """Segments that follow each other counter-clockwise and close."""

    segments: tuple[Segment, ...]

    @cached_property
    def area(self) -> float:
        """mm2: the polygon of the corners (shoelace formula), and the segment of a circle over each arc."""
        corners = np.array([segment.start for segment in self.segments])
        x, y = corners.T
        polygon = float(x @ np.roll(y, -1) - y @ np.roll(x, -1)) / 2
        return polygon + sum(
            segment.radius**2 / 2 * (segment.turn - math.sin(segment.turn)) for segment in self.segments
        )

    @cached_property
    def perimeter(self) -> float:
        """Mm"""
        return sum(segment.length for segment in self.segments)

    @cached_property
    def polygon(self) -> shapely.Polygon:
        """As a polygon whose chords are within 1e-4 mm of the arcs."""
        return shapely.Polygon([point for segment in self.segments for point in segment.points()])

    @cached_property
    def box(self) -> tuple[float, float]:
        """Length and width (mm) of the smallest rectangle round the outline, whichever way that lies."""
        corners = shapely.get_coordinates(shapely.minimum_rotated_rectangle(self.polygon))
        sizes = sorted(float(size) for size in np.linalg.norm(np.diff(corners[:3], axis=0), axis=1))
        return sizes[1], sizes[0]

    @property
    def sides(self) -> int:
        """How many sides a regular polygon has; 0 for any other outline."""
        lengths = [segment.length for segment in self.segments]
        if len(lengths) < 3 or any(segment.centre is not None for segment in self.segments):
            return 0
        ways = [math.atan2(*(segment.end - segment.start)[::-1]) for segment in self.segments]
        turns = [(after - before) % (2 * math.pi) for before, after in zip(ways, [*ways[1:], ways[0]], strict=True)]
        is_regular = np.ptp(lengths) < _EQUAL_MM and max(turns) - min(turns) < _EQUAL_RAD
        return len(lengths) if is_regular else 0

    @property
    def across_flats(self) -> float:
        """mm, of a regular polygon: between opposite sides, or from a side to the opposite corner when odd."""
        count, side = self.sides, self.segments[0].length
        if not count:
            return 0.0
        inner = side / (2 * math.tan(math.pi / count))
        return 2 * inner if count % 2 == 0 else inner + side / (2 * math.sin(math.pi / count))

    @property
    def rectangle(self) -> tuple[float, float, float] | None:
        """Length, width and corner radius (mm) where the outline is a rectangle, its corners sharp or all alike."""
        lines = [segment for segment in self.segments if segment.centre is None]
        arcs = [segment for segment in self.segments if segment.centre is not None]
        if len(lines) != 4 or len(arcs) not in (0, 4):
            return None
        ways = [(line.end - line.start) / line.length for line in lines]
        square = all(abs(float(a @ b)) < _EQUAL_RAD for a, b in itertools.pairwise(ways))
        radii = [arc.radius for arc in arcs] or [0.0]
        quarters = all(abs(arc.turn - math.pi / 2) < _EQUAL_RAD for arc in arcs)
        if not square or not quarters or np.ptp(radii) > _EQUAL_MM:
            return None
        sizes = sorted(line.length + 2 * radii[0] for line in lines[:2])
        return sizes[1], sizes[0], radii[0]

    @property
    def slot(self) -> tuple[float, float] | None:
        """Overall length and width (mm) where the outline is a straight slot with round ends."""
        lines = [segment for segment in self.segments if segment.centre is None]
        arcs = [segment for segment in self.segments if segment.centre is not None]
        if len(lines) != 2 or len(arcs) != 2 or any(abs(arc.turn - math.pi) > _EQUAL_RAD for arc in arcs):
            return None
        width = 2 * arcs[0].radius
        return (lines[0].length + width, width) if abs(arcs[0].radius - arcs[1].radius) < _EQUAL_MM else None

    @property
    def curved_slot(self) -> tuple[float, float, float] | None:
        """Width (mm), radius of the middle line (mm) and angle between the ends' centres (rad) of a curved slot."""
        arcs = self.segments
        if len(arcs) != 4 or any(arc.centre is None for arc in arcs):
            return None
        inner = min(arcs, key=lambda arc: arc.turn)
        place = arcs.index(inner)
        first, outer, second = (arcs[(place + k) % 4] for k in (1, 2, 3))
        concentric = np.linalg.norm(np.subtract(inner.centre, outer.centre)) < _EQUAL_MM  # type: ignore[arg-type]  # arcs
        ends_round = abs(first.turn - math.pi) < _EQUAL_RAD and abs(second.turn - math.pi) < _EQUAL_RAD
        if not (inner.turn < 0 < outer.turn and concentric and ends_round):
            return None
        return outer.radius - inner.radius, (outer.radius + inner.radius) / 2, outer.turn


def greatest_deviation(outline: Outline, reference: Outline, *, symmetric_turns: int = 8) -> float:
    """Return how far an outline strays from a reference when it is laid over it as well as can be, mm.

    Parameters
    ----------
    outline, reference
        Each in any coordinates of its own plane, seen from outside the material.
    symmetric_turns
        How many of the reference's longest sides are tried for the turn.

    Returns
    -------
    float
        The greatest distance of a corner or middle of either from the other's line (a
        Hausdorff distance), 0 for equal outlines; a mirrored outline is not equal.
    """
    return min(
        float(shapely.hausdorff_distance(registered.exterior, reference.polygon.exterior))
        for registered in _laid_over(outline, reference, symmetric_turns)
    )


def room_inside(peg: Outline, pocket: Outline) -> float:
    """Return the least gap a side when a peg's outline is put in the middle of a pocket's, mm.

    Parameters
    ----------
    peg, pocket
        Each in any coordinates of its own plane.

    Returns
    -------
    float
        Below 0 where it does not go in: by how far it overlaps at the worst place.
    """
    return max(_room(registered, pocket.polygon) for registered in _laid_over(peg, pocket, 8))


def _room(registered: shapely.Polygon, pocket: shapely.Polygon) -> float:
    if pocket.contains(registered):
        return float(pocket.exterior.distance(registered))
    outside = shapely.get_coordinates(registered.difference(pocket))
    return -max((float(shapely.Point(at).distance(pocket)) for at in outside), default=0.0)


def _laid_over(outline: Outline, reference: Outline, turns: int) -> Sequence[shapely.Polygon]:
    """Lay an outline over a reference, middles together, by each of the turns that bring long sides together."""
    polygon, aim = outline.polygon, reference.polygon
    middle, target = (np.array(known_polygon.centroid.coords[0]) for known_polygon in (polygon, aim))
    own = _way(max(outline.segments, key=lambda segment: (segment.centre is None, segment.length)), middle)
    registered = []
    for side in sorted(reference.segments, key=lambda segment: (segment.centre is None, segment.length))[::-1][:turns]:
        angle = _way(side, target) - own
        turn = np.array([[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]])
        ring = (shapely.get_coordinates(polygon) - middle) @ turn.T + target
        registered.append(shapely.Polygon(ring))
    return registered


def _way(segment: Segment, middle: _Array) -> float:
    """Return the direction (rad) of a line, or that from the middle to an arc's own middle."""
    if segment.centre is None:
        return math.atan2(*(segment.end - segment.start)[::-1])
    points = segment.points()
    return math.atan2(*(np.array(points[len(points) // 2]) - middle)[::-1])
