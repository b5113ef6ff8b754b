"""How parts lie over themselves: the rotation groups of solid geometry."""

from typing import Any

import numpy as np
import pytest
from build123d import Box, Cone, Cylinder, Pos, RegularPolygon, Rot, Sphere, Torus, extrude

from rigid_bench.core.part.recognition.inventory import take_inventory
from rigid_bench.core.part.symmetry import find_symmetry, is_same_shape, motions_between
from tests.support.shapes import TOLERANCE, features, handed_bracket, mirrored, plate_with_four_holes, slotted_plate

WHEEL = Cylinder(20, 5) - [Rot(0, 0, 60 * k) * Pos(12, 0, 0) * Cylinder(2, 9) for k in range(6)] - Cylinder(3, 9)


@pytest.mark.parametrize(
    ("shape", "ways", "orders", "spins"),
    [
        (Box(3, 4, 5), 4, [2, 2, 2], False),
        (Box(3, 3, 3), 24, [4] * 3 + [3] * 4 + [2] * 6, False),  # the octahedral group
        (extrude(RegularPolygon(5, 6), 10), 12, [6] + [2] * 6, False),  # D6
        (extrude(RegularPolygon(5, 3), 10), 6, [3] + [2] * 3, False),  # D3
        (plate_with_four_holes(), 4, [2, 2, 2], False),
        (slotted_plate(), 2, [2], False),
        (WHEEL, 12, [6] + [2] * 6, False),
        (handed_bracket(), 1, [], False),
        (Cylinder(3, 10), 2, [2], True),
        (Cone(3, 1, 4), 1, [], True),
        (Torus(10, 2), 2, [2], True),
        (Cylinder(3, 10) + Pos(0, 0, 5) * Sphere(3), 1, [], True),
        (Cylinder(3, 10) - Pos(3, 0, 0) * Box(2, 20, 20), 2, [2], False),  # a flat stops the spin
    ],
)
def test_turns(shape: Any, ways: int, orders: list[int], spins: bool) -> None:
    symmetry = find_symmetry(features(Pos(3, 4, 5) * Rot(12, 34, 56) * shape), tolerance=TOLERANCE)
    assert (len(symmetry.motions), [turn.order for turn in symmetry.turns]) == (ways, orders)
    assert (symmetry.spin is not None, symmetry.is_ball) == (spins, False)


def test_a_ball_turns_any_way() -> None:
    assert find_symmetry(features(Sphere(4)), tolerance=TOLERANCE).is_ball


def test_like_holes_may_stand_for_each_other() -> None:
    plate = Box(80, 60, 6) - [Pos(x, y, 0) * Cylinder(4, 20) for x in (-20, 20) for y in (-15, 15)]
    inventory = take_inventory(features(plate), tolerance=TOLERANCE)
    assert inventory.interchangeable_holes == ((0, 1, 2, 3),)
    odd = take_inventory(features(plate - Pos(30, 0, 0) * Cylinder(2, 20)), tolerance=TOLERANCE)
    assert [len(group) for group in odd.interchangeable_holes] == [2, 2]


@pytest.mark.parametrize("shape", [handed_bracket(), plate_with_four_holes(), WHEEL])
def test_a_turned_copy_is_the_same_shape_and_the_motion_is_found(shape: Any) -> None:
    own, copy = features(shape), features(Pos(9, 8, 7) * Rot(50, 60, 70) * shape)
    motion = next(motions_between(own, copy, tolerance=TOLERANCE))
    np.testing.assert_allclose(motion.point(own.centroid), copy.centroid, atol=1e-6)


def test_a_mirror_image_and_a_near_miss_are_other_shapes() -> None:
    bracket = features(handed_bracket())
    assert not is_same_shape(bracket, features(mirrored(handed_bracket())), tolerance=TOLERANCE)
    a, b = (features(Box(40, 30, 5) - Pos(x, 6, 0) * Cylinder(3, 20)) for x in (8, 8.01))
    assert not is_same_shape(a, b, tolerance=TOLERANCE)
