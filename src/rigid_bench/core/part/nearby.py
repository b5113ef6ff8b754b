"""What lies near what: nearest points, pairs within a distance, and what hangs together."""

from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

_Array = NDArray[np.float64]
#: Up to so many points all distances are taken at once: a tree would take longer to load than to be spared.
_FEW = 400


class Points:
    """Points among which near ones are looked for.

    Parameters
    ----------
    points : (n, d) float
        At least one.

    Examples
    --------
    >>> points = Points(np.array([[0.0, 0], [3, 4], [3, 5]]))
    >>> points.nearest(np.array([[3.0, 4.2]]))
    (array([0.2]), array([1]))
    >>> points.pairs_within(2)
    [(1, 2)]
    """

    def __init__(self, points: _Array) -> None:
        self._points = points
        self._tree: Any = None
        if len(points) > _FEW:
            from scipy.spatial import cKDTree

            self._tree = cKDTree(points)

    def nearest(self, at: _Array) -> tuple[_Array, NDArray[np.int64]]:
        """Return the distance of each place, (m, d), to its nearest point, and which that is, (m,) both."""
        distances, indices = self.several(at, 1)
        return distances[:, 0], indices[:, 0]

    def several(self, at: _Array, count: int) -> tuple[_Array, NDArray[np.int64]]:
        """Return the distances of each place to so many points, nearest first, and which they are, (m, count) both."""
        if self._tree is not None:
            distances, indices = self._tree.query(at, k=count)
            return distances.reshape(len(at), count), indices.reshape(len(at), count)
        apart = np.linalg.norm(at[:, None] - self._points[None], axis=2)
        order = np.argsort(apart, axis=1, kind="stable")[:, :count]
        return np.take_along_axis(apart, order, axis=1), order

    def pairs_within(self, radius: float) -> list[tuple[int, int]]:
        """List the pairs of points that are no farther apart than a radius, the lower index first."""
        if self._tree is not None:
            return sorted((int(a), int(b)) for a, b in self._tree.query_pairs(radius))
        apart = np.linalg.norm(self._points[:, None] - self._points[None], axis=2)
        return [(int(a), int(b)) for a, b in np.argwhere(np.triu(apart <= radius, 1))]


def connected(count: int, pairs: Iterable[Sequence[int]]) -> list[list[int]]:
    """Group what hangs together.

    Parameters
    ----------
    count
        Of things, named 0 to count - 1.
    pairs
        Which hang together.

    Returns
    -------
    list of list of int
        Each group in ascending order, the groups by their first.

    Examples
    --------
    >>> connected(4, [(2, 0), (1, 3)])
    [[0, 2], [1, 3]]
    """
    root = list(range(count))

    def top(place: int) -> int:
        while root[place] != place:
            root[place] = root[root[place]]
            place = root[place]
        return place

    for a, b in pairs:
        one, two = sorted((top(a), top(b)))
        root[two] = one
    groups: dict[int, list[int]] = {}
    for place in range(count):
        groups.setdefault(top(place), []).append(place)
    return list(groups.values())
