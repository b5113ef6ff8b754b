"""How near parts come that slide past each other, beside the kernel's exact distance all along the way."""

import math
from typing import Any

import numpy as np
import pytest
from build123d import Axis, Box, Cylinder, Pos, Rot, fillet

from rigid_bench.core.assembly.contact.clearance import PlacedSolid, place
from rigid_bench.core.assembly.motion.passing_gap import passed
from rigid_bench.core.kernel.distance import measure_gap
from rigid_bench.core.values.frames import Pose
from tests.support.shapes import features

pytestmark = pytest.mark.thorough

X = np.eye(3)[0]
TURNED = Rot(0, 90, 0)
RAIL = Box(160, 60, 6) + Pos(0, 0, 6) * Box(160, 10, 6)
ON_RAIL = Pos(-40, 0, 8) * Box(30, 30, 9) - Pos(-40, 0, 6) * Box(40, 10.2, 6.2)
POST = Pos(40, 22, 8) * Box(12, 10, 10)


def placed(shape: Any, pose: Pose | None = None) -> PlacedSolid:
    return place("part", features(shape.solids()[0]), pose or Pose.identity())


def kernel_gap(moving: PlacedSolid, other: PlacedSolid, way: np.ndarray, amount: float) -> float:
    carried = Pose(np.eye(3), amount * way) @ moving.pose
    return measure_gap(place("part", moving.part, carried).shape, other.shape).gap_mm


def rods(gap: float) -> tuple[Any, Any]:
    """A carriage of which two bores run on two rods of 8 mm."""
    frame = [Pos(0, y, 0) * Rot(0, 90, 0) * Cylinder(4, 300) for y in (-18, 18)]
    cheek = Pos(-150, 0, 0) * Box(10, 60, 30) + frame
    block = Box(30, 54, 20) - [Pos(0, y, 0) * Rot(0, 90, 0) * Cylinder(4 + gap, 60) for y in (-18, 18)]
    return block, cheek


@pytest.mark.parametrize(
    ("moving", "other", "least", "where"),
    [
        (ON_RAIL, RAIL, 0.1, 0.0),
        (fillet(ON_RAIL.edges().filter_by(Axis.Z), 2), RAIL, 0.1, 0.0),
        # it comes beside the post on its way
        (Pos(-40, 0, 20) * Box(30, 30, 9), RAIL + POST, math.hypot(2, 2.5), 59.0),
        (Pos(-40, 1, 8) * Box(30, 30, 6), POST, 1.0, 59.0),
        # a pin beside a pin, a pin in a bore that is out of line by a tenth
        (TURNED * Cylinder(5, 20), Pos(60, 13, 0) * TURNED * Cylinder(6, 20), 2.0, 40.0),
        (Pos(0, 0.1, 0) * TURNED * Cylinder(5, 20), TURNED * (Cylinder(9, 40) - Cylinder(5.3, 60)), 0.2, 0.0),
        (*rods(0.1), None, 0.0),
    ],
)  # fmt: skip
def test_what_slides_past_comes_as_near_as_the_shadows_are_apart(
    moving: Any, other: Any, least: float | None, where: float
) -> None:
    one, two = placed(moving), placed(other)
    beside = passed(one, two, X)
    if least is None:
        assert beside is None  # its cheek stands in the way: some day they meet
        return
    assert beside is not None
    assert (beside.least_mm, beside.amount) == (pytest.approx(least), pytest.approx(where, abs=0.1))
    assert kernel_gap(one, two, X, beside.amount) == pytest.approx(least, abs=1e-6)


@pytest.mark.parametrize("seed", range(12))
def test_the_kernel_finds_no_place_that_is_nearer(seed: int) -> None:
    """Blocks with holes, grooves and rounded edges, turned about the way and moved beside each other."""
    random = np.random.default_rng(seed)

    def part() -> Any:
        sides = random.uniform(10, 30, 3)
        own = Box(*sides) - Rot(0, 90, 0) * Cylinder(random.uniform(1, 4), 80)
        own -= Pos(0, sides[1] / 2, 0) * Box(80, 4, random.uniform(2, 6))
        return fillet(own.edges().filter_by(Axis.Z), 1.0) if random.random() < 0.5 else own

    turn = Pose.from_rotation_vector(random.uniform(-math.pi, math.pi) * X, np.zeros(3))
    one = placed(part(), Pose(turn.rotation, np.array([random.uniform(-20, 20), *random.uniform(15, 30, 2)])))
    two = placed(part())
    beside = passed(one, two, X)
    gaps = [kernel_gap(one, two, X, amount) for amount in np.linspace(-80, 80, 41)]
    if beside is None:
        return
    assert min(gaps) >= beside.least_mm - 1e-6
    assert kernel_gap(one, two, X, beside.amount) >= beside.least_mm - 1e-6


def test_what_lies_in_the_way_is_left_to_others() -> None:
    assert passed(placed(ON_RAIL), placed(RAIL + Pos(40, 12, 8) * Box(12, 10, 10)), X) is None
    assert passed(placed(Box(5, 5, 5)), placed(Pos(30, 0, 0) * Box(10, 40, 40)), X) is None
