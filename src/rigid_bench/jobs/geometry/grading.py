"""Builds graded, and exercises read: runs in the sandbox, files in, reports out."""

from collections.abc import Callable, Mapping

from rigid_bench.core.drawing.pictures import make_pictures
from rigid_bench.core.exercise.bundle import Exercise, read_exercise
from rigid_bench.core.grading.grade import describe, grade, grade_whole
from rigid_bench.core.grading.matched_submission import MatchedSubmission, match_submission
from rigid_bench.core.grading.report.card_pictures import with_pictures
from rigid_bench.core.grading.report.models import ENGINE_VERSION, Prepared, Report
from rigid_bench.core.grading.report.preview import preview_submission
from rigid_bench.core.grading.report.scene import make_scene, scene_of_submission
from rigid_bench.core.values.recent_results import RecentResults, digest_of
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _
from rigid_bench.jobs.geometry.progress import noting
from rigid_bench.jobs.graded import Graded, Previewed

#: Bytes: what is larger, such as a scan, is not worth the memory.
_LARGEST_KEPT = 4_000_000
#: What a student looked at is mostly handed in a moment later.
_RECENT = RecentResults[tuple[Exercise, MatchedSubmission]](most=6)


def _matched(
    exercise: Mapping[str, bytes], files: Mapping[str, bytes], progress: Callable[[str], None]
) -> tuple[Exercise, MatchedSubmission]:
    """Read an exercise and a submission, and match them; once for the look at it and for its card."""

    def make() -> tuple[Exercise, MatchedSubmission]:
        read = read_exercise(exercise)
        return read, match_submission(read, files, tolerance=Tolerance(), progress=progress)

    if sum(map(len, files.values())) > _LARGEST_KEPT:
        return make()
    texts = (text for some in (exercise, files) for pair in sorted(some.items()) for text in pair)
    return _RECENT.of(digest_of(ENGINE_VERSION, str(len(files)), *texts), make)


def grade_files(exercise: Mapping[str, bytes], files: Mapping[str, bytes], note: str) -> Graded:
    """Grade what a student handed in, and draw it."""
    progress = noting(note)
    read, matched = _matched(exercise, files, progress)
    report, context = grade_whole(read, files, tolerance=Tolerance(), progress=progress, matched=matched)
    progress(_("Drawing the build"))
    return Graded(report=with_pictures(report, context), scene=make_scene(context))


def grade_report(exercise: Mapping[str, bytes], files: Mapping[str, bytes], note: str) -> Report:
    """Grade a submission; the report alone."""
    return grade(read_exercise(exercise), files, tolerance=Tolerance(), progress=noting(note))


def preview_files(exercise: Mapping[str, bytes], files: Mapping[str, bytes], note: str) -> Previewed:
    """Say what was understood of what a student chose, and draw it."""
    progress = noting(note)
    read, matched = _matched(exercise, files, progress)
    preview, submission = preview_submission(read, files, tolerance=Tolerance(), progress=progress, matched=matched)
    progress(_("Drawing the build"))
    return Previewed(preview=preview, scene=scene_of_submission(submission))


def prepare_exercise(exercise: Mapping[str, bytes], note: str) -> Prepared:
    """Check an exercise, draw its sheet and say what each check asks."""
    read = read_exercise(exercise)
    return Prepared(checks=describe(read), sheet=make_pictures(read, tolerance=Tolerance(), progress=noting(note)))
