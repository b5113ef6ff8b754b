"""Volumes and areas against their formulas; holes and bosses against what was modelled."""

import math
from typing import Any

import numpy as np
import pytest
import trimesh
from build123d import Box, Cylinder, Pos, Rot
from hypothesis import given, settings
from hypothesis import strategies as st

from rigid_bench.core.part.recognition.holes import find_holes
from tests.support.shapes import SOLIDS, features, plate_with_four_holes, slotted_plate, stepped_block


@pytest.mark.parametrize(("shape", "volume", "area"), [row[1:] for row in SOLIDS], ids=[row[0] for row in SOLIDS])
def test_volume_and_area_are_those_of_the_formula(shape: Any, volume: float, area: float) -> None:
    """The mensuration formulas of any handbook: box, cylinder, frustum, sphere, torus."""
    part = features(Pos(7, -3, 11) * Rot(20, 30, 40) * shape)
    assert part.volume == pytest.approx(volume, rel=1e-7)
    assert part.area == pytest.approx(area, rel=1e-7)
    assert part.closed


def test_mass_properties_agree_with_a_mesh() -> None:
    """The reference library trimesh, on a fine mesh of the same plate."""
    shape = plate_with_four_holes()
    points, triangles = shape.tessellate(0.001, 0.02)
    mesh = trimesh.Trimesh([tuple(point) for point in points], triangles)
    part = features(shape)
    assert part.volume == pytest.approx(mesh.volume, rel=1e-4)
    np.testing.assert_allclose(part.centroid, mesh.center_mass, atol=1e-3)


def test_the_tight_box_is_tight_round_a_turned_cylinder() -> None:
    """A cylinder of radius r and height h at 45 degrees spans (h + 2 r) / sqrt 2 along two axes."""
    part = features(Rot(0, 45, 0) * Cylinder(3, 10))
    assert part.extents == pytest.approx([16 / math.sqrt(2), 6, 16 / math.sqrt(2)], abs=1e-4)


def test_through_holes_are_found_however_the_plate_lies() -> None:
    part = features(Pos(5, 5, 5) * Rot(10, 20, 30) * plate_with_four_holes())
    assert [(2 * h.cylinder.radius, h.depth, h.through, h.entry) for h in find_holes(part)] == [
        (pytest.approx(8), pytest.approx(6), True, "plain")
    ] * 4


def test_a_blind_hole_ends_before_its_drill_point_and_a_counterbore_is_an_entry() -> None:
    part = features(stepped_block())
    blind, bored = sorted(find_holes(part), key=lambda hole: hole.cylinder.point[0])
    assert (blind.through, blind.depth, blind.tip) == (False, pytest.approx(12), pytest.approx(2))
    assert (bored.through, bored.entry, 2 * bored.cylinder.radius) == (True, "counterbore", pytest.approx(6))
    assert [(2 * boss.radius, boss.length) for boss in part.bosses] == [(pytest.approx(10), pytest.approx(10))]


def test_slot_ends_and_half_bores_are_no_holes() -> None:
    assert find_holes(features(slotted_plate())) == []


def test_a_hole_split_by_a_keyway_is_one_hole() -> None:
    bore = Box(40, 40, 10) - Cylinder(11, 20) - Pos(0, 11, 0) * Box(8, 8, 20)
    (hole,) = find_holes(features(bore))
    assert 2 * hole.cylinder.radius == pytest.approx(22)


@settings(max_examples=15)
@given(
    diameter=st.floats(2, 12),
    depth=st.floats(1, 9),
    turn=st.tuples(*[st.floats(-180, 180)] * 3),
    shift=st.tuples(*[st.floats(-500, 500)] * 3),
)
def test_a_hole_is_measured_back_to_what_it_was_made_from(
    diameter: float, depth: float, turn: tuple[float, float, float], shift: tuple[float, float, float]
) -> None:
    block = Box(30, 30, 10) - Pos(4, 3, 5 - depth / 2) * Cylinder(diameter / 2, depth)
    (hole,) = find_holes(features(Pos(*shift) * Rot(*turn) * block))
    assert (2 * hole.cylinder.radius, hole.depth, hole.through) == (
        pytest.approx(diameter, abs=1e-6),
        pytest.approx(depth, abs=1e-6),
        False,
    )
