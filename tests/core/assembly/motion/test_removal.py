"""How builds come apart: out of slots and holes, around corners, or not at all."""

import math
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
import pytest
from build123d import Align, Box, Cylinder, Pos, Rot, Sphere
from scipy.spatial.transform import Rotation

from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.motion.removal import Way, blockers, removal_sequence
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.frames import Pose
from tests.support.shapes import TOLERANCE, features

WORLDS = [Pose.identity(), Pose(Rotation.from_rotvec([0.4, -1.1, 0.6]).as_matrix(), np.array([9.0, -30, 4]))]
_FOOT = (Align.CENTER, Align.CENTER, Align.MIN)


def placed(shapes: Sequence[Any], world: Pose) -> dict[int, tuple[PartFeatures, Pose]]:
    return {k: (features(shape), world) for k, shape in enumerate(shapes)}


def apart(shapes: Sequence[Any], world: Pose, motions: Mapping[int, Sequence[Motion]] | None = None) -> dict[int, Way]:
    ways = removal_sequence(placed(shapes, world), motions or {}, tolerance=TOLERANCE, last=0)
    return {way.instance: way for way in ways}


def dovetail() -> list[Any]:
    """A slide in a rail whose lips hold it down: it leaves along X only."""
    rail = Box(60, 40, 20) - Pos(0, 0, 4) * Box(100, 20, 6) - Pos(0, 0, 8) * Box(100, 10, 10)
    return [rail, Pos(0, 0, 4) * Box(60, 20, 6) + Pos(0, 0, 12) * Box(60, 10, 10)]


@pytest.mark.parametrize("world", WORLDS, ids=["square", "askew"])
def test_a_slide_under_lips_leaves_along_its_rail(world: Pose) -> None:
    way = apart(dovetail(), world)[1]
    assert abs(float(way.direction @ world.direction(np.array([1.0, 0, 0])))) == pytest.approx(1)


@pytest.mark.parametrize("world", WORLDS, ids=["square", "askew"])
def test_a_ball_in_a_closed_box_is_shut_in(world: Pose) -> None:
    box = Box(20, 20, 20) - Box(12, 12, 12)
    parts = [box, Pos(0, 0, -1) * Sphere(5)]
    assert apart(parts, world) == {}
    assert blockers(1, placed(parts, world), [], tolerance=TOLERANCE) == [0]


def test_a_lid_is_taken_off_before_what_lies_under_it() -> None:
    box = Box(30, 30, 20, align=_FOOT) - Pos(0, 0, 4) * Box(20, 20, 20, align=_FOOT)
    block, lid = Pos(0, 0, 4) * Box(20, 20, 10, align=_FOOT), Pos(0, 0, 20) * Box(30, 30, 3, align=_FOOT)
    ways = removal_sequence(placed([box, block, lid], Pose.identity()), {}, tolerance=TOLERANCE, last=0)
    assert [way.instance for way in ways] == [2, 1]
    np.testing.assert_allclose(ways[1].direction, [0, 0, 1], atol=1e-9)


def test_a_slanted_hole_gives_a_slanted_way() -> None:
    """Directions come from the contacts, not from six axes."""
    tilt = Rot(0, 35, 0)
    way = apart([Box(60, 40, 30) - tilt * Cylinder(5, 200), tilt * Cylinder(5, 60)], Pose.identity())[1]
    assert abs(way.direction[0] / way.direction[2]) == pytest.approx(math.tan(math.radians(35)))


def test_a_bayonet_is_turned_before_it_leaves() -> None:
    """A pin with an arm under a lip that has a slot a quarter turn away."""
    ring = Cylinder(20, 20, align=_FOOT) - Pos(0, 0, 2) * Cylinder(12, 10, align=_FOOT) - Cylinder(4, 100)
    ring -= Pos(0, 0, 10) * Box(6, 26, 100, align=_FOOT)
    pin = Pos(0, 0, 2.5) * Cylinder(3.9, 40, align=_FOOT) + Pos(0, 0, 5) * Box(22, 4, 3, align=_FOOT)
    spin = Motion(kind="rotation", direction=np.array([0.0, 0, 1]), point=np.zeros(3))
    assert apart([ring, pin], Pose.identity()) == {}
    way = apart([ring, pin], Pose.identity(), {1: [spin]})[1]
    assert way.turn is not None
    assert math.degrees(abs(way.amount)) == pytest.approx(90)
    assert way.direction[2] == pytest.approx(1)
