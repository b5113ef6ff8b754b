"""Edges as arrays: the angles at which surfaces meet, how far surfaces reach, their outlines as straight pieces."""

import math
from typing import Any

import numpy as np
import pytest
from build123d import Axis, Box, Cylinder, Pos, Rot, fillet

from rigid_bench.core.part.edges import CIRCLE, ELLIPSE, LINE
from rigid_bench.core.part.faces import Cylinder as Wall
from rigid_bench.core.part.faces import Plane, joined_arcs, widest_opening
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.flat_bounds import FlatBounds
from tests.support.shapes import features

CORNER = Box(30, 20, 4) + Pos(-13, 0, 10) * Box(4, 20, 20)


def part(shape: Any) -> PartFeatures:
    return features(Pos(3, -4, 5) * Rot(15, 25, 35) * shape)


@pytest.mark.parametrize(
    ("shape", "angles"),
    [
        (Box(3, 4, 5), {-90: 12}),
        (Cylinder(3, 9), {-90: 2}),
        (Box(30, 30, 10) - Cylinder(4, 30), {-90: 14}),
        (Box(30, 30, 10) - Pos(0, 0, 5) * Box(9, 9, 6), {-90: 16, 90: 8}),
        (fillet(Box(30, 20, 10).edges().filter_by(Axis.Z), 2), {-90: 16, 0: 8}),
        (CORNER, {-90: 17, 90: 1}),
    ],
)
def test_outside_corners_are_below_zero_and_inside_ones_above(shape: Any, angles: dict[int, int]) -> None:
    degrees = np.round(np.degrees(part(shape).edges.angles)).astype(int)
    assert dict(zip(*np.unique(degrees, return_counts=True), strict=True)) == angles


def test_curves_are_known_by_kind() -> None:
    edges = part(Box(30, 30, 10) - Rot(0, 30, 0) * Cylinder(3, 60)).edges
    assert np.bincount(edges.kinds, minlength=4).tolist() == [12, 0, 2, 0]
    assert (LINE, CIRCLE, ELLIPSE) == (0, 1, 2)


def test_a_wall_cut_askew_reaches_to_its_farthest_point() -> None:
    features = part(Cylinder(5, 40) - Pos(0, 0, 30) * Rot(0, 30, 0) * Box(100, 100, 30))
    (wall,) = [surface for surface in features.surfaces if isinstance(surface, Wall)]
    # the cut meets the axis where 15 / cos 30 is taken off, and rises by r tan 30 on one side
    top = 30 - 15 / math.cos(math.pi / 6) + 5 * math.tan(math.pi / 6)
    assert wall.length == pytest.approx(20 + top, abs=1e-4)


def test_points_are_placed_on_faces_with_holes() -> None:
    part = features(Box(30, 30, 10) - Cylinder(4, 30))
    bounds = FlatBounds(part)
    top = next(k for k, surface in enumerate(part.surfaces) if isinstance(surface, Plane) and surface.normal[2] > 0.99)
    points = np.array([[0.0, 0, 5], [3.9, 0, 5], [4.1, 0, 5], [14.9, 14.9, 5], [15.1, 0, 5]])
    assert bounds.holds(top, points).tolist() == [False, False, True, True, False]


def test_arcs_round_an_axis_are_joined_where_they_meet() -> None:
    x, y, z = np.eye(3)
    half, quarter = math.pi, math.pi / 2
    assert [sweep for _, sweep in joined_arcs(((x, half), (y, half)), z)] == [pytest.approx(1.5 * math.pi)]
    assert [sweep for _, sweep in joined_arcs(((x, quarter), (-x, quarter)), z)] == [pytest.approx(quarter)] * 2
    assert widest_opening(((x, quarter), (-x, quarter)), z) == pytest.approx(quarter)
    assert widest_opening(((x, half),), z) == pytest.approx(half)


@pytest.mark.parametrize("flats", [0, 1, 2])
def test_a_shaft_with_flats_goes_round(flats: int) -> None:
    bar = Cylinder(10, 30)
    for side in (1, -1)[:flats]:
        bar -= Pos(0, side * 13, 0) * Box(40, 10, 40)
    (wall,) = part(bar).cylinders
    assert wall.goes_round
    # each flat, 8 from the axis, takes 2 acos 0.8 from the round
    assert wall.sweep == pytest.approx(2 * math.pi - flats * 2 * math.acos(0.8), abs=1e-6)
    assert len(part(bar).bosses) == 1


@pytest.mark.parametrize("seed", range(4))
def test_round_outlines_reach_as_far_as_their_points_in_any_direction(seed: int) -> None:
    """Discs and arcs, against points along them."""
    shape = fillet(Box(30, 20, 4).edges().filter_by(Axis.Z)[:2], 6) - Pos(5, 0, 0) * Cylinder(4, 30)
    stepped = part(shape)
    direction = np.random.default_rng(seed).normal(size=3)
    direction /= np.linalg.norm(direction)
    for number, surface in enumerate(stepped.surfaces):
        low, high = stepped.edges.extent(number, direction)
        starts, ends = stepped.edges.polylines(number)
        seen = np.concatenate([starts, ends]) @ direction
        assert low <= seen.min() + 1e-9
        assert high >= seen.max() - 1e-9
        assert high - low <= np.ptp(seen) + 0.12, surface  # no further than chords stay off their arcs


def test_a_disc_reaches_its_diameter_across() -> None:
    part = features(Cylinder(4, 10))
    top = next(k for k, surface in enumerate(part.surfaces) if isinstance(surface, Plane) and surface.normal[2] > 0.99)
    for angle in np.linspace(0, math.pi, 7):
        way = np.array([math.cos(angle), math.sin(angle), 0.0])
        assert part.edges.extent(top, way) == pytest.approx((-4, 4), abs=1e-9)
