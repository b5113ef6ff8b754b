"""The least wall of a part: between flat faces, between holes, and from a hole to the outside.

Each pair of surfaces with material between them gives a thickness by formula; pairs are
looked at from the thinnest on, and the first whose faces really lie over each other is it.
"""

import heapq
import itertools
import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.faces import Cone, Cylinder, Plane
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.flat_bounds import FlatBounds
from rigid_bench.core.part.nearby import Points

_Array = NDArray[np.float64]
#: Pairs that are looked at before giving up, and neighbours of a hole among many.
_MOST_TRIED, _NEIGHBOURS = 3000, 16
#: Points that are looked at together.
_FEW = 32
#: A wall that goes further round than this (rad) is whole.
_WHOLE = 2 * math.pi - 1e-6
#: mm: less is no wall but two surfaces of one edge.
_LEAST = 1e-3


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Wall:
    """Material between two surfaces."""

    #: mm
    thickness: float
    #: Both surfaces, as places in the part's surfaces.
    surfaces: tuple[int, int]
    #: (3,) mm, in the middle of the thin place.
    at: _Array


def least_wall(part: PartFeatures) -> Wall | None:
    """Return the thinnest wall between flat and round surfaces of a part, or None where there is none."""
    over = FlatBounds(part)
    candidates = heapq.merge(
        _plates(part, over), _round_to_flat(part, over), _between_rounds(part), key=lambda plate: plate[0]
    )
    for thickness, wall, check in itertools.islice(candidates, _MOST_TRIED):
        if thickness > _LEAST and (at := check()) is not None:
            return Wall(thickness=thickness, surfaces=wall, at=at)
    return None


def flat_walls(part: PartFeatures) -> list[Wall]:
    """Return the wall under each flat surface that has one: to the nearest surface that looks the other way.

    Thinnest first; a plate counts once.
    """
    if part.is_mesh:
        return []
    over = FlatBounds(part)
    seen: set[int] = set()
    walls = []
    for thickness, wall, check in itertools.islice(_plates(part, over), _MOST_TRIED):
        if thickness > _LEAST and not set(wall) <= seen and (at := check()) is not None:
            seen |= set(wall)
            walls.append(Wall(thickness=thickness, surfaces=wall, at=at))
    return walls


#: Thickness, the two surfaces, and what says where they lie over each other, or None.
_Candidate = tuple[float, tuple[int, int], Callable[[], _Array | None]]


def _plates(part: PartFeatures, over: FlatBounds) -> Iterator[_Candidate]:
    """Yield pairs of flat surfaces that look away from each other, the nearest first."""
    numbers = np.array([k for k, surface in enumerate(part.surfaces) if isinstance(surface, Plane)], dtype=np.int64)
    normals, points = part.plane_arrays
    streams = []
    left = np.arange(len(numbers))
    while len(left):
        normal = normals[left[0]]
        facing = normals @ normal
        same, opposed = left[facing[left] > 1 - 1e-9], np.flatnonzero(facing < -1 + 1e-9)
        left = np.setdiff1d(left, np.concatenate([same, opposed]))
        if len(opposed):
            streams.append(_opposed(points @ normal, numbers, same, opposed))
    for thickness, a, b in heapq.merge(*streams):
        yield thickness, (a, b), lambda a=a, b=b: _common(over, a, b)  # type: ignore[misc]  # the values of now


def _opposed(
    heights: _Array, numbers: NDArray[np.int64], above: NDArray[np.int64], below: NDArray[np.int64]
) -> Iterator[tuple[float, int, int]]:
    """Yield pairs of an upper and a lower surface by their distance, without listing all pairs."""
    below = below[np.argsort(heights[below])]
    levels = heights[below]
    first = np.searchsorted(levels, heights[above] - _LEAST) - 1  # the nearest one beneath
    queue = [(float(heights[a] - levels[k]), int(a), int(k)) for a, k in zip(above, first, strict=True) if k >= 0]
    heapq.heapify(queue)
    while queue:
        gap, a, k = heapq.heappop(queue)
        yield gap, int(numbers[a]), int(numbers[below[k]])
        if k:
            heapq.heappush(queue, (float(heights[a] - levels[k - 1]), a, k - 1))


def _common(over: FlatBounds, a: int, b: int) -> _Array | None:
    """Return a point in the middle between two flat surfaces where they lie over each other."""
    one, two = over.part.surfaces[a], over.part.surfaces[b]
    assert isinstance(one, Plane)
    assert isinstance(two, Plane)
    middle = float((one.point + two.point) @ one.normal) / 2
    points = np.vstack([over.samples(a), over.samples(b)])
    # a few at a time: the first ones mostly answer, and faces may have thousands of edges
    for chunk in np.split(points, range(_FEW, len(points), _FEW)):
        common = np.flatnonzero(over.holds(a, chunk) & over.holds(b, chunk))
        if len(common):
            point = chunk[common[0]]
            at: _Array = point + (middle - float(point @ one.normal)) * one.normal
            return at
    return None


def _round_to_flat(part: PartFeatures, over: FlatBounds) -> Iterator[_Candidate]:
    """Yield holes beside or above a flat outside: round walls along it, and drill points towards it."""
    normals, points = part.plane_arrays
    planes = [k for k, surface in enumerate(part.surfaces) if isinstance(surface, Plane)]
    candidates: list[_Candidate] = []
    for number, surface in enumerate(part.surfaces):
        if isinstance(surface, Cylinder) and surface.is_hollow:
            away = np.einsum("ij,ij->i", points - surface.point, normals) - surface.radius
            along = np.abs(normals @ surface.direction) < 1e-6
            places = surface.point + np.outer([0.5, 0.1, 0.9], surface.length * surface.direction)
            for k in np.flatnonzero(along & (away > _LEAST)).tolist():
                shift = (surface.radius + away[k] / 2) * normals[k]
                if _covers(surface, normals[k]):
                    candidates.append(
                        (float(away[k]), (number, planes[k]), _first_over(over, planes[k], places, shift))
                    )
        elif isinstance(surface, Cone) and surface.is_hollow and surface.near < _LEAST:
            away = np.einsum("ij,ij->i", points - surface.apex, normals)
            for k in np.flatnonzero((normals @ surface.direction < -1 + 1e-6) & (away > _LEAST)).tolist():
                shift = away[k] / 2 * normals[k]
                candidates.append(
                    (float(away[k]), (number, planes[k]), _first_over(over, planes[k], surface.apex[None], shift))
                )
    yield from sorted(candidates, key=lambda candidate: candidate[0])


def _first_over(over: FlatBounds, plane: int, places: _Array, shift: _Array) -> Callable[[], _Array | None]:
    def check() -> _Array | None:
        held = np.flatnonzero(over.holds(plane, places))
        return places[held[0]] + shift if len(held) else None

    return check


def _covers(wall: Cylinder, direction: _Array) -> bool:
    """Say whether a round wall is there in a direction at right angles to its axis."""
    return wall.sweep > _WHOLE or any(
        math.acos(max(-1.0, min(1.0, float(toward @ direction)))) <= sweep / 2 + 1e-6 for toward, sweep in wall.arcs
    )


def _between_rounds(part: PartFeatures) -> Iterator[_Candidate]:
    """Yield neighbouring holes, and holes within round outsides, that have parallel axes."""
    walls = [(k, surface) for k, surface in enumerate(part.surfaces) if isinstance(surface, Cylinder)]
    candidates: list[_Candidate] = []
    left = walls
    while left:
        direction = left[0][1].direction
        group = [wall for wall in left if abs(float(wall[1].direction @ direction)) > 1 - 1e-9]
        left = [wall for wall in left if abs(float(wall[1].direction @ direction)) <= 1 - 1e-9]
        hollow = [wall for wall in group if wall[1].is_hollow]
        solid = [wall for wall in group if not wall[1].is_hollow]
        pairs = itertools.chain(_near_pairs(hollow, direction), itertools.product(hollow, solid))
        candidates += [candidate for a, b in pairs if (candidate := _round_pair(a, b, direction))]
    yield from sorted(candidates, key=lambda candidate: candidate[0])


_Numbered = tuple[int, Cylinder]


def _near_pairs(hollow: list[_Numbered], direction: _Array) -> Iterator[tuple[_Numbered, _Numbered]]:
    """Yield pairs of neighbouring holes; among many only the nearest ones of each."""
    if len(hollow) < 2:
        return
    feet = np.array([cylinder.point - float(cylinder.point @ direction) * direction for _, cylinder in hollow])
    count = min(len(hollow), _NEIGHBOURS)
    near = Points(feet).several(feet, count)[1]
    pairs = {(min(a, b), max(a, b)) for a, others in enumerate(near.tolist()) for b in others if a != b}
    yield from ((hollow[a], hollow[b]) for a, b in sorted(pairs))


def _round_pair(a: _Numbered, b: _Numbered, direction: _Array) -> _Candidate | None:
    """Return the wall between a hole and another hole or the round outside about it."""
    (first, hole), (second, other) = a, b
    between = other.point - hole.point
    between = between - float(between @ direction) * direction
    apart = math.hypot(*between)
    thickness = apart - hole.radius - other.radius if other.is_hollow else other.radius - hole.radius - apart
    if thickness < _LEAST:
        return None

    def check() -> _Array | None:
        ends = [sorted((float(w.point @ direction), float(w.end @ direction))) for w in (hole, other)]
        low, high = max(ends[0][0], ends[1][0]), min(ends[0][1], ends[1][1])
        sign = 1 if other.is_hollow else -1
        way = sign * between / apart if apart > _LEAST else hole.arcs[0][0]
        if high - low < _LEAST or not (_covers(hole, way) and _covers(other, -sign * way)):
            return None
        level = (low + high) / 2 - float(hole.point @ direction)
        at: _Array = hole.point + level * direction + (hole.radius + thickness / 2) * way
        return at

    return thickness, (first, second), check
