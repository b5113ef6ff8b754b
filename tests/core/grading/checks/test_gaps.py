"""Gaps by fit, by classroom values and on the diameter; steps; overlaps that are meant."""

import json
import math
from typing import Any

import pytest

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.demo import pedal_bin
from rigid_bench.demo.modelling import cylinder, plane
from tests.support.samples import bundle_of, files_of
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

BINS = {sample.name: sample for sample in pedal_bin.SAMPLES}
UP = (0.0, 0.0, 1.0)
WALLS = [cylinder((0, 0, 6), UP, 4), cylinder((0, 0, 3), UP, 4.1)]
ROUND = {"kind": "gap", "a": "plate-1", "b": "pedal-1", "between": WALLS}


def graded(
    check: dict[str, Any], *, sample: str = "bin-right", moved: tuple[float, float, float] = (0, 0, 0), **more: Any
) -> CheckResult:
    """Judge one check on a sample build, its pedal moved by so much."""
    bundle, files = bundle_of(pedal_bin), files_of(BINS[sample])
    document = json.loads(bundle["exercise.json"])
    document |= {"checks": [{"id": "x", "title": "X", "marks": 1, **check}], "stages": [], **more}
    build = json.loads(files["bin.build.json"])
    pose = build["instances"][1]["pose"]
    pose["position"] = [a + b for a, b in zip(pose["position"], moved, strict=True)]
    exercise = read_exercise({**bundle, "exercise.json": json.dumps(document).encode()})
    submitted = {**files, "bin.build.json": json.dumps(build).encode()}
    return grade(exercise, submitted, tolerance=TOLERANCE).checks[0]


def test_a_gap_on_the_diameter_is_shown_both_ways() -> None:
    result = graded({**ROUND, "min": 0.15, "max": 0.25, "per": "diameter"})
    assert (result.verdict, result.measured) == ("met", "0.1 mm a side, 0.2 mm on the diameter")
    assert result.required == "0.075 to 0.125 mm a side"


def test_a_fit_gives_the_range_of_its_standard() -> None:
    """ISO 286-2 for 6 to 10 mm: H7 is 0/+15, g6 is -5/-14 micrometres."""
    result = graded({**ROUND, "fit": "H7/g6"})
    assert result.required == "0.0025 to 0.0145 mm a side (H7/g6)"  # 2.5 to 14.5 micrometres
    assert result.verdict == "missed"


def test_classroom_values_are_the_programs_or_the_exercises_own() -> None:
    asked = {**ROUND, "fit": "turn, printed"}
    assert (graded(asked).verdict, graded(asked).required) == ("missed", "0.3 to 0.5 mm a side (turn, printed)")
    assert graded(asked, allowances={"printed": {"turn": [0.05, 0.15]}}).verdict == "met"
    with pytest.raises(InvalidDocument, match="there is no fit 'hover, printed'"):
        graded({**ROUND, "fit": "hover, printed"})


def test_an_even_gap_looks_at_both_sides() -> None:
    asked = {**ROUND, "min": 0.02, "max": 0.12}
    assert graded(asked, moved=(0.06, 0, 0)).verdict == "met"
    result = graded({**asked, "even": True}, moved=(0.06, 0, 0))
    assert (result.verdict, result.measured) == ("missed", "0.04 mm to 0.16 mm")
    assert graded({**asked, "even": True}).verdict == "met"


@pytest.mark.parametrize(("lift", "said", "verdict"), [(0.0, "7 mm proud", "met"), (0.5, "7.5 mm proud", "missed")])
def test_a_step_is_proud_or_sunk(lift: float, said: str, verdict: str) -> None:
    faces = [plane((5, 50, 0), UP), plane((30, 0, 6), UP)]
    check = {"kind": "step", "a": "plate-1", "b": "pedal-1", "between": faces, "min": 6.9, "max": 7.1}
    result = graded(check, moved=(0, 0, lift))
    assert (result.measured, result.verdict) == (said, verdict)
    sunk = graded({**check, "a": "pedal-1", "b": "plate-1", "between": faces[::-1], "min": -7.1, "max": 0})
    assert (sunk.measured, sunk.verdict, sunk.required) == ("7 mm sunk", "met", "7.1 mm sunk to flush")


def test_an_overlap_that_is_meant_is_held_to_its_own_range() -> None:
    """Bores of Ø4.1 on pins of Ø8, 6 mm long: a ring of pi (4² - 2.05²) 6 mm³ each."""
    ring = math.pi * (16 - 2.05**2) * 6
    pins = [
        {"a": "plate-1", "b": instance, "min": ring - 1, "max": ring + 1, "why": "press"}
        for instance in ("pedal-1", "arm-1")
    ]
    sample = "bin-radius-for-diameter"
    assert graded({"kind": "interference", "expected": pins}, sample=sample).verdict == "met"
    assert graded({"kind": "interference", "expected": pins[:1]}, sample=sample).verdict == "missed"
    result = graded({"kind": "interference", "expected": pins})  # nothing overlaps in the right build
    assert result.cause
    assert (result.cause.code, result.measured) == ("overlap-as-meant", "0 mm³ shared")


def test_a_round_part_beside_its_hole_has_no_gap_yet_and_the_row_of_its_mate_is_told_alone() -> None:
    beside = graded({**ROUND, "min": 0.1, "max": 0.3}, moved=(20, 0, 0))
    assert beside.measured == "not in line: the axes are 20 mm apart"
    assert (beside.cause and beside.cause.code, beside.difference) == ("not-in-line", None)
    off_centre = graded({**ROUND, "min": 0.1, "max": 0.3}, moved=(0.5, 0, 0))
    assert "overlaps by" in off_centre.measured
