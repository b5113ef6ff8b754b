"""Patterns of holes and slots: count, pitch and pitch circle, wherever the part stands."""

import math
from typing import Any

import pytest
from build123d import Box, Cylinder, Pos, Rot

from rigid_bench.core.part.recognition.inventory import take_inventory
from tests.support.shapes import TOLERANCE, features

HOLE, HUB = Cylinder(2, 60), Cylinder(8, 20)


def at(*places: tuple[float, float]) -> list[Any]:
    return [Pos(x, y, 0) * HOLE for x, y in places]


def ring(count: int, radius: float, step: float | None = None) -> list[Any]:
    return [Rot(0, 0, (step or 360 / count) * k) * Pos(radius, 0, 0) * HOLE for k in range(count)]


ROW = [(-40 + 15 * k, 0) for k in range(5)]
GRID = [(15 * i, 20 * j) for i in range(3) for j in (-1, 0)]
CORNERS = [(x, y) for x in (-44, 44) for y in (-44, 44)]


@pytest.mark.parametrize(
    ("shape", "patterns"),
    [
        (Box(100, 40, 5), []),
        (Box(100, 40, 5) - at((0, 0), (9, 0)), []),
        (Box(100, 60, 5) - at((0, 0), (20, 3), (-14, 9)), []),
        (Box(100, 40, 5) - at(*ROW), [("linear", (5,), (15,), 0)]),
        (Box(100, 40, 5) - at(*ROW, (-40, 13), (22, -11)), [("linear", (5,), (15,), 0)]),
        (Box(100, 60, 5) - at(*GRID), [("rectangular", (2, 3), (20, 15), 0)]),
        (Cylinder(40, 5) - ring(6, 25), [("circular", (6,), (25,), 50)]),
        (Box(90, 90, 5) - Pos(8, 0, 0) * ring(5, 20), [("circular", (5,), (40 * math.sin(math.pi / 5),), 40)]),
        (Box(120, 120, 5) - ring(5, 45, 20) - HUB, [("circular", (5,), (90 * math.sin(math.pi / 18),), 90)]),
        # a square about a bore is both; a bolt circle within it is found as well
        (
            Box(100, 100, 5) - ring(6, 25) - at(*CORNERS) - HUB,
            [("circular", (4,), (88,), 88 * math.sqrt(2)), ("circular", (6,), (25,), 50)],
        ),
        (Box(100, 100, 5) - at(*CORNERS), [("rectangular", (2, 2), (88, 88), 0)]),
    ],
)  # fmt: skip
def test_patterns(shape: Any, patterns: list[tuple[Any, ...]]) -> None:
    inventory = take_inventory(features(Pos(3, 4, 5) * Rot(12, 34, 56) * shape), tolerance=TOLERANCE)
    described = sorted(
        (pattern.pattern for pattern in inventory.patterns), key=lambda pattern: (pattern.kind, pattern.counts)
    )
    ordered = [
        (pattern.kind, *zip(*sorted(zip(pattern.counts, pattern.pitches, strict=True)), strict=True))
        for pattern in described
    ]
    assert [(kind, counts, pytest.approx(pitches)) for kind, counts, pitches in ordered] == [
        (kind, counts, pitches) for kind, counts, pitches, _ in patterns
    ]
    assert [pattern.pitch_circle for pattern in described] == [pytest.approx(circle) for *_, circle in patterns]


@pytest.mark.parametrize(("count", "step"), [(6, 60), (3, 120), (4, 90)])
def test_holes_that_point_at_an_axis_are_a_radial_pattern(count: int, step: float) -> None:
    sleeve = Cylinder(20, 30) - Cylinder(14, 40)
    holes = [Rot(0, 0, 360 / count * k) * Pos(17, 0, 0) * Rot(0, 90, 0) * Cylinder(2, 10) for k in range(count)]
    patterns = take_inventory(features(Rot(20, 30, 0) * (sleeve - holes)), tolerance=TOLERANCE).patterns
    radial = [pattern.pattern for pattern in patterns if pattern.pattern.kind == "radial"]
    assert [(pattern.counts, math.degrees(pattern.step)) for pattern in radial] == [((count,), pytest.approx(step))]


def test_holes_unevenly_round_an_axis_are_none() -> None:
    sleeve = Cylinder(20, 30) - Cylinder(14, 40)
    holes = [Rot(0, 0, angle) * Pos(17, 0, 0) * Rot(0, 90, 0) * Cylinder(2, 10) for angle in (0, 100, 240)]
    assert take_inventory(features(sleeve - holes), tolerance=TOLERANCE).patterns == ()
