"""The sample builds are test cases: exactly the checks that a slip reaches fall."""

import pytest

from rigid_bench.core.exercise.exercise import Exercise, read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.tolerance import Tolerance
from rigid_bench.demo.seed_drawer import SAMPLES, SampleBuild, bundle


@pytest.fixture(scope="module")
def exercise() -> Exercise:
    return read_exercise(bundle())


@pytest.mark.parametrize("sample", SAMPLES, ids=[each.name for each in SAMPLES])
def test_exactly_the_checks_that_the_slip_reaches_fall(exercise: Exercise, sample: SampleBuild) -> None:
    report = grade(exercise, sample.files(), tolerance=Tolerance())
    fallen = {each.id: each.cause and each.cause.code for each in report.checks if each.verdict in ("near", "missed")}
    assert fallen == dict(sample.falls)
    assert [each.id for each in report.checks if each.verdict == "unchecked"] == list(sample.unchecked)
    lost = sum(each.available for each in report.checks if each.id in fallen or each.id in sample.unchecked)
    assert report.awarded == report.available - lost
    assert all(each.next_step for each in report.checks if each.verdict != "met")
