"""A second exercise grades with no change of code; every school of building gets its marks."""

import json
from typing import Any

import pytest
from build123d import Compound, Pos, Rot

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import describe, grade
from rigid_bench.core.grading.report.models import Report
from rigid_bench.core.values.errors import InvalidDocument, RigidBenchError, UnreadableFile
from rigid_bench.demo.modelling import plane, step_bytes
from tests.support import latch
from tests.support.shapes import TOLERANCE, inch_step

EXERCISE = read_exercise(latch.bundle())


def graded(files: dict[str, bytes], exercise: Any = EXERCISE) -> Report:
    return grade(exercise, files, tolerance=TOLERANCE)


def fallen(report: Report) -> dict[str, str]:
    return {check.id: check.verdict for check in report.checks if check.verdict != "met"}


def with_build(step: bytes, mates: list[dict[str, Any]] | None = None, **more: Any) -> dict[str, bytes]:
    mates = latch.all_mates() if mates is None else mates
    return {"kit.step": step, "kit.build.json": latch.build(mates, source="kit.step", **more)}


def separate_files() -> dict[str, bytes]:
    parts = {"body": latch.body(), "bolt": latch.bolt(), "pin": latch.pin()}
    return {
        **{f"{name}.step": step_bytes(part, name) for name, part in parts.items()},
        "b.build.json": latch.build(latch.all_mates()),
    }


def three_faces_instead_of_a_joint() -> list[dict[str, Any]]:
    meet = {"kind": "coincident", "sense": "opposed"}
    return [
        {
            **meet,
            "id": "on track",
            "a": latch.on("body-1", plane((0, 0, 4), (0, 0, 1))),
            "b": latch.on("bolt-1", plane((0, 0, 0), (0, 0, -1))),
        },
        {
            "id": "beside edge",
            "kind": "distance",
            "value": -14.4,
            "sense": "aligned",
            "a": latch.on("body-1", plane((0, 0, 0), (0, -1, 0))),
            "b": latch.on("bolt-1", plane((0, 0, 0), (0, -1, 0))),
        },
        *latch.pin_mates(1),
        *latch.pin_mates(2, kind="cylindrical"),
    ]


@pytest.mark.parametrize(
    "files",
    [
        with_build(latch.assembly()),
        with_build(latch.assembly(), three_faces_instead_of_a_joint()),
        with_build(latch.assembly(), grounded=None),
        separate_files(),
    ],
    ids=["joint", "three faces", "grounded on the origin", "one file a part"],
)
def test_a_right_build_of_any_school_gets_full_marks(files: dict[str, bytes]) -> None:
    report = graded(files)
    assert fallen(report) == {}
    assert (report.percent, report.stage) == (100.0, "Whole build")


def test_a_step_file_alone_leaves_only_the_mates_unchecked() -> None:
    assert fallen(graded({"kit.step": latch.assembly()})) == {"bolt.free": "unchecked", "pin.free": "unchecked"}


def test_any_place_along_the_slide_and_the_world_counts() -> None:
    """Parts under other names, as loose bodies, turned and moved as a whole, in inches."""
    placed = [latch.body(), Pos(7, 14.4, 4) * latch.bolt()] + [Pos(x, y, 0) * latch.pin() for x, y in latch.PIN_PLACES]
    for number, part in enumerate(placed):
        part.label = f"Body{number}"
    whole = Pos(100, -50, 20) * Rot(0, 0, 90) * Compound(children=placed)
    assert fallen(graded({"x.step": step_bytes(whole, "Unnamed")})) == {
        "bolt.free": "unchecked",
        "pin.free": "unchecked",
    }
    report = graded({"x.stp": inch_step(Compound(children=placed))})
    assert fallen(report) == {"bolt.free": "unchecked", "pin.free": "unchecked"}


def test_an_idle_spin_of_a_round_part_is_excused_and_shown() -> None:
    report = graded(with_build(latch.assembly()))
    held = next(check for check in report.checks if check.id == "pin.free")
    assert (held.verdict, held.measured) == ("met", "can turn about Z (an idle spin, excused)")


def test_a_missing_and_an_extra_part_are_named() -> None:
    report = graded({"kit.step": latch.assembly(pins=1)})
    check = next(check for check in report.checks if check.id == "parts")
    assert check.cause
    assert (check.cause.code, check.verdict) == ("part-missing", "missed")
    assert "Dowel" in check.cause.text


def test_a_part_in_its_place_that_nothing_holds_is_told_apart() -> None:
    report = graded(with_build(latch.assembly(), [latch.bolt_joint(), *latch.pin_mates(1)]))
    check = next(check for check in report.checks if check.id == "pin.free")
    assert check.cause
    assert check.cause.code == "placed-not-held"
    assert set(fallen(report)) == {"pin.free"}


def test_one_mate_short_is_named() -> None:
    report = graded(with_build(latch.assembly(), [*three_faces_instead_of_a_joint()[1:]]))
    check = next(check for check in report.checks if check.id == "bolt.free")
    assert check.cause
    assert check.cause.code == "mate-short"


def test_the_build_files_place_counts_with_a_warning() -> None:
    report = graded(with_build(latch.assembly(at=9.0)))
    assert any("elsewhere" in warning for warning in report.warnings)
    assert fallen(report) == {}


def test_a_near_value_gets_its_share() -> None:
    bundle = latch.bundle()
    document = json.loads(bundle["exercise.json"])
    document["checks"][0]["near"] = {"factor": 3, "share": 0.5}
    exercise = read_exercise({**bundle, "exercise.json": json.dumps(document).encode()})
    report = graded({"kit.step": latch.assembly(width=11.45)}, exercise)
    assert (report.checks[0].verdict, report.checks[0].awarded) == ("near", 0.5)


def test_an_exercise_in_inches_reports_in_inches() -> None:
    bundle = latch.bundle()
    document = json.loads(bundle["exercise.json"])
    document.update(units="in", reference=None, stages=[])
    check = document["checks"][1]
    check["of"]["cylinder"] = {"point": [20 / 25.4, 5.6 / 25.4, 0], "direction": [0, 0, 1], "radius": 2.1 / 25.4}
    check.update(nominal="0.1654", tolerance={"minus": 0.004, "plus": 0.004})
    document["checks"] = [check]
    exercise = read_exercise({**bundle, "exercise.json": json.dumps(document).encode()})
    (row,) = graded({"kit.step": latch.assembly()}, exercise).checks
    assert (row.verdict, row.measured) == ("met", "0.1654 in")


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"kind": "colour"}, "bodies, change, dimension, end_position, extras, fit, freedom"),
        (
            {"kind": "dimension", "part": "bolt", "measure": "smell", "nominal": 1, "tolerance": "ISO 2768-m"},
            "across_flats, angle, area",
        ),
        (
            {
                "kind": "dimension",
                "part": "lid",
                "measure": "volume",
                "nominal": 1,
                "tolerance": {"minus": 1, "plus": 1},
            },
            "no part 'lid'",
        ),
        (
            {
                "kind": "dimension",
                "part": "bolt",
                "measure": "extent",
                "axis": "x",
                "nominal": "2 +",
                "tolerance": "ISO 2768-m",
            },
            "ends too early",
        ),
        (
            {
                "kind": "dimension",
                "part": "bolt",
                "measure": "extent",
                "axis": "x",
                "nominal": "x.self",
                "tolerance": "ISO 2768-m",
            },
            "circle: x.self → x.self",
        ),
        ({"kind": "grounded", "instance": "lid-1"}, "no instance 'lid-1'"),
        ({"kind": "gap", "a": "body-1", "b": "bolt-1"}, "needs min, max"),
        ({"kind": "freedom", "instance": "bolt-1", "motions": [{"kind": "translation"}]}, "needs a direction"),
        ({"kind": "freedom", "instance": "bolt-1", "motions": [{"kind": "wobble"}]}, "rotation"),
        ({"kind": "parts", "marks": -1}, "marks"),
    ],
)
def test_a_check_that_cannot_be_meant_is_refused_with_what_there_is(more: dict[str, Any], says: str) -> None:
    with pytest.raises(RigidBenchError) as caught:
        describe(read_exercise(latch.bundle([{"id": "x.self", "title": "X", "marks": 1, **more}])))
    assert says in str(caught.value)
    assert "x.self" in str(caught.value) or "checks[" in str(caught.value)


@pytest.mark.parametrize(
    ("files", "error", "says"),
    [
        ({}, UnreadableFile, "no file"),
        ({"a.txt": b"hello"}, UnreadableFile, "neither"),
        ({"a.step": b"hello"}, UnreadableFile, "not a STEP file"),
        ({"a.json": b"{}"}, UnreadableFile, "not a build file"),
        ({"k.step": latch.assembly(), "b.json": latch.build([], source="other.step")}, InvalidDocument, "other.step"),
        ({"a.json": latch.build([]), "b.json": latch.build([])}, UnreadableFile, "more than one"),
    ],
)
def test_what_cannot_be_used_is_refused(files: dict[str, bytes], error: type[RigidBenchError], says: str) -> None:
    with pytest.raises(error, match=says):
        graded(files)


def test_a_bundle_without_a_file_that_it_names_is_refused() -> None:
    bundle = latch.bundle()
    del bundle["pin.step"]
    with pytest.raises(InvalidDocument, match=r"pin\.step"):
        read_exercise(bundle)
