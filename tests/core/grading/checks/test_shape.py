"""Checks of whole parts: the same shape, one body, every edge treated."""

from typing import Any

import pytest
from build123d import Axis, Box, Compound, Cylinder, Pos, Rot, fillet

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.demo.modelling import json_bytes, step_bytes
from tests.support.shapes import TOLERANCE, handed_bracket, mirrored, step

pytestmark = pytest.mark.thorough


def rounded(count: int) -> Any:
    block = handed_bracket()
    corners = [e for e in block.edges().filter_by(Axis.Z) if e.center().X > 0]
    return fillet(corners[:count], 3)


def graded(check: dict[str, Any], data: bytes, reference: Any) -> CheckResult:
    document = {
        "format": "rigid-bench/exercise",
        "version": 1,
        "id": "bracket",
        "title": "Bracket",
        "parts": [{"id": "bracket", "name": "Bracket", "file": "b.step"}],
        "checks": [{"id": "x", "title": "X", "marks": 1, "part": "bracket", **check}],
    }
    exercise = read_exercise({"exercise.json": json_bytes(document), "b.step": step_bytes(reference, "Bracket")})
    (result,) = grade(exercise, {"mine.step": data}, tolerance=TOLERANCE).checks
    return result


@pytest.mark.parametrize(
    ("own", "verdict", "code", "says"),
    [
        (Rot(20, 30, 40) * handed_bracket(), "met", None, ""),
        (Rot(20, 30, 40) * mirrored(handed_bracket()), "missed", "mirrored", "mirror image of Bracket"),
        (
            handed_bracket() - Pos(8, -6, 0) * Cylinder(2, 30), "missed", "other-shape",
            "hole Ø4, through should not be there",
        ),
        (Box(40, 30, 5) + Pos(-17.5, 0, 15) * Box(5, 30, 30), "missed", "other-shape", "hole Ø6, through is missing"),
        (handed_bracket() + Pos(19, 0, 0) * Box(4, 30, 5), "missed", "other-shape", "its volume is"),
    ],
)  # fmt: skip
def test_the_same_shape(own: Any, verdict: str, code: str | None, says: str) -> None:
    result = graded({"kind": "shape"}, step_bytes(own, "Bracket"), handed_bracket())
    assert (result.verdict, result.cause and result.cause.code) == (verdict, code)
    assert says in (result.cause.text if result.cause else "")


@pytest.mark.parametrize(
    ("own", "measured", "code"),
    [
        (handed_bracket(), "1 body", None),
        (Compound([handed_bracket().solid(), (Pos(0, 0, 60) * Box(5, 5, 5)).solid()]), "2 bodies", "several-bodies"),
    ],
)
def test_pieces_that_were_not_joined_are_counted(own: Any, measured: str, code: str | None) -> None:
    result = graded({"kind": "bodies"}, step(own, "Bracket"), handed_bracket())
    assert (result.measured, result.cause and result.cause.code) == (measured, code)


@pytest.mark.parametrize(("wanted", "own", "word"), [(2, 1, "is missing"), (1, 2, "is too many"), (2, 2, "")])
def test_missing_and_extra_rounded_edges_are_named(wanted: int, own: int, word: str) -> None:
    check = {"kind": "dimension", "measure": "fillets", "nominal": wanted}
    result = graded(check, step_bytes(Rot(10, 20, 30) * rounded(own), "Bracket"), rounded(wanted))
    if word:
        assert result.cause
        assert result.cause.text.startswith("R3 at ")
        assert word in result.cause.text
    else:
        assert result.verdict == "met"
