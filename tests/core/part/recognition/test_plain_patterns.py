"""Patterns of bare places: rows, grids, circles and what points at an axis, by plane geometry alone."""

import math

import numpy as np
import pytest
from numpy.typing import NDArray

from rigid_bench.core.part.recognition.patterns import Pattern, find_patterns, find_radial
from rigid_bench.core.values.frames import any_normal

_Array = NDArray[np.float64]
WAYS = [np.array(way) / np.linalg.norm(way) for way in ((0.0, 0, 1), (1.0, 2, -2), (-3.0, 1, 0.5))]


def on_plane(places: list[tuple[float, float]], way: _Array) -> _Array:
    x = any_normal(way)
    placed: _Array = np.array([5.0, -2, 3]) + np.array([a * x + b * np.cross(way, x) for a, b in places])
    return placed


def circle(count: int, radius: float, span: float = 360.0) -> list[tuple[float, float]]:
    """Places on a circle: round it, or over an arc of it."""
    step = math.radians(span / (count if span == 360 else count - 1))
    return [(radius * math.cos(k * step), radius * math.sin(k * step)) for k in range(count)]


@pytest.mark.parametrize("way", WAYS, ids=str)
@pytest.mark.parametrize("count", [3, 5, 8])
def test_a_circle_of_holes_has_its_chord(way: _Array, count: int) -> None:
    """The chord between neighbours is D sin(180°/n)."""
    centre = on_plane([(0, 0)], way)[0]
    (pattern,) = find_patterns(on_plane(circle(count, 25), way), way, [centre])
    assert (pattern.kind, pattern.counts, pattern.pitch_circle) == ("circular", (count,), pytest.approx(50))
    assert pattern.pitches == pytest.approx((50 * math.sin(math.pi / count),))
    assert pattern.step == pytest.approx(2 * math.pi / count)
    assert np.cross(pattern.centre - centre, way) == pytest.approx(0, abs=1e-6)


@pytest.mark.parametrize("way", WAYS, ids=str)
@pytest.mark.parametrize(("columns", "rows"), [(2, 3), (4, 2), (3, 3)])
def test_a_grid_has_two_pitches_and_a_row_one(way: _Array, columns: int, rows: int) -> None:
    grid = [(12.0 * i, 17.0 * j) for i in range(columns) for j in range(rows)]
    (pattern,) = find_patterns(on_plane(grid, way), way, [])
    assert pattern.kind == "rectangular"
    pitches = dict(zip(pattern.pitches, pattern.counts, strict=True))
    assert {round(pitch): count for pitch, count in pitches.items()} == {12: columns, 17: rows}
    (row,) = find_patterns(on_plane([(9.0 * k, 0) for k in range(columns + 1)], way), way, [])
    assert (row.kind, row.counts, row.pitches) == ("linear", (columns + 1,), pytest.approx((9.0,)))


def test_two_places_and_places_anyhow_make_no_pattern() -> None:
    way = WAYS[0]
    assert find_patterns(on_plane([(0, 0), (9, 0)], way), way, []) == []
    assert find_patterns(on_plane([(0, 0), (20, 3), (-14, 9)], way), way, []) == []


def test_a_pattern_counts_its_members_in_another_list() -> None:
    way = WAYS[0]
    (row,) = find_patterns(on_plane([(9.0 * k, 0) for k in range(3)], way), way, [])
    renamed: Pattern = row.renamed([10, 20, 30])
    assert sorted(renamed.members) == [10, 20, 30]
    assert (renamed.kind, renamed.pitches) == (row.kind, row.pitches)


@pytest.mark.parametrize("way", WAYS, ids=str)
@pytest.mark.parametrize("count", [3, 4, 6])
def test_holes_that_point_at_an_axis_all_round_it_are_a_radial_pattern(way: _Array, count: int) -> None:
    origin, places = np.array([5.0, -2, 3]), on_plane(circle(count, 20), way)
    directions = (places - origin) / 20
    (pattern,) = find_radial(places, directions, (origin, way))
    assert (pattern.kind, pattern.counts) == ("radial", (count,))
    assert pattern.pitches == pytest.approx((40 * math.sin(math.pi / count),))
    assert sorted(pattern.members) == list(range(count))
    lifted = places + np.outer(np.arange(count) == 0, 2.0 * way)
    assert find_radial(lifted, directions, (origin, way)) == []  # one stands higher
    turned = directions + 0.2 * np.cross(way, directions)
    assert find_radial(places, turned / np.linalg.norm(turned, axis=1)[:, None], (origin, way)) == []  # past the axis
    assert count == 3 or find_radial(places[1:], directions[1:], (origin, way)) == []  # not all round
