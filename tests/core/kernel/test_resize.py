"""Sizes of solids changed on the model itself, beside solids that were made with the size from the start."""

import math

import pytest
from build123d import Align, Box, Cylinder, Pos, chamfer

from rigid_bench.core.kernel.editing.resize import with_faces_moved, with_radius
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.errors import GeometryError
from tests.support.shapes import TOLERANCE, features

_LOW = (Align.MIN, Align.MIN, Align.MIN)


def plate(width: float = 60.0, hole: float = 8.0, pin: float = 6.0, height: float = 10.0) -> PartFeatures:
    solid = Box(width, 40, height, align=_LOW) - Pos(20, 20, 0) * Cylinder(hole / 2, 100)
    return features(solid + Pos(45, 20, height) * Cylinder(pin / 2, 12, align=(Align.CENTER, Align.CENTER, Align.MIN)))


def same(part: PartFeatures, other: PartFeatures) -> bool:
    return (
        part.volume == pytest.approx(other.volume, rel=1e-9)
        and part.area == pytest.approx(other.area, rel=1e-9)
        and list(part.centroid) == pytest.approx(list(other.centroid), abs=1e-6)
        and len(part.surfaces) == len(other.surfaces)
    )


@pytest.mark.parametrize("diameter", [5.0, 7.9, 8.1, 14.0])
def test_a_hole_of_another_diameter_is_as_if_it_had_been_made_so(diameter: float) -> None:
    part = plate()
    wall = next(own for own in part.cylinders if own.is_hollow)
    assert same(with_radius(part, wall, diameter / 2, tolerance=TOLERANCE), plate(hole=diameter))
    assert part.volume == pytest.approx(plate().volume), "the part itself is not touched"


@pytest.mark.parametrize("diameter", [3.0, 9.0])
def test_a_pin_of_another_diameter_likewise(diameter: float) -> None:
    part = plate()
    wall = next(own for own in part.cylinders if not own.is_hollow)
    assert same(with_radius(part, wall, diameter / 2, tolerance=TOLERANCE), plate(pin=diameter))


@pytest.mark.parametrize("by", [-12.0, -0.01, 0.5, 30.0])
def test_a_face_moved_along_its_normal_likewise(by: float) -> None:
    part = plate()
    end = next(own for own in part.planes if own.normal[0] > 0.99)
    assert same(with_faces_moved(part, end.faces, end.normal, by, tolerance=TOLERANCE), plate(width=60 + by))


def test_volumes_are_those_of_the_handbook_formulas() -> None:
    """Cylinder pi r^2 h and box a b c (any handbook of engineering formulas)."""
    part = plate()
    hole, pin = sorted(part.cylinders, key=lambda own: not own.is_hollow)
    wider = with_radius(part, hole, 6.0, tolerance=TOLERANCE)
    assert part.volume - wider.volume == pytest.approx(math.pi * (36 - 16) * 10, rel=1e-9)
    thinner = with_radius(part, pin, 2.0, tolerance=TOLERANCE)
    assert part.volume - thinner.volume == pytest.approx(math.pi * (9 - 4) * 12, rel=1e-9)


def test_what_another_feature_crosses_is_not_changed() -> None:
    part = plate()
    hole = next(own for own in part.cylinders if own.is_hollow)
    for radius in (20.5, 23.0):  # it would break out of a side, or reach the pin
        with pytest.raises(GeometryError, match="another feature"):
            with_radius(part, hole, radius, tolerance=TOLERANCE)
    block = Box(60, 40, 10, align=_LOW)
    sloped = features(chamfer(block.edges().sort_by()[-1:], 3))
    top = next(own for own in sloped.planes if own.normal[2] > 0.99)
    with pytest.raises(GeometryError, match="another feature"):
        with_faces_moved(sloped, top.faces, top.normal, 4.0, tolerance=TOLERANCE)
    end = next(own for own in part.planes if own.normal[0] > 0.99)
    with pytest.raises(GeometryError, match="another feature"):
        with_faces_moved(part, end.faces, end.normal, -45.0, tolerance=TOLERANCE)
