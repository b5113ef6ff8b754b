"""Dimensions of an exercise audited: runs in the sandbox, files in, reports out."""

from collections.abc import Mapping

from rigid_bench.core.drawing.audit.exercise_audit import audit_exercise
from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.formats.audit import AuditReport
from rigid_bench.core.grading.grade import describe
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.jobs.geometry.progress import noting


def audit_files(exercise: Mapping[str, bytes], note: str) -> AuditReport:
    """Say whether the dimensions of an exercise fix its parts."""
    read = read_exercise(exercise)
    describe(read)  # refuses what cannot be meant, before anything is measured
    return audit_exercise(read, tolerance=Tolerance(), progress=noting(note))
