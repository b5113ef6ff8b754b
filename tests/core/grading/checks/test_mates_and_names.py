"""Mates of a required kind, and names by pattern."""

import json
from typing import Any

import pytest

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.demo import pedal_bin
from tests.support.samples import bundle_of, files_of
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

RIGHT = pedal_bin.SAMPLES[0]
ON_PIN = "'pedal on its pin' (coaxial) and 'pedal off the plate' (distance)"


def graded(check: dict[str, Any], *, step_only: bool = False) -> CheckResult:
    bundle = bundle_of(pedal_bin)
    document = json.loads(bundle["exercise.json"])
    document |= {"checks": [{"id": "x", "title": "X", "marks": 1, **check}], "stages": []}
    exercise = read_exercise({**bundle, "exercise.json": json.dumps(document).encode()})
    files = {name: data for name, data in files_of(RIGHT).items() if not step_only or name.endswith(".step")}
    return grade(exercise, files, tolerance=TOLERANCE).checks[0]


@pytest.mark.parametrize(
    ("a", "b", "kinds", "verdict", "measured"),
    [
        ("rod-1", "arm-1", ["revolute"], "met", "'rod on the arm' (revolute)"),
        ("plate-1", "pedal-1", ["revolute", "coaxial"], "met", ON_PIN),
        ("plate-1", "pedal-1", ["fixed"], "missed", ON_PIN),
        ("pedal-1", "arm-1", ["revolute"], "missed", "no mate between them"),
    ],
)  # fmt: skip
def test_a_mate_of_a_kind_is_looked_for(a: str, b: str, kinds: list[str], verdict: str, measured: str) -> None:
    result = graded({"kind": "mate", "a": a, "b": b, "kinds": kinds})
    assert (result.verdict, result.measured) == (verdict, measured)


def test_mates_are_unchecked_without_a_build_file_and_unknown_kinds_refused() -> None:
    check = {"kind": "mate", "a": "rod-1", "b": "arm-1", "kinds": ["revolute"]}
    assert graded(check, step_only=True).verdict == "unchecked"
    with pytest.raises(InvalidDocument, match="there is no kind of mate 'glue'"):
        graded({**check, "kinds": ["glue"]})


@pytest.mark.parametrize(
    ("pattern", "verdict", "measured"), [("*", "met", "all 4 names"), ("P*", "missed", "1 of 4 names")]
)
def test_names_follow_a_pattern(pattern: str, verdict: str, measured: str) -> None:
    result = graded({"kind": "names", "pattern": pattern})
    assert (result.verdict, result.measured) == (verdict, measured)
