"""Turns that bring nothing nearer, against the kernel's distance all the way round; and parts that are drawn apart."""

from typing import Any

import numpy as np
import pytest
from build123d import Box, Cylinder, Pos, Rot

from rigid_bench.core.assembly.contact.clearance import PlacedSolid, clearance, place
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.motion.apart import shifts_apart, ways_apart
from rigid_bench.core.assembly.motion.envelopes import comes_no_nearer
from rigid_bench.core.assembly.motion.plain_meeting import plain_meeting, plain_meetings
from rigid_bench.core.assembly.motion.removal import Way
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.frames import Pose
from tests.support.shapes import TOLERANCE, features

pytestmark = pytest.mark.thorough

UP, ORIGIN = np.array([0.0, 0, 1]), np.zeros(3)
ASKEW = Pose.from_rotation_vector([0.3, -0.5, 0.8], [12, -7, 20])

SHAFT, BUSH = Cylinder(5, 40), Cylinder(12, 20) - Cylinder(5.4, 20)
PLATE = Pos(0, 0, -15) * (Box(40, 40, 6) - Cylinder(5.2, 6))
FLATTENED = Cylinder(5, 40) - Pos(8, 0, 0) * Box(8, 20, 40)


def solid(shape: Any, pose: Pose) -> PlacedSolid:
    return place("own", features(shape), pose)


def least_gap(moving: Any, other: Any) -> float:
    """The kernel's least distance while one part turns by steps of three degrees."""
    still = solid(other, Pose.identity())
    part = features(moving)
    turned = (place("own", part, Pose.about(k * np.pi / 60 * UP, ORIGIN)) for k in range(120))
    return min(clearance(own, still, tolerance=TOLERANCE).gap_mm for own in turned)


@pytest.mark.parametrize(
    ("moving", "other", "is_known"),
    [
        (SHAFT, BUSH, True),
        (BUSH, SHAFT, True),
        (SHAFT, PLATE, True),
        (SHAFT + Pos(0, 0, 20) * Cylinder(9, 6), BUSH, True),  # a collar above the bush
        (SHAFT + Pos(14, 0, 0) * Box(28, 3, 3), Pos(0, 30, 0) * Box(10, 10, 10), False),  # an arm that hits a block
        (SHAFT + Pos(14, 0, 0) * Box(28, 3, 3), Pos(40, 0, 0) * Box(10, 60, 10), False),  # its nearest place is here
        (FLATTENED, Cylinder(12, 20) - Cylinder(5.4, 20) - Pos(6, 0, 0) * Box(6, 2, 20), False),
    ],
)  # fmt: skip
@pytest.mark.parametrize("frame", [Pose.identity(), ASKEW], ids=["square", "askew"])
def test_what_the_rings_say_holds_all_the_way_round(moving: Any, other: Any, is_known: bool, frame: Pose) -> None:
    turning, still = (solid(shape, frame) for shape in (moving, other))
    gap = clearance(turning, still, tolerance=TOLERANCE).gap_mm
    says = comes_no_nearer(turning, still, frame.point(ORIGIN), frame.direction(UP), gap)
    assert says or not is_known
    if says and frame is not ASKEW:
        assert least_gap(moving, other) >= gap - 1e-6


def test_an_arm_that_comes_nearer_is_never_said_not_to() -> None:
    arm, block = SHAFT + Pos(14, 0, 0) * Box(28, 3, 3), Rot(0, 0, 90) * Pos(35, 0, 0) * Box(8, 8, 8)
    turning, still = (solid(shape, Pose.identity()) for shape in (arm, block))
    gap = clearance(turning, still, tolerance=TOLERANCE).gap_mm
    assert least_gap(arm, block) < gap - 1
    assert not comes_no_nearer(turning, still, ORIGIN, UP, gap)


def test_a_slide_meets_ahead_and_behind_and_back_is_the_other_way() -> None:
    """A block of 10 between two walls, 3 before it and 7 behind it."""
    block, walls = Box(10, 10, 10), Pos(13, 0, 0) * Box(10, 30, 30) + Pos(-17, 0, 0) * Box(10, 30, 30)
    walls += Pos(-2, 0, -12) * Box(40, 30, 4)
    moving, other = solid(block, ASKEW), solid(walls, ASKEW)
    slide = Motion(kind="translation", direction=ASKEW.direction([1.0, 0, 0]), point=ORIGIN)
    assert plain_meeting(moving, other, slide, sign=1) == pytest.approx(3, abs=1e-6)
    assert plain_meeting(moving, other, slide, sign=-1) == pytest.approx(7, abs=1e-6)
    assert plain_meetings(moving, other, slide) == pytest.approx((7, 3), abs=1e-6)


def test_parts_that_are_drawn_apart_overlap_no_more_and_keep_their_way() -> None:
    base, peg, ring = (
        features(Box(60, 60, 10) - Cylinder(5, 10)),
        features(SHAFT),
        features(Cylinder(9, 6) - Cylinder(5, 6)),
    )
    placed: dict[int, tuple[PartFeatures, Pose]] = {
        0: (base, Pose.identity()),
        1: (peg, Pose.identity()),
        2: (ring, Pose(np.eye(3), np.array([0.0, 0, 9]))),
    }
    ways = [Way(instance=2, direction=UP), Way(instance=1, direction=UP)]
    shifts = shifts_apart(placed, ways)
    assert shifts[0] == pytest.approx(0)
    assert all(np.cross(shift, UP) == pytest.approx(0) and shift[2] >= 0 for shift in shifts.values())
    base_top, ring_low = 5, 6 + shifts[2][2]
    peg_low, peg_top = -20 + shifts[1][2], 20 + shifts[1][2]
    assert base_top < peg_low < peg_top < ring_low


def test_ways_apart_follow_what_is_free() -> None:
    """A peg that may slide in its bore leaves along it."""
    placed: dict[int, tuple[PartFeatures, Pose]] = {
        0: (features(Box(60, 60, 10) - Cylinder(5.1, 10)), Pose.identity()),
        1: (features(SHAFT), Pose.identity()),
    }
    slide = Motion(kind="translation", direction=UP, point=ORIGIN)
    (way,) = ways_apart(placed, {1: [slide]}, [], base=0, tolerance=TOLERANCE)
    assert (way.instance, way.turn) == (1, None)
    assert np.cross(way.direction, UP) == pytest.approx(0)
