"""Where a body that slides or turns first meets another: their triangles seen along the way.

A triangle that looks ahead meets one of the other body that looks back where their shadows across the way overlap. How
far it is from one to the other is linear over the overlap, a polygon, so that the least stands at one of its corners.
A turn is seen so as well, once both bodies are unrolled about its axis: along it, off it, and round it.
"""

import math
from collections.abc import Iterator

import numpy as np
import shapely
from numpy.typing import NDArray
from trimesh import Trimesh

from rigid_bench.core.values.frames import any_normal

_Array = NDArray[np.float64]
#: mm: walls that a part passes along have shadows as narrow as triangles stay near to what is round, and are so many
#: times as long along the way.
_NARROW, _STEEP = 0.05, 5.0
#: mm: what lies past each other by less, of bodies that do not overlap, is in contact.
CONTACT_MM = 0.05
#: mm by which an edge may stand off from the straight line that it is taken for when it is unrolled; shorter ones, and
#: what lies so near to the axis, are as fine as it gets.
_FINELY, _ROUGHLY, _FINEST = 0.01, 0.1, 0.05
#: mm2: shadows that overlap by less only touch.
_TOUCH = 1e-9
#: Less than this share of a triangle's normal along the way is rounding.
_LEVEL = 1e-6
#: So many pairs of triangles are looked at together.
_TOGETHER = 128


def straight_contacts(moving: Trimesh, other: Trimesh, direction: _Array) -> Iterator[float]:
    """Yield how far a body goes along a straight way to each place where it may meet another.

    Parameters
    ----------
    moving, other
        Closed meshes in one frame.
    direction
        (3,) unit.

    Yields
    ------
    float
        mm, nearest first, each for one pair of triangles; one that is grazed may stand among them.
    """
    square = _across(direction)
    one, two = (np.asarray(mesh.triangles) @ square.T for mesh in (moving, other))
    ahead = two[two[..., 2].max(axis=1) > one[..., 2].min() - CONTACT_MM]
    yield from _gaps(one, ahead, behind=-CONTACT_MM, once_round=math.inf)


def turning_contacts(moving: Trimesh, other: Trimesh, point: _Array, direction: _Array) -> Iterator[float]:
    """Yield by how much a body turns, once round at most, to each place where it may meet another.

    Parameters
    ----------
    moving, other
        Closed meshes in one frame.
    point, direction
        (3,) mm and (3,) unit: of the axis; right-handed turns.

    Yields
    ------
    float
        rad, nearest first, as `straight_contacts`.
    """
    square = _about(direction)
    one, two = (
        _unrolled(_facing((np.asarray(mesh.triangles) - point) @ square.T, way), _FINELY)
        for mesh, way in ((moving, 1), (other, -1))
    )
    lever = max(float(one[..., 1].max(initial=0.0)), 1.0)
    yield from _gaps(one, two, behind=-CONTACT_MM / lever, once_round=2 * math.pi)


def _across(direction: _Array) -> _Array:
    """Return the rows that take points to two lengths across a way and one along it."""
    first = any_normal(direction)
    return np.array([first, np.cross(direction, first), direction])


def _about(direction: _Array) -> _Array:
    """Return the rows that take points to one length along an axis and two across it."""
    first = any_normal(direction)
    return np.array([direction, first, np.cross(direction, first)])


class Passing:
    """Where a body passes another on a straight way or about an axis, as it is seen along the way.

    Parameters
    ----------
    moving, other, direction
        As for `straight_contacts`; coarse meshes do.
    axis_point
        (3,) mm, for a turn: as for `turning_contacts`.
    """

    def __init__(self, moving: Trimesh, other: Trimesh, direction: _Array, axis_point: _Array | None = None) -> None:
        meshes = [np.asarray(mesh.triangles) for mesh in (moving, other)]
        #: mm: two that are seen some way apart may be so much nearer.
        self.off_mm = 0.0 if axis_point is None else 2 * _ROUGHLY
        self._is_turn = axis_point is not None
        if axis_point is None:
            self._one, self._two = (triangles @ _across(direction).T for triangles in meshes)
        else:
            square = _about(direction).T
            self._one, self._two = (_unrolled((triangles - axis_point) @ square, _ROUGHLY) for triangles in meshes)
        self._projections = _projections(self._one)
        self._tree = shapely.STRtree(_projections(self._two))

    def nearer_than(self, within: float, span: tuple[float, float]) -> list[tuple[float, float]]:
        """List where the two pass nearer than a distance.

        Parameters
        ----------
        within
            mm, as it is seen along the way.
        span
            mm or rad: how far the body goes, back and forth.

        Returns
        -------
        list of (float, float)
            At least how far the two stay apart there, and an amount at which they are side by side; nearest first.
        """
        own, other = self._tree.query(self._projections, predicate="dwithin", distance=within)
        low = self._two[other, :, 2].min(axis=1) - self._one[own, :, 2].max(axis=1)
        high = self._two[other, :, 2].max(axis=1) - self._one[own, :, 2].min(axis=1)
        if self._is_turn:
            rounds = 2 * math.pi * np.ceil((span[0] - high) / (2 * math.pi))
            low, high = low + rounds, high + rounds
        low, high = np.maximum(low, span[0]), np.minimum(high, span[1])
        is_met = low <= high
        apart = shapely.distance(self._projections[own[is_met]], self._tree.geometries[other[is_met]])
        amounts = (low + high)[is_met] / 2
        order = np.lexsort((np.abs(amounts), np.round(apart, 3)))
        return list(zip(apart[order].tolist(), amounts[order].tolist(), strict=True))


def _projections(triangles: _Array) -> NDArray[np.object_]:
    """Return triangles as they are seen along the way, (n,) geometries; those that are seen from the side are lines."""
    sides = triangles[:, 1:, :2] - triangles[:, :1, :2]
    is_wide = np.abs(sides[:, 0, 0] * sides[:, 1, 1] - sides[:, 0, 1] * sides[:, 1, 0]) > _TOUCH
    seen = np.empty(len(triangles), dtype=object)
    seen[is_wide] = shapely.polygons(triangles[is_wide, :, :2])
    seen[~is_wide] = shapely.linestrings(triangles[~is_wide][:, [0, 1, 2, 0], :2])
    return seen


def _facing(triangles: _Array, way: int) -> _Array:
    """Return the triangles, in the axis' frame, of which a corner looks ahead (1) or back (-1) round the axis."""
    u, v = (triangles[:, k] - triangles[:, 0] for k in (1, 2))
    normals = np.cross(u, v)
    round_it = np.stack([np.zeros(triangles.shape[:2]), -triangles[..., 2], triangles[..., 1]], axis=2)
    facing = way * np.einsum("ij,ikj->ik", normals, round_it)
    sizes = np.linalg.norm(normals, axis=1)[:, None] * np.linalg.norm(round_it, axis=2)
    kept: _Array = triangles[np.any(facing > _LEVEL * sizes, axis=1)]
    return kept


def _unrolled(triangles: _Array, within: float) -> _Array:
    """Return triangles, (n, 3, 3) mm in the axis' frame, as lengths along it and off it, and the angle round it."""
    done = []
    while len(triangles):
        flat = _round(triangles)
        following = triangles[:, [1, 2, 0]]
        middles = _round((triangles + following) / 2, flat[..., 2])
        straight = (flat + flat[:, [1, 2, 0]]) / 2
        off = np.maximum(np.abs(middles[..., 1] - straight[..., 1]),
                         middles[..., 1] * np.abs(middles[..., 2] - straight[..., 2]))  # fmt: skip
        off[np.linalg.norm(following - triangles, axis=2) < _FINEST] = 0.0
        longest = off.argmax(axis=1)
        is_fine = off.max(axis=1) <= within
        done.append(flat[is_fine])
        rest, edge = triangles[~is_fine], longest[~is_fine]
        rows = np.arange(len(rest))
        start, end, tip = rest[rows, edge], rest[rows, (edge + 1) % 3], rest[rows, (edge + 2) % 3]
        middle = (start + end) / 2
        triangles = np.concatenate([np.stack([start, middle, tip], axis=1), np.stack([middle, end, tip], axis=1)])
    whole = np.concatenate([*done, np.empty((0, 3, 3))])
    far: _Array = whole[whole[..., 1].max(axis=1) > _FINEST]
    return far


def _round(points: _Array, near: _Array | None = None) -> _Array:
    """Return points, (n, 3, 3), as height, radius and angle: of each three near to one another, or to given ones."""
    angles = np.arctan2(points[..., 2], points[..., 1])
    about = angles[:, :1] if near is None else near
    angles = about + np.mod(angles - about + math.pi, 2 * math.pi) - math.pi
    return np.stack([points[..., 0], np.hypot(points[..., 1], points[..., 2]), angles], axis=2)


def _gaps(one: _Array, two: _Array, *, behind: float, once_round: float) -> Iterator[float]:
    """Yield the least way from each triangle that looks ahead to each that looks back and that it meets, least first.

    Ways shorter than `behind` go the other way; they come `once_round` later, or not at all.
    """
    is_turn = math.isfinite(once_round)
    one, two = one[_looks(one, 1, is_turn=is_turn)], two[_looks(two, -1, is_turn=is_turn)]
    projections, other_projections = (np.array(shapely.polygons(seen[..., :2])) for seen in (one, two))
    pairs = shapely.STRtree(other_projections).query(projections)
    least = two[pairs[1], :, 2].min(axis=1) - one[pairs[0], :, 2].max(axis=1)
    most = two[pairs[1], :, 2].max(axis=1) - one[pairs[0], :, 2].min(axis=1)
    if is_turn:
        rounds = once_round * np.floor((least - behind) / once_round)
        least, most = least - rounds, most - rounds
        least[most > once_round + behind] = behind  # some of it is nearer the other way round
    kept = np.flatnonzero(most > behind)
    order = kept[np.argsort(least[kept])]
    planes, other_planes = _planes(one), _planes(two)
    waiting = np.empty(0)
    for first in range(0, len(order), _TOGETHER):
        own, other = pairs[:, order[first : first + _TOGETHER]]
        overlaps = np.array(shapely.intersection(projections[own], other_projections[other]))
        is_met = shapely.area(overlaps) > _TOUCH
        own, other, overlaps = own[is_met], other[is_met], overlaps[is_met]
        corners, number = shapely.get_coordinates(overlaps, return_index=True)
        between = (other_planes[other] - planes[own])[number]
        ways = np.full(len(overlaps), np.inf)
        np.minimum.at(ways, number, between[:, 0] + np.einsum("ij,ij->i", between[:, 1:], corners))
        ways = np.mod(ways - behind, once_round) + behind if is_turn else ways[ways > behind]
        waiting = np.sort(np.concatenate([waiting, np.maximum(ways, 0.0)]))
        following = order[first + _TOGETHER : first + _TOGETHER + 1]
        known = np.searchsorted(waiting, least[following[0]] if len(following) else np.inf, side="right")
        yield from waiting[:known].tolist()
        waiting = waiting[known:]


def _looks(triangles: _Array, way: int, *, is_turn: bool) -> NDArray[np.bool_]:
    """Say which triangles look ahead (1) or back (-1), and are no walls that are passed along."""
    sides = triangles[:, [1, 2, 0]] - triangles
    doubled = way * (sides[:, 0, 0] * sides[:, 1, 1] - sides[:, 0, 1] * sides[:, 1, 0])
    width = doubled / np.maximum(np.linalg.norm(sides[..., :2], axis=2).max(axis=1), 1e-12)
    length = np.ptp(triangles[..., 2], axis=1) * (triangles[..., 1].mean(axis=1) if is_turn else 1.0)
    looking: NDArray[np.bool_] = (width > 1e-9) & ((width > _NARROW) | (length < _STEEP * width))
    return looking


def _planes(triangles: _Array) -> _Array:
    """Return how far along the way each triangle's plane lies at a place across it: level, and its two slopes."""
    u, v = (triangles[:, k] - triangles[:, 0] for k in (1, 2))
    doubled = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    slope = (u[:, 2] * v[:, 1] - v[:, 2] * u[:, 1]) / doubled
    other = (v[:, 2] * u[:, 0] - u[:, 2] * v[:, 0]) / doubled
    level = triangles[:, 0, 2] - slope * triangles[:, 0, 0] - other * triangles[:, 0, 1]
    return np.column_stack([level, slope, other])
