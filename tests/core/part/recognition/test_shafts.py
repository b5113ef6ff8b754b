"""Shafts by their steps and flats, keyways in them, part-round walls, and holes that others cross.

Keys are those of DIN 6885-1, form A, from memory: for Ø22 to Ø30 b 8, t1 4.0, t2 3.3.
"""

import math
from typing import Any

import numpy as np
import pytest
from build123d import Box, Cylinder, Pos, Rot

from rigid_bench.core.part.crossed_holes import join_crossed
from rigid_bench.core.part.faces import Cylinder as Wall
from rigid_bench.core.part.recognition.prisms import find_prisms
from rigid_bench.core.part.recognition.round_walls import find_round_walls
from rigid_bench.core.part.recognition.shafts import find_shafts
from rigid_bench.core.part.recognition.slots import find_slots
from rigid_bench.core.part.recognition.threads import find_threads
from tests.support.shapes import TOLERANCE, features

KEY_WIDTH, IN_SHAFT, IN_HUB = 8.0, 4.0, 3.3


def moved(shape: Any) -> Any:
    return Pos(7, -3, 2) * Rot(20, -35, 50) * shape


def stepped(*steps: tuple[float, float]) -> Any:
    """A turned bar of steps (diameter, length), along z."""
    bar, at = None, 0.0
    for diameter, length in steps:
        piece = Pos(0, 0, at + length / 2) * Cylinder(diameter / 2, length)
        bar, at = piece if bar is None else bar + piece, at + length
    return bar


@pytest.mark.parametrize(
    "steps", [((20, 15), (30, 40), (25, 10)), ((10, 8), (16, 30)), ((30, 5), (20, 5), (30, 5), (20, 5))]
)
def test_a_turned_bar_has_its_steps_in_their_order(steps: tuple[tuple[float, float], ...]) -> None:
    (shaft,) = find_shafts(features(moved(stepped(*steps))))
    sizes = [(2 * step.radius, step.length) for step in shaft.steps]
    assert any(np.allclose(sizes, wanted, atol=1e-6) for wanted in (steps, steps[::-1]))
    ends = [float(step.point @ shaft.direction) for step in shaft.steps]
    assert ends == sorted(ends)
    assert shaft.flats == ()


def test_a_plain_bar_and_two_bosses_apart_are_no_shaft() -> None:
    assert find_shafts(features(moved(Cylinder(10, 40)))) == []
    apart = Box(40, 40, 10) + Pos(0, 0, 10) * Cylinder(8, 10) + Pos(0, 0, -10) * Cylinder(6, 10)
    assert find_shafts(features(moved(apart))) == []


@pytest.mark.parametrize("height", [3.0, 7.5, 9.0])
@pytest.mark.parametrize("count", [1, 2])
def test_flats_say_how_far_from_the_axis_and_how_far_across(height: float, count: int) -> None:
    """One flat is measured to the round opposite, two to each other."""
    cut = [Pos(0, 0, side * (height + 10)) * Box(12, 40, 20) for side in (1, -1)[:count]]
    bar = Rot(0, 90, 0) * Cylinder(10, 50)
    (shaft,) = find_shafts(features(moved(bar - cut)))
    across = 2 * height if count == 2 else height + 10
    assert [(flat.to_axis, flat.across, flat.length) for flat in shaft.flats] == [
        pytest.approx((height, across, 12), abs=1e-6)
    ] * count


def test_keyways_of_shaft_and_hub_are_those_of_the_standard() -> None:
    shaft = Rot(0, 90, 0) * Cylinder(15, 60)
    shaft -= Pos(0, 0, 15 - IN_SHAFT / 2) * Box(25, KEY_WIDTH, IN_SHAFT)
    part = features(moved(shaft))
    (in_shaft,) = find_slots(part, find_prisms(part))
    assert (in_shaft.width, in_shaft.length, in_shaft.depth) == pytest.approx((KEY_WIDTH, 25, IN_SHAFT), abs=1e-6)
    assert (in_shaft.keyway_in, in_shaft.ends) == ("shaft", ("square", "square"))
    assert in_shaft.floor_to_axis == pytest.approx(15 - IN_SHAFT, abs=1e-6)

    hub = Cylinder(30, 25) - Cylinder(15, 25) - Pos(0, (15 + IN_HUB) / 2, 0) * Box(KEY_WIDTH, 15 + IN_HUB, 25)
    part = features(moved(hub))
    (in_hub,) = find_slots(part, find_prisms(part))
    assert (in_hub.width, in_hub.keyway_in) == (pytest.approx(KEY_WIDTH, abs=1e-6), "bore")
    # the drawing of a hub gives d + t2
    assert 15 + in_hub.floor_to_axis == pytest.approx(30 + IN_HUB, abs=1e-6)


@pytest.mark.parametrize(("length", "width", "depth"), [(30.0, 10.0, 6.0), (12.0, 5.0, 20.0), (40.0, 8.0, 20.0)])
def test_a_slot_with_round_ends_is_closed_and_an_open_one_is_not(length: float, width: float, depth: float) -> None:
    straight = length - width
    tool = Box(straight, width, 2 * depth) + [
        Pos(side * straight / 2, 0, 0) * Cylinder(width / 2, 2 * depth) for side in (1, -1)
    ]
    part = features(moved(Box(60, 40, 20) - Pos(0, 0, 10) * tool))
    (closed,) = find_slots(part, find_prisms(part))
    assert (closed.length, closed.width) == pytest.approx((length, width), abs=1e-6)
    assert (closed.through, closed.ends) == (depth >= 20, ("round", "round"))
    part = features(moved(Box(60, 40, 20) - Pos(0, 0, 10) * Box(80, width, 2 * min(depth, 15))))
    (opened,) = find_slots(part, find_prisms(part))
    assert (opened.length, opened.width, opened.ends) == (
        pytest.approx(60, abs=1e-6), pytest.approx(width, abs=1e-6), ("open", "open"),
    )  # fmt: skip


@pytest.mark.parametrize("angle", [60.0, 120.0, 180.0, 240.0])
def test_a_wall_that_does_not_close_is_a_part_round_wall(angle: float) -> None:
    """A saddle that goes round so far: its area is that part of the whole cylinder's."""
    part = features(moved(Cylinder(12, 30, arc_size=angle)))
    (wall,) = find_round_walls(part, without=())
    assert wall.wall.area == pytest.approx(math.radians(angle) * 12 * 30, rel=1e-6)
    assert (wall.tangent, wall.wall.is_hollow) == (0, False)
    assert find_round_walls(part, without=[wall.surface]) == []


def test_a_hole_that_another_crosses_is_one_hole_and_a_tube_has_two() -> None:
    block = Box(60, 40, 40)
    crossed = features(moved(block - Rot(0, 90, 0) * Cylinder(4, 60) - Cylinder(7, 40)))
    radii = sorted(wall.radius for wall in crossed.surfaces if isinstance(wall, Wall))
    assert radii == pytest.approx([4, 7])
    # joined already: once more changes nothing
    assert [own.faces for own in join_crossed(crossed.surfaces, crossed.edges, TOLERANCE)] == [
        own.faces for own in crossed.surfaces
    ]
    tube = Cylinder(20, 60) - Cylinder(18, 60) - Rot(0, 90, 0) * Cylinder(4, 60)
    across = [wall for wall in features(moved(tube)).surfaces if isinstance(wall, Wall) and wall.radius < 5]
    assert len(across) == 2


def test_what_is_turned_has_no_thread() -> None:
    assert find_threads(features(moved(stepped((10, 20), (16, 12))))) == []
