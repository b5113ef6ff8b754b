"""Parts asked for by description: no reference model, in any pose and unit."""

from typing import Any

import pytest
from build123d import Box, Cylinder, Pos, Rot, fillet

from rigid_bench.core.exercise.bundle import Exercise, read_exercise
from rigid_bench.core.grading.grade import describe, grade
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.demo.modelling import json_bytes, step_bytes
from tests.support.shapes import TOLERANCE, inch_step, mirrored, scaled

HOLES = [
    {"diameter": 8, "at": [15, 12]},
    {"diameter": 8, "at": [60, 12]},
    {"diameter": 5, "depth": 4, "at": [30, 30]},
]


def plate(*, first: float = 8.0, third_at: float = 30.0, thick: float = 10.0, corner: float = 6.0) -> Any:
    """A plate of 80 x 50, holes from its lower left corner, one corner rounded."""
    block = Pos(40, 25, thick / 2) * Box(80, 50, thick)
    edge = max((e for e in block.edges() if abs(e.tangent_at(0).Z) > 0.9), key=lambda e: e.center().X + e.center().Y)
    drilled = [Pos(15, 12) * Cylinder(first / 2, 50), Pos(60, 12) * Cylinder(4, 50)]
    return fillet(edge, corner) - [*drilled, Pos(third_at, 30, thick - 2) * Cylinder(2.5, 4)]


def exercise(**more: Any) -> Exercise:
    checks = [
        {"id": f"size-{axis}", "kind": "dimension", "measure": "extent", "axis": axis, "nominal": size}
        for axis, size in (("x", 80), ("y", 50), ("z", 10))
    ]
    checks += [
        {"id": "holes", "kind": "holes", "holes": HOLES},
        {"id": "bore", "kind": "dimension", "measure": "diameter", "nominal": 8},
        {"id": "pin", "kind": "dimension", "measure": "diameter", "nominal": 5},
        {"id": "corner", "kind": "dimension", "measure": "radius", "nominal": 6},
        {"id": "thick", "kind": "dimension", "measure": "thickness", "nominal": 10},
        {"id": "volume", "kind": "dimension", "measure": "volume", "nominal": plate().volume},
        {"id": "parts", "kind": "parts", "part": None},
    ]
    rows = [{"title": check["id"], "marks": 3, "part": "plate", **check} for check in checks]
    rows[-1].pop("part")
    document = {"format": "rigid-bench/exercise", "version": 1, "id": "plate", "title": "Plate", "checks": rows}
    return read_exercise(
        {"exercise.json": json_bytes({**document, "parts": [{"id": "plate", "name": "Plate"}], **more})}
    )


def graded(data: bytes) -> dict[str, CheckResult]:
    return {check.id: check for check in grade(exercise(), {"mine.step": data}, tolerance=TOLERANCE).checks}


def fallen(rows: dict[str, CheckResult]) -> set[str]:
    return {result.id for result in rows.values() if result.verdict != "met"}


@pytest.mark.parametrize(
    "data",
    [
        step_bytes(plate(), "Plate"),
        step_bytes(Pos(5, 70, -3) * Rot(20, 130, 77) * plate(), "Thing"),
        inch_step(Rot(0, 90, 0) * plate(), "x"),
    ],
    ids=["as drawn", "turned and renamed", "in inches"],
)
def test_a_right_part_gets_all_marks_in_any_pose_and_unit(data: bytes) -> None:
    assert fallen(graded(data)) == set()


def test_a_radius_typed_for_a_diameter_falls_where_it_shows() -> None:
    rows = graded(step_bytes(Rot(40, 50, 60) * plate(first=16), "Plate"))
    assert fallen(rows) == {"holes", "volume"}
    assert rows["holes"].measured == "2 of 3 as asked"
    assert rows["holes"].awarded == pytest.approx(2)
    assert rows["holes"].cause
    assert "Ø8 through at (15, 12): found Ø16 through at (15, 12)" in rows["holes"].cause.text
    assert fallen(graded(step_bytes(plate(corner=3), "Plate"))) == {"corner", "volume"}


def test_a_hole_in_the_wrong_place_and_a_mirrored_part_fall_in_the_hole_table() -> None:
    moved = graded(step_bytes(Rot(0, 0, 90) * plate(third_at=33), "Plate"))
    assert fallen(moved) == {"holes"}
    assert moved["holes"].cause
    assert "Ø5 4 mm deep at (30, 30): found Ø5 4 mm deep at (33, 30)" in moved["holes"].cause.text
    assert "holes" in fallen(graded(step_bytes(mirrored(plate()), "Plate")))


def test_a_slipped_unit_of_the_whole_part_is_told_once() -> None:
    rows = graded(step_bytes(scaled(plate(), 25.4), "Plate"))
    causes = [result.cause.code for result in rows.values() if result.cause]
    assert causes.count("unit-of-part") == 1
    assert rows["size-y"].follows == "size-x"


def test_what_needs_a_reference_is_refused_before_anything_is_measured() -> None:
    for check, says in (
        (
            {"kind": "dimension", "measure": "pitch", "nominal": 3},
            "Name its file, or ask one of: area, chamfers, closed",
        ),
        ({"kind": "shape"}, "Name its file"),
    ):
        rows = [{"id": "a", "title": "A", "marks": 1, "part": "plate", **check}]
        with pytest.raises(InvalidDocument, match="no reference model") as caught:
            describe(exercise(checks=rows))
        assert says in caught.value.next_step
