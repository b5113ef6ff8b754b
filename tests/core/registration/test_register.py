"""One part over another: whatever its origin, orientation and wrong sizes."""

from typing import Any

import numpy as np
import pytest
from build123d import Box, Cylinder, Pos, Rot

from rigid_bench.core.measurement.measure import measure
from rigid_bench.core.measurement.measure_request import Request
from rigid_bench.core.part.symmetry import is_same_shape
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.registration.register import register
from rigid_bench.core.values.datums import CylinderFeature, PlaneFeature
from rigid_bench.core.values.frames import Pose
from rigid_bench.demo.drawer_parts import Sizes, drawer
from tests.support.shapes import TOLERANCE, features, handed_bracket, mirrored, plate_with_four_holes


def registered(reference: Any, part: Any) -> RegisteredPart:
    read = features(part)
    return RegisteredPart(features(reference), read, register(features(reference), read, tolerance=TOLERANCE)[0])


@pytest.mark.parametrize(
    ("shape", "ways"), [(Box(3, 4, 5), 4), (Box(4, 4, 4), 24), (plate_with_four_holes(), 4), (handed_bracket(), 1)]
)
def test_a_symmetric_part_lies_in_as_many_ways_as_it_has(shape: Any, ways: int) -> None:
    """Orders of the rotation groups: 4 of a block, 24 of a cube."""
    registrations = register(features(shape), features(Pos(9, 8, 7) * Rot(11, 22, 33) * shape), tolerance=TOLERANCE)
    assert len(registrations) == ways
    assert all(registration.likeness == pytest.approx(1) for registration in registrations)


def test_the_motion_is_found_to_the_last_digit() -> None:
    motion = Pos(9, 8, 7) * Rot(11, 22, 33)
    (registration,) = register(features(handed_bracket()), features(motion * handed_bracket()), tolerance=TOLERANCE)
    np.testing.assert_allclose(registration.pose.point([0, 0, 0]), [9, 8, 7], atol=1e-6)


def test_a_mirror_image_is_another_shape() -> None:
    assert not is_same_shape(features(handed_bracket()), features(mirrored(handed_bracket())), tolerance=TOLERANCE)
    assert is_same_shape(features(handed_bracket()), features(Rot(0, 0, 77) * handed_bracket()), tolerance=TOLERANCE)


@pytest.mark.parametrize(
    "wrong", [Sizes(width=61), Sizes(wall=2), Sizes(length=84), Sizes(height=33), Sizes(hole=4.2), Sizes(floor=5)]
)
def test_one_wrong_size_spoils_no_other(wrong: Sizes) -> None:
    """Every other size of a turned drawer is measured as it was made."""
    part = registered(drawer(Sizes()), Pos(30, -20, 10) * Rot(70, 20, 130) * drawer(wrong))
    left, right = (
        PlaneFeature(np.array([40.0, 0, 15]), np.array([0.0, -1, 0])),
        PlaneFeature(np.array([40.0, 60, 15]), np.array([0.0, 1, 0])),
    )
    inner = PlaneFeature(np.array([40.0, 3, 15]), np.array([0.0, 1, 0]))
    hole = CylinderFeature(np.array([0.0, 30, 15]), np.array([1.0, 0, 0]), 4.2)
    assert measure(part, Request(measure="length", features=(left, right))) == pytest.approx(wrong.width)
    assert measure(part, Request(measure="thickness", features=(left, inner))) == pytest.approx(wrong.wall)
    assert measure(part, Request(measure="diameter", features=(hole,))) == pytest.approx(wrong.hole)
    assert measure(part, Request(measure="position", features=(hole, left))) == pytest.approx(30)
    assert measure(part, Request(measure="extent", axis="x")) == pytest.approx(wrong.length, abs=1e-4)


def test_a_missing_feature_is_not_answered_by_its_neighbour() -> None:
    part = registered(drawer(Sizes()), Box(90, 60, 30))
    inner = PlaneFeature(np.array([40.0, 3, 15]), np.array([0.0, 1, 0]))
    assert part.flat(inner, where="t") is None
    assert part.wall(CylinderFeature(np.array([0.0, 30, 15]), np.array([1.0, 0, 0]), 4.2), where="t") is None


@pytest.mark.parametrize(
    ("name", "value"),
    [
        ("volume", 80 * 60 * 6 - 4 * np.pi * 96),
        ("mass", 1.24 * (28.8 - 4 * np.pi * 0.096)),
        ("count", 4),
        ("radius", 4),
    ],
)
def test_whole_part_measures(name: str, value: float) -> None:
    """PLA is 1.24 g/cm3 by data sheets: mass is volume times density."""
    hole = CylinderFeature(np.array([20.0, 15, 0]), np.array([0.0, 0, 1]), 4.0)
    features_asked = (hole,) if name in ("count", "radius") else ()
    request = Request(measure=name, features=features_asked, density=1.24)
    assert measure(registered(plate_with_four_holes(), plate_with_four_holes()), request) == pytest.approx(value)


def test_an_angle_is_between_directed_faces() -> None:
    wedge = Box(40, 40, 20) - Pos(0, 0, 20) * Rot(0, 30, 0) * Box(200, 200, 20)
    slope = max(features(wedge).planes, key=lambda plane: abs(plane.normal[0] * plane.normal[2]))
    bottom = PlaneFeature(np.array([0.0, 0, -10]), np.array([0.0, 0, -1]))
    request = Request(measure="angle", features=(PlaneFeature(slope.point, slope.normal), bottom))
    assert measure(registered(wedge, wedge), request) == pytest.approx(150)


def test_a_round_part_is_found_at_any_spin() -> None:
    registrations = register(
        features(Cylinder(3, 20)), features(Pos(1, 2, 3) * Rot(90, 0, 0) * Cylinder(3, 20)), tolerance=TOLERANCE
    )
    assert registrations[0].likeness == pytest.approx(1)
    assert isinstance(registrations[0].pose, Pose)


def plate_with_hole(x: float, radius: float = 6.0) -> Any:
    """A plate of 100 x 60 x 10 with a hole, a slot and a bore of 20."""
    slot = Box(20, 12, 40) + Pos(-10, 0, 0) * Cylinder(6, 40) + Pos(10, 0, 0) * Cylinder(6, 40)
    own = Box(100, 60, 10) - Pos(x, -20, 0) * Cylinder(radius, 40) - Pos(20, 18, 0) * Cylinder(10, 40)
    return own - Pos(-10, 18, 0) * slot


@pytest.mark.parametrize(("x", "radius"), [(-48.0, 6.0), (-20.0, 22.0)])
def test_a_hole_that_runs_out_over_an_edge_is_still_the_hole(x: float, radius: float) -> None:
    """By its radius where it was moved, by its axis where it was made too large."""
    part = registered(plate_with_hole(-20.0), plate_with_hole(x, radius))
    hole = CylinderFeature(np.array([-20.0, -20, 0]), np.array([0.0, 0, 1]), 6.0)
    assert measure(part, Request(measure="diameter", features=(hole,))) == pytest.approx(2 * radius)
    wall = part.wall(hole, where="hole")
    assert wall is not None
    assert not wall.goes_round
    assert abs((part.pose.inverse().point(wall.point) - hole.point)[0]) == pytest.approx(abs(x + 20), abs=1e-6)


def test_the_round_end_of_a_slot_is_no_hole() -> None:
    part = registered(plate_with_hole(-20.0), plate_with_hole(300.0))
    hole = CylinderFeature(np.array([-20.0, -20, 0]), np.array([0.0, 0, 1]), 6.0)
    assert part.wall(hole, where="hole") is None


def test_a_part_a_tenth_as_wide_has_all_of_its_profile() -> None:
    """Its sides are told from others by what they meet, and not taken for the next flat that looks their way."""
    whole, narrow = (handed_profile(width) for width in (50.0, 5.0))
    part = registered(whole, Pos(3, 4, 5) * Rot(20, 30, 40) * narrow)
    left, right = (PlaneFeature(np.array([5.0, way * 25.0, 30.0]), np.array([0.0, way, 0.0])) for way in (-1.0, 1.0))
    assert measure(part, Request(measure="length", features=(left, right))) == pytest.approx(5.0)
    assert part.standing() > 0.5
    assert registered(whole, plate_with_hole(-20.0)).standing() < 0.3


def handed_profile(width: float) -> Any:
    """An angle with a step and a ledge, and a bore through its back."""
    foot, back = Pos(35, 0, 4) * Box(70, width, 8), Pos(5, 0, 30) * Box(10, width, 60)
    own = foot + back + Pos(15, 0, 12) * Box(10, width, 8) + Pos(15, 0, 55) * Box(10, width, 10)
    return own - Pos(5, 0, 40) * Rot(0, 90, 0) * Cylinder(2, 40)
