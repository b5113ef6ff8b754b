"""Patterns of like features: in a row, in a grid, round a circle."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.nearby import Points
from rigid_bench.core.values.frames import any_normal

_Array = NDArray[np.float64]
#: mm: places that differ by less are one.
_NEAR = 1e-3
#: So many like features make a pattern; a row's next member is among so many nearest.
_LEAST, _NEIGHBOURS = 3, 6


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Pattern:
    """Like features at equal distances."""

    #: "linear", "rectangular", "circular" or "radial" (pointing at an axis from all round it)
    kind: str
    #: Places in the list that was searched, in order along the pattern.
    members: tuple[int, ...]
    #: How many along each direction; one number but for a rectangular pattern.
    counts: tuple[int, ...]
    #: mm between neighbours along each direction; along the arc's chord for a circular pattern.
    pitches: tuple[float, ...]
    #: mm, diameter of the circle through the middles; 0 for the others.
    pitch_circle: float
    #: rad between neighbours on the circle, or round the axis; 0 for the others.
    step: float
    #: (3,) mm, the middle of the pattern.
    centre: _Array
    #: (3,) unit: the axis of a circular or radial pattern, the first direction of the others.
    direction: _Array

    def renamed(self, names: Sequence[int]) -> "Pattern":
        """Return the pattern with its members counted in another list, given the place of each there."""
        return replace(self, members=tuple(names[member] for member in self.members))


def find_patterns(positions: _Array, direction: _Array, axes: Sequence[_Array]) -> list[Pattern]:
    """Find the patterns that like features with parallel axes make.

    Parameters
    ----------
    positions : (n, 3) float, mm
        A point on the axis of each.
    direction : (3,) float
        Along their axes.
    axes : sequence of (3,) float, mm
        Points on parallel axes of round features, about which they may lie.

    Returns
    -------
    list of Pattern
        A square of four about an axis is both a grid and a circle.
    """
    plane = _Flat(positions, direction)
    left = plane.apart()
    grid = plane.grid(left)
    if len(left) < _LEAST:
        return []
    if grid and len(left) > 4:
        return [grid]
    patterns: list[Pattern] = []
    for centre in [plane.flat(axis) for axis in axes]:
        groups = _round(plane.points[left], centre, least=_LEAST)
        patterns += [plane.circle(left[members], centre) for members in groups]
    if grid:
        return [grid, *patterns]
    in_circles = {member for pattern in patterns for member in pattern.members}
    left = np.array([member for member in left if member not in in_circles], dtype=np.int64)
    if len(left) >= _LEAST:
        patterns += plane.rest(left)
    return patterns


def find_radial(middles: _Array, directions: _Array, axis: tuple[_Array, _Array]) -> list[Pattern]:
    """Find the patterns of like features that point at an axis, all at one height and evenly round it.

    Parameters
    ----------
    middles, directions
        (n, 3) mm and unit: the middle of each feature, and its own axis.
    axis
        A point, (3,) mm, and a direction, (3,) unit.
    """
    point, direction = axis
    offsets = middles - point
    heights = offsets @ direction
    radial = offsets - np.outer(heights, direction)
    reach = np.linalg.norm(radial, axis=1)
    square = np.abs(directions @ direction) < 1e-6
    aimed = np.linalg.norm(np.cross(radial, directions), axis=1) < _NEAR
    patterns = []
    for height in np.unique(np.round(heights / _NEAR)):
        level = np.flatnonzero(square & aimed & (reach > _NEAR) & (np.round(heights / _NEAR) == height))
        if len(level) < _LEAST or np.ptp(reach[level]) > _NEAR:
            continue
        x = radial[level[0]] / reach[level[0]]
        angles = np.arctan2(radial[level] @ np.cross(direction, x), radial[level] @ x) % (2 * math.pi)
        order = np.argsort(angles)
        step = 2 * math.pi / len(level)
        if np.abs(np.diff(angles[order]) - step).max() > _NEAR / reach[level[0]]:
            continue
        patterns.append(
            Pattern(
                kind="radial",
                members=tuple(level[order].tolist()),
                counts=(len(level),),
                pitches=(2 * float(reach[level].mean()) * math.sin(step / 2),),
                pitch_circle=0.0,
                step=step,
                centre=point + float(heights[level].mean()) * direction,
                direction=direction,
            )
        )
    return patterns


class _Flat:
    """Positions seen along their axes."""

    def __init__(self, positions: _Array, direction: _Array) -> None:
        self.positions, self.normal = positions, direction
        self.x = any_normal(direction)
        self.y = np.cross(direction, self.x)
        self.points = positions @ np.column_stack([self.x, self.y])

    def apart(self) -> NDArray[np.int64]:
        """Return one of the features on each axis: a hole through two walls is in a pattern once."""
        _, first = np.unique(np.round(self.points / _NEAR / 2), axis=0, return_index=True)
        return np.sort(first)

    def flat(self, point: _Array) -> _Array:
        return np.array([point @ self.x, point @ self.y])

    def _lift(self, point: _Array, like: _Array) -> _Array:
        """Return a point of the plane in space, level with the features."""
        level = float(np.mean(like @ self.normal))
        lifted: _Array = point[0] * self.x + point[1] * self.y + level * self.normal
        return lifted

    def circle(self, members: NDArray[np.int64], centre: _Array) -> Pattern:
        offsets = self.points[members] - centre
        angles = np.sort(np.arctan2(offsets[:, 1], offsets[:, 0]))
        radius, step = float(np.linalg.norm(offsets, axis=1).mean()), float(np.min(np.diff(angles)))
        order = np.argsort(np.arctan2(offsets[:, 1], offsets[:, 0]))
        return Pattern(
            kind="circular",
            members=tuple(members[order].tolist()),
            counts=(len(members),),
            pitches=(2 * radius * math.sin(step / 2),),
            pitch_circle=2 * radius,
            step=step,
            centre=self._lift(centre, self.positions[members]),
            direction=self.normal,
        )

    def line(self, members: NDArray[np.int64], way: _Array, pitch: float) -> Pattern:
        order = np.argsort(self.points[members] @ way)
        middle = self.points[members].mean(axis=0)
        return Pattern(
            kind="linear",
            members=tuple(members[order].tolist()),
            counts=(len(members),),
            pitches=(pitch,),
            pitch_circle=0.0,
            step=0.0,
            centre=self._lift(middle, self.positions[members]),
            direction=way[0] * self.x + way[1] * self.y,
        )

    def grid(self, members: NDArray[np.int64]) -> Pattern | None:
        """Return the full grid that all members make, at least two by two."""
        if len(members) < 4:
            return None
        points = self.points[members]
        corner = points[np.lexsort(np.round(points.T[::-1], 3))[0]]
        away = np.linalg.norm(points - corner, axis=1)
        for nearest in np.argsort(away)[1:5]:
            way = (points[nearest] - corner) / away[nearest]
            first, second = (_steps(points @ axis) for axis in (way, np.array([-way[1], way[0]])))
            if first and second and first[0] * second[0] == len(members) and min(first[0], second[0]) > 1:
                return Pattern(
                    kind="rectangular",
                    members=tuple(members.tolist()),
                    counts=(first[0], second[0]),
                    pitches=(first[1], second[1]),
                    pitch_circle=0.0,
                    step=0.0,
                    centre=self._lift(points.mean(axis=0), self.positions[members]),
                    direction=way[0] * self.x + way[1] * self.y,
                )
        return None

    def rest(self, members: NDArray[np.int64]) -> list[Pattern]:
        """Find grids, full circles and rows among members that no named axis explains."""
        points = self.points[members]
        if grid := self.grid(members):
            return [grid]
        middle = points.mean(axis=0)
        if any(len(circle) == len(members) for circle in _round(points, middle, least=_LEAST)):
            return [self.circle(members, middle)]
        patterns = []
        while len(members) >= _LEAST and (row := _longest_row(self.points[members])):
            chosen, way, pitch = row
            patterns.append(self.line(members[chosen], way, pitch))
            members = np.delete(members, chosen)
        return patterns


def _steps(values: _Array) -> tuple[int, float] | None:
    """Return how many levels values lie on, and their distance; None for unequal distances."""
    ordered = np.sort(values)
    levels = ordered[np.concatenate([[True], np.diff(ordered) > _NEAR])]
    gaps = np.diff(levels)
    if len(gaps) and np.ptp(gaps) > 2 * _NEAR:
        return None
    return len(levels), float(gaps.mean()) if len(gaps) else 0.0


def _round(points: _Array, centre: _Array, *, least: int) -> Iterator[NDArray[np.int64]]:
    """Yield the points that lie all round a centre at equal angles, those at one distance together."""
    radii = np.linalg.norm(points - centre, axis=1)
    order = np.argsort(radii)
    groups = np.split(order, np.flatnonzero(np.diff(radii[order]) > _NEAR) + 1)
    for group in groups:
        if len(group) < least or radii[group[0]] < _NEAR:
            continue
        offsets = points[group] - centre
        angles = np.sort(np.arctan2(offsets[:, 1], offsets[:, 0]))
        gaps = np.diff(np.append(angles, angles[0] + 2 * math.pi))
        # all round, or all but one gap: part of a circle
        inner = np.delete(gaps, np.argmax(gaps)) if np.ptp(gaps) * radii[group[0]] > 2 * _NEAR else gaps
        if np.ptp(inner) * radii[group[0]] < 2 * _NEAR:
            yield group


def _longest_row(points: _Array) -> tuple[list[int], _Array, float] | None:
    """Return the longest row at equal distances: its members, direction and pitch."""
    tree = Points(points)
    _, near = tree.several(points, min(len(points), _NEIGHBOURS + 1))
    best: tuple[list[int], _Array, float] | None = None
    for first, others in enumerate(near.tolist()):
        for second in others:
            step = points[second] - points[first]
            pitch = math.hypot(*step)
            if pitch < _NEAR or tree.nearest((points[first] - step)[None])[0][0] < _NEAR:
                continue  # no step, or not the first of its row
            row = [first, second]
            while len(row) < len(points):
                away, after = tree.nearest((points[row[-1]] + step)[None])
                if away[0] > _NEAR:
                    break
                row.append(int(after[0]))
            if len(row) >= _LEAST and (best is None or len(row) > len(best[0])):
                best = row, step / pitch, pitch
    return best
