"""Broken views (ISO 128-3): the plain middle of a long bar is left out in every view that shows it."""

from dataclasses import replace

import numpy as np
import pytest

from rigid_bench.core.drawing.layout.breaks import broken_views
from rigid_bench.core.drawing.layout.part_view import PartView
from rigid_bench.core.formats.pictures import Polyline

FRONT = np.array([[1.0, 0, 0], [0, 0, 1], [0, -1, 0]])
TOP = np.array([[1.0, 0, 0], [0, 1, 0], [0, 0, 1]])
SIDE = np.array([[0.0, 1, 0], [0, 0, 1], [1, 0, 0]])


def rectangle(width: float, height: float) -> list[Polyline]:
    corners = [[0.0, 0.0], [width, 0.0], [width, height], [0.0, height]]
    return [[a, b] for a, b in zip(corners, [*corners[1:], corners[0]], strict=True)]


def view(name: str, axes: np.ndarray, width: float, height: float, *more: Polyline) -> PartView:
    return PartView(
        name=name, slot=name, axes=axes, box=np.array([[0.0, 0.0], [width, height]]), scale=1.0,
        visible=(*rectangle(width, height), *more), hidden=(),
    )  # fmt: skip


def bar(length: float, *steps: float) -> list[PartView]:
    """A square bar of 10 mm along x, with an edge across it at each step."""
    across: list[Polyline] = [[[step, 0.0], [step, 10.0]] for step in steps]
    return [
        view("front", FRONT, length, 10.0, *across),
        view("top", TOP, length, 10.0),
        view("side", SIDE, 10.0, 10.0),
    ]


def test_a_long_bar_loses_its_plain_middle_in_the_views_along_it() -> None:
    front, top, side = broken_views(bar(200))
    assert front.broken is not None
    assert (front.broken.along, front.broken.low, front.broken.high) == (0, 10.0, 190.0)
    assert top.broken == front.broken
    assert side.broken is None


@pytest.mark.parametrize(("length", "steps"), [(59, ()), (100, (25.0, 50.0, 75.0)), (200, (60.0, 100.0, 140.0))])
def test_what_is_short_or_nowhere_plain_stays_whole(length: float, steps: tuple[float, ...]) -> None:
    assert all(own.broken is None for own in broken_views(bar(length, *steps)))


def test_the_longest_stretch_without_an_edge_is_taken() -> None:
    front, *_ = broken_views(bar(200, 30.0, 40.0))
    assert front.broken is not None
    assert (front.broken.low, front.broken.high) == (50.0, 190.0)


def test_a_view_that_looks_the_other_way_leaves_out_the_same() -> None:
    """Seen from behind, x runs to the left: the same stretch of the bar has other coordinates."""
    front, top, side = bar(200, 30.0)
    back = replace(
        view("back", np.array([[-1.0, 0, 0], [0, 0, 1], [0, 1, 0]]), 200.0, 10.0),
        box=np.array([[-200.0, 0.0], [0.0, 10.0]]),
        visible=tuple([[-x, y] for x, y in line] for line in front.visible),
    )
    broken = broken_views([front, back, top, side])
    assert broken[0].broken is not None
    assert broken[1].broken is not None
    assert (broken[1].broken.low, broken[1].broken.high) == (-broken[0].broken.high, -broken[0].broken.low)
