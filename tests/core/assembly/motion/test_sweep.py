"""Gaps through a motion against closed formulas, and how far a part goes until it meets another."""

import math
from typing import Any

import numpy as np
import pytest
from build123d import Box, Cylinder, Pos

from rigid_bench.core.assembly.contact.clearance import PlacedSolid, clearance, place
from rigid_bench.core.assembly.freedom.analysis import Freedom, freedom
from rigid_bench.core.assembly.motion.sweep import nearest_along, run
from rigid_bench.core.formats.build import Limits
from rigid_bench.core.values.frames import Pose
from tests.support import mechanisms as m
from tests.support.shapes import TOLERANCE, features

#: A disc on an arm, 30 mm from the axis that it turns about.
ARM, REACH, DISC, POST = 40.0, 30.0, 4.0, 3.0


def solids(*shapes: Any) -> dict[int, PlacedSolid]:
    return {k: place(f"i{k}", features(shape), Pose(np.eye(3), np.zeros(3))) for k, shape in enumerate(shapes)}


def turning(limits: Limits | None = None) -> Freedom:
    return freedom(m.mechanism(m.Joint(kind="revolute", bodies=(0, 1), limits=limits)), tolerance=TOLERANCE)


def post(distance: float, degrees: float) -> Any:
    angle = math.radians(degrees)
    return Pos(distance * math.cos(angle), distance * math.sin(angle), 0) * Cylinder(POST, 10)


DISC_ON_ARM = Pos(REACH, 0, 0) * Cylinder(DISC, 10)


@pytest.mark.parametrize("degrees", [41.3, -77.7])
def test_an_arm_that_passes_a_post_comes_nearest_in_line_with_it(degrees: float) -> None:
    freedom = turning()
    (turn,) = freedom.motions(1)
    own = solids(post(38.2, degrees), DISC_ON_ARM)
    nearest = nearest_along(freedom, turn, 1, None, (own[0], own[1]), (0, 1), tolerance=TOLERANCE)
    assert nearest.gap_mm == pytest.approx(38.2 - REACH - DISC - POST, abs=1e-4)
    assert abs(abs(math.degrees(nearest.amount)) - abs(degrees)) < 0.5


def test_limits_end_the_range_in_which_a_gap_is_looked_for() -> None:
    """The arm may turn to 20 degrees, and the post stands at 40."""
    freedom = turning(Limits(rotation=(math.radians(-5), math.radians(20))))
    (turn,) = freedom.motions(1)
    own = solids(post(REACH, 40), DISC_ON_ARM)
    nearest = nearest_along(freedom, turn, 1, None, (own[0], own[1]), (0, 1), tolerance=TOLERANCE)
    chord = 2 * REACH * math.sin(math.radians(10))
    assert nearest.gap_mm == pytest.approx(chord - DISC - POST, abs=0.7)  # within one step of the limit


def test_a_turning_arm_stops_where_it_meets_a_post_on_its_circle() -> None:
    freedom = turning()
    (turn,) = freedom.motions(1)
    stop = run(freedom, turn, 1, None, solids(post(REACH, 60), DISC_ON_ARM), way=1, tolerance=TOLERANCE)
    touching = 2 * math.asin((DISC + POST) / (2 * REACH))
    sign = 1 if turn.direction[2] > 0 else -1
    angle = math.radians(60) - touching if sign > 0 else math.radians(300) - touching
    assert stop.by == (0, 1)
    assert stop.amount == pytest.approx(angle, abs=2e-3)


def test_a_slide_on_a_floor_goes_to_the_wall_and_touching_the_floor_does_not_stop_it() -> None:
    floor = Pos(0, 0, -5) * Box(120, 20, 10) + Pos(50, 0, 5) * Box(4, 20, 10)
    free = freedom(
        m.mechanism(m.Joint(kind="prismatic", bodies=(0, 1), along=m.X, limits=Limits(translation=(-20.0, 200.0)))),
        tolerance=TOLERANCE,
    )
    (slide,) = free.motions(1)
    own = solids(floor, Pos(0, 0, 4) * Box(16, 10, 8))
    assert run(free, slide, 1, None, own, way=1, tolerance=TOLERANCE).amount == pytest.approx(40, abs=1e-2)
    back = run(free, slide, 1, None, own, way=-1, tolerance=TOLERANCE)
    assert (back.by, back.amount) == ("m0", pytest.approx(20, abs=1e-3))


def sliding(limits: Limits | None = None) -> Freedom:
    return freedom(m.mechanism(m.Joint(kind="prismatic", bodies=(0, 1), along=m.X, limits=limits)), tolerance=TOLERANCE)


def test_a_part_that_runs_with_little_room_comes_nearest_where_a_post_leaves_less() -> None:
    """A block runs 0.2 above a floor; 60 mm on, a post beside its way leaves 0.05."""
    floor = Pos(0, 0, -5) * Box(200, 20, 10) + Pos(60, 8, 5) * Box(4, 4, 10)
    own = solids(floor, Pos(0, 0.95, 4.2) * Box(16, 10, 8))
    freedom = sliding()
    (slide,) = freedom.motions(1)
    nearest = nearest_along(freedom, slide, 1, None, (own[0], own[1]), (0, 1), tolerance=TOLERANCE)
    assert nearest.gap_mm == pytest.approx(0.05, abs=1e-6)
    assert 50 <= nearest.amount <= 70


def test_a_turn_with_little_room_comes_nearest_where_a_pin_leaves_less() -> None:
    """A disc on an arm turns 0.3 above a plate with a pin on the circle, which ends 0.1 below the disc."""
    plate = Pos(0, 0, -5.3) * Cylinder(60, 0.6) + Pos(0, REACH, -5.05) * Cylinder(2, 0.5)
    own = solids(Pos(0, 0, -0.3) * plate, Pos(0, 0, 0) * DISC_ON_ARM)
    freedom = turning()
    (turn,) = freedom.motions(1)
    nearest = nearest_along(freedom, turn, 1, None, (own[0], own[1]), (0, 1), tolerance=TOLERANCE)
    assert nearest.gap_mm == pytest.approx(0.1, abs=1e-6)
    assert abs(abs(math.degrees(nearest.amount)) - 90) < 15


def test_a_block_that_a_crank_drives_goes_twice_the_crank() -> None:
    """Slider and crank: the stroke is twice the crank's length (any handbook of mechanisms)."""
    crank, rod = 20.0, 60.0
    build = m.mechanism(
        m.Joint(kind="revolute", bodies=(0, 1), along=m.Z),
        m.Joint(kind="revolute", bodies=(1, 2), along=m.Z, at=(0.0, crank, 0.0)),
        m.Joint(kind="revolute", bodies=(2, 3), along=m.Z, at=(math.sqrt(rod**2 - crank**2), 0.0, 0.0)),
        m.Joint(kind="prismatic", bodies=(0, 3), along=m.X, at=(math.sqrt(rod**2 - crank**2), 0.0, 0.0)),
    )
    free = freedom(build, tolerance=TOLERANCE)
    (slide,) = free.motions(3)
    ways = [run(free, slide, 3, None, {}, way=way, tolerance=TOLERANCE).amount for way in (1, -1)]
    assert sum(ways) == pytest.approx(2 * crank, abs=0.02)
    middle = math.sqrt(rod**2 - crank**2)
    assert ways == pytest.approx([crank + rod - middle, crank - rod + middle], abs=0.02)


def test_a_lug_that_stands_in_a_notch_comes_nearer_where_the_wall_is_whole() -> None:
    """A round pin of 10 mm with a notch; round it turns a lug 0.5 mm away, which stands in the notch at first."""
    pin = Cylinder(5, 20) - Pos(5, 0, 0) * Box(4, 6, 6)
    ring = Cylinder(8, 4) - Cylinder(7, 4)
    lug = Pos(6.4, 0, 0) * Box(2, 2, 4) - Cylinder(5.5, 4)
    own = solids(pin, ring + lug)
    freedom = turning()
    (turn,) = freedom.motions(1)
    nearest = nearest_along(freedom, turn, 1, None, (own[0], own[1]), (0, 1), tolerance=TOLERANCE)
    assert least_gap_at_rest(own) > 0.6
    assert nearest.gap_mm == pytest.approx(0.5, abs=1e-3)


def least_gap_at_rest(own: dict[int, PlacedSolid]) -> float:
    return clearance(own[0], own[1], tolerance=TOLERANCE).gap_mm
