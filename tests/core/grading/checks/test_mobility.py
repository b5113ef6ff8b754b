"""How many motions the whole build has, idle spins apart."""

import json

import pytest

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.demo import drill_jig
from tests.support.samples import bundle_of, files_of
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

SAMPLES = {sample.name: sample for sample in drill_jig.SAMPLES}


def graded(sample: str, check: dict[str, object], *, step_only: bool = False) -> CheckResult:
    files = bundle_of(drill_jig)
    document = json.loads(files["exercise.json"])
    document |= {"checks": [{"id": "x", "title": "X", "marks": 1, **check}], "stages": []}
    exercise = read_exercise({**files, "exercise.json": json.dumps(document).encode()})
    submitted = {
        name: data for name, data in files_of(SAMPLES[sample]).items() if not step_only or name.endswith(".step")
    }
    return grade(exercise, submitted, tolerance=TOLERANCE).checks[0]


@pytest.mark.parametrize(
    ("sample", "verdict", "measured"),
    [
        ("jig-right", "met", "no motion, and 3 idle spins"),
        ("jig-dowel-slides", "missed", "one motion, and 3 idle spins"),
    ],
)
def test_dowels_and_a_screw_may_spin_and_nothing_may_move(sample: str, verdict: str, measured: str) -> None:
    result = graded(sample, {"kind": "mobility", "count": 0})
    assert (result.verdict, result.measured) == (verdict, measured)


def test_without_a_build_file_it_is_unchecked() -> None:
    assert graded("jig-right", {"kind": "mobility", "count": 0}, step_only=True).verdict == "unchecked"


def test_a_dowel_that_slides_is_offered_the_mate_that_holds_it() -> None:
    result = graded("jig-dowel-slides", {"kind": "freedom", "instance": "dowel-2", "to": "jig-1", "motions": []})
    assert result.cause
    assert result.cause.code == "mate-short"
    assert result.next_step.startswith("Add 'faces level' (coincident) between the face at (0, 0, 18)")


@pytest.mark.parametrize(("redundant", "verdict"), [(None, "met"), (1, "met"), (0, "missed")])
def test_a_part_that_is_held_twice_is_over_held_where_the_exercise_says_so(redundant: int | None, verdict: str) -> None:
    files = files_of(SAMPLES["jig-right"])
    build = json.loads(files["jig.build.json"])
    twice = next(mate for mate in build["mates"] if mate["id"] == "dowel-1 seated")
    build["mates"].append({**twice, "id": "once more"})
    document = json.loads(bundle_of(drill_jig)["exercise.json"])
    check = {
        "id": "x",
        "title": "X",
        "marks": 1,
        "kind": "freedom",
        "instance": "dowel-1",
        "to": "jig-1",
        "motions": [],
    }
    document |= {"checks": [check | ({} if redundant is None else {"redundant": redundant})], "stages": []}
    exercise = read_exercise({**bundle_of(drill_jig), "exercise.json": json.dumps(document).encode()})
    (result,) = grade(exercise, {**files, "jig.build.json": json.dumps(build).encode()}, tolerance=TOLERANCE).checks
    assert result.verdict == verdict
    assert (result.cause and result.cause.code) == (None if verdict == "met" else "over-held")
    assert result.rose
    assert result.rose.state == ("guided" if redundant == 1 else "over-held")
