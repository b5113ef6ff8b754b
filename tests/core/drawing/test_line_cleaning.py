"""Lines that coincide are drawn once, the visible ones first (ISO 128-2)."""

import shapely
from hypothesis import given
from hypothesis import strategies as st

from rigid_bench.core.drawing.line_cleaning import drawn_once
from rigid_bench.core.formats.pictures import Polyline


def length(lines: list[Polyline]) -> float:
    return sum(shapely.LineString(line).length for line in lines)


def test_a_hidden_line_under_a_visible_one_goes_and_the_rest_stays() -> None:
    visible, hidden = drawn_once([[[0, 0], [10, 0]]], [[[0, 0], [15, 0]], [[0, 5], [10, 5]]], 20)
    assert len(visible) == 1
    assert abs(length(hidden) - 15) < 0.05


def test_pieces_of_one_line_are_put_together_and_repeats_dropped() -> None:
    visible, _ = drawn_once([[[0, 0], [6, 0]], [[10, 0], [4, 0]], [[0, 0], [6, 0]]], [], 20)
    assert visible == [[[0.0, 0.0], [10.0, 0.0]]]


def test_two_equal_circles_are_one() -> None:
    circle = [list(point) for point in shapely.Point(0, 0).buffer(5).exterior.coords]
    visible, _ = drawn_once([circle, circle[::-1]], [], 20)
    assert len(visible) == 1


@given(st.lists(st.tuples(st.integers(0, 20), st.integers(0, 20), st.booleans()), min_size=1, max_size=12))
def test_nothing_that_was_seen_is_lost_and_nothing_lies_on_another(spans: list[tuple[int, int, bool]]) -> None:
    lines = [([[float(a), 0.0], [float(b), 0.0]], seen) for a, b, seen in spans if a != b]
    visible, hidden = drawn_once([own for own, seen in lines if seen], [own for own, seen in lines if not seen], 20)
    for kept, own in (
        (visible, [line for line, seen in lines if seen]),
        ([*visible, *hidden], [line for line, _ in lines]),
    ):
        covered = shapely.union_all([shapely.LineString(line) for line in own]).length if own else 0.0
        assert abs(length(kept) - covered) < 0.2
