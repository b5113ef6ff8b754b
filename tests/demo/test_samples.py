"""The sample builds are test cases: exactly the checks that a slip reaches fall."""

from functools import cache
from types import ModuleType

import pytest

from rigid_bench.core.exercise.bundle import Exercise, read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.demo import drill_jig, pedal_bin, seed_drawer, weather_mast
from tests.support.samples import bundle_of, files_of

Sample = seed_drawer.SampleBuild | drill_jig.SampleBuild | pedal_bin.SampleBuild | weather_mast.SampleBuild
MODULES = (drill_jig, seed_drawer, pedal_bin, weather_mast)
SAMPLES = [(module, sample) for module in MODULES for sample in module.SAMPLES]


@cache
def exercise(module: ModuleType) -> Exercise:
    return read_exercise(bundle_of(module))


@pytest.mark.parametrize(("module", "sample"), SAMPLES, ids=[sample.name for _, sample in SAMPLES])
def test_exactly_the_checks_that_the_slip_reaches_fall(
    module: ModuleType,
    sample: Sample,
) -> None:
    report = grade(exercise(module), files_of(sample), tolerance=Tolerance())
    fallen = {
        check.id: check.cause and check.cause.code for check in report.checks if check.verdict in ("near", "missed")
    }
    assert fallen == dict(sample.falls)
    assert [check.id for check in report.checks if check.verdict == "unchecked"] == list(sample.unchecked)
    lost = [check for check in report.checks if check.verdict != "met" and not (check.follows and check.awarded)]
    assert report.awarded == report.available - sum(result.available - result.awarded for result in lost)
    assert all(result.awarded == 0 for result in lost if result.verdict != "near")
    assert all(check.next_step for check in report.checks if check.verdict != "met")
