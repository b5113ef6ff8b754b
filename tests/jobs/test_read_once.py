"""What was looked at is not read again for its card, and the card is the same."""

from pathlib import Path
from typing import Any

import pytest

from rigid_bench.core.grading.intake.submission import Submission, read_submission
from rigid_bench.demo import drill_jig
from rigid_bench.jobs.geometry import grading
from tests.support.samples import bundle_of, files_of

EXERCISE = bundle_of(drill_jig)


@pytest.fixture
def reads(monkeypatch: pytest.MonkeyPatch) -> list[int]:
    """How many files each reading of a submission had; nothing was read before."""
    seen: list[int] = []

    def counted(files: dict[str, bytes], **more: Any) -> Submission:
        seen.append(len(files))
        return read_submission(files, **more)

    monkeypatch.setattr("rigid_bench.core.grading.matched_submission.read_submission", counted)
    monkeypatch.setattr(grading, "_RECENT", type(grading._RECENT)(most=2))
    return seen


def test_a_build_that_was_looked_at_is_read_once_and_graded_the_same(tmp_path: Path, reads: list[int]) -> None:
    note = str(tmp_path / "note")
    sample = next(sample for sample in drill_jig.SAMPLES if sample.falls)
    files = files_of(sample)
    alone = grading.grade_files(EXERCISE, files, note).report
    grading._RECENT = type(grading._RECENT)(most=2)
    reads.clear()
    grading.preview_files(EXERCISE, files, note)
    assert grading.grade_files(EXERCISE, files, note).report == alone
    assert reads == [len(files)]


def test_another_file_or_exercise_is_read_for_itself(tmp_path: Path, reads: list[int]) -> None:
    note = str(tmp_path / "note")
    one, other = (files_of(sample) for sample in drill_jig.SAMPLES[:2])
    first = grading.preview_files(EXERCISE, one, note).preview
    assert grading.preview_files(EXERCISE, other, note).preview != first
    changed = {**EXERCISE, "exercise.json": EXERCISE["exercise.json"].replace(b'"Jig"', b'"Plate"')}
    assert {part.taken_for for part in grading.preview_files(changed, one, note).preview.parts} >= {"Plate"}
    assert len(reads) == 3


def test_large_files_are_not_kept(tmp_path: Path, reads: list[int], monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(grading, "_LARGEST_KEPT", 10)
    for _ in range(2):
        grading.preview_files(EXERCISE, files_of(drill_jig.SAMPLES[0]), str(tmp_path / "note"))
    assert len(reads) == 2
