"""How far a body can go along a direction, beside formulas."""

import math

import numpy as np
import pytest
import trimesh
from build123d import Box, Cylinder, Pos, Sphere
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from rigid_bench.core.kernel.meshes.linear_travel import free_travel
from rigid_bench.core.kernel.meshes.mesh_body import carried
from rigid_bench.core.kernel.meshes.triangulation import meshed
from rigid_bench.core.values.frames import Pose

UP = np.array([0.0, 0, 1])


def mesh(shape: object) -> trimesh.Trimesh:
    return meshed(shape.solid().wrapped, within_mm=0.02)  # type: ignore[attr-defined]


@given(st.floats(0, 30), st.floats(-9, 9), st.tuples(*[st.floats(-3, 3)] * 3))
@settings(max_examples=25)
def test_a_box_above_a_box_goes_as_far_as_the_gap(gap: float, aside: float, turn: tuple[float, float, float]) -> None:
    world = Pose(Rotation.from_rotvec(turn).as_matrix(), np.array([7.0, -4, 2]))
    low = carried(trimesh.creation.box((20, 20, 4)), world)
    high = carried(trimesh.creation.box((6, 6, 4)), world @ Pose(np.eye(3), np.array([aside, 0, 4 + gap])))
    assert free_travel(high, low, world.direction(-UP)) == pytest.approx(gap, abs=1e-6)
    assert free_travel(high, low, world.direction(UP)) == math.inf


@pytest.mark.parametrize("aside", [0.0, 3.0, 7.0])
def test_a_ball_over_a_ball_meets_it_where_their_radii_reach(aside: float) -> None:
    """Two balls of radius 4 and 5 touch when their middles are 9 apart."""
    travel = free_travel(mesh(Pos(aside, 0, 30) * Sphere(4)), mesh(Sphere(5)), -UP)
    assert travel == pytest.approx(30 - math.sqrt(81 - aside**2), abs=0.1)


def test_a_peg_leaves_its_hole_along_the_axis_only() -> None:
    block, peg = mesh(Box(30, 30, 20) - Pos(0, 0, 5) * Cylinder(5, 20)), mesh(Pos(0, 0, 10) * Cylinder(5, 30))
    assert free_travel(peg, block, UP) == math.inf
    assert free_travel(peg, block, -UP) == 0
    assert free_travel(peg, block, np.array([1.0, 0, 0])) == 0


def test_what_overlaps_already_is_let_by() -> None:
    """A screw drawn plain, its thread overlapping: it still comes out, and its head still stops it."""
    nut, screw = mesh(Box(20, 20, 8) - Cylinder(2.1, 20)), mesh(Cylinder(2.5, 20) + Pos(0, 0, 12) * Cylinder(4, 4))
    assert free_travel(screw, nut, UP) == math.inf
    assert free_travel(screw, nut, -UP) == pytest.approx(6, abs=1e-6)
