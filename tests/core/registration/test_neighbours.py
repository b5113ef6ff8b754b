"""Faces that are told by what they meet, and round walls that run out of a part's edge."""

from typing import Any

import numpy as np
import pytest
from build123d import Axis, Box, Cylinder, Pos, Rot, fillet

from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.registration.correspond import flats_of
from rigid_bench.core.registration.neighbours import alike_by_neighbours
from rigid_bench.core.registration.run_out import is_as_wide, is_on_axis, run_out_pairs
from rigid_bench.core.values.frames import Pose
from tests.support.shapes import features

HERE = Pose.identity()


def compared(reference: PartFeatures, part: PartFeatures, walls: dict[int, int] | None = None) -> Any:
    flats, own = ([flat.faces for flat in flats_of(model)] for model in (reference, part))
    return alike_by_neighbours(reference, part, flats, own, pose=HERE, walls=walls or {})


def level(part: PartFeatures) -> list[tuple[float, ...]]:
    """Normal and level of each flat."""
    return [(*np.round(flat.normal, 6), round(float(flat.point @ flat.normal), 6)) for flat in flats_of(part)]


def test_a_part_meets_what_it_meets_itself() -> None:
    part = features(Box(60, 40, 10) - Pos(10, 5, 0) * Cylinder(4, 10))
    share = compared(part, part, dict.fromkeys(range(len(part.cylinders)), 0))
    assert np.diag(share) == pytest.approx(1)
    assert share == pytest.approx(share.T)
    assert ((share >= 0) & (share <= 1)).all()


def test_a_step_that_was_moved_far_still_ends_the_same_walls() -> None:
    """The floor of a step goes from z 5 to z 9: it meets the riser and three sides, as before."""

    def stepped(floor: float) -> PartFeatures:
        return features(Pos(0, 0, 10) * Box(60, 40, 20) - Pos(15, 0, floor + 15) * Box(30, 40, 30))

    reference, part = stepped(5), stepped(9)
    share = compared(reference, part)
    floors = [[k for k, own in enumerate(level(model)) if own[2] == 1 and own[3] < 19] for model in (reference, part)]
    (row,), (column,) = floors
    assert share[row, column] == pytest.approx(1)


def test_the_share_is_of_all_that_either_meets() -> None:
    """A block's top meets four sides; with a bore through it five things: 4 of 5 in common (Jaccard)."""
    plain, bored = features(Box(60, 40, 10)), features(Box(60, 40, 10) - Cylinder(4, 10))
    share = compared(plain, bored)
    tops = [next(k for k, own in enumerate(level(model)) if own[2] == 1) for model in (plain, bored)]
    assert share[tops[0], tops[1]] == pytest.approx(4 / 5)


@pytest.mark.parametrize("pose", [HERE, Pose.about([0, 0, 0.7], np.zeros(3))], ids=["as it is", "turned"])
def test_a_hole_that_came_too_near_the_edge_is_the_hole_that_was_meant(pose: Pose) -> None:
    reference = features(Box(60, 40, 10) - Pos(20, 0, 0) * Cylinder(5, 10))
    turn = Rot(0, 0, np.degrees(0.7)) if pose is not HERE else Rot(0, 0, 0)
    part = features(turn * (Box(60, 40, 10) - Pos(31, 0, 0) * Cylinder(5, 10)))
    assert run_out_pairs(reference, part, {}, pose=pose, reach_mm=12) == {0: 0}
    assert run_out_pairs(reference, part, {}, pose=pose, reach_mm=3) == {}
    assert run_out_pairs(reference, part, {0: 0}, pose=pose, reach_mm=12) == {}  # it has an answer


def test_a_rounded_corner_is_no_hole_that_ran_out() -> None:
    reference = features(Box(60, 40, 10) - Pos(22, 12, 0) * Cylinder(5, 10))
    block = Box(60, 40, 10)
    rounded = features(fillet(block.edges().filter_by(Axis.Z).sort_by(Axis.X)[-1:], 5))
    assert run_out_pairs(reference, rounded, {}, pose=HERE, reach_mm=20) == {}


def test_walls_are_as_wide_by_radius_and_side() -> None:
    bored = features(Box(60, 40, 10) - Cylinder(4, 10) + Pos(20, 0, 10) * Cylinder(4, 10))
    hole, boss = sorted(bored.cylinders, key=lambda wall: not wall.is_hollow)
    assert is_as_wide(hole, hole)
    assert not is_as_wide(hole, boss)
    assert is_on_axis(boss, np.array([20.0, 0, 50]), np.array([0.0, 0, -1]))
    assert not is_on_axis(boss, np.array([20.0, 0.1, 50]), np.array([0.0, 0, 1]))
    assert not is_on_axis(boss, np.array([20.0, 0, 50]), np.array([0.0, 0.1, 1]) / np.hypot(0.1, 1))
