"""Broken views: the plain middle of a long part is left out, so that the rest is drawn larger (ISO 128-3)."""

import itertools
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.drawing.layout.part_view import Break, PartView
from rigid_bench.core.formats.pictures import Polyline

_Array = NDArray[np.float64]
#: A part is long that is so many times as long as across, and plain where at least this share of it is.
_LONG, _PLAIN = 6.0, 0.4
#: How much of the plain stretch stays at each side, times the size across.
_KEPT = 1.0
#: mm in nature: ends of lines that are nearer are one.
_SAME = 0.02


def broken_views(views: Sequence[PartView]) -> list[PartView]:
    """Return the views with a plain stretch left out, the same in all; the views as they are where none is long.

    Parameters
    ----------
    views
        Of one part, at one scale.
    """
    long = max(views, key=lambda view: max(np.ptp(view.box, axis=0)))
    along = int(np.ptp(long.box, axis=0).argmax())
    way = long.axes[along]
    beside = [view for view in views if view.level_with(way) is not None]
    across = max(float(np.ptp(view.box, axis=0)[1 - _run(view, way)]) for view in beside)
    length = float(np.ptp(long.box, axis=0)[along])
    if length < _LONG * across:
        return list(views)
    stretch = _plain_stretch(beside, way)
    if stretch is None or stretch[1] - stretch[0] < max(_PLAIN * length, 2 * _KEPT * across + across):
        return list(views)
    low, high = stretch[0] + _KEPT * across, stretch[1] - _KEPT * across
    return [replace(view, broken=_break(view, way, low, high)) if view in beside else view for view in views]


def _run(view: PartView, way: _Array) -> int:
    along = view.level_with(way)
    assert along is not None
    return along


def _break(view: PartView, way: _Array, low: float, high: float) -> Break:
    along = _run(view, way)
    ends = sorted(float(view.axes[along] @ way) * own for own in (low, high))
    return Break(along=along, low=ends[0], high=ends[1])


def _plain_stretch(views: Sequence[PartView], way: _Array) -> tuple[float, float] | None:
    """Return the longest stretch, mm along a direction, in which every line of every view runs along it."""
    ends: list[float] = []
    blocked: list[tuple[float, float]] = []
    for view in views:
        along = _run(view, way)
        sign = float(view.axes[along] @ way)
        for line in (*view.visible, *view.hidden):
            points = np.array(line)
            own = sorted(float(value) * sign for value in (points[:, along].min(), points[:, along].max()))
            ends += own
            if not _runs_along(line, along):
                blocked.append((own[0], own[1]))
    levels = sorted(set(np.round(ends, 3).tolist()))
    free = [
        (low, high)
        for low, high in itertools.pairwise(levels)
        if not any(start < high - _SAME and end > low + _SAME for start, end in blocked)
    ]
    return max(free, key=lambda pair: pair[1] - pair[0], default=None)


def _runs_along(line: Polyline, along: int) -> bool:
    points = np.array(line)
    return float(np.ptp(points[:, 1 - along])) < _SAME
