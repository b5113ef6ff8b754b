"""Prismatic pockets and bosses: walls that stand along one direction and close to a ring.

Two walls are neighbours where they share a straight edge along that direction. Rounded and
chamfered edges at the floor or the rim do not matter: the outline comes from the walls.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.edges import LINE
from rigid_bench.core.part.faces import Cylinder, Plane, Torus
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.outline import Outline, Segment
from rigid_bench.core.values.frames import any_normal, unit

_Array = NDArray[np.float64]
#: Directions and places (mm) that differ by less are one.
_ONE_WAY, _ONE_PLACE = 1e-6, 1e-3


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Prism:
    """A ring of walls: of a pocket, a boss, or the body itself."""

    #: In order round the ring, as places in the part's surfaces.
    walls: tuple[int, ...]
    #: Material is outside: a pocket or a window.
    is_hollow: bool
    #: (3,) mm, the middle of the outline, level with the opening of a pocket or the top of a boss.
    position: _Array
    #: (3,) unit, out of the opening, or from the foot of a boss to its top.
    direction: _Array
    #: (3,) unit, the outline's first axis, along its longest side; the second is direction x along.
    along: _Array
    #: In coordinates from `position`.
    outline: Outline
    #: mm, from the opening to the floor or the other opening; from the foot of a boss to its top.
    depth: float
    #: A pocket without a floor, or a body that stands on nothing: its other end is open too.
    through: bool
    #: Surfaces that close it: a pocket's floor, the ground of a boss.
    ground: tuple[int, ...]
    #: Surfaces round the opening, or on top of a boss.
    rim: tuple[int, ...]


_Link = tuple[int, int, _Array]  # wall, wall, place of the edge between them


def find_prisms(part: PartFeatures) -> list[Prism]:
    """Find all rings of walls of a part; single round walls are holes and bosses and none of these.

    Parameters
    ----------
    part
        Its surfaces and edges.

    Returns
    -------
    list of Prism
        In the order of their first walls.
    """
    prisms = [
        prism
        for direction, edges in edges_by_direction(part)
        for ring in _rings(_links(part, direction, edges))
        if (prism := _prism(part, direction, ring))
    ]
    return sorted(prisms, key=lambda prism: min(prism.walls))


def edges_by_direction(part: PartFeatures) -> Iterator[tuple[_Array, list[int]]]:
    """Yield each direction of straight edges between flat and round walls, with those edges."""
    is_wall = np.array([isinstance(surface, Plane | Cylinder) for surface in part.surfaces], dtype=bool)
    sides, kinds = part.edges.sides, part.edges.kinds
    straight = (kinds == LINE) & (sides[:, 1] >= 0) & is_wall[sides[:, 0]] & is_wall[sides[:, 1]]
    left = np.flatnonzero(straight)
    while len(left):
        direction = part.edges.tangents[left[0]]
        same = np.linalg.norm(np.cross(part.edges.tangents[left], direction), axis=1) < _ONE_WAY
        yield direction, left[same].tolist()
        left = left[~same]


def _links(part: PartFeatures, direction: _Array, edges: list[int]) -> list[_Link]:
    """List which walls meet where, each place once however the file splits the edge."""
    middles = part.edges.middles[edges]
    places = middles - np.outer(middles @ direction, direction)
    seen: dict[tuple[int, ...], list[_Array]] = {}
    links = []
    for edge, place in zip(edges, places, strict=True):
        a, b = sorted(part.edges.sides[edge].tolist())
        known = seen.setdefault((a, b), [])
        if not any(np.linalg.norm(place - other) < _ONE_PLACE for other in known):
            known.append(place)
            links.append((a, b, place))
    return links


def _rings(links: list[_Link]) -> Iterator[list[tuple[int, _Array]]]:
    """Yield closed rings: each wall with the place where it meets the next; walls have just two neighbours."""
    at: dict[int, list[_Link]] = {}
    for link in links:
        at.setdefault(link[0], []).append(link)
        at.setdefault(link[1], []).append(link)
    seen: set[int] = set()
    for start in at:
        if start in seen:
            continue
        ring, wall, link = [], start, at[start][0]
        while wall not in seen and len(at[wall]) == 2:
            seen.add(wall)
            ring.append((wall, link[2]))
            wall = link[1] if link[0] == wall else link[0]
            link = next(candidate for candidate in at[wall] if candidate is not link) if len(at[wall]) == 2 else link
        if wall == start and len(ring) > 1:
            yield ring
        else:
            seen |= {number for number, _ in ring}


def _prism(part: PartFeatures, direction: _Array, ring: list[tuple[int, _Array]]) -> Prism | None:
    ends = _Ends(part, direction, ring)
    if not ends.edges:
        return None
    # the way out of the opening: the floor looks there; a body that stands on nothing may look either way
    ways = {1 if float(part.surfaces[ground].normal @ direction) > 0 else -1 for ground in ends.ground}  # type: ignore[union-attr]  # planes
    if len(ways) > 1 or (not ways and ends.is_closed and len(ends.closed_sides) > 1):
        return None  # closed at both ends: an inside groove or a web
    out = direction * (ways.pop() if ways else -ends.closed_sides.pop() if ends.closed_sides else 1)
    along, across = _axes(part, out, ring)
    flat = [(wall, np.array([place @ along, place @ across])) for wall, place in ring]
    segments = _segments(part, flat, along, across)
    if segments is None:
        return None
    outline, is_hollow = segments
    low, high = ends.heights(out)
    xs, ys = np.array([segment.start for segment in outline.segments]).T
    middle = np.array([(xs.min() + xs.max()) / 2, (ys.min() + ys.max()) / 2])
    return Prism(
        walls=tuple(wall for wall, _ in ring),
        is_hollow=is_hollow,
        position=middle[0] * along + middle[1] * across + high * out,
        direction=out,
        along=along,
        outline=Outline(tuple(_moved(segment, middle) for segment in outline.segments)),
        depth=high - low,
        through=not ends.is_closed,
        ground=tuple(ends.ground),
        rim=tuple(ends.rim),
    )


def _moved(segment: Segment, middle: _Array) -> Segment:
    return Segment(
        start=segment.start - middle,
        end=segment.end - middle,
        centre=None if segment.centre is None else segment.centre - middle,
        turn=segment.turn,
        is_tangent=segment.is_tangent,
    )


def _axes(part: PartFeatures, out: _Array, ring: list[tuple[int, _Array]]) -> tuple[_Array, _Array]:
    """Return the outline's axes, the first along its longest straight side."""
    sides = [
        after - before
        for (_, before), (wall, after) in zip([ring[-1], *ring], ring, strict=False)
        if isinstance(part.surfaces[wall], Plane)
    ]
    longest = max(sides, key=lambda side: round(float(np.linalg.norm(side)), 6), default=np.zeros(3))
    along = unit(longest) if np.linalg.norm(longest) > _ONE_PLACE else any_normal(out)
    return along, np.cross(out, along)


def _level_planes(part: PartFeatures, direction: _Array) -> set[int]:
    """Return the flat surfaces at right angles to a direction."""
    planes = np.array([k for k, surface in enumerate(part.surfaces) if isinstance(surface, Plane)], dtype=np.int64)
    return set(planes[np.abs(part.plane_arrays[0] @ direction) > 1 - 1e-9].tolist())


class _Ends:
    """What lies beyond the ends of a ring's walls: grounds in inside corners, rims on outside ones."""

    def __init__(self, part: PartFeatures, direction: _Array, ring: list[tuple[int, _Array]]) -> None:
        self.part, self.direction = part, direction
        self.ring = {wall for wall, _ in ring}
        self.ground: dict[int, None] = {}
        self.rim: dict[int, None] = {}
        #: An inside corner closes an end, flat or not.
        self.is_closed = False
        #: On which sides of the walls, seen along the direction, something that is not flat closes them.
        self.closed_sides: set[int] = set()
        self._level = _level_planes(part, direction)
        self._beyond: dict[int, list[int]] = {}
        beyond = [pair for wall, _ in ring for pair in part.edges.neighbours(wall) if pair[1] not in self.ring]
        at_corner = self._reaches_corner([edge for edge, _ in beyond], np.array([place for _, place in ring]))
        pairs = [pair for pair, reaches in zip(beyond, at_corner, strict=True) if reaches]
        self.edges = [edge for edge, _ in pairs]
        heights = part.edges.middles[self.edges] @ direction
        middle = (heights.min(initial=math.inf) + heights.max(initial=-math.inf)) / 2
        for (edge, other), height in zip(pairs, heights.tolist(), strict=True):
            self._look(edge, other, 1 if height > middle else -1)

    def _reaches_corner(self, edges: list[int], corners: _Array) -> NDArray[np.bool_]:
        """Say which edges begin or end at a corner of the ring: those of a hole or boss in a wall do not."""
        reaches = np.zeros(len(edges), dtype=bool)
        for places in (self.part.edges.starts[edges], self.part.edges.ends[edges]):
            flat = places - np.outer(places @ self.direction, self.direction)
            reaches |= np.linalg.norm(flat[:, None] - corners[None], axis=2).min(axis=1, initial=math.inf) < _ONE_PLACE
        return reaches

    def _look(self, edge: int, other: int, side: int) -> None:
        surface = self.part.surfaces[other]
        angle = float(self.part.edges.angles[edge])
        if other in self._level:
            self._note(other, inside=angle > 0)
            return
        # a rounded or slanted edge: what matters is the level face beyond it
        is_smooth = self.part.edges.is_smooth(edge)
        inside = (isinstance(surface, Cylinder | Torus) and surface.is_hollow) if is_smooth else angle > 0
        beyond = self._level_beyond(other)
        for third in beyond:
            self._note(third, inside=inside)
        if inside and not beyond:
            self.is_closed = True
            self.closed_sides.add(side)

    def _level_beyond(self, other: int) -> list[int]:
        if other not in self._beyond:
            beyond = (third for _, third in self.part.edges.neighbours(other) if third in self._level)
            self._beyond[other] = list(dict.fromkeys(beyond))
        return self._beyond[other]

    def _note(self, surface: int, *, inside: bool) -> None:
        (self.ground if inside else self.rim)[surface] = None
        self.is_closed = self.is_closed or inside

    def heights(self, out: _Array) -> tuple[float, float]:
        """Return the height of the ground (or lower end) and of the opening along the way out, mm."""
        edges = self.part.edges
        levels = np.vstack([places[self.edges] for places in (edges.starts, edges.middles, edges.ends)]) @ out
        ground = [float(self._point(surface) @ out) for surface in self.ground]
        rim = [float(self._point(surface) @ out) for surface in self.rim]
        low = max(ground) if ground else min([float(levels.min()), *rim])
        return low, max([float(levels.max()), *rim])

    def _point(self, surface: int) -> _Array:
        plane = self.part.surfaces[surface]
        assert isinstance(plane, Plane)
        return plane.point


def _segments(
    part: PartFeatures, ring: list[tuple[int, _Array]], along: _Array, across: _Array
) -> tuple[Outline, bool] | None:
    """Return the outline counter-clockwise, and whether the material is outside it."""
    walls = [wall for wall, _ in ring]
    ends = [place for _, place in ring]
    starts = [ends[-1], *ends[:-1]]
    outline = Outline(tuple(_segment(part, *side, along, across) for side in zip(walls, starts, ends, strict=True)))
    if outline.area < 0:
        outline = Outline(tuple(_reversed(segment) for segment in reversed(outline.segments)))
        walls.reverse()
    if abs(outline.area) < _ONE_PLACE**2:
        return None
    tangent = [
        _is_smooth_between(part, walls[k], walls[(k + 1) % len(walls)], outline.segments[k].end, along, across)
        for k in range(len(walls))
    ]
    outline = Outline(
        tuple(
            Segment(start=segment.start, end=segment.end, centre=segment.centre, turn=segment.turn, is_tangent=smooth)
            for segment, smooth in zip(outline.segments, tangent, strict=True)
        )
    )
    outside = {_is_material_outside(part, *side, along, across) for side in zip(walls, outline.segments, strict=True)}
    return (outline, outside.pop()) if len(outside) == 1 else None  # else the ring runs round no one thing


def _segment(part: PartFeatures, wall: int, start: _Array, end: _Array, along: _Array, across: _Array) -> Segment:
    surface = part.surfaces[wall]
    if not isinstance(surface, Cylinder):
        return Segment(start=start, end=end, centre=None, turn=0.0, is_tangent=False)
    centre = np.array([surface.point @ along, surface.point @ across])
    begin, until = (math.atan2(*(point - centre)[::-1]) for point in (start, end))
    turn = (until - begin) % (2 * math.pi)
    toward = surface.arcs[0][0]
    middle = math.atan2(float(toward @ across), float(toward @ along))
    if (middle - begin) % (2 * math.pi) > turn:  # the wall is on the other side of its chord
        turn -= 2 * math.pi
    return Segment(start=start, end=end, centre=centre, turn=turn, is_tangent=False)


def _reversed(segment: Segment) -> Segment:
    return Segment(
        start=segment.end, end=segment.start, centre=segment.centre, turn=-segment.turn, is_tangent=segment.is_tangent
    )


def _is_smooth_between(part: PartFeatures, a: int, b: int, place: _Array, along: _Array, across: _Array) -> bool:
    for edge, other in part.edges.neighbours(a):
        at = part.edges.middles[edge]
        if other == b and abs(at @ along - place[0]) + abs(at @ across - place[1]) < _ONE_PLACE:
            return part.edges.is_smooth(edge)
    return False


def _is_material_outside(part: PartFeatures, wall: int, segment: Segment, along: _Array, across: _Array) -> bool:
    surface = part.surfaces[wall]
    if isinstance(surface, Cylinder):
        return surface.is_hollow == (segment.turn > 0)
    assert isinstance(surface, Plane)
    way = segment.end - segment.start
    left = -way[1] * along + way[0] * across
    return bool(surface.normal @ left > 0)
