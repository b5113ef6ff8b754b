"""Holes in all their kinds, measured back as they were drilled; what each diameter may stand for."""

import math
from typing import Any

import pytest
from build123d import Box, Cone, Cylinder, Pos, Rot

from rigid_bench.core.formats.measure import PartReport
from rigid_bench.core.measurement.measure_report import measure_file
from rigid_bench.core.part.recognition.holes import find_holes
from tests.support.shapes import TOLERANCE, features, step

BLOCK = Box(60, 40, 20)
SHAFT = Cylinder(15, 60)


def measured(shape: Any) -> PartReport:
    (part,) = measure_file(step(Pos(3, 4, 5) * Rot(12, 34, 56) * shape), name="p.step", tolerance=TOLERANCE).parts
    return part


@pytest.mark.parametrize(
    ("shape", "holes"),
    [
        (BLOCK, []),
        (BLOCK - Cylinder(4, 60), [(8, 20, True, "plain")]),
        (BLOCK - Pos(0, 0, 6) * Cylinder(4, 8), [(8, 8, False, "plain")]),
        # from two sides, one floor between: two blind holes
        (
            BLOCK - Pos(0, 0, 8) * Cylinder(4, 8) - Pos(0, 0, -8) * Cylinder(4, 8),
            [(8, 6, False, "plain"), (8, 6, False, "plain")],
        ),
        # stepped: the widest at the mouth is an entry, the one within it a hole of its own
        (
            BLOCK - Cylinder(4, 60) - Pos(0, 0, 5) * Cylinder(7, 10) - Pos(0, 0, 8) * Cylinder(10, 4),
            [(8, 10, True, "plain"), (14, 6, True, "counterbore")],
        ),
        (BLOCK - Cylinder(3, 60) - Pos(0, 0, 8.5) * Cone(3, 6, 3), [(6, 17, True, "countersink")]),
        (BLOCK - Pos(0, 0, 4) * Cylinder(3, 12) - Pos(0, 0, 8.5) * Cone(3, 6, 3), [(6, 9, False, "countersink")]),
        # into a round wall, as deep as from its crown; through a tube, once for each wall
        (SHAFT - Pos(15, 0, 0) * Rot(0, 90, 0) * Cylinder(3, 16), [(6, 8, False, "plain")]),
        (
            SHAFT - Cylinder(12, 70) - Rot(0, 90, 0) * Cylinder(3, 60),
            [(6, None, True, "plain"), (6, None, True, "plain"), (24, 60, True, "plain")],
        ),
        # three that cross, and one that breaks the edge, which is none
        (
            BLOCK - Cylinder(4, 60) - Pos(16, 0, 0) * Cylinder(4, 60) - Rot(0, 90, 0) * Cylinder(3, 80),
            [(6, 60, True, "plain"), (8, 20, True, "plain"), (8, 20, True, "plain")],
        ),
        (BLOCK - Pos(30, 0, 0) * Cylinder(5, 60), []),
        # a keyway opens it and it is a hole all the same
        (BLOCK - Cylinder(6, 60) - Pos(6, 0, 0) * Box(4, 4, 60), [(12, 20, True, "plain")]),
    ],
)
def test_holes(shape: Any, holes: list[tuple[float, float | None, bool, str]]) -> None:
    described = sorted((hole.diameter, hole.depth, hole.through, hole.entry) for hole in measured(shape).holes)
    assert [(d, through, entry) for d, _, through, entry in described] == [
        (pytest.approx(d, abs=1e-6), through, entry) for d, _, through, entry in holes
    ]
    for (_, depth, *_), (_, wanted, *_) in zip(described, holes, strict=True):
        assert wanted is None or depth == pytest.approx(wanted, abs=1e-4)


def test_entries_have_their_sizes() -> None:
    bored, sunk = (
        measured(BLOCK - Cylinder(3, 60) - tool).holes[0]
        for tool in (Pos(0, 0, 7) * Cylinder(5.5, 6), Pos(0, 0, 8.5) * Cone(3, 6, 3))
    )
    assert (bored.entry_diameter, bored.entry_depth, bored.entry_angle) == (11, 6, None)
    assert (sunk.entry_diameter, sunk.entry_depth, sunk.entry_angle) == (12, 3, 90)


@pytest.mark.parametrize("angle", [10, 30, 45])
def test_a_slanted_hole_says_how_far_it_is_from_square(angle: float) -> None:
    (hole,) = find_holes(features(BLOCK - Rot(0, angle, 0) * Cylinder(3, 200)))
    assert math.degrees(hole.slant) == pytest.approx(angle, abs=1e-6)
    assert hole.through
    # along the axis from the first point of the mouth to the last: t / cos + D tan
    rad = math.radians(angle)
    assert hole.depth == pytest.approx(20 / math.cos(rad) + 6 * math.tan(rad), abs=1e-3)


@pytest.mark.parametrize(
    ("diameter", "said"),
    [
        (6.8, {"M8 tapping drill", "5/16-24 UNF minor diameter"}),
        (8.4, {"M8 clearance fine"}),
        (9, {"M8 clearance medium", "M10x1 tapping drill"}),
        (7.7, set()),
    ],
)
def test_a_plain_hole_says_what_thread_it_may_stand_for(diameter: float, said: set[str]) -> None:
    (hole,) = measured(BLOCK - Cylinder(diameter / 2, 60)).holes
    assert {f"{thread.designation} {thread.size}" for thread in hole.threads or []} == said


def test_a_boss_says_it_too() -> None:
    (boss,) = measured(BLOCK + Pos(0, 0, 15) * Cylinder(4, 10)).bosses
    assert [thread.designation for thread in boss.threads or []] == ["M8"]


def test_the_report_has_the_published_fields() -> None:
    """The names of formats that others rely on."""
    report = measure_file(step(BLOCK - Cylinder(4, 60), "Base plate"), name="kit.step", tolerance=TOLERANCE)
    document = report.model_dump(mode="json", by_alias=True)
    assert {"file", "units", "source_units", "schema", "parts", "instances", "warnings"} <= set(document)
    (part,) = document["parts"]
    wanted = {"id", "name", "solids", "closed", "volume", "area", "extents", "centroid", "shape"}
    assert wanted | {"holes", "bosses", "fillets", "chamfers"} <= set(part)
    (hole,) = part["holes"]
    assert {"diameter", "depth", "through", "entry", "position", "direction"} <= set(hole)
    (instance,) = document["instances"]
    assert instance["pose"] == {"position": [0, 0, 0], "quaternion": [1, 0, 0, 0]}
