"""Kinds of value, bands of marks, extras, sides, facets, dual units, and causes that show on the part."""

from typing import Any

import pytest
from build123d import Box, Cylinder, Pos, Rot, extrude
from build123d import RegularPolygon as Polygon

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.demo.modelling import cylinder, json_bytes, plane, step_bytes
from tests.support.shapes import TOLERANCE, mirrored

pytestmark = pytest.mark.thorough

LEFT, FRONT, BACK = plane((0, 0, 0), (-1, 0, 0)), plane((0, 0, 0), (0, -1, 0)), plane((0, 40, 0), (0, 1, 0))
TOP, BOTTOM = plane((0, 0, 12), (0, 0, 1)), plane((0, 0, 0), (0, 0, -1))
BORE, BLIND = cylinder((20, 15, 0), (0, 0, 1), 5), cylinder((50, 25, 12), (0, 0, -1), 3)
POSE = Pos(7, 8, 9) * Rot(25, 35, 45)


def block(*, bore: float = 10.0, blind: float = 6.0, from_top: bool = True, width: float = 40.0) -> Any:
    """A block of 70 x 40 x 12 with a through bore and a blind hole."""
    own = Pos(35, width / 2, 6) * Box(70, width, 12) - Pos(20, 15) * Cylinder(bore / 2, 100)
    return own - Pos(50, 25, 12 - blind / 2 if from_top else blind / 2) * Cylinder(3, blind)


def facetted(sides: int) -> Any:
    hole = extrude(Pos(20, 15, -1) * Polygon(5, sides, rotation=10), 20)
    return Pos(35, 20, 6) * Box(70, 40, 12) - hole - Pos(50, 25, 9) * Cylinder(3, 6)


def graded(own: Any, *checks: dict[str, Any], notes: dict[str, str] | None = None, **part: Any) -> list[CheckResult]:
    rows = [{"id": f"c{k}", "title": f"C{k}", "marks": 4, "part": "b", **check} for k, check in enumerate(checks)]
    parts = [{"id": "b", "name": "Block", "file": "b.step", **part}]
    document = {"format": "rigid-bench/exercise", "version": 1, "id": "b", "title": "B", "parts": parts, "checks": rows}
    exercise = read_exercise({"exercise.json": json_bytes(document), "b.step": step_bytes(block(), "Block")})
    files = {"mine.step": step_bytes(POSE * own, "Mine")}
    if notes:
        files["statements.json"] = json_bytes(notes)
    return grade(exercise, files, tolerance=TOLERANCE).checks


def size(measure: str, nominal: float, **more: Any) -> dict[str, Any]:
    return {"kind": "dimension", "measure": measure, "nominal": nominal, **more}


BORE_SIZE = size("diameter", 10, of=BORE)


@pytest.mark.parametrize(
    ("bore", "awarded", "verdict"), [(10.05, 4, "met"), (10.15, 3, "near"), (10.35, 1, "near"), (10.55, 0, "missed")]
)
def test_marks_fade_in_bands(bore: float, awarded: float, verdict: str) -> None:
    bands = [{"factor": 4, "share": 0.25}, {"factor": 2, "share": 0.75}]
    (result,) = graded(block(bore=bore), {**BORE_SIZE, "tolerance": {"minus": 0.1, "plus": 0.1}, "near": bands})
    assert (result.verdict, result.awarded) == (verdict, awarded)


def test_an_assumed_value_passes_when_it_is_stated_and_sane() -> None:
    check = {**BORE_SIZE, "value": "assumed", "sane": {"min": 6, "max": 12}}
    for bore, note, verdict in (
        (10, None, "met"), (9, None, "missed"), (9, "Ø9 mm, for the screw", "met"), (9, "I took 0,9 cm", "met"),
        (9, "11 mm", "missed"), (5, "5 mm", "missed"), (9, "it looked right", "missed"),
    ):  # fmt: skip
        (result,) = graded(block(bore=bore), check, notes={"c0": note} if note else None)
        assert result.verdict == verdict, (bore, note)


def test_an_optional_feature_is_left_out_with_a_note_and_a_free_one_is_shown() -> None:
    check = {**BORE_SIZE, "value": "optional"}
    own = Pos(35, 20, 6) * Box(70, 40, 12) - Pos(50, 25, 9) * Cylinder(3, 6)
    (silent,) = graded(own, check)
    (noted,) = graded(own, check, notes={"c0": "no screw in my version"})
    (free,) = graded(own, {**BORE_SIZE, "value": "free"})
    assert [(result.verdict, result.awarded) for result in (silent, noted, free)] == [
        ("unchecked", 0),
        ("met", 4),
        ("met", 0),
    ]
    assert "say why" in silent.next_step


@pytest.mark.parametrize(("sides", "allowed"), [(24, 10 * (1 - 0.99144)), (9, 10 * (1 - 0.93969) / 2)])
def test_facets_in_place_of_a_round_are_measured_to_their_corners(sides: int, allowed: float) -> None:
    """Across the flats D (1 - cos(180°/n)) is lost, half of it where n is odd: cosines from a table of 7.5° and 20°."""
    result, place, off = graded(
        facetted(sides), BORE_SIZE, size("position", 20, between=[BORE, LEFT]), size("diameter", 9, of=BORE)
    )
    assert (result.verdict, place.verdict, off.verdict) == ("met", "met", "missed")
    assert f"10 mm, to the corners of {sides} flats in place of a round" in result.measured
    assert f"= {allowed:.3f})" in result.measured.replace("= 0.30)", "= 0.302)")


@pytest.mark.parametrize(
    ("own", "verdict"), [(0.984 * 25.4, "met"), (0.985 * 25.4, "missed"), (25.0, "met"), (24.97, "missed")]
)
def test_a_size_rounded_in_the_other_unit_is_excused(own: float, verdict: str) -> None:
    """25.0 mm is 0.98425 in: 0.984 to three places, rounded or cut off."""
    check = size("length", 25, between=[FRONT, BACK], tolerance={"minus": 0.001, "plus": 0.001})
    (result,) = graded(block(width=own), check)
    assert result.verdict == verdict
    assert ("excused" in result.measured) == (own != 25 and verdict == "met")


def test_extras_are_left_out_of_the_volume_where_they_are_allowed_and_never_marked() -> None:
    boss = Pos(60, 8, 14) * Cylinder(4, 4)
    own = block() + boss - Pos(35, 32) * Cylinder(2, 100)
    asked = [size("volume", block().volume), size("likeness", 100), {"kind": "extras"}]
    for extras, verdicts in (
        ("forbidden", ["missed", "missed", "missed"]), ("allowed", ["met"] * 3), ("wanted", ["met"] * 3),
    ):  # fmt: skip
        results = graded(own, *asked, extras=extras)
        assert [result.verdict for result in results] == verdicts, extras
        assert "hole Ø4, through" in results[2].measured
    plain = graded(block(), *asked, extras="wanted")
    assert [result.verdict for result in plain] == ["met", "met", "missed"]
    smaller = graded(block(bore=8) + boss, *asked[:2], extras="allowed")
    assert [result.verdict for result in smaller] == ["missed", "missed"]


def test_a_hole_on_the_wrong_side_is_named() -> None:
    check = {"kind": "side", "of": BLIND["cylinder"], "side": TOP["plane"], "name": "the top"}
    marked = Pos(65, 5, 13) * Box(4, 4, 4)  # tells top from bottom
    for from_top, says in ((True, "on the top"), (False, "on the opposite side")):
        own = block(from_top=from_top) + marked
        rows = [{"id": "s", "title": "S", "marks": 1, "part": "b", **check}]
        parts = [{"id": "b", "name": "Block", "file": "b.step"}]
        document = {"format": "rigid-bench/exercise", "version": 1, "id": "b", "title": "B", "parts": parts}
        bundle = {
            "exercise.json": json_bytes({**document, "checks": rows}),
            "b.step": step_bytes(block() + marked, "B"),
        }
        (result,) = grade(read_exercise(bundle), {"m.step": step_bytes(POSE * own, "M")}, tolerance=TOLERANCE).checks
        assert result.measured == says
        assert (result.cause and result.cause.code) == (None if from_top else "wrong-side")


@pytest.mark.parametrize(
    ("own", "check", "code"),
    [
        (block(blind=12), size("depth", 6, of=BLIND), "through"),
        (block() - Pos(50, 25) * Cylinder(4, 100), size("count", 1, of=BORE), None),
        (mirrored(block()), {"kind": "side", "of": BLIND["cylinder"], "side": TOP["plane"]}, "mirrored"),
        (Pos(35, 20, 6) * Box(70, 40, 12), size("count", 1, of=BORE), "wrong-count"),
    ],
    ids=["through", "right count", "mirrored", "count"],
)
def test_what_shows_on_the_part_is_named(own: Any, check: dict[str, Any], code: str | None) -> None:
    (result,) = graded(own, check)
    assert (result.cause and result.cause.code) == code
    if code == "wrong-count":
        assert result.cause
        assert "(20, 15, 0)" in result.cause.text


@pytest.mark.parametrize(
    ("said", "declared", "code", "says"),
    [
        ("", False, None, ""),
        ("", True, "material-not-set", "No material is set; steel was asked"),
        ("it is steel", True, None, ""),
        ("of PLA, printed", False, "other-material", "× 1.24 g/cm³ = "),
    ],
)
def test_the_material_is_asked_for_where_the_exercise_says_so(
    said: str, declared: bool, code: str | None, says: str
) -> None:
    check = size("mass", block().volume / 1000 * 7.85, material="steel", declared=declared)
    (result,) = graded(block(), check, notes={"c0": said} if said else None)
    assert (result.cause and result.cause.code) == code
    assert says in (result.cause.text if result.cause else "")
    assert result.verdict == ("missed" if code else "met")
