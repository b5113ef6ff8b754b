"""Small parts of the layout by themselves: where views stand, free room, threads, squares, sheets, running sizes."""

import math
from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from rigid_bench.core.drawing.ink import Box, Drawing, Line, grown, meet
from rigid_bench.core.drawing.layout.arrangement import BETWEEN, INSIDE, free_spaces, grid, reach_at, spots, total
from rigid_bench.core.drawing.layout.ends import ends_in
from rigid_bench.core.drawing.layout.part_view import PartView
from rigid_bench.core.drawing.layout.running import runs_of
from rigid_bench.core.drawing.layout.threads import DrawnThread, drawn_threads, thread_lines
from rigid_bench.core.drawing.layout.view_dimensions import PlacedView
from rigid_bench.core.drawing.notes.box import box_of
from rigid_bench.core.drawing.notes.note import Linear, Pointed
from rigid_bench.core.drawing.notes.signs import with_signs
from rigid_bench.core.exercise.bundle import CheckModel
from rigid_bench.core.formats.pictures import FlatsModel, PartPictures, RoundModel, ViewModel
from rigid_bench.core.part.directions import SQUARE_VIEWS, axes_of

#: The outline of a block of 70 x 40 x 10 in each view.
SIZES = {"front": (70.0, 10.0), "top": (70.0, 40.0), "right side": (40.0, 10.0)}


def part_view(slot: str, scale: float = 1.0) -> PartView:
    size = np.array(SIZES[slot])
    return PartView(
        name=slot, slot=slot, axes=axes_of(SQUARE_VIEWS[slot]), box=np.array([[0.0, 0.0], size]), scale=scale,
        visible=(), hidden=(),
    )  # fmt: skip


def placed(slot: str, beyond: float = 0.0) -> PlacedView:
    """A view whose dimensions reach so far beyond its outline."""
    wide, high = SIZES[slot]
    around = Line(kind="outline", points=((-beyond, -beyond), (wide + beyond, high + beyond)))
    return PlacedView(view=part_view(slot), drawing=Drawing(lines=[around]), dimensions=[])


def where(angle: Any, views: list[PlacedView], room: Box = (0.0, 0.0, 400.0, 280.0)) -> dict[str, tuple[float, float]]:
    columns, rows = grid(views, angle)
    places = spots(views, columns, rows, room, angle, (0.5, 0.5))
    return {view.view.slot: place for view, place in zip(views, places, strict=True)}


def test_views_stand_by_their_projection() -> None:
    """Third angle: the top view above, the right side to the right; first angle the other way round (ISO 5456-2)."""
    views = [placed(slot, 12) for slot in SIZES]
    third, first = where("third", views), where("first", views)
    assert third["top"][1] > third["front"][1] + 10
    assert third["right side"][0] > third["front"][0] + 70
    assert first["top"][1] + 40 < first["front"][1]
    assert first["right side"][0] + 40 < first["front"][0]
    for places in (third, first):  # they look at each other: outlines are in line
        assert places["top"][0] == places["front"][0]
        assert places["right side"][1] == places["front"][1]
        boxes = [reach_at(view, places[view.view.slot]) for view in views]
        for k, box in enumerate(boxes):
            assert not any(meet(box, other) for other in boxes[:k])
            assert all(0 <= box[side] <= limit for side, limit in ((0, 400), (1, 280), (2, 400), (3, 280)))


def test_columns_and_rows_take_what_reaches_beyond_the_outlines() -> None:
    views = [placed("front", 12), placed("top", 5)]
    columns, rows = grid(views, "third")
    assert [strip for strip in columns if strip != (0, 0)] == [(12, 82)]
    assert [strip for strip in rows if strip != (0, 0)] == [(12, 22), (5, 45)]
    assert total(columns) == 94
    assert total(rows) == 34 + 50 + BETWEEN


def test_a_view_that_a_person_moved_stands_so_far_off() -> None:
    views = [placed("front", 12), placed("top", 12)]
    before = where("third", views)
    views[1].view = replace(views[1].view, moved=(7.0, -3.0))
    after = where("third", views)
    assert after["front"] == before["front"]
    assert np.subtract(after["top"], before["top"]) == pytest.approx((7, -3))


def test_free_rectangles_touch_nothing_and_fill_what_is_left() -> None:
    room: Box = (0.0, 0.0, 100.0, 80.0)
    taken: list[Box] = [(10.0, 10.0, 40.0, 30.0), (60.0, 40.0, 90.0, 70.0)]
    spaces = list(free_spaces(taken, room))
    assert spaces
    apart = [grown(box, INSIDE) for box in taken]
    assert not any(meet(space, box) for space in spaces for box in apart)
    rng = np.random.default_rng(3)
    for x, y in rng.uniform((0, 0), (100, 80), (400, 2)):
        is_taken = any(box[0] < x < box[2] and box[1] < y < box[3] for box in apart)
        assert any(space[0] <= x <= space[2] and space[1] <= y <= space[3] for space in spaces) != is_taken


def threads_of(thread: str, diameter: float, kind: str, **more: Any) -> list[DrawnThread]:
    axis = {"axis": {"point": [20, 20, 0], "direction": [0, 0, 1]}}
    given = {"id": "t", "title": "T", "kind": "thread", "marks": 1, "part": "p", "of": axis, "thread": thread, **more}
    wall = RoundModel(kind=kind, start=[20, 20, 10], end=[20, 20, 0], diameter=diameter)  # type: ignore[arg-type]
    return drawn_threads([CheckModel.model_validate(given)], [wall], 1.0)


@pytest.mark.parametrize(
    ("thread", "diameter", "kind", "narrow"),
    [
        ("M6", 5.0, "hole", 6.0),  # drilled for tapping: the thread's root outside
        ("M6", 6.0, "hole", 4.917),  # modelled at its nominal size: the minor diameter of ISO 724
        ("M8", 6.8, "hole", 8.0),
        ("M10", 10.0, "boss", 8.160),  # a stud: the root of the external thread, d3 of ISO 724
    ],
)
def test_a_thread_is_drawn_at_its_other_diameter(thread: str, diameter: float, kind: str, narrow: float) -> None:
    (drawn,) = threads_of(thread, diameter, kind)
    assert drawn.diameter == pytest.approx(narrow, abs=2e-3)
    assert drawn.is_hole == (kind == "hole")


def test_a_thread_goes_as_deep_as_is_said_and_no_deeper_than_its_hole() -> None:
    (short,), (deep,) = threads_of("M6", 5.0, "hole", depth=6), threads_of("M6", 5.0, "hole", depth=60)
    assert math.dist(short.start, short.end) == pytest.approx(6)
    assert math.dist(deep.start, deep.end) == pytest.approx(10)
    assert threads_of("M7.3", 5.0, "hole") == []


def test_from_the_end_a_thread_is_three_quarters_of_a_circle_and_from_the_side_two_lines() -> None:
    """ISO 6410-1; a hole's thread is hidden from the side where it is not cut."""
    (hole,), (stud,) = threads_of("M6", 5.0, "hole"), threads_of("M10", 10.0, "boss")
    (arc,) = thread_lines(part_view("top", 2.0), [hole]).lines
    points = np.array(arc.points)
    centre = part_view("top", 2.0).at((20, 20, 0))
    assert np.linalg.norm(points - centre, axis=1) == pytest.approx(6.0)  # radius 3 at 2:1
    assert np.linalg.norm(np.diff(points, axis=0), axis=1).sum() == pytest.approx(0.75 * 2 * math.pi * 6, rel=0.05)
    assert thread_lines(part_view("front"), [hole]).lines == []
    sides = thread_lines(part_view("front"), [stud]).lines
    assert len(sides) == 2
    assert abs(sides[0].points[0][0] - sides[1].points[0][0]) == pytest.approx(8.160, abs=2e-3)


def linear(name: str, way: tuple[float, float, float], low: float, high: float, **more: Any) -> Linear:
    ends = tuple(tuple(level * along for along in way) for level in (low, high))
    given = {"checks": (name,), "text": f"{high - low:g}", "way": way, "points": ends, "axes": (None, None), **more}
    return Linear(**given)


def pictures(**more: Any) -> PartPictures:
    views = [ViewModel(name=name, visible=[], hidden=[], box=[[0.0, 0.0], list(size)]) for name, size in SIZES.items()]
    return PartPictures(views=views, **more)


def test_a_parts_box_is_put_together_from_its_views() -> None:
    assert box_of(pictures()) == pytest.approx(np.array([[0, 0, 0], [70, 40, 10]]))


def test_the_two_sides_of_a_square_are_one_size_with_the_sign() -> None:
    flats = FlatsModel(sides=4, across_flats=12.0, direction=[0, 0, 1], centre=[6, 6, 0])
    sides = [linear("a", (1, 0, 0), 0, 12, marks=1.0), linear("b", (0, 1, 0), 0, 12, marks=2.0)]
    (note,) = with_signs(sides, [], pictures(flats=[flats]))
    assert isinstance(note, Linear)
    assert (note.text, note.checks, note.marks) == ("□12", ("a", "b"), 3.0)
    other = [sides[0], linear("b", (0, 1, 0), 0, 13)]
    assert with_signs(other, [], pictures(flats=[flats])) == other


def test_a_hexagon_is_given_across_its_flats() -> None:
    check = CheckModel.model_validate(
        {"id": "a", "title": "A", "kind": "dimension", "marks": 1, "measure": "across_flats", "nominal": 13}
    )
    flats = FlatsModel(sides=6, across_flats=13.0, direction=[0, 0, 1], centre=[0, 0, 0])
    (note,) = with_signs([linear("a", (1, 0, 0), -6.5, 6.5)], [check], pictures(flats=[flats]))
    assert note.text == "13 AF"


def test_the_thickness_of_a_plain_sheet_is_a_note_and_that_of_a_block_a_size() -> None:
    sheet = {"front": (100.0, 3.0), "top": (100.0, 60.0), "right side": (60.0, 3.0)}
    views = [ViewModel(name=name, visible=[], hidden=[], box=[[0.0, 0.0], list(size)]) for name, size in sheet.items()]
    (note,) = with_signs([linear("t", (0, 0, 1), 0, 3)], [], PartPictures(views=views))
    assert isinstance(note, Pointed)
    assert (note.text, note.target, note.direction) == ("t = 3", "sheet", (0, 0, 1))
    (size,) = with_signs([linear("t", (0, 0, 1), 0, 10)], [], pictures())
    assert isinstance(size, Linear)


def test_three_sizes_from_one_datum_run_on_one_line() -> None:
    """The shortest first; two that end too near each other do not both stand on it, nor one that was moved."""
    view = part_view("front")
    sizes = [linear(f"s{high}", (1, 0, 0), 0, high) for high in (60, 20, 40)]
    order = [(note.checks[0], note) for note in sizes]
    (run,) = runs_of(order, [view], {})
    assert ([name for name, _, _ in run.members], run.levels) == (["s20", "s40", "s60"], [20, 40, 60])
    assert ends_in(view, sizes[0]) == run.members[-1][2]
    near = [*order, ("s21", linear("s21", (1, 0, 0), 0, 21))]
    assert len(runs_of(near, [view], {})[0].members) == 3
    assert runs_of(order, [view], {"s20": (3, 0)}) == []
    assert runs_of(order[:2], [view], {}) == []
