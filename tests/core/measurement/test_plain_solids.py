"""Sizes of plain solids beside the formulas of solid geometry, on parts that stand anyhow; and boxes seen squarely."""

import itertools
import math
from typing import Any

import numpy as np
import pytest
from build123d import Box, Cone, Cylinder, Pos, Rot, Sphere, Torus
from numpy.typing import NDArray

from rigid_bench.core.measurement.box_frame import box_frames
from rigid_bench.core.measurement.measure_request import Request
from rigid_bench.core.measurement.round_measures import ROUND
from rigid_bench.core.measurement.sizes import SIZES
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.registration.register import register
from rigid_bench.core.standards.materials import DENSITIES
from rigid_bench.core.values.datums import (
    AxisFeature,
    ConeFeature,
    CylinderFeature,
    PlaneFeature,
    SphereFeature,
    TorusFeature,
)
from rigid_bench.core.values.errors import InvalidDocument
from tests.support.shapes import TOLERANCE, features

_Array = NDArray[np.float64]
UP = np.array([0.0, 0, 1])


def standing(shape: Any, own: Any | None = None) -> RegisteredPart:
    """A reference laid over a part, its own shape where no other is given, that stands anyhow."""
    reference, part = features(shape), features(Pos(5, 6, 7) * Rot(10, 20, 30) * (shape if own is None else own))
    return RegisteredPart(reference, part, register(reference, part, tolerance=TOLERANCE)[0])


@pytest.mark.parametrize(
    ("shape", "volume", "area"),
    [
        (Box(20, 30, 5), 3000, 2 * (20 * 30 + 20 * 5 + 30 * 5)),
        (Cylinder(8, 25), math.pi * 64 * 25, 2 * math.pi * 8 * (25 + 8)),
        (Sphere(9), 4 / 3 * math.pi * 9**3, 4 * math.pi * 81),
        # a frustum: pi h/3 (R² + Rr + r²), pi (R + r) s and both ends
        (Cone(10, 4, 12), math.pi * 4 * (100 + 40 + 16), math.pi * (14 * math.hypot(6, 12) + 116)),
        # Pappus: 2 pi² R r², 4 pi² R r
        (Torus(20, 3), 2 * math.pi**2 * 20 * 9, 4 * math.pi**2 * 20 * 3),
        (Box(20, 20, 20) - Cylinder(5, 20), 8000 - math.pi * 500, 2400 - 2 * math.pi * 25 + math.pi * 200),
    ],
)
def test_volume_area_and_mass_are_those_of_the_formulas(shape: Any, volume: float, area: float) -> None:
    part = features(Pos(5, 6, 7) * Rot(10, 20, 30) * shape)
    registered = RegisteredPart.over_itself(part)
    assert SIZES["volume"].find(registered, Request(measure="volume")) == pytest.approx(volume, rel=1e-6)
    assert SIZES["area"].find(registered, Request(measure="area")) == pytest.approx(area, rel=1e-6)
    for density in DENSITIES.values():
        mass = SIZES["mass"].find(registered, Request(measure="mass", density=density))
        assert mass == pytest.approx(volume / 1000 * density, rel=1e-6)


def plane(point: tuple[float, float, float], normal: tuple[float, float, float]) -> PlaneFeature:
    return PlaneFeature(np.array(point, dtype=float), np.array(normal, dtype=float))


def wall(x: float, y: float, radius: float) -> CylinderFeature:
    return CylinderFeature(np.array([x, y, 0.0]), UP, radius)


TOP, BOTTOM, RIGHT = plane((0, 0, 5), (0, 0, 1)), plane((0, 0, -5), (0, 0, -1)), plane((30, 0, 0), (1, 0, 0))


def plate(x: float = 12.0, y: float = 5.0, radius: float = 4.0, deep: float = 10.0) -> Any:
    second = Pos(-15, -8, 0) * Cylinder(3, 30)
    return Box(60, 40, 10) - Pos(x, y, 5) * Cylinder(radius, 2 * deep) - second


FIRST, SECOND = wall(12, 5, 4), wall(-15, -8, 3)


@pytest.mark.parametrize(
    ("name", "of", "axis", "value"),
    [
        ("length", (TOP, BOTTOM), None, 10),
        ("angle", (TOP, RIGHT), None, 90),
        ("angle", (TOP, BOTTOM), None, 180),
        ("position", (FIRST, RIGHT), None, 30 - 14),
        ("position", (FIRST, SECOND), None, math.hypot(29, 14)),
        ("position", (FIRST, SECOND), "x", 29),
        ("position", (FIRST, SECOND), "y", 14),
        ("diameter", (FIRST,), None, 9),
        ("radius", (FIRST,), None, 4.5),
        ("count", (SECOND,), None, 1),
        ("extent", (), "y", 40),
    ],
)
def test_a_size_is_the_students_own(name: str, of: tuple[Any, ...], axis: str | None, value: float) -> None:
    """The first hole was moved by (2, 1) mm and made 1 mm larger."""
    registered = standing(plate(), plate(14, 6, 4.5))
    assert SIZES[name].find(registered, Request(measure=name, features=of, axis=axis)) == pytest.approx(value, abs=1e-6)


@pytest.mark.parametrize("name", ["extent", "mass"])
def test_what_a_size_needs_besides_is_asked_for(name: str) -> None:
    with pytest.raises(InvalidDocument):
        SIZES[name].find(standing(plate()), Request(measure=name))


@pytest.mark.parametrize("whole", [60.0, 82.0, 90.0, 100.0, 120.0])
def test_cones_and_countersinks_have_their_whole_angle(whole: float) -> None:
    """A countersink of ISO 10642's Ø12.7 head at an M6 (from memory); 82° and 100° are customary in inches."""
    deep = (12.7 - 6.6) / 2 / math.tan(math.radians(whole / 2))
    sunk = Pos(0, 0, 10 - deep / 2) * Cone(3.3, 6.35, deep)
    registered = standing(Box(40, 30, 20) - Cylinder(3.3, 20) - sunk)
    of = AxisFeature(np.zeros(3), UP)
    diameter = ROUND["countersink_diameter"].find(registered, Request(measure="countersink_diameter", features=(of,)))
    angle = ROUND["countersink_angle"].find(registered, Request(measure="countersink_angle", features=(of,)))
    assert (diameter, angle) == pytest.approx((12.7, whole), abs=1e-4)
    slope = math.tan(math.radians(whole / 2))
    cone = standing(Cone(20, 20 - 10 * slope, 10))
    measured = ROUND["cone_angle"].find(cone, Request(measure="cone_angle", features=(_cone(cone),)))
    assert measured == pytest.approx(whole, abs=1e-4)


def _cone(registered: RegisteredPart) -> ConeFeature:
    (surface,) = registered.reference.cones
    return ConeFeature(surface.apex, surface.direction, 2 * surface.half_angle)


def test_balls_and_rings_have_their_radius() -> None:
    ball = standing(Box(40, 40, 20) - Pos(0, 0, 10) * Sphere(7), Box(40, 40, 20) - Pos(0, 0, 10) * Sphere(7.5))
    of = SphereFeature(np.array([0.0, 0, 10]), 7)
    assert ROUND["sphere_diameter"].find(ball, Request(measure="sphere_diameter", features=(of,))) == pytest.approx(15)
    ring = standing(Cylinder(20, 10) - Pos(0, 0, 5) * Torus(12, 2), Cylinder(20, 10) - Pos(0, 0, 5) * Torus(12, 2.5))
    groove = TorusFeature(np.array([0.0, 0, 5]), UP, 12, 2)
    assert ROUND["tube_radius"].find(ring, Request(measure="tube_radius", features=(groove,))) == pytest.approx(2.5)


@pytest.mark.parametrize("sizes", [(60.0, 40.0, 10.0), (10.0, 10.0, 80.0), (33.0, 33.0, 33.0)])
def test_a_part_without_a_reference_is_looked_at_squarely_in_24_ways(sizes: tuple[float, float, float]) -> None:
    frames = box_frames(features(Pos(5, 6, 7) * Rot(10, 20, 30) * Box(*sizes)))
    assert len(frames) == 24
    assert {tuple(np.round(extents, 6)) for _, extents in frames} == set(itertools.permutations(sizes))
    for pose, _ in frames:
        assert np.linalg.det(pose.rotation) == pytest.approx(1)
    corners = {tuple(np.round(pose.position, 6)) for pose, _ in frames}
    assert len(corners) == 8
    assert np.mean(list(corners), axis=0) == pytest.approx((5, 6, 7), abs=1e-6)
