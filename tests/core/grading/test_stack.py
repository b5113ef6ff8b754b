"""Whether a screw reaches, and whether its tip is clear, on the weather mast: M5 x 16 through 8 mm into the base."""

import json
from dataclasses import replace
from typing import Any

import pytest

from rigid_bench.core.exercise.exercise import read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report import CheckResult
from rigid_bench.demo import weather_mast
from rigid_bench.demo.modelling import cylinder
from tests.shapes import TOLERANCE

RIGHT = weather_mast.SAMPLES[0]
SHANK = cylinder((0, 0, -8), (0, 0, 1), 2.5)["cylinder"]
SCREW = {"kind": "stack", "instance": "screw-1", "of": SHANK, "into": "base-1"}


def graded(check: dict[str, Any], *, lift: float = 0.0) -> CheckResult:
    """Judge one check on the right build, or with all that stands on the base lifted, the screws not."""
    bundle = weather_mast.bundle()
    document = json.loads(bundle["exercise.json"])
    document |= {"checks": [{"id": "x", "title": "X", "marks": 1, **check}], "stages": []}
    exercise = read_exercise({**bundle, "exercise.json": json.dumps(document).encode()})
    return grade(exercise, replace(RIGHT, lift=lift).files(), tolerance=TOLERANCE).checks[0]


@pytest.mark.parametrize(
    ("check", "verdict", "measured"),
    [
        ({"min": 5}, "met", "8 mm (16 long: 8 in Base + 8 in Mast)"),
        ({"min": 10}, "missed", "8 mm (16 long: 8 in Base + 8 in Mast)"),
        ({"into": "mast-1", "min": 7, "max": 9}, "met", "8 mm (16 long: 8 in Base + 8 in Mast)"),
        ({"measure": "tip", "min": 1}, "met", "2 mm (8 in Base + 8 in Mast)"),
        ({"measure": "tip", "min": 3}, "missed", "2 mm (8 in Base + 8 in Mast)"),
    ],
)
def test_the_lengths_along_a_screw_are_added_up(check: dict[str, Any], verdict: str, measured: str) -> None:
    found = graded({**SCREW, **check})
    assert (found.verdict, found.measured) == (verdict, measured)


def test_a_flange_that_stands_off_leaves_less_of_the_screw_in_it() -> None:
    found = graded({**SCREW, "into": "mast-1", "min": 8}, lift=3.0)
    assert (found.verdict, found.measured) == ("missed", "5 mm (16 long: 8 in Base + 5 in Mast)")
    assert "3 mm short" in found.next_step
