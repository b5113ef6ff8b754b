"""One slip, one message: a unit, a wall or a length that reaches several checks takes the marks of one."""

from typing import Any

import pytest
from build123d import Box, Cylinder, Pos, Rot

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import Report
from rigid_bench.core.kernel.distance import scaled
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.demo.modelling import cylinder, json_bytes, plane, step_bytes
from tests.support.shapes import TOLERANCE, inch_step
from tests.support.shapes import scaled as resized

pytestmark = pytest.mark.thorough

LEFT, RIGHT = plane((-30, 0, 0), (-1, 0, 0)), plane((30, 0, 0), (1, 0, 0))
FRONT, BACK = plane((0, -20, 0), (0, -1, 0)), plane((0, 20, 0), (0, 1, 0))
BORE = cylinder((15, 0, 0), (0, 0, 1), 4)


def base(length: float = 60, width: float = 40, bore: float = 8, at: float = 15) -> Any:
    """The bore stands at a distance from the left edge, as the sheet has it."""
    block = Pos(length / 2 - 30, 0, 0) * Box(length, width, 10)
    return block - Pos(at, 0, 0) * Cylinder(bore / 2, 30) - Pos(-20, 10, 0) * Cylinder(2, 30)


def dimension(name: str, measure: str, nominal: float | str, **more: Any) -> dict[str, Any]:
    fields = {"id": name, "title": name.title(), "kind": "dimension", "marks": 2, "part": "base"}
    return {**fields, "measure": measure, "nominal": nominal, **more}


CHECKS = [
    dimension("length", "length", 60, between=[LEFT, RIGHT]),
    dimension("width", "length", 40, between=[FRONT, BACK]),
    dimension("bore", "diameter", 8, of=BORE, tolerance="H7"),
    dimension("bore from the right", "position", 15, between=[BORE, RIGHT]),
    dimension("volume", "volume", 60 * 40 * 10 - 3.141592653589793 * 160 - 3.141592653589793 * 40),
]


def graded(shape: Any, checks: list[dict[str, Any]] | None = None, *, as_inches: bool = False, **more: Any) -> Report:
    document = {
        "format": "rigid-bench/exercise",
        "version": 1,
        "id": "base",
        "title": "Base",
        "units": "mm",
        "parts": [{"id": "base", "name": "Base", "file": "base.step"}],
        "checks": CHECKS if checks is None else checks,
        **more,
    }
    exercise = read_exercise({"exercise.json": json_bytes(document), "base.step": step_bytes(base(), "Base")})
    data = inch_step(shape, "Base") if as_inches else step_bytes(shape, "Base")
    return grade(exercise, {"mine.step": data}, tolerance=TOLERANCE)


def missed(report: Report) -> dict[str, str | None]:
    return {check.id: check.follows for check in report.checks if check.verdict != "met"}


def test_the_right_part_is_right_in_any_pose_and_unit() -> None:
    for report in (graded(base()), graded(Rot(10, 20, 30) * base()), graded(base(), as_inches=True)):
        assert (missed(report), report.percent) == ({}, 100)


@pytest.mark.parametrize(
    ("scale", "says"), [(1 / 25.4, "25.4 times too small"), (25.4, "25.4 times too large"), (0.1, "10 times too small")]
)
def test_a_slipped_unit_of_the_whole_part_is_said_once(scale: float, says: str) -> None:
    report = graded(resized(Rot(10, 20, 30) * base(), scale))
    first, *rest = report.checks
    assert first.cause
    assert says in first.cause.text
    assert (first.follows, first.awarded, len(first.leads_to)) == (None, 0, len(CHECKS) - 1)
    assert {result.follows for result in rest} == {"length"}
    assert report.awarded == sum(check["marks"] for check in CHECKS[1:])


def test_a_wrong_length_is_said_once_and_names_what_follows() -> None:
    report = graded(base(length=61.3))
    assert missed(report) == {"length": None, "bore from the right": "length", "volume": "length"}
    assert report.checks[0].leads_to == ["Bore From The Right", "Volume"]
    assert "follows from Length" in (report.checks[3].cause.text if report.checks[3].cause else "")
    assert report.awarded == report.available - 2
    strict = graded(base(length=61.3), slips="all")
    assert strict.awarded == strict.available - 6


def test_two_slips_are_two_messages() -> None:
    report = graded(base(width=41, bore=4), [*CHECKS[:4]])
    assert missed(report) == {"width": None, "bore": None}
    assert report.checks[2].cause
    assert report.checks[2].cause.code == "radius-for-diameter"


@pytest.mark.parametrize(
    ("tolerance", "nominal", "verdict", "required"),
    [
        (None, 8, "missed", "8 ±0.01 mm"),
        ("H7", 8, "met", "8 +0.015/−0 mm"),
        ("ISO 2768-f", 8, "met", "8 ±0.1 mm"),
        ({"minus": 0, "plus": 0.02}, 8, "met", "8 +0.02/−0 mm"),
        ("g6", 8, "missed", "8 −0.005/−0.014 mm"),
    ],
)
def test_tolerances_of_both_schools(tolerance: Any, nominal: float, verdict: str, required: str) -> None:
    check = dimension("bore", "diameter", nominal, of=BORE, **({"tolerance": tolerance} if tolerance else {}))
    (result,) = graded(base(bore=8.0125), [check]).checks
    assert (result.verdict, result.required) == (verdict, required)


def test_free_and_optional_values() -> None:
    free = dimension("bore", "diameter", 8, of=BORE, value="free")
    optional = dimension("second", "diameter", 4, of=cylinder((-20, 10, 0), (0, 0, 1), 2), value="optional")
    report = graded(base(bore=11) + Pos(-20, 10, 0) * Cylinder(2, 10), [free, optional])
    assert [(check.measured, check.verdict, check.awarded, check.available) for check in report.checks] == [
        ("11 mm (free)", "met", 0, 0),
        ("left out, without a note", "unchecked", 0, 2),
    ]


def test_a_tolerance_that_there_is_not_is_refused() -> None:
    with pytest.raises(InvalidDocument, match="fit 'X9'"):
        graded(base(), [dimension("bore", "diameter", 8, of=BORE, tolerance="X9")])


def test_a_scaled_solid_has_scaled_sizes() -> None:
    assert scaled(base().solid().wrapped, 2.0) is not None


def test_a_mass_may_name_its_material() -> None:
    check = {"id": "m", "title": "M", "kind": "dimension", "marks": 1, "part": "base", "measure": "mass"}
    check |= {"nominal": 0, "tolerance": {"minus": 0, "plus": 1000}}
    (result,) = graded(base(), [{**check, "material": "steel"}]).checks
    assert float(result.measured.removesuffix(" g")) == pytest.approx(base().volume / 1000 * 7.85, abs=0.01)
    with pytest.raises(InvalidDocument, match="no material 'cheese'"):
        graded(base(), [{**check, "material": "cheese"}])


def test_a_part_that_was_joined_with_another_earns_nothing_for_its_sizes() -> None:
    post = Cylinder(6, 40)
    parts = [{"id": "base", "name": "Base", "file": "base.step"}, {"id": "post", "name": "Post", "file": "post.step"}]
    wall = cylinder((0, 0, 0), (0, 0, 1), 6)
    of_post = [
        {**dimension("post", "diameter", 12, of=wall), "part": "post"},
        {**dimension("height", "extent", 40, axis="z"), "part": "post"},
    ]
    document = {"format": "rigid-bench/exercise", "version": 1, "id": "k", "title": "K", "parts": parts}
    bundle = {"exercise.json": json_bytes({**document, "checks": [CHECKS[0], *of_post]})}
    exercise = read_exercise({**bundle, "base.step": step_bytes(base(), "Base"), "post.step": step_bytes(post, "Post")})
    one = step_bytes(base() + Pos(-5, 0, 25) * post, "Base")
    report = grade(exercise, {"mine.step": one}, tolerance=TOLERANCE)
    rows = {check.id: check for check in report.checks}
    assert rows["post"].cause
    assert rows["post"].cause.code == "merged"
    assert (rows["height"].follows, rows["post"].awarded, rows["height"].awarded) == ("post", 0, 0)
    assert "joined" in rows["height"].next_step
