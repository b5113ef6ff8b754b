"""The least wall, against the sums that a drawing gives."""

from typing import Any

import pytest
from build123d import Box, Cone, Cylinder, Pos, Rot, Sphere

from rigid_bench.core.part.walls import least_wall
from tests.support.shapes import features, plate_with_four_holes


@pytest.mark.parametrize(
    ("shape", "thickness"),
    [
        (Box(30, 40, 5), 5),
        (plate_with_four_holes(), 6),
        (Box(60, 40, 20) - Pos(0, 0, 3) * Box(56, 37, 20), 1.5),  # the thinner pair of walls: (40 - 37) / 2
        (Cylinder(10, 40) - Cylinder(8.5, 60), 1.5),
        (Cylinder(10, 40) - Pos(0.5, 0, 0) * Cylinder(8.5, 60), 1.0),  # thin on the side it is off to
        (Box(40, 40, 10) - Pos(15, 0, 0) * Cylinder(3, 30), 2),  # 20 - 15 - 3
        (Box(40, 40, 10) - Pos(3.2, 0, 0) * Cylinder(3, 30) - Pos(-3.2, 0, 0) * Cylinder(3, 30), 0.4),
        (Box(40, 40, 10) - Pos(0, 0, 2) * Cylinder(3, 10), 2),  # under a blind hole
        (Box(40, 40, 10) - Pos(0, 0, 2) * Cylinder(3, 8) - Pos(0, 0, -2.75) * Cone(0, 3, 1.5), 1.5),  # under its point
        (Box(40, 40, 4) + Pos(-18.5, 0, 10) * Box(3, 40, 20), 3),
        (Box(40, 4, 3) + Pos(0, 0, 4) * Box(4, 40, 5), 3),
    ],
)
def test_least_wall(shape: Any, thickness: float) -> None:
    part = features(Pos(3, 4, 5) * Rot(12, 34, 56) * shape)
    wall = least_wall(part)
    assert wall
    assert wall.thickness == pytest.approx(thickness, abs=1e-6)
    assert part.is_inside(wall.at)


def test_a_ball_has_no_wall() -> None:
    assert least_wall(features(Sphere(4))) is None
