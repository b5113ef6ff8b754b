"""Any solid at all: its features are found without a fault, and it is the shape of its own turned copy."""

import random
from typing import Any

import pytest
from build123d import Box, Cone, Cylinder, Pos, RegularPolygon, Rot, Sphere, Torus, extrude
from hypothesis import given, settings
from hypothesis import strategies as st

from rigid_bench.core.measurement.feature_report import feature_report
from rigid_bench.core.part.recognition.inventory import take_inventory
from rigid_bench.core.part.symmetry import is_same_shape
from rigid_bench.core.wording.features import feature_lines
from rigid_bench.core.wording.saying import say
from tests.core.part.recognition.random_parts import moved, split_faces
from tests.support.shapes import TOLERANCE, features

pytestmark = pytest.mark.thorough


def primitive(rng: random.Random) -> Any:
    """A block, bar, cone, ball, ring or prism, square to the others or askew."""
    a, b, c = (rng.uniform(3, 20) for _ in range(3))
    turn = [rng.choice((0, 90, 30, rng.uniform(0, 360))) for _ in range(3)]
    made = [
        lambda: Box(a, b, c),
        lambda: Cylinder(a / 2, b),
        lambda: Cone(a / 2, a / 3, b),
        lambda: Sphere(a / 2),
        lambda: Torus(8, 2),
        lambda: extrude(RegularPolygon(a / 2, rng.randint(3, 8)), b),
    ]
    return Pos(*(rng.uniform(-10, 10) for _ in range(3))) * Rot(*turn) * rng.choice(made)()


def any_solid(seed: int) -> Any:
    rng = random.Random(seed)
    solid = primitive(rng)
    for _ in range(rng.randint(0, 4)):
        other = primitive(rng)
        left = solid + other if rng.random() < 0.5 else solid - other
        if left is None or not left.solids():
            break  # all of it was cut away
        solid = left
    solids = solid.solids()
    return max(solids, key=lambda piece: piece.volume) if solids else Box(5, 6, 7).solid()


@settings(max_examples=30)
@given(seed=st.integers(0, 10**6))
def test_any_solid_is_read_and_is_the_shape_of_its_turned_copy(seed: int) -> None:
    solid, rng = any_solid(seed), random.Random(seed)
    part = features(solid)
    feature = feature_report(part, take_inventory(part, tolerance=TOLERANCE))
    assert all(say(line).strip() for line in feature_lines(feature, part.extents.tolist()))
    copy = features(moved(solid, rng))
    assert is_same_shape(part, copy, tolerance=TOLERANCE)


@settings(max_examples=15)
@given(seed=st.integers(0, 10**6))
def test_a_split_of_faces_changes_nothing(seed: int) -> None:
    rng = random.Random(seed)
    block = Box(30, 20, 10) - Pos(rng.uniform(-9, 9), rng.uniform(-5, 5), 0) * Cylinder(rng.uniform(1, 4), 40)
    plain, split = features(block), features(split_faces(block, rng))
    assert (len(split.planes), len(split.cylinders)) == (len(plain.planes), len(plain.cylinders))
    assert is_same_shape(plain, split, tolerance=TOLERANCE)
