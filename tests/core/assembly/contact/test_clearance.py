"""Gaps and overlaps against what geometry says by hand."""

import math
from typing import Any

import numpy as np
import pytest
from build123d import Box, Cylinder, Pos, Rot, Sphere

from rigid_bench.core.assembly.contact.clearance import clearances, place
from rigid_bench.core.values.frames import Pose
from tests.support.shapes import TOLERANCE, features


def between(a: Any, b: Any, within: float | None = None) -> Any:
    solids = [place(name, features(shape), Pose.identity()) for name, shape in (("a", a), ("b", b))]
    pairs = clearances(solids, tolerance=TOLERANCE, within_mm=within)
    return pairs[0] if pairs else None


@pytest.mark.parametrize(
    ("a", "b", "gap"),
    [
        (Box(10, 10, 10), Pos(13, 0, 0) * Box(10, 10, 10), 3.0),
        (Box(10, 10, 10), Pos(14, 13, 12) * Box(10, 10, 10), math.sqrt(16 + 9 + 4)),
        # a cube turned by 45 degrees points its edge at the other: half a diagonal is 5 sqrt 2
        (Box(10, 10, 10), Pos(20, 0, 0) * Rot(0, 0, 45) * Box(10, 10, 10), 15 - 5 * math.sqrt(2)),
        (Sphere(4), Pos(3, 4, 12) * Sphere(5), 13 - 9),
        # crossed cylinders: the distance of their axes less both radii
        (Cylinder(3, 50), Pos(10, 0, 0) * Rot(90, 0, 0) * Cylinder(2, 50), 5.0),
        (Cylinder(3.9, 30), Box(40, 40, 6) - Cylinder(4, 20), 0.1),
    ],
)
def test_the_gap_is_the_one_worked_out_by_hand(a: Any, b: Any, gap: float) -> None:
    pair = between(a, b)
    assert (pair.state, pair.gap_mm) == ("clear", pytest.approx(gap, abs=1e-6))
    assert np.linalg.norm(pair.at[0] - pair.at[1]) == pytest.approx(gap, abs=1e-6)


@pytest.mark.parametrize(
    ("a", "b", "volume"),
    [
        (Box(10, 10, 10), Pos(9, 8, 7) * Box(10, 10, 10), 1 * 2 * 3),
        (Box(20, 20, 20), Sphere(3), 4 / 3 * math.pi * 27),
        (Cylinder(5, 20), Pos(0, 0, 15) * Cylinder(4, 20), math.pi * 16 * 5),
    ],
)
def test_the_overlap_is_the_shared_volume(a: Any, b: Any, volume: float) -> None:
    pair = between(a, b)
    assert (pair.state, pair.gap_mm, pair.overlap_mm3) == (
        "interfering",
        0,
        pytest.approx(volume, rel=1e-5),
    )


def test_touching_is_neither_clear_nor_interfering() -> None:
    pair = between(Box(10, 10, 10), Pos(10, 0, 0) * Box(10, 10, 10))
    assert (pair.state, pair.gap_mm, pair.overlap_mm3) == ("touching", 0, 0)


def test_far_pairs_are_left_out_unless_asked_for() -> None:
    pair = Box(1, 1, 1), Pos(30, 0, 0) * Box(1, 1, 1)
    assert between(*pair, within=1.0) is None
    assert between(*pair).gap_mm == pytest.approx(29)


def test_nothing_and_one_solid_have_no_pairs() -> None:
    assert clearances([], tolerance=TOLERANCE) == []
