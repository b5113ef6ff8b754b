"""A row of holes, a chamfer, a through hole: what new causes and measures say, and what a sheet only shows."""

import json
from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from rigid_bench.core.drawing.audit.drawing_rows import DrawingRows
from rigid_bench.core.drawing.audit.part_audit import audit_part
from rigid_bench.core.exercise.bundle import CheckModel, read_exercise
from rigid_bench.core.exercise.references import read_reference
from rigid_bench.core.grading.diagnosis.causes import Surroundings, of_dimension
from rigid_bench.core.grading.grade import describe, grade
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.values.datums import CylinderFeature
from rigid_bench.demo import drill_jig
from tests.support.samples import bundle_of
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

EXERCISE = read_exercise(bundle_of(drill_jig))
SIZES = drill_jig.Sizes()


def graded(**sizes: Any) -> dict[str, CheckResult]:
    sample = drill_jig.SampleBuild(name="own", slip="own", sizes=replace(SIZES, **sizes))
    return {check.id: check for check in grade(EXERCISE, sample.files(), tolerance=TOLERANCE).checks}


@pytest.mark.parametrize(
    ("nominal", "count", "value", "code"),
    [
        (15, 3, 7.5, "pattern-length"),  # the pitch taken for the whole length
        (15, 3, 30.0, "pattern-length"),  # and the other way round
        (12, 5, 3.0, "pattern-length"),
        (15, 3, 9.0, None),
        (15, 2, 7.5, "half"),  # one gap: nothing to take for the whole
    ],
)
def test_a_pitch_and_the_whole_length_are_told_apart(nominal: float, count: float, value: float, code: str) -> None:
    """Pitch = length / (n - 1): arithmetic."""
    cause = of_dimension("pitch", nominal, value, Surroundings(counts=[count]), units="mm", tolerance=TOLERANCE)
    assert (cause.code if cause else None) == code


def test_a_chamfer_at_another_angle_is_measured_and_not_missing() -> None:
    rows = graded(chip_angle=45.0)
    assert rows["jig.chip"].verdict == "met"
    assert rows["jig.chip.angle"].measured == "45°"
    assert graded(chip=3.0)["jig.chip"].measured == "3 mm"


def test_what_is_not_found_on_a_mirrored_part_says_that_it_is_mirrored() -> None:
    rows = graded(mirrored=True)
    cause = rows["jig.chip"].cause
    assert cause
    assert cause.code == "mirrored"
    assert rows["jig.chip"].next_step == "Make Jig for the other hand."


def test_a_shown_size_stands_on_the_sheet_and_is_not_checked() -> None:
    shown = [check.id for check in EXERCISE.model.checks if check.is_shown]
    assert shown
    assert not set(shown) & set(graded())
    texts = {check.id: check for check in describe(EXERCISE)}
    assert all(texts[name].marks == 0 for name in shown)
    assert all(texts[name].required for name in shown)


def test_a_shown_size_counts_for_the_audit_and_without_it_the_part_is_loose() -> None:
    part = EXERCISE.model.parts[0]
    features = read_reference(EXERCISE, part, tolerance=TOLERANCE)
    whole = audit_part(features, part, EXERCISE.model.checks, mm=1.0)
    assert whole.complete
    assert not whole.redundant
    shown = [check for check in EXERCISE.model.checks if check.is_shown]
    for gone in shown:
        rest = [check for check in EXERCISE.model.checks if check.id != gone.id]
        assert not audit_part(features, part, rest, mm=1.0).complete, gone.title


def test_the_depth_of_a_hole_that_goes_through_is_no_dimension_given_twice() -> None:
    part = EXERCISE.model.parts[0]
    features = read_reference(EXERCISE, part, tolerance=TOLERANCE)
    rows = DrawingRows(features)
    up = np.array([0.0, 0, 1])
    guide = CylinderFeature(np.array([SIZES.guide_from_left, SIZES.guide_from_front, 0]), up, SIZES.guide / 2)
    recess = CylinderFeature(np.array([35.0, 28, 3.5]), up, SIZES.sink / 2)
    assert rows.is_through(guide)
    assert not rows.is_through(recess)
    again = CheckModel.model_validate(
        {**json.loads(bundle_of(drill_jig)["exercise.json"])["checks"][2], "id": "again", "title": "Thickness again"}
    )
    twice = audit_part(features, part, [*EXERCISE.model.checks, again], mm=1.0)
    assert twice.redundant == ("again",)
