"""What runs in the sandbox: files in, reports out. Importing this loads the solid-modelling kernel."""

import os
from collections.abc import Callable, Mapping
from pathlib import Path

from rigid_bench.core.assembly.contact.clearance import NEAR_MM, clearances, place
from rigid_bench.core.assembly.contact.clearance_report import ClearanceReport, clearance_report
from rigid_bench.core.assembly.contact.contacts import find_contacts
from rigid_bench.core.bench.documents import BenchState, Exploded, LaidOut, Ways
from rigid_bench.core.bench.exploded import explode, find_ways
from rigid_bench.core.bench.parts import handed_parts, shapes_of, supplied_parts
from rigid_bench.core.bench.step_out import step_of_bench
from rigid_bench.core.drawing.audit_report import audit_exercise
from rigid_bench.core.drawing.sheet import make_sheet
from rigid_bench.core.exercise.authoring.propose import propose
from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.exercise.review.examine import examine
from rigid_bench.core.exercise.review.examined import Examined
from rigid_bench.core.formats.audit import AuditReport
from rigid_bench.core.formats.preview import Preview
from rigid_bench.core.grading.grade import describe, grade, grade_whole
from rigid_bench.core.grading.intake.submission import read_submission
from rigid_bench.core.grading.report.card_pictures import with_pictures
from rigid_bench.core.grading.report.models import Prepared, Report
from rigid_bench.core.grading.report.preview import preview_submission
from rigid_bench.core.grading.report.scene import make_scene
from rigid_bench.core.measurement.measure_report import MeasureReport, measure_file
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.jobs.graded import Graded


def _noting(path: str) -> Callable[[str], None]:
    """Return a progress callback that leaves its text in a file, whole at every moment."""
    note, next_note = Path(path), Path(path + ".next")

    def write(text: str) -> None:
        next_note.write_text(text, encoding="utf-8")
        os.replace(next_note, note)

    return write


def wake(note: str) -> None:
    """Do nothing: that the process runs at all loads the kernel, so that the first build need not wait for it."""


def measure_step(data: bytes, name: str, note: str) -> MeasureReport:
    """Measure one file of parts."""
    _noting(note)(f"Measuring {name}")
    return measure_file(data, name=name, tolerance=Tolerance())


def measure_clearances(files: Mapping[str, bytes], want_all: bool, note: str) -> ClearanceReport:
    """Measure the gaps of a build or a STEP assembly.

    Raises
    ------
    InvalidDocument
        An instance has no geometry.
    """
    progress, tolerance = _noting(note), Tolerance()
    submission = read_submission(files, tolerance=tolerance, progress=progress)
    for each in submission.instances:
        if each.part is None:
            raise InvalidDocument(
                f"instance '{each.id}'",
                f"there is no geometry for its part '{each.name}'",
                "Name its STEP file in the build",
            )
    solids = [
        place(each.id, submission.parts[each.part].features, each.pose)
        for each in submission.instances
        if each.part is not None
    ]
    within = None if want_all else NEAR_MM
    found = clearances(solids, tolerance=tolerance, within_mm=within, progress=progress)
    contacts = find_contacts([(each.part, each.pose) for each in solids], tolerance=tolerance)
    names = [each.instance for each in solids]
    return clearance_report(found, contacts=contacts, instances=names, warnings=submission.warnings)


def grade_files(exercise: Mapping[str, bytes], files: Mapping[str, bytes], note: str) -> Graded:
    """Grade what a student handed in, and draw it."""
    progress = _noting(note)
    report, context = grade_whole(read_exercise(exercise), files, tolerance=Tolerance(), progress=progress)
    progress("Drawing the build")
    return Graded(report=with_pictures(report, context), scene=make_scene(context))


def grade_report(exercise: Mapping[str, bytes], files: Mapping[str, bytes], note: str) -> Report:
    """Grade a submission; the report alone."""
    return grade(read_exercise(exercise), files, tolerance=Tolerance(), progress=_noting(note))


def preview_files(exercise: Mapping[str, bytes], files: Mapping[str, bytes], note: str) -> Preview:
    """Say what was understood of what a student chose."""
    return preview_submission(read_exercise(exercise), files, tolerance=Tolerance(), progress=_noting(note))


def propose_exercise(data: bytes, name: str, title: str, note: str) -> dict[str, bytes]:
    """Propose an exercise for a solved model."""
    _noting(note)(f"Reading {name}")
    return propose(data, name=name, title=title, tolerance=Tolerance())


def examine_exercise(exercise: Mapping[str, bytes], note: str) -> Examined:
    """Say what is found of an exercise before it is released."""
    return examine(read_exercise(exercise), dict(exercise), tolerance=Tolerance(), progress=_noting(note))


def lay_out(exercise: Mapping[str, bytes], files: Mapping[str, bytes] | None, note: str) -> LaidOut:
    """Lay an exercise's parts on a bench, or what a student modelled."""
    read = read_exercise(exercise)
    if files is None:
        return supplied_parts(read, tolerance=Tolerance())
    return handed_parts(files, may_suggest=read.model.suggestions, tolerance=Tolerance())


def draw_apart(
    exercise: Mapping[str, bytes], files: Mapping[str, bytes] | None, state: BenchState, share: float, note: str
) -> Exploded:
    """Draw what a bench holds apart."""
    shapes = shapes_of(read_exercise(exercise), files, tolerance=Tolerance())
    return explode(shapes, state, share=share, tolerance=Tolerance())


def find_bench_ways(
    exercise: Mapping[str, bytes], files: Mapping[str, bytes] | None, state: BenchState, note: str
) -> Ways:
    """Find how what a bench holds comes apart."""
    return find_ways(shapes_of(read_exercise(exercise), files, tolerance=Tolerance()), state, tolerance=Tolerance())


def write_bench(
    exercise: Mapping[str, bytes],
    files: Mapping[str, bytes] | None,
    state: BenchState,
    names: Mapping[str, str],
    note: str,
) -> bytes:
    """Write what a bench holds as a STEP assembly."""
    shapes = shapes_of(read_exercise(exercise), files, tolerance=Tolerance())
    return step_of_bench(state, shapes, names)


def audit_files(exercise: Mapping[str, bytes], note: str) -> AuditReport:
    """Say whether the dimensions of an exercise fix its parts."""
    return audit_exercise(read_exercise(exercise), tolerance=Tolerance(), progress=_noting(note))


def prepare_exercise(exercise: Mapping[str, bytes], note: str) -> Prepared:
    """Check an exercise, draw its sheet and say what each check asks."""
    read = read_exercise(exercise)
    return Prepared(checks=describe(read), sheet=make_sheet(read, progress=_noting(note)))
