"""Which views a part has, and the centre lines in them: no more views than its shape asks (ISO 128-3)."""

from typing import Any

import numpy as np
import pytest
from build123d import Align, Box, Cylinder, Pos

from rigid_bench.core.drawing.layout.centre_lines import BEYOND, centre_lines
from rigid_bench.core.drawing.layout.part_view import PartView
from rigid_bench.core.drawing.layout.view_choice import part_views
from rigid_bench.core.drawing.pictures import part_pictures
from rigid_bench.core.exercise.bundle import ViewChoice
from rigid_bench.core.formats.pictures import HoleCircleModel, PartPictures, RoundModel
from rigid_bench.core.part.directions import SQUARE_VIEWS, axes_of
from tests.support.shapes import TOLERANCE, features

_BASE = (Align.CENTER, Align.CENTER, Align.MIN)
PLATE = Box(70, 40, 10) - Pos(15, 5, 0) * Cylinder(4, 10)
#: Turned about an upright axis: a step on a step.
SPINDLE = Cylinder(10, 20, align=_BASE) + Pos(0, 0, 20) * Cylinder(6, 30, align=_BASE)


def pictures_of(shape: Any) -> PartPictures:
    return part_pictures(features(shape), tolerance=TOLERANCE)


def names(shape: Any) -> list[str]:
    return sorted(view.name for view in part_views(pictures_of(shape), "A"))


def test_as_few_views_as_show_everything() -> None:
    assert names(PLATE) == ["front", "top"]
    # a slot that is open to one side shows from there alone
    assert "right side" in names(Box(70, 40, 30) - Pos(0, 0, 10) * Box(70, 8, 10))
    assert names(Box(30, 20, 10)) == ["front", "top"], "a block needs its third size"


def test_a_turned_part_lies_with_its_axis_level() -> None:
    """As it lies in the lathe: common practice, no source."""
    views = part_views(pictures_of(SPINDLE), "A")
    long_view = next(view for view in views if view.name == "front")
    wide, high = np.ptp(long_view.box, axis=0)
    assert (wide, high) == pytest.approx((50, 20))
    assert {view.slot for view in views} <= {"front", "right side"}, "its end view stands beside it"


def test_views_that_a_person_chose_are_drawn_as_they_were_chosen() -> None:
    pictures = pictures_of(PLATE)
    turned = ViewChoice(view="top", turn=90, cut=False)
    views = part_views(pictures, "A", [turned, ViewChoice(view="back", cut=False)])
    assert [view.name for view in views] == ["top", "back"]
    assert np.ptp(views[0].box, axis=0) == pytest.approx((40, 70))
    # four quarters are none
    lines = [part_views(pictures, "A", [ViewChoice(view="top", turn=turn, cut=False)])[0].visible for turn in (0, 180)]
    back = [[[-x, -y] for x, y in line] for line in lines[1]]
    assert np.allclose(np.concatenate(lines[0]), np.concatenate(back))


def test_nothing_is_cut_where_no_view_shows_where() -> None:
    block = Box(50, 50, 30, align=_BASE) - Pos(0, 0, 8) * Cylinder(6, 22, align=_BASE)
    pictures = pictures_of(block - Pos(0, 0, 20) * Cylinder(14, 10, align=_BASE))
    assert pictures.section is not None
    assert pictures.section.direction == "front"
    alone = part_views(pictures, "A", [ViewChoice(view="front", cut=True)])
    assert [view.section for view in alone] == [None]
    both = [ViewChoice(view="front", cut=True), ViewChoice(view="top", cut=False)]
    assert any(view.section for view in part_views(pictures, "A", both))


def block_view(name: str) -> PartView:
    """A view of a block of 70 x 40 x 10 that stands at the origin."""
    axes = axes_of(SQUARE_VIEWS[name])
    corners = np.array([[0.0, 0.0, 0.0], [70.0, 40.0, 10.0]]) @ axes[:2].T
    return PartView(
        name=name, slot=name, axes=axes, box=np.array([corners.min(axis=0), corners.max(axis=0)]), scale=1.0,
        visible=(), hidden=(),
    )  # fmt: skip


def spans(view: PartView, *rounds: RoundModel) -> list[tuple[tuple[float, float], ...]]:
    lines = centre_lines(view, rounds, []).lines
    assert {line.kind for line in lines} <= {"centre"}
    return sorted(tuple(sorted((round(x, 6), round(y, 6)) for x, y in line.points)) for line in lines)


def hole(x: float, y: float, diameter: float = 8.0) -> RoundModel:
    return RoundModel(kind="hole", start=[x, y, 0], end=[x, y, 10], diameter=diameter)


def test_a_hole_has_a_cross_end_on_and_its_axis_from_the_side_past_its_outline() -> None:
    """A centre line runs a little past what it is of (ISO 128-2, line type 04.1)."""
    reach = 4 + BEYOND
    assert spans(block_view("top"), hole(15, 20)) == [
        ((15 - reach, 20), (15 + reach, 20)),
        ((15, 20 - reach), (15, 20 + reach)),
    ]
    assert spans(block_view("front"), hole(15, 20)) == [((15, -BEYOND), (15, 10 + BEYOND))]


def test_lines_that_lie_on_each_other_are_drawn_once() -> None:
    """Of two holes behind each other one axis is seen; counterbores share their cross."""
    assert len(spans(block_view("front"), hole(15, 10), hole(15, 30))) == 1
    wide = 6 + BEYOND
    assert spans(block_view("top"), hole(15, 20), hole(15, 20, 12)) == [
        ((15 - wide, 20), (15 + wide, 20)), ((15, 20 - wide), (15, 20 + wide)),
    ]  # fmt: skip


def test_holes_on_a_circle_have_their_pitch_circle_where_it_is_round() -> None:
    circle = HoleCircleModel(centre=[35, 20, 0], direction=[0, 0, 1], diameter=30)
    [line] = centre_lines(block_view("top"), [], [circle]).lines
    assert line.kind == "pitch"
    assert np.allclose(np.linalg.norm(np.array(line.points) - (35, 20), axis=1), 15)
    assert centre_lines(block_view("front"), [], [circle]).lines == []
