"""How far a body can go along a direction until it meets another: seen along that direction, line by line.

Both bodies are cut by parallel lines. On each line, where the moving body leaves off and the
other begins ahead of it is how far it can go there; the least over all lines is the answer.
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from trimesh import Trimesh

from rigid_bench.core.values.frames import any_normal

_Array = NDArray[np.float64]
#: Lines along the longer side of what both shadows have in common.
_LINES = 72
#: mm: walls that graze each other by less are let by: triangles stay so near to what is round.
_GRAZE = 0.06
#: mm: ends of the two bodies on a line that overlap by less are in contact.
_CONTACT = 0.05
#: Shares of a step by which the lines stand off, so that none runs in a face or along an edge.
_ASKEW = (0.4142, 0.7321)


@dataclass(frozen=True, slots=True, eq=False)
class _Lines:
    """A grid of parallel lines across a direction."""

    start: _Array
    step: float
    counts: tuple[int, int]


def free_travel(moving: Trimesh, other: Trimesh, direction: _Array) -> float:
    """Return how far one body can go along a direction until it meets the other.

    Parameters
    ----------
    moving, other
        Closed meshes in one frame.
    direction
        (3,) unit.

    Returns
    -------
    float
        mm; infinite where nothing of the other is ahead. Where they overlap already, that is let by.
    """
    first = any_normal(direction)
    square = np.array([first, np.cross(direction, first), direction])
    one, two = (np.asarray(mesh.triangles) @ square.T for mesh in (moving, other))
    if one[..., 2].min() >= two[..., 2].max() - _CONTACT:
        return math.inf
    low = np.maximum(one[..., :2].min(axis=(0, 1)), two[..., :2].min(axis=(0, 1)))
    high = np.minimum(one[..., :2].max(axis=(0, 1)), two[..., :2].max(axis=(0, 1)))
    if np.any(high - low <= _GRAZE):
        return math.inf
    step = float((high - low).max()) / _LINES
    counts = np.maximum(np.ceil((high - low) / step), 3).astype(int)
    lines = _Lines(low + step * np.array(_ASKEW) * 0.5, step, (int(counts[0]), int(counts[1])))
    travel = _travels(one, two, lines)
    if not np.isfinite(travel).any():
        return math.inf
    for shift in ((_GRAZE, 0), (-_GRAZE, 0), (0, _GRAZE), (0, -_GRAZE)):
        travel = np.maximum(travel, _travels(one, two, _Lines(lines.start + np.array(shift), step, lines.counts)))
    return float(travel.min())


def _travels(one: _Array, two: _Array, lines: _Lines) -> _Array:
    """Return how far the first can go on each line, (lines,) mm."""
    total = lines.counts[0] * lines.counts[1]
    ends, end_at = _crossings(one, lines, leaving=True)
    starts, start_at = _crossings(two, lines, leaving=False)
    travels = np.full(total, np.inf)
    if not len(ends) or not len(starts):
        return travels
    # the last end before each start, both sorted by line and height
    span = 4 * float(max(np.ptp(end_at), np.ptp(start_at), abs(end_at.min() - start_at.min()), 1.0))
    base = min(end_at.min(), start_at.min())
    end_keys, start_keys = ends * span + end_at - base, starts * span + start_at - base
    order = np.argsort(end_keys)
    before = np.searchsorted(end_keys[order], start_keys + _CONTACT) - 1
    known = before >= 0
    last = order[before[known]]
    same = ends[last] == starts[known]
    gaps = np.maximum(start_at[known][same] - end_at[last][same], 0.0)
    np.minimum.at(travels, starts[known][same], gaps)
    return travels


def _crossings(triangles: _Array, lines: _Lines, *, leaving: bool) -> tuple[NDArray[np.int64], _Array]:
    """Return which line crosses a triangle, and at what height, where it leaves the body or enters it."""
    edges = triangles[:, 1:, :2] - triangles[:, :1, :2]
    doubled = edges[:, 0, 0] * edges[:, 1, 1] - edges[:, 0, 1] * edges[:, 1, 0]
    triangles = triangles[doubled > 1e-12 if leaving else doubled < -1e-12]
    flat = (triangles[..., :2] - lines.start) / lines.step
    low = np.maximum(np.ceil(flat.min(axis=1)).astype(np.int64), 0)
    high = np.minimum(np.floor(flat.max(axis=1)).astype(np.int64), np.array(lines.counts) - 1)
    spans = np.maximum(high - low + 1, 0)
    counts = spans[:, 0] * spans[:, 1]
    which = np.repeat(np.arange(len(triangles)), counts)
    within = np.arange(len(which)) - np.repeat(np.cumsum(counts) - counts, counts)
    rows = low[which, 0] + within // np.maximum(spans[which, 1], 1)
    columns = low[which, 1] + within % np.maximum(spans[which, 1], 1)
    a, b, c = (flat[which, k] for k in range(3))
    points = np.column_stack([rows, columns]) - a
    u, v = b - a, c - a
    area = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    s = (points[:, 0] * v[:, 1] - points[:, 1] * v[:, 0]) / area
    t = (u[:, 0] * points[:, 1] - u[:, 1] * points[:, 0]) / area
    inside = (s >= 0) & (t >= 0) & (s + t <= 1)
    chosen = triangles[which[inside]]
    heights = chosen[:, 0, 2] + s[inside] * (chosen[:, 1, 2] - chosen[:, 0, 2])
    heights += t[inside] * (chosen[:, 2, 2] - chosen[:, 0, 2])
    return rows[inside] * lines.counts[1] + columns[inside], heights
