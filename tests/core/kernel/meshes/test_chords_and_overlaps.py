"""Pins in bores as meshes: what they share because of their chords is no overlap, what is too thick is."""

import math

import numpy as np
import pytest
import trimesh
from shapely.geometry import Polygon, box

from rigid_bench.core.assembly.contact.clearance import chord_slack, clearance, interference, place
from rigid_bench.core.kernel.read_model import read_part
from rigid_bench.core.values.frames import Pose, rotation_by
from tests.support.shapes import TOLERANCE


def ring(radius: float, chords: int) -> np.ndarray:
    turns = np.arange(chords) * 2 * math.pi / chords
    return radius * np.column_stack([np.cos(turns), np.sin(turns)])


def pin(radius: float, chords: int) -> trimesh.Trimesh:
    return trimesh.creation.extrude_polygon(Polygon(ring(radius, chords)), 20)


def bored(radius: float, chords: int) -> trimesh.Trimesh:
    return trimesh.creation.extrude_polygon(box(-15, -15, 15, 15).difference(Polygon(ring(radius, chords))), 20)


@pytest.mark.parametrize("chords", [12, 24, 48])
def test_a_pin_that_is_turned_in_its_bore_shares_only_what_its_chords_make(chords: int) -> None:
    block, shaft = (read_part(mesh, tolerance=TOLERANCE) for mesh in (bored(5, chords), pin(5, chords)))
    turned = Pose(rotation_by(np.array([0, 0, math.pi / chords])), np.zeros(3))
    hole = place("block", block, Pose.identity())
    inside = place("pin", shaft, turned)
    gap = clearance(hole, inside, tolerance=TOLERANCE)
    assert gap.overlap_mm3 > TOLERANCE.overlap_mm3
    assert gap.overlap_mm3 < chord_slack(hole, inside)
    assert gap.state == "touching"
    assert interference(hole, inside, tolerance=TOLERANCE) == 0


@pytest.mark.parametrize("chords", [12, 24, 48])
def test_a_pin_that_is_too_thick_overlaps_also_as_a_mesh(chords: int) -> None:
    block, shaft = (read_part(mesh, tolerance=TOLERANCE) for mesh in (bored(5, chords), pin(6, chords)))
    hole, inside = place("block", block, Pose.identity()), place("pin", shaft, Pose.identity())
    gap = clearance(hole, inside, tolerance=TOLERANCE)
    area = chords / 2 * math.sin(2 * math.pi / chords)  # of a regular polygon in the unit circle
    assert gap.state == "interfering"
    assert gap.overlap_mm3 == pytest.approx(20 * area * (6**2 - 5**2), rel=1e-4)
    assert interference(hole, inside, tolerance=TOLERANCE) == pytest.approx(gap.overlap_mm3)


def test_solids_get_no_slack() -> None:
    flat = read_part(trimesh.creation.box((4, 4, 4)), tolerance=TOLERANCE)
    placed = place("a", flat, Pose.identity())
    assert chord_slack(placed, placed) == 0
