"""Sizes, counts, shape, extras and volume of one part are asked: one slip costs one mark and is told once."""

from dataclasses import replace
from functools import cache
from typing import Any

import pytest
from build123d import Align, Box, Cylinder, Pos

from rigid_bench.core.exercise.authoring.propose_sizes import dimensions
from rigid_bench.core.exercise.bundle import Exercise, read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import Report
from rigid_bench.core.wording.phrases import amount
from rigid_bench.demo.modelling import cylinder, json_bytes, step_bytes
from tests.support.shapes import TOLERANCE, features

pytestmark = pytest.mark.thorough

CORNER = (Align.MIN, Align.MIN, Align.MIN)


def bracket(
    *, length: float = 100, floor: float = 10, wall: float = 30, pitch: float = 60,
    bores: tuple[float, ...] = (5.5,) * 4, eye: float = 7, eye_deep: float = 50,
    rib: bool = False, besides: bool = False, scale: float = 1,
) -> Any:  # fmt: skip
    """A floor with four bores and an eye, and a wall at its end, mm."""
    own = Box(length, 60, floor, align=CORNER) + Box(8, 60, wall, align=CORNER)
    places = [(25 + pitch * (k % 2), 15 + 30 * (k // 2)) for k in range(4)]
    own -= [Pos(x, y, 0) * Cylinder(bore / 2, 100) for (x, y), bore in zip(places, bores, strict=True)]
    own -= Pos(55, 30, floor) * Cylinder(eye / 2, 2 * eye_deep)
    if rib:
        own += Pos(40, 0, 0) * Box(4, 60, floor + 3, align=CORNER)
    if besides:
        own -= Pos(40, 50, 0) * Cylinder(2, 100)
    return own.scale(scale)


@cache
def exercise() -> Exercise:
    bore = {"cylinder": cylinder((25, 15, 0), (0, 0, 1), 2.75)["cylinder"]}
    base = {"part": "b", "marks": 1}
    sizes = [{"marks": 1, **check} for check in dimensions("b", features(bracket()), TOLERANCE)]
    exact = {"minus": 0, "plus": 0}
    count = {"kind": "dimension", "measure": "count", "of": bore, "nominal": 4, "tolerance": exact}
    volume = {
        "kind": "dimension",
        "measure": "volume",
        "nominal": bracket().volume,
        "tolerance": {"minus": 9, "plus": 9},
    }
    checks = [
        *sizes,
        {**base, **count, "id": "bores", "title": "Bores again"},
        {**base, "kind": "extras", "id": "extras", "title": "Extras"},
        {**base, "kind": "shape", "id": "shape", "title": "Shape"},
        {**base, **volume, "id": "volume", "title": "Volume"},
    ]
    part = {"id": "b", "name": "Bracket", "file": "b.step", "extras": "forbidden"}
    document = {"format": "rigid-bench/exercise", "version": 1, "id": "b", "title": "B", "checks": checks}
    files = {"exercise.json": json_bytes({**document, "parts": [part]}), "b.step": step_bytes(bracket(), "B")}
    return read_exercise(files)


def graded(caps: dict[str, float] | None = None, **slip: Any) -> Report:
    asked = exercise()
    if caps:
        asked = replace(asked, model=asked.model.model_copy(update={"caps": caps}))
    return grade(asked, {"mine.step": step_bytes(bracket(**slip), "B")}, tolerance=TOLERANCE)


@pytest.mark.parametrize(
    ("slip", "code"),
    [
        ({"length": 90}, None),
        ({"floor": 12}, None),
        ({"wall": 20}, None),
        ({"pitch": 50}, None),
        ({"eye": 3.5}, "radius-for-diameter"),
        ({"eye_deep": 4}, "not-through"),
        ({"bores": (11,) * 4}, "double"),
        ({"bores": (5.5, 5.5, 5.5, 11)}, "holes-of-other-size"),
        ({"besides": True}, "feature-extra"),
        ({"rib": True}, "feature-extra"),
        ({"scale": 25.4}, "unit-of-part"),
    ],
)
def test_one_slip_costs_one_mark_and_is_told_once(slip: dict[str, Any], code: str | None) -> None:
    report = graded(**slip)
    fallen = [check for check in report.checks if check.verdict != "met"]
    told = [check for check in fallen if check.follows is None]
    assert [check.cause and check.cause.code for check in told] == [code]
    assert sum(check.available - check.awarded for check in report.checks) == 1


def test_a_row_that_the_reference_misses_too_is_told_as_the_exercises_fault() -> None:
    document = exercise().model.model_dump(mode="json", exclude_none=True)
    document["checks"][0]["nominal"] = 101
    files = {"exercise.json": json_bytes(document), "b.step": step_bytes(bracket(), "B")}
    wrong = read_exercise(files)
    report = grade(wrong, {"mine.step": step_bytes(bracket(), "B")}, tolerance=TOLERANCE)
    (told,) = report.notices
    assert (told.code, told.params["title"], told.params["measured"]) == (
        "reference-misses",
        "Length",
        amount(100, "length", "mm"),
    )
    assert not graded(length=90).notices


def test_a_right_part_loses_nothing() -> None:
    assert {check.verdict for check in graded().checks} == {"met"}


def test_a_part_in_another_unit_is_told_to_set_the_unit() -> None:
    first, *others = graded(scale=25.4).checks
    assert "unit of the file" in first.next_step
    assert all(check.cause and "the unit of the file" in check.cause.text for check in others if check.follows)


def test_a_wrong_unit_caps_the_mark_as_the_exercise_says() -> None:
    report = graded(caps={"wrong unit": 40}, scale=25.4)
    assert report.percent == 40
    assert [check.caps_at for check in report.checks if check.caps_at is not None] == [40]
    assert graded(caps={"wrong unit": 40, "missing part": 10}, length=90).percent > 90
