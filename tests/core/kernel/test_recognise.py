"""A part whose faces were all exported as B-splines measures like the part that it is."""

from typing import Any

import numpy as np
import pytest
from build123d import Box, Cylinder, Pos, Rot, Solid
from OCP.BRepBuilderAPI import BRepBuilderAPI_NurbsConvert

from rigid_bench.core.part.recognition.holes import find_holes
from rigid_bench.core.part.symmetry import is_same_shape
from rigid_bench.demo.drawer_parts import Sizes, drawer
from tests.support.shapes import TOLERANCE, features, plate_with_four_holes, stepped_block


def as_splines(shape: Any) -> Solid:
    return Solid(BRepBuilderAPI_NurbsConvert(shape.solid().wrapped, True).Shape())


@pytest.mark.parametrize("shape", [plate_with_four_holes(), drawer(Sizes()), Box(3, 4, 5), Cylinder(4, 9)])
def test_splines_that_are_flat_or_round_are_known_as_such(shape: Any) -> None:
    plain, spline = features(shape), features(Pos(4, 5, 6) * Rot(10, 20, 30) * as_splines(shape))
    assert len(spline.planes) == len(plain.planes)
    assert spline.others == ()
    assert spline.volume == pytest.approx(plain.volume, rel=1e-7)
    key = [
        (wall.is_hollow, round(wall.radius, 4), round(wall.length, 4), round(wall.sweep, 3)) for wall in plain.cylinders
    ]
    assert sorted(key) == sorted(
        (wall.is_hollow, round(wall.radius, 4), round(wall.length, 4), round(wall.sweep, 3))
        for wall in spline.cylinders
    )
    assert is_same_shape(plain, spline, tolerance=TOLERANCE)


def test_holes_in_splines_have_their_size() -> None:
    (first, *_) = find_holes(features(as_splines(plate_with_four_holes())))
    assert (2 * first.cylinder.radius, first.depth, first.through) == (pytest.approx(8), pytest.approx(6), True)


def test_normals_of_splines_point_out_of_the_material() -> None:
    part = features(as_splines(stepped_block()))
    for plane in part.planes:
        outside = plane.point + 0.01 * plane.normal
        assert not part.is_inside(outside) or np.allclose(plane.point[:2], [20, 0], atol=6)
