"""How far a part turns until walls along its axis meet: exact, without triangles and without the kernel.

Faces square to the axis, and round ones about it, stay where they are as a part turns. What it runs into it meets with
a wall. Walls along the axis are lines and arcs as they are seen along it; at a distance r off the axis such a curve
lies at an angle phi(r) round it (law of cosines), and two of them meet after the least difference of these angles.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.contact.clearance import PlacedSolid
from rigid_bench.core.kernel.meshes.swept_contact import CONTACT_MM
from rigid_bench.core.part.faces import Cone, Cylinder, Plane, Sphere, Surface, Torus
from rigid_bench.core.values.frames import any_normal

_Array = NDArray[np.float64]
#: Cosines that are rounding; mm: what is less is rounding; share of an area: a wall is a whole rectangle within.
_SQUARE, _TINY, _WHOLE = 1e-9, 1e-6, 1e-6
#: mm: what overlaps by less is only grazed, as it is seen along the way; whether it is met at all, volumes must say.
_GRAZED = 0.05
#: So many pairs of walls are compared; more are sooner done by triangles.
_MOST = 1000
#: Distances off the axis at which two walls are compared, and roundings in which the nearest is narrowed.
_COMPARED, _NARROWED = 33, 12


@dataclass(frozen=True, slots=True, eq=False)
class _Piece:
    """A piece of a wall that looks one way round the axis: one angle at each distance off it."""

    #: phi(r) = middle + side * arccos(k(r)): k is `off / r` of a line, (r2 + off2 - radius2) / (2 r off) of an arc.
    middle: float
    side: int
    off: float
    radius: float | None
    #: mm: between which distances off the axis, and between which heights along it.
    near: float
    far: float
    low: float
    high: float
    #: 1 where it looks ahead, as a right-handed turn goes; -1 back.
    looks: int
    #: It is all wall; else it only holds what is there.
    is_exact: bool

    def angle(self, r: _Array) -> _Array:
        """Return where it lies round the axis, rad, at distances off it, mm."""
        if self.radius is None:
            cosine = self.off / r
        else:
            cosine = (r**2 + self.off**2 - self.radius**2) / (2 * r * self.off)
        angle: _Array = self.middle + self.side * np.arccos(np.clip(cosine, -1.0, 1.0))
        return angle


def wall_meeting(moving: PlacedSolid, other: PlacedSolid, point: _Array, direction: _Array) -> float | None:
    """Return how far a part turns until it meets another that it does not overlap where it stands.

    Parameters
    ----------
    moving, other
        Where they stand.
    point, direction
        (3,) mm and (3,) unit, in the world: of the axis; right-handed turns.

    Returns
    -------
    float or None
        rad; infinite where it comes round without a meeting; None where triangles must be asked: faces that are neither
        walls nor stay where they are may meet first, or it is not whole walls that meet.
    """
    walls = _walls(moving, other, point, direction)
    return None if walls is None else _meeting(*walls)


def wall_meetings(
    moving: PlacedSolid, other: PlacedSolid, point: _Array, direction: _Array
) -> tuple[float | None, float | None]:
    """Return how far a part turns until it meets another, back and forth; as `wall_meeting`."""
    walls = _walls(moving, other, point, direction)
    # who turns back is met by the other just as the other, which turns forth, would meet it
    return (None, None) if walls is None else (_meeting(*walls[::-1]), _meeting(*walls))


def _walls(
    moving: PlacedSolid, other: PlacedSolid, point: _Array, direction: _Array
) -> tuple[list[_Piece], list[_Piece]] | None:
    """Return the walls of both about an axis; None where walls do not say it."""
    if moving.part.is_mesh or other.part.is_mesh:
        return None
    one, two = (_pieces(solid, point, direction) for solid in (moving, other))
    return None if one is None or two is None else (one, two)


def _meeting(turning: list[_Piece], still: list[_Piece]) -> float | None:
    ahead = [piece for piece in turning if piece.looks == 1]
    back = [piece for piece in still if piece.looks == -1]
    pairs = [(one, two) for one in ahead for two in back if _overlap(one, two) > _TINY]
    if not pairs:
        return math.inf
    if len(pairs) > _MOST:
        return None
    meetings = sorted(
        (_between(one, two), not (one.is_exact and two.is_exact) or _overlap(one, two) < _GRAZED) for one, two in pairs
    )
    first, _ = meetings[0]
    exact = next((amount for amount, is_bound in meetings if not is_bound), math.inf)
    return exact if exact <= first + _TINY / max(piece.far for piece in ahead) else None


def _overlap(one: _Piece, two: _Piece) -> float:
    """Return over how many mm, off the axis and along it, two pieces can meet."""
    off_axis = min(one.far, two.far) - max(one.near, two.near)
    return min(off_axis, min(one.high, two.high) - max(one.low, two.low))


def _between(one: _Piece, two: _Piece) -> float:
    """Return by how much a piece turns until it meets another that is as far off the axis somewhere."""
    near, far = max(one.near, two.near), min(one.far, two.far)
    nothing = CONTACT_MM / far  # places are rounded
    for _ in range(_NARROWED):
        # denser towards the ends, where a curve that is touched there runs steeply
        r = near + (far - near) * (1 - np.cos(np.linspace(0, math.pi, _COMPARED))) / 2
        between = two.angle(r) - one.angle(r)
        between -= 2 * math.pi * np.floor((between + nothing) / (2 * math.pi))
        least = int(between.argmin())
        near, far = float(r[max(least - 1, 0)]), float(r[min(least + 1, _COMPARED - 1)])
        if far - near < _TINY:
            break
    return max(float(between.min()), 0.0)


def _pieces(solid: PlacedSolid, point: _Array, direction: _Array) -> list[_Piece] | None:
    """Return the walls of a part about an axis; None where some face is no wall and cannot be held by one."""
    first = any_normal(direction)
    square = np.array([first, np.cross(direction, first), direction])
    seen = _Seen(solid, square @ solid.pose.rotation, square @ (solid.pose.position - point))
    pieces: list[_Piece] = []
    for number, surface in enumerate(solid.part.surfaces):
        walls = seen.walls(number, surface)
        if walls is None:
            return None
        pieces += walls
    return pieces


class _Seen:
    """A part as it is seen along an axis."""

    def __init__(self, solid: PlacedSolid, square: _Array, origin: _Array) -> None:
        self._edges, self._square, self._origin = solid.part.edges, square, origin

    def walls(self, number: int, surface: Surface) -> list[_Piece] | None:
        """Return what of a surface can meet something; nothing for what stays where it is; None for what is unknown."""
        if isinstance(surface, Plane):
            return self._flat(number, surface)
        if isinstance(surface, Sphere):
            middle = self._at(surface.point)
            return [] if _is_on_axis(middle) else list(self._held(middle, middle, surface.radius))
        if not isinstance(surface, Cylinder | Cone | Torus):
            return None
        own = self._square @ surface.direction
        is_along = abs(own[2]) > 1 - _SQUARE
        if isinstance(surface, Torus):
            middle, reach = self._at(surface.point), surface.major + surface.minor
            return [] if is_along and _is_on_axis(middle) else list(self._held(middle, middle, reach))
        if isinstance(surface, Cone):
            ends = [self._at(surface.apex + along * surface.direction) for along in (surface.near, surface.far)]
            reach = max(abs(surface.radius_at(surface.near)), abs(surface.radius_at(surface.far)))
            return [] if is_along and _is_on_axis(ends[0]) else list(self._held(ends[0], ends[1], reach))
        ends = [self._at(surface.point), self._at(surface.end)]
        if is_along:
            return [] if _is_on_axis(ends[0]) else list(self._round(surface, ends))
        return list(self._held(ends[0], ends[1], surface.radius))

    def _at(self, place: _Array) -> _Array:
        seen: _Array = self._square @ place + self._origin
        return seen

    def _flat(self, number: int, plane: Plane) -> list[_Piece] | None:
        normal = self._square @ plane.normal
        if abs(normal[2]) > 1 - _SQUARE:
            return []
        if abs(normal[2]) > _SQUARE:
            return None
        along = np.array([-normal[1], normal[0], 0.0])
        spans = [self._edges.extent(number, way @ self._square) for way in (along, np.array([0.0, 0.0, 1.0]))]
        (start, end), (low, high) = (
            (span[0] + offset, span[1] + offset)
            for span, offset in zip(spans, (along @ self._origin, self._origin[2]), strict=True)
        )
        is_whole = abs((end - start) * (high - low) - plane.area) < _WHOLE * plane.area
        off = float(normal @ self._at(plane.point))
        return list(_line(normal, off, (start, end), (low, high), is_exact=is_whole))

    def _round(self, wall: Cylinder, ends: Sequence[_Array]) -> Iterator[_Piece]:
        heights = sorted(float(end[2]) for end in ends)
        is_whole = abs(wall.radius * wall.sweep * wall.length - wall.area) < _WHOLE * wall.area
        for middle, sweep in wall.arcs:
            towards = self._square @ middle
            at = math.atan2(towards[1], towards[0])
            yield from _arc(ends[0], wall.radius, (at - sweep / 2, at + sweep / 2), heights,
                            outward=-1 if wall.is_hollow else 1, is_exact=is_whole)  # fmt: skip

    def _held(self, one: _Array, two: _Array, reach: float) -> Iterator[_Piece]:
        """Yield walls round all that is no further than `reach` from a line between two places."""
        heights = (min(one[2], two[2]) - reach, max(one[2], two[2]) + reach)
        for end in (one, two):
            if not _is_on_axis(end):
                yield from _arc(end, reach, (-math.pi, math.pi), heights, outward=1, is_exact=False)
        way = two[:2] - one[:2]
        length = float(np.linalg.norm(way))
        if length > _TINY:
            for side in (1, -1):
                normal = np.array([-side * way[1], side * way[0], 0.0]) / length
                along = np.array([-normal[1], normal[0], 0.0])
                span = sorted(float(along @ end) for end in (one, two))
                yield from _line(normal, float(normal @ one) + reach, span, heights, is_exact=False)


def _is_on_axis(place: _Array) -> bool:
    return math.hypot(place[0], place[1]) < _TINY


def _line(
    normal: _Array, off: float, span: Sequence[float], heights: Sequence[float], *, is_exact: bool
) -> Iterator[_Piece]:
    """Yield the pieces of a flat wall: `off` along its normal from the axis, and a span across that."""
    outward = 1 if off >= 0 else -1
    start, end = sorted(outward * at for at in span)
    middle = math.atan2(outward * normal[1], outward * normal[0])
    for side, (least, most) in ((1, (max(start, 0.0), end)), (-1, (max(-end, 0.0), -start))):
        if most - least > _TINY:
            near, far = (math.hypot(off, at) for at in (least, most))
            yield _Piece(middle, side, abs(off), None, near, far, heights[0], heights[1], -side * outward, is_exact)


def _arc(
    centre: _Array, radius: float, span: Sequence[float], heights: Sequence[float], *, outward: int, is_exact: bool
) -> Iterator[_Piece]:
    """Yield the pieces of a round wall along the axis: from one angle about its own centre to another."""
    off, middle = math.hypot(centre[0], centre[1]), math.atan2(centre[1], centre[0])
    start = (span[0] - middle) % (2 * math.pi)
    end = start + span[1] - span[0]
    for half in range(4):
        low, high = max(start, half * math.pi), min(end, (half + 1) * math.pi)
        if high - low > _TINY / radius:
            side = 1 if half % 2 == 0 else -1
            distances = sorted(
                math.sqrt(max(off**2 + radius**2 + 2 * off * radius * math.cos(at), 0.0)) for at in (low, high)
            )
            yield _Piece(middle, side, off, radius, max(distances[0], _TINY), distances[1], heights[0], heights[1],
                         side * outward, is_exact)  # fmt: skip
