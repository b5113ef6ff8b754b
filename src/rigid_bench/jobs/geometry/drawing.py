"""Sheets of an exercise: runs in the sandbox, files in, reports out."""

from collections.abc import Mapping

from rigid_bench.core.drawing.layout.sheets import SheetOptions, make_sheets
from rigid_bench.core.drawing.pictures import make_pictures
from rigid_bench.core.drawing.report import DrawingReport
from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import describe
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.jobs.geometry.progress import noting


def draw_exercise(exercise: Mapping[str, bytes], options: SheetOptions, note: str) -> DrawingReport:
    """Lay out the sheets of an exercise."""
    read = read_exercise(exercise)
    sizes = {check.id: check.size for check in describe(read) if check.size}
    pictures = make_pictures(read, tolerance=Tolerance(), progress=noting(note))
    return make_sheets(read.model, pictures, sizes, options)
