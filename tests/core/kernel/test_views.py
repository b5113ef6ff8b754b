"""Hidden-line views and the sheet: what is seen, what is hidden, how large it is drawn."""

from typing import Any

import numpy as np
import pytest
from build123d import Box, Cylinder, Pos

from rigid_bench.core.drawing.pictures import make_pictures
from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.kernel.views import draw_view
from rigid_bench.core.part.directions import FRONT, PICTORIAL, SIDE, TOP, Direction
from tests.support.shapes import TOLERANCE, plate_with_four_holes

pytestmark = pytest.mark.thorough


def drawn(shape: Any, direction: Direction) -> Any:
    return draw_view([shape.solid().wrapped], direction, size=100)


@pytest.mark.parametrize(("direction", "width", "height"), [(FRONT, 80, 6), (TOP, 80, 60), (SIDE, 60, 6)])
def test_a_view_is_as_large_as_the_part(direction: Direction, width: float, height: float) -> None:
    box = drawn(plate_with_four_holes(), direction).box
    assert box[1] - box[0] == pytest.approx([width, height], abs=1e-3)


def test_holes_are_circles_from_above_and_dashed_from_the_front() -> None:
    above, front = drawn(plate_with_four_holes(), TOP), drawn(plate_with_four_holes(), FRONT)
    round_lines = [line for line in above.visible if len(line) > 2]
    middles = {tuple(np.round(np.abs(line.mean(axis=0)), 0)) for line in round_lines}
    assert middles == {(20.0, 15.0)}
    assert front.hidden
    assert not [line for line in front.visible if len(line) > 2]


def test_what_stands_behind_is_hidden() -> None:
    shapes = [Box(10, 10, 10), Pos(0, 20, 0) * Cylinder(2, 4)]
    view = draw_view([shape.solid().wrapped for shape in shapes], FRONT, size=40)
    assert all(np.abs(line).max() <= 5 + 1e-6 for line in view.visible)
    assert any(np.abs(line).max() <= 2 + 1e-6 for line in view.hidden)


def test_a_pictorial_view_shows_three_faces_of_a_box() -> None:
    assert len(drawn(Box(3, 4, 5), PICTORIAL).visible) == 9
    assert len(drawn(Box(3, 4, 5), PICTORIAL).hidden) == 3


def test_a_sheet_has_seven_views_a_part_and_one_of_the_assembly(seed_drawer: dict[str, bytes]) -> None:
    told: list[str] = []
    sheet = make_pictures(read_exercise(seed_drawer), tolerance=TOLERANCE, progress=told.append)
    assert list(sheet.parts) == ["housing", "drawer", "knob"]
    names = ["front", "top", "right side", "pictorial", "left side", "back", "bottom"]
    assert all([view.name for view in part.views] == names for part in sheet.parts.values())
    assert sheet.assembly is not None
    assert "Drawing the assembly" in told
