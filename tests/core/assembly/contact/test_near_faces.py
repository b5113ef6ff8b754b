"""Gaps of free-form walls: near faces alone, with the answer that the kernel gives for the whole solids."""

from functools import cache
from typing import Any

import numpy as np
import pytest
from build123d import Axis, Box, Ellipse, Line, Pos, Rot, Spline, extrude, loft, make_face, revolve

from rigid_bench.core.assembly.contact.clearance import PlacedSolid, clearance, place
from rigid_bench.core.assembly.contact.near_faces import near_faces
from rigid_bench.core.kernel.binding import faces_of
from rigid_bench.core.kernel.distance import measure_gap
from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance

pytestmark = pytest.mark.thorough

TOLERANCE = Tolerance()
PEBBLE = extrude(make_face(Spline((-11, 0), (-6, 9), (2, 8), (11, 1), (5, -9), (-5, -10), periodic=True)), 5, both=True)
VASE = revolve(
    make_face(
        [Spline((3, -7), (5, -2), (3, 3), (4, 7)), Line((4, 7), (0, 7)), Line((0, 7), (0, -7)), Line((0, -7), (3, -7))]
    ),
    Axis.Y,
)
DOME = loft([make_face(Ellipse(8, 6)), Pos(0, 0, 4) * make_face(Ellipse(5, 3))])


def solid(shape: Any, turn: list[float], at: list[float]) -> PlacedSolid:
    """Return a shape where it stands."""
    return place("part", features_once(shape), Pose.from_rotation_vector(turn, at))


@cache
def features_once(shape: Any) -> PartFeatures:
    """Read a shape; those of the module are read once."""
    return read_features(shape.solids()[0].wrapped, tolerance=TOLERANCE)


@pytest.mark.parametrize("other", [VASE, DOME, Box(8, 8, 8)], ids=["vase", "dome", "box"])
@pytest.mark.parametrize("turn", [[0, 0, 0], [0.7, 0.2, -0.4], [1.5, -1.1, 0.3]])
@pytest.mark.parametrize("at", [[25, 0, 0], [4, 19, 11], [-3, -2, 30]])
def test_the_near_faces_alone_give_the_gap_of_the_solids(other: Any, turn: list[float], at: list[float]) -> None:
    one, two = solid(PEBBLE, [0, 0, 0], [0, 0, 0]), solid(other, turn, at)
    whole = measure_gap(one.shape, two.shape)
    own = clearance(one, two, tolerance=TOLERANCE)
    assert own.gap_mm == pytest.approx(whole.gap_mm, abs=1e-6)
    assert np.linalg.norm(own.at[0] - own.at[1]) == pytest.approx(own.gap_mm, abs=1e-6)
    numbers = near_faces(one.part, one.pose, two.part, two.pose)
    assert numbers is not None
    of_all = len(faces_of(one.shape)) + len(faces_of(two.shape))
    assert len(numbers[0]) + len(numbers[1]) < of_all


def test_a_solid_within_the_others_material_is_not_apart() -> None:
    inside = solid(Box(2, 2, 2), [0, 0, 0], [0, 0, 0])
    assert clearance(solid(PEBBLE, [0, 0, 0], [0, 0, 0]), inside, tolerance=TOLERANCE).state == "interfering"
    assert clearance(inside, solid(PEBBLE, [0, 0, 0], [0, 0, 0]), tolerance=TOLERANCE).overlap_mm3 == pytest.approx(8)


def test_a_solid_in_a_free_form_hollow_is_apart() -> None:
    shell = PEBBLE - extrude(make_face(Spline((-6, 0), (0, 5), (6, 0), (0, -5), periodic=True)), 9, both=True)
    peg = solid(Rot(0, 0, 30) * Box(2, 2, 8), [0, 0, 0], [0, 0, 0])
    result = clearance(solid(shell, [0, 0, 0], [0, 0, 0]), peg, tolerance=TOLERANCE)
    assert result.state == "clear"
    assert result.gap_mm > 1
