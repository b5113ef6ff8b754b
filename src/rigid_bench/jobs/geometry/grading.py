"""Builds graded, and exercises read: runs in the sandbox, files in, reports out."""

from collections.abc import Mapping

from rigid_bench.core.drawing.pictures import make_pictures
from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import describe, grade, grade_whole
from rigid_bench.core.grading.report.card_pictures import with_pictures
from rigid_bench.core.grading.report.models import Prepared, Report
from rigid_bench.core.grading.report.preview import preview_submission
from rigid_bench.core.grading.report.scene import make_scene, scene_of_submission
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.jobs.geometry.progress import noting
from rigid_bench.jobs.graded import Graded, Previewed


def grade_files(exercise: Mapping[str, bytes], files: Mapping[str, bytes], note: str) -> Graded:
    """Grade what a student handed in, and draw it."""
    progress = noting(note)
    report, context = grade_whole(read_exercise(exercise), files, tolerance=Tolerance(), progress=progress)
    progress("Drawing the build")
    return Graded(report=with_pictures(report, context), scene=make_scene(context))


def grade_report(exercise: Mapping[str, bytes], files: Mapping[str, bytes], note: str) -> Report:
    """Grade a submission; the report alone."""
    return grade(read_exercise(exercise), files, tolerance=Tolerance(), progress=noting(note))


def preview_files(exercise: Mapping[str, bytes], files: Mapping[str, bytes], note: str) -> Previewed:
    """Say what was understood of what a student chose, and draw it."""
    progress = noting(note)
    preview, submission = preview_submission(read_exercise(exercise), files, tolerance=Tolerance(), progress=progress)
    progress("Drawing the build")
    return Previewed(preview=preview, scene=scene_of_submission(submission))


def prepare_exercise(exercise: Mapping[str, bytes], note: str) -> Prepared:
    """Check an exercise, draw its sheet and say what each check asks."""
    read = read_exercise(exercise)
    return Prepared(checks=describe(read), sheet=make_pictures(read, tolerance=Tolerance(), progress=noting(note)))
