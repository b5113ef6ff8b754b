"""Outlines, tangency and fits: a tray with a shaped pocket, and the insert that goes into it."""

from dataclasses import replace
from typing import Any

import pytest
from build123d import Axis, Box, Cylinder, Pos, Rot, fillet

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import describe, grade
from rigid_bench.core.grading.report.models import Report
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.demo.modelling import cylinder, json_bytes, plane, step_bytes
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough


def tray(length: float = 30.0, corner: float = 4.0) -> Any:
    return Box(60, 40, 12) - Pos(0, 0, 6) * fillet(Box(length, 20, 10).edges().filter_by(Axis.Z), corner)


def insert(length: float = 29.4, *, end: Any = None) -> Any:
    block = fillet(Box(length, 19.4, 8).edges().filter_by(Axis.Z), 3.7)
    return Pos(0, 0, -6) * Box(50, 30, 4) + (end or block)


FLOOR, TOP = plane((0, 0, 1), (0, 0, 1)), plane((0, 0, 4), (0, 0, 1))
LIMITS = {"minus": 0.05, "plus": 0.05}


def exercise(**changes: Any) -> Any:
    size = {"kind": "dimension", "marks": 1, "part": "tray", "tolerance": LIMITS, "nominal": 0}
    checks = [
        {**size, "id": "outline", "title": "Pocket outline", "measure": "outline", "of": FLOOR},
        {
            **size,
            "id": "smooth",
            "title": "Corner runs into its wall",
            "measure": "tangency",
            "between": [cylinder((11, 6, 1), (0, 0, 1), 4), plane((15, 0, 5), (-1, 0, 0))],
        },
        {
            "id": "fit",
            "title": "Insert in tray",
            "kind": "fit",
            "marks": 2,
            "pocket": {"part": "tray", **FLOOR},
            "peg": {"part": "insert", **TOP},
            "min": 0.2,
            "max": 0.4,
        },
    ]
    document = {
        "format": "rigid-bench/exercise",
        "version": 1,
        "id": "tray",
        "title": "Tray",
        "units": "mm",
        "parts": [
            {"id": name, "name": name.title(), "file": f"{name}.step", "origin": "made", "count": 1}
            for name in ("tray", "insert")
        ],
        "checks": checks,
        **changes,
    }
    files = {"tray.step": step_bytes(tray(), "Tray"), "insert.step": step_bytes(insert(), "Insert")}
    return read_exercise({"exercise.json": json_bytes(document), **files})


@pytest.mark.parametrize(
    ("own_tray", "own_insert", "verdicts"),
    [
        (tray(), insert(), {"outline": "0 mm", "smooth": "0°", "fit": "0.3 mm a side"}),
        (Rot(30, 40, 50) * tray(), insert(), {"outline": "0 mm", "smooth": "0°", "fit": "0.3 mm a side"}),
        (tray(29), insert(), {"outline": "0.5 mm", "smooth": "0°", "fit": "too large by 0.2 mm a side"}),
        (tray(), insert(29.8), {"outline": "0 mm", "smooth": "0°", "fit": "0.1 mm a side"}),
        (tray(), insert(end=Cylinder(9, 8)), {"outline": "0 mm", "smooth": "0°", "fit": "not found"}),
    ],
)
def test_outlines_and_fits(own_tray: Any, own_insert: Any, verdicts: dict[str, str]) -> None:
    files = {"a.step": step_bytes(own_tray, "Tray"), "b.step": step_bytes(own_insert, "Insert")}
    report = grade(exercise(), files, tolerance=TOLERANCE)
    assert {check.id: check.measured for check in report.checks} == verdicts


def test_a_face_of_no_pocket_and_an_unknown_part_are_refused() -> None:
    edge = {"id": "x", "title": "X", "kind": "dimension", "marks": 1, "part": "tray", "tolerance": LIMITS, "nominal": 0}
    wrong = exercise(checks=[{**edge, "measure": "outline", "of": plane((0, 0, 6), (0, 0, 1))}])
    files = {"a.step": step_bytes(tray(), "Tray")}
    with pytest.raises(InvalidDocument, match="belongs to no pocket"):
        grade(wrong, files, tolerance=TOLERANCE)
    lost = {"part": "lid", **FLOOR}
    fit = {"id": "f", "title": "F", "kind": "fit", "marks": 1, "pocket": lost, "peg": lost, "min": 0, "max": 1}
    with pytest.raises(InvalidDocument, match="no part 'lid'"):
        describe(exercise(checks=[fit]))


def rail(pitch: float) -> Any:
    return Box(100, 20, 5) - [Pos(pitch * k, 3, 0) * Cylinder(2, 20) for k in (-1, 0, 1)]


@pytest.mark.parametrize(("pitch", "verdict"), [(30, "met"), (30.03, "met"), (30.1, "missed")])
def test_hole_patterns_of_two_parts_fit_each_other(pitch: float, verdict: str) -> None:
    holes = [cylinder((30 * k, 3, 0), (0, 0, 1), 2)["cylinder"] for k in (-1, 0, 1)]
    check = {"id": "p", "title": "P", "kind": "pattern", "marks": 1, "max": 0.05}
    sides = {"a": {"part": "tray", "cylinders": holes}, "b": {"part": "insert", "cylinders": holes}}
    document = exercise(checks=[{**check, **sides}])
    rails = {"tray": step_bytes(rail(30), "Tray"), "insert": step_bytes(rail(30) + Pos(0, 0, 9) * Box(9, 9, 16), "I")}
    wanted = replace(document, part_files=rails)
    own = Rot(40, 50, 60) * (rail(pitch) + Pos(0, 0, 9) * Box(9, 9, 16))
    files = {"a.step": step_bytes(rail(30), "Tray"), "b.step": step_bytes(own, "Insert")}
    (result,) = grade(wanted, files, tolerance=TOLERANCE).checks
    assert result.verdict == verdict


def test_patterns_of_another_number_of_holes_are_told_so_and_the_report_can_be_kept() -> None:
    holes = [cylinder((30 * k, 3, 0), (0, 0, 1), 2)["cylinder"] for k in (-1, 0, 1)]
    sides = {"a": {"part": "tray", "cylinders": holes}, "b": {"part": "insert", "cylinders": holes[:2]}}
    document = exercise(checks=[{"id": "p", "title": "P", "kind": "pattern", "marks": 1, "max": 0.05, **sides}])
    rails = {"tray": step_bytes(rail(30), "Tray"), "insert": step_bytes(rail(30) + Pos(0, 0, 9) * Box(9, 9, 16), "I")}
    files = {"a.step": rails["tray"], "b.step": rails["insert"]}
    report = grade(replace(document, part_files=rails), files, tolerance=TOLERANCE)
    assert report.checks[0].measured == "3 holes in the one, 2 in the other"
    assert Report.model_validate_json(report.model_dump_json()) == report
