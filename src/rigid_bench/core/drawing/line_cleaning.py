"""Lines that lie on each other are drawn once: visible ones win over hidden ones (ISO 128-2, order of lines)."""

from collections import defaultdict
from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from rigid_bench.core.formats.pictures import Polyline

_Array = NDArray[np.float64]
#: Lines that are nearer than this lie on each other; pieces that are shorter are none: shares of the view's size.
_SAME, _SHORT = 1e-4, 2e-4
#: Corners of pieces are told apart to so many digits when they are put together.
_DIGITS = 3


def drawn_once(
    visible: Sequence[Polyline], hidden: Sequence[Polyline], size: float
) -> tuple[list[Polyline], list[Polyline]]:
    """Return lines with nothing drawn twice.

    Parameters
    ----------
    visible, hidden
        Lines of a view, mm.
    size
        mm, of the view.

    Returns
    -------
    visible, hidden : list of polylines
        Of a hidden line only what no visible line covers.
    """
    same = max(_SAME * size, 2e-3)
    seen = _without_repeats(visible, [], same)
    return seen, _without_repeats(hidden, seen, same)


def _without_repeats(lines: Sequence[Polyline], above: Sequence[Polyline], same: float) -> list[Polyline]:
    """Return lines without what lies under others: the straight ones as the union of what they cover."""
    bent = [line for line in lines if not _is_straight(line, same)]
    straight = [(line[0], line[-1]) for line in lines if _is_straight(line, same)]
    cover = shapely.union_all([shapely.LineString(line) for line in above]).buffer(same) if above else None
    kept = [*_joined(straight, same), *_each_once(bent, same)]
    if cover is None:
        return kept
    shapely.prepare(cover)
    return [piece for line in kept for piece in _outside(line, cover, same)]


def _is_straight(line: Polyline, same: float) -> bool:
    points = np.array(line)
    way = points[-1] - points[0]
    length = float(np.linalg.norm(way))
    if length < same:
        return False
    off = np.abs((points - points[0]) @ np.array([-way[1], way[0]])) / length
    return bool(off.max() < same)


def _joined(segments: Sequence[tuple[Sequence[float], Sequence[float]]], same: float) -> list[Polyline]:
    """Put segments on one straight line together to the fewest that cover as much."""
    groups: dict[tuple[float, float, float], list[tuple[_Array, float, float]]] = defaultdict(list)
    for start, end in segments:
        a, b = np.array(start), np.array(end)
        way = (b - a) / np.linalg.norm(b - a)
        way = way if (round(way[0], 6), round(way[1], 6)) > (0, 0) else -way
        normal = np.array([-way[1], way[0]])
        key = (round(float(way[0]), 4), round(float(way[1]), 4), round(float(a @ normal) / (4 * same)))
        groups[key].append((a - float(a @ way) * way, float(a @ way), float(b @ way)))
    joined: list[Polyline] = []
    for (x, y, _), members in groups.items():
        way = np.array([x, y]) / np.hypot(x, y)
        base = members[0][0]
        spans = sorted((min(low, high), max(low, high)) for _, low, high in members)
        first, last = spans[0]
        for low, high in [*spans[1:], (np.inf, np.inf)]:
            if low <= last + same:
                last = max(last, high)
                continue
            joined.append(np.round([base + first * way, base + last * way], 4).tolist())
            first, last = low, high
    return joined


def _each_once(lines: Sequence[Polyline], same: float) -> list[Polyline]:
    kept: list[Polyline] = []
    covers: list[shapely.Polygon] = []
    for line in sorted(lines, key=lambda points: -shapely.LineString(points).length):
        own = shapely.LineString(line)
        if not any(cover.covers(own) for cover in covers):
            kept.append(line)
            covers.append(own.buffer(2 * same))
    return kept


def _outside(line: Polyline, cover: shapely.Geometry, same: float) -> list[Polyline]:
    rest = shapely.LineString(line).difference(cover)
    pieces = getattr(rest, "geoms", [rest])
    return [shapely.get_coordinates(piece).tolist() for piece in pieces if piece.length > 4 * same]
