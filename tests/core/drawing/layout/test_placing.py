"""Where sizes and notes find their places beside one view: a plain rectangle of 80 by 40 mm on paper.

Distances of dimension lines, arrows and leaders after ISO 129-1, from memory; shorter inside, common practice.
"""

import itertools
import math

import numpy as np
import pytest

from rigid_bench.core.drawing.ink import Drawing, Line
from rigid_bench.core.drawing.layout.ends import ends_in
from rigid_bench.core.drawing.layout.part_view import PartView
from rigid_bench.core.drawing.layout.placing import FIRST, ROW, ViewPlacing
from rigid_bench.core.drawing.notes.note import Linear, Pointed

WIDE, HIGH = 80.0, 40.0
OUTLINE = ((0.0, 0.0), (WIDE, 0.0), (WIDE, HIGH), (0.0, HIGH), (0.0, 0.0))
VIEW = PartView(
    name="front", slot="front", axes=np.eye(3), box=np.array([[0, 0], [WIDE, HIGH]]), scale=1.0,
    visible=([list(point) for point in OUTLINE],), hidden=(),
)  # fmt: skip
FACE = (0.0, 0.0, 1.0)


def placing() -> ViewPlacing:
    """Begin beside the bare view."""
    return ViewPlacing(VIEW, Drawing(lines=[Line(kind="outline", points=OUTLINE)]))


def across(start: float, end: float, text: str = "", *, up: bool = False, exact: bool = False) -> Linear:
    """A size across the view, or up it, between two holes' axes on the middle line."""
    at = [(start, HIGH / 2, 0.0), (end, HIGH / 2, 0.0)] if not up else [(WIDE / 2, start, 0.0), (WIDE / 2, end, 0.0)]
    return Linear(checks=("c",), text=text or f"{end - start:g}", way=(0.0, 1.0, 0.0) if up else (1.0, 0.0, 0.0),
                  points=(at[0], at[1]), axes=(FACE, FACE), exact=exact)  # fmt: skip


def put(place: ViewPlacing, name: str, note: Linear, shift: tuple[float, float] = (0.0, 0.0)) -> list[Line]:
    """Place a size and return its lines."""
    ends = ends_in(VIEW, note)
    assert ends is not None
    assert place.put_linear(name, note, ends, shift)
    return [line for line in place.drawing.lines if line.dimension == name]


def level(lines: list[Line], k: int = 1) -> float:
    """Return how high the dimension line stands, or how far across."""
    (line,) = [line for line in lines if line.kind == "dimension"]
    assert line.points[0][k] == line.points[1][k]
    return line.points[0][k]


def test_the_shorter_stand_inside_on_either_side_and_rows_are_evenly_apart() -> None:
    place = placing()
    levels = [level(put(place, f"d{k}", across(0, end))) for k, end in enumerate((20, 35, 50, 65, 80))]
    for side in (1, -1):
        outward = [distance for own in levels if (distance := side * own - (HIGH if side == 1 else 0)) > 0]
        assert outward == [FIRST + ROW * row for row in range(len(outward))]
    assert len(set(levels)) == 5


def test_a_size_that_crosses_no_other_takes_the_same_row() -> None:
    place = placing()
    assert level(put(place, "a", across(0, 20))) == level(put(place, "b", across(50, 75)))


def test_a_chain_goes_on_in_its_row() -> None:
    place = placing()
    levels = {
        level(put(place, name, across(*ends)))
        for name, ends in zip("abc", itertools.pairwise((0, 25, 60, 80)), strict=True)
    }
    assert levels == {-FIRST}


def test_arrows_are_inside_where_they_fit_and_outside_where_not() -> None:
    place = placing()
    wide = {line.points[-1]: line.points[0] for line in put(place, "a", across(0, 50)) if line.kind == "arrow"}
    assert {tip[0]: tip[0] - back[0] for tip, back in wide.items()} == {0.0: -3.0, 50.0: 3.0}
    narrow = {line.points[-1]: line.points[0] for line in put(place, "b", across(60, 64)) if line.kind == "arrow"}
    assert {tip[0]: tip[0] - back[0] for tip, back in narrow.items()} == {60.0: 3.0, 64.0: -3.0}


def test_an_extension_leaves_the_axis_as_a_centre_line_and_goes_beyond_the_size() -> None:
    lines = put(placing(), "a", across(20, 60))
    centres = [line for line in lines if line.kind == "centre"]
    extensions = [line for line in lines if line.kind == "extension"]
    assert {line.points[0][1] for line in centres} == {HIGH / 2}
    for centre, extension in zip(centres, extensions, strict=True):
        assert centre.points[-1] == extension.points[0]
        assert extension.points[-1][1] == -FIRST - 2.0


def test_extensions_of_one_place_are_drawn_once() -> None:
    place = placing()
    for k, end in enumerate((20, 35, 50)):
        put(place, f"d{k}", across(0, end))
    at_datum = [
        sorted(y for _, y in line.points)
        for line in place.drawing.lines
        if line.kind == "extension" and line.points[0][0] == 0 and line.points[-1][1] < 0
    ]
    assert len(at_datum) == 2
    assert at_datum[0][0] == at_datum[1][1] == -FIRST - 2.0  # the second goes on where the first ended


def test_sizes_up_the_view_are_read_from_the_right() -> None:
    place = placing()
    lines = put(place, "a", across(5, 35, up=True))
    assert level(lines, 0) in (-FIRST, WIDE + FIRST)
    (text,) = place.drawing.texts
    assert text.upright


@pytest.mark.parametrize(("shift", "rows"), [((0, -7), -1), ((0, -16), -2), ((0, 3), 0)])
def test_rows_catch_what_is_moved(shift: tuple[float, float], rows: int) -> None:
    assert level(put(placing(), "a", across(0, 50), shift)) == -FIRST + rows * ROW


def test_a_theoretically_exact_size_stands_in_a_frame() -> None:
    place = placing()
    (frame,) = [line for line in put(place, "a", across(0, 50, exact=True)) if line.kind == "symbol"]
    (text,) = place.drawing.texts
    left, low, right, high = text.box
    assert min(x for x, _ in frame.points) < left
    assert max(x for x, _ in frame.points) > right
    assert min(y for _, y in frame.points) < low
    assert max(y for _, y in frame.points) > high


def test_no_text_meets_another_or_a_line_of_another() -> None:
    place = placing()
    for k, (start, end) in enumerate([(0, 8), (8, 20), (20, 26), (0, 40), (26, 80), (60, 80), (40, 44)]):
        put(place, f"d{k}", across(start, end))
    for one, two in itertools.combinations(place.drawing.texts, 2):
        assert one.box[2] < two.box[0] or two.box[2] < one.box[0] or one.box[3] < two.box[1] or two.box[3] < one.box[1]


def test_sizes_end_where_there_is_no_row_left() -> None:
    place = placing()
    ends = ends_in(VIEW, across(0, 50))
    assert ends is not None
    placed = [place.put_linear(f"d{k}", across(0, 50), ends) for k in range(40)]
    assert placed.count(True) == 28  # fourteen rows on each side
    assert not placed[-1]


def test_a_leader_ends_at_the_circle_that_it_means_and_is_slanted() -> None:
    place = placing()
    hole = Pointed(checks=("c",), text="Ø8", points=((30.0, 20.0, 0.0),), direction=FACE, radius=4.0)
    assert place.put_pointed("a", hole)
    arrow = next(line for line in place.drawing.lines if line.kind == "arrow")
    assert math.dist(arrow.points[-1], (30, 20)) == pytest.approx(4.0)
    leader = next(line for line in place.drawing.lines if line.kind == "leader")
    (x, y), (to_x, to_y) = leader.points
    angle = math.degrees(math.atan2(to_y - y, to_x - x)) % 180
    assert round(angle) in (45, 60, 120, 135)


def test_leaders_do_not_cross() -> None:
    place = placing()
    for k in range(6):
        hole = Pointed(
            checks=("c",), text=f"Ø{k + 3}", points=((10.0 + 12 * k, 20.0, 0.0),), direction=FACE, radius=2.0
        )
        assert place.put_pointed(f"h{k}", hole)
    leaders = [line for line in place.drawing.lines if line.kind == "leader" and len(line.points) == 2]

    def side(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> float:
        return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])

    for one, two in itertools.combinations(leaders, 2):
        if one.dimension != two.dimension:
            (a, b), (c, d) = one.points, two.points
            assert not (side(a, b, c) * side(a, b, d) < 0 and side(c, d, a) * side(c, d, b) < 0)
