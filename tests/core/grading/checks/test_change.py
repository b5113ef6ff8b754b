"""The change test: a size is set to another value, and the model handed in again beside the first."""

import json
from collections.abc import Mapping
from dataclasses import replace
from functools import cache
from typing import Any

import pytest

from rigid_bench.core.exercise.bundle import Exercise, read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.values.errors import InvalidDocument, UnreadableFile
from rigid_bench.demo import drill_jig, weather_mast
from tests.support.samples import bundle_of, files_of
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

JIG, MAST = drill_jig.SAMPLES[0], weather_mast.SAMPLES[0]


@cache
def exercise(module: Any, size: str, value: float) -> Exercise:
    files = bundle_of(module)
    document = json.loads(files["exercise.json"])
    check = {"id": "change", "title": "Change", "kind": "change", "marks": 2, "set": {size: value}}
    document["checks"].append(check)
    return read_exercise({**files, "exercise.json": json.dumps(document).encode()})


def as_changed(files: Mapping[str, bytes]) -> dict[str, bytes]:
    """The files under names that end in -changed; the build file names its model so."""
    renamed = {}
    for name, data in files.items():
        stem, rest = name.split(".", 1)
        renamed[f"{stem}-changed.{rest}"] = data.replace(f'"{stem}.step"'.encode(), f'"{stem}-changed.step"'.encode())
    return renamed


def changed(module: Any, size: str, value: float, sample: Any, after: Any) -> CheckResult:
    files = {**sample.files(), **(as_changed(after.files()) if after else {})}
    checks = grade(exercise(module, size, value), files, tolerance=TOLERANCE).checks
    return next(check for check in checks if check.id == "change")


def jig(**sizes: Any) -> Any:
    return replace(JIG, sizes=replace(JIG.sizes, **sizes))


def test_what_does_not_depend_on_the_size_still_holds() -> None:
    result = changed(drill_jig, "jig.length", 90, JIG, jig(length=90.0))
    assert (result.verdict, result.awarded) == ("met", 2)
    assert result.measured == "26 of 26 hold after the change"


def test_a_change_far_beyond_the_reference_is_followed() -> None:
    taller = replace(MAST, sizes=replace(MAST.sizes, height=340.0))
    assert changed(weather_mast, "mast.height", 341, MAST, taller).verdict == "met"


@pytest.mark.parametrize(
    ("after", "says"),
    [
        (jig(length=90.0, dowel_from_left=20.0), "First dowel from the left (20 mm where 10 ±0.01 mm is asked)"),
        (jig(), "Length (70 mm where 90 ±0.01 mm is asked)"),
    ],
)
def test_what_broke_and_what_did_not_follow_is_named(after: Any, says: str) -> None:
    result = changed(drill_jig, "jig.length", 90, JIG, after)
    assert result.verdict == "missed"
    assert result.cause
    assert result.cause.code == "change-broke"
    assert says in result.cause.text


def test_what_was_wrong_before_is_not_blamed_on_the_change() -> None:
    result = changed(drill_jig, "jig.length", 90, jig(guide=4.0), jig(guide=4.0, length=90.0))
    assert result.verdict == "met"


def test_one_model_alone_is_unchecked_and_says_what_to_do() -> None:
    result = changed(drill_jig, "jig.length", 90, JIG, None)
    assert result.verdict == "unchecked"
    assert result.next_step.startswith("Set Length to 90 mm")
    assert "-changed" in result.next_step


def test_a_changed_model_that_cannot_be_read_spoils_nothing_else() -> None:
    broken = {**files_of(JIG), "jig-changed.step": b"ISO-10303-21; nothing"}
    report = grade(exercise(drill_jig, "jig.length", 90), broken, tolerance=TOLERANCE)
    assert {check.id for check in report.checks if check.verdict != "met"} == {"change"}
    with pytest.raises(UnreadableFile):
        grade(exercise(drill_jig, "jig.length", 90), {**files_of(JIG), "x-changed.txt": b"?"}, tolerance=TOLERANCE)


def test_only_a_dimension_can_be_changed() -> None:
    with pytest.raises(InvalidDocument, match="no dimension 'parts' to change"):
        grade(exercise(drill_jig, "parts", 90), files_of(JIG), tolerance=TOLERANCE)
