"""Which faces go with a round wall that is too wide, and which are missing together."""

import numpy as np
import pytest
from build123d import Align, Box, Cylinder, Pos

from rigid_bench.core.grading.diagnosis.missing_faces import are_of_one_feature, ends_a_wall
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.registration.register import register
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, PlaneFeature
from rigid_bench.core.values.errors import InvalidDocument
from tests.support.shapes import TOLERANCE, features

_BASE = (Align.CENTER, Align.CENTER, Align.MIN)
X, Y, Z = np.eye(3)


def wall(radius: float, at: tuple[float, float, float] = (0, 0, 0)) -> AxisFeature:
    return CylinderFeature(np.array(at, dtype=float), Z, radius)


def flat(at: tuple[float, float, float], normal: np.ndarray) -> PlaneFeature:
    return PlaneFeature(np.array(at, dtype=float), normal)


@pytest.fixture(scope="module")
def shaft() -> RegisteredPart:
    """Ø20 to 10, Ø12 to 30, Ø6 to 45 and Ø4 to 60."""
    lengths = ((10, 0, 10), (6, 10, 20), (3, 30, 15), (2, 45, 15))
    steps = [Pos(0, 0, low) * Cylinder(radius, length, align=_BASE) for radius, low, length in lengths]
    return RegisteredPart.over_itself(features(steps[0] + steps[1:]))


@pytest.mark.parametrize(
    ("radius", "level", "ends"),
    [
        (6, flat((0, 0, 10), Z), True),  # the step that it stands on
        (6, flat((0, 0, 30), Z), True),  # the one that it carries
        (3, flat((0, 0, 45), Z), True),
        (6, flat((0, 0, 60), Z), False),  # the far end, two steps on
        (2, flat((0, 0, 0), -Z), False),
    ],
)
def test_a_step_ends_the_walls_that_it_lies_between(
    shaft: RegisteredPart, radius: float, level: PlaneFeature, ends: bool
) -> None:
    assert ends_a_wall(shaft.reference, wall(radius), [level], where="a") is ends


def test_what_is_no_step_across_the_axis_ends_no_wall(shaft: RegisteredPart) -> None:
    assert not ends_a_wall(shaft.reference, wall(6), [wall(10)], where="a")
    with pytest.raises(InvalidDocument, match="no round wall of radius 7"):
        ends_a_wall(shaft.reference, wall(7), [], where="a")


BLOCK = Box(60, 40, 10)
NOTCH = Pos(25, 0, 0) * Box(10, 12, 10)
HOLE = Pos(-20, 0, 0) * Cylinder(3, 10)


def laid_over_bare_block() -> RegisteredPart:
    """A block with a notch and a hole, over a student's that has neither."""
    reference, part = features(BLOCK - NOTCH - HOLE), features(BLOCK)
    return RegisteredPart(reference, part, register(reference, part, tolerance=TOLERANCE)[0])


def test_the_walls_of_one_notch_are_missing_together_and_a_hole_is_by_itself() -> None:
    registered = laid_over_bare_block()
    bottom, side = flat((20, 0, 0), X), flat((25, 6, 0), -Y)
    hole = wall(3, (-20, 0, 0))
    assert are_of_one_feature(registered, [bottom], [side], where="a")
    assert are_of_one_feature(registered, [side, flat((0, 0, 5), Z)], [bottom], where="a")
    assert not are_of_one_feature(registered, [hole], [bottom], where="a")


def test_faces_that_the_part_has_are_missing_with_nothing() -> None:
    registered = laid_over_bare_block()
    assert not are_of_one_feature(registered, [flat((0, 0, 5), Z)], [flat((-30, 0, 0), -X)], where="a")
