"""Whether triangles of one skin pass through each other: boxes within boxes first, then edges through faces."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

_Array = NDArray[np.float64]
_Ints = NDArray[np.int64]
#: Pairs that are looked at together: so much memory is at hand.
_AT_ONCE = 500_000
#: Share of a triangle's sides within which an edge has to pass: what touches at an edge or corner does not cross.
_INSIDE = 1e-4
#: Bits of each coordinate by which triangles are put in order.
_BITS = 10


def crossing(vertices: _Array, faces: _Ints, *, deeper_mm: float) -> tuple[int, int] | None:
    """Return two triangles that pass through each other; None where there are none.

    Parameters
    ----------
    vertices, faces
        (v, 3) mm and (n, 3), corners joined.
    deeper_mm
        An edge has to end so far beyond the other triangle on both sides: nearer, the digits of a file decide.

    Notes
    -----
    Triangles that share a corner are not compared. The order is Morton's (G. M. Morton, A computer oriented geodetic
    data base, 1966), as for bounding volumes in T. Karras, Maximizing parallelism in the construction of BVHs, 2012
    (both from memory).
    """
    corners = vertices[faces]
    for pairs in _near_pairs(corners.min(axis=1), corners.max(axis=1)):
        a, b = faces[pairs[:, 0]], faces[pairs[:, 1]]
        is_apart = ~(a[:, :, None] == b[:, None, :]).any(axis=(1, 2))
        pairs = pairs[is_apart]
        crosses = _crosses(corners[pairs[:, 0]], corners[pairs[:, 1]], deeper_mm)
        if crosses.any():
            one, other = pairs[int(np.argmax(crosses))].tolist()
            return one, other
    return None


def _near_pairs(low: _Array, high: _Array) -> Iterator[_Ints]:
    """Yield pairs of boxes that overlap, (k, 2), some at a time, each pair once."""
    order = _order(low + high)
    levels = [(low[order], high[order])]
    while len(levels[-1][0]) > 1:
        levels.append(_halved(*levels[-1]))
    waiting: list[tuple[int, _Ints]] = [(len(levels) - 1, np.zeros((1, 2), dtype=np.int64))]
    while waiting:
        level, pairs = waiting.pop()
        for lows, highs in zip(*(np.ascontiguousarray(ends.T) for ends in levels[level]), strict=True):
            a, b = pairs.T
            pairs = pairs[(lows[a] <= highs[b]) & (lows[b] <= highs[a])]
        if not level:
            yield order[pairs[pairs[:, 0] != pairs[:, 1]]]
            continue
        below = (2 * pairs[:, None, :] + np.array([[0, 0], [0, 1], [1, 0], [1, 1]])).reshape(-1, 2)
        count = len(levels[level - 1][0])
        below = below[(below < count).all(axis=1) & (below[:, 0] <= below[:, 1])]
        waiting += [(level - 1, below[k : k + _AT_ONCE]) for k in range(0, len(below), _AT_ONCE)]


def _order(middles: _Array) -> _Ints:
    """Return an order in which what is near in space is mostly near in the row."""
    size = np.ptp(middles, axis=0)
    cells = ((middles - middles.min(axis=0)) / np.where(size > 0, size, 1) * (2**_BITS - 1)).astype(np.int64)
    codes = np.zeros(len(cells), dtype=np.int64)
    for bit in range(_BITS):
        for axis in range(3):
            codes |= ((cells[:, axis] >> bit) & 1) << (3 * bit + axis)
    return np.argsort(codes, kind="stable")


def _halved(low: _Array, high: _Array) -> tuple[_Array, _Array]:
    """Return the boxes around each two that follow each other."""
    if len(low) % 2:
        low, high = np.vstack([low, low[-1:]]), np.vstack([high, high[-1:]])
    return low.reshape(-1, 2, 3).min(axis=1), high.reshape(-1, 2, 3).max(axis=1)


def _crosses(ones: _Array, others: _Array, deeper_mm: float) -> NDArray[np.bool_]:
    """Say which triangles, (k, 3, 3) each, have an edge that goes through the inside of the other."""
    through = np.zeros(len(ones), dtype=bool)
    for edges, faces in ((ones, others), (others, ones)):
        normals = np.cross(faces[:, 1] - faces[:, 0], faces[:, 2] - faces[:, 0])
        sizes = np.linalg.norm(normals, axis=1)
        normals = normals / np.where(sizes > 0, sizes, 1)[:, None]
        heights = np.einsum("nij,nj->ni", edges - faces[:, :1], normals)
        for k in range(3):
            here, there = heights[:, k], heights[:, (k + 1) % 3]
            goes = (np.minimum(np.abs(here), np.abs(there)) > deeper_mm) & (here * there < 0) & (sizes > 0) & ~through
            rows = np.flatnonzero(goes)
            start, end = edges[rows, k], edges[rows, (k + 1) % 3]
            share = here[rows] / (here[rows] - there[rows])
            at = start + share[:, None] * (end - start)
            through[rows] = _is_inside(at, faces[rows], normals[rows], sizes[rows])
    return through


def _is_inside(points: _Array, faces: _Array, normals: _Array, sizes: _Array) -> NDArray[np.bool_]:
    """Say which points in the planes of triangles lie inside them, and not at a side."""
    inside = np.ones(len(points), dtype=bool)
    for k in range(3):
        side = faces[:, (k + 1) % 3] - faces[:, k]
        area = np.einsum("ij,ij->i", np.cross(side, points - faces[:, k]), normals)
        inside &= area > _INSIDE * sizes
    return inside
