"""What is found of an exercise before it is released: does it hold together, and would its own model pass?"""

from collections.abc import Callable
from typing import Any

from rigid_bench.core.drawing.audit.exercise_audit import audit_exercise
from rigid_bench.core.drawing.pictures import make_pictures
from rigid_bench.core.exercise.authoring.check_factory import PlacedInstance
from rigid_bench.core.exercise.authoring.faults import find_faults
from rigid_bench.core.exercise.authoring.kind_form import form_of
from rigid_bench.core.exercise.authoring.pointable import numbers_of, pointables
from rigid_bench.core.exercise.authoring.propose_sizes import missing_dimensions
from rigid_bench.core.exercise.authoring.sheet_faults import find_sheet_faults
from rigid_bench.core.exercise.bundle import Exercise, features_of
from rigid_bench.core.exercise.references import read_reference
from rigid_bench.core.exercise.review.examined import Examined, OwnMark
from rigid_bench.core.formats.audit import AuditReport
from rigid_bench.core.grading.checks import KINDS
from rigid_bench.core.grading.grade import describe, grade
from rigid_bench.core.grading.report.models import Prepared
from rigid_bench.core.grading.requirement import DimensionFields, requirement_of
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _


def examine(
    exercise: Exercise,
    files: dict[str, bytes],
    *,
    tolerance: Tolerance,
    progress: Callable[[str], None] = lambda text: None,
) -> Examined:
    """Examine an exercise.

    Parameters
    ----------
    exercise
        As read from its bundle.
    files
        The bundle's files: the reference build and the part files are graded as if a student had handed them in.
    tolerance
        For reading and measuring.
    progress
        Told what is being done.

    Raises
    ------
    RigidBenchError
        The exercise cannot be meant.
    """
    checks = describe(exercise)
    sheet = make_pictures(exercise, tolerance=tolerance, progress=progress)
    audit = audit_exercise(exercise, tolerance=tolerance, progress=progress)
    progress(_("Naming what can be pointed at"))
    pointed = _pointed(exercise, audit, tolerance)
    progress(_("Looking for faults of the sheet"))
    faults = [*find_sheet_faults(exercise, _nominals(exercise)), *find_faults(exercise, tolerance=tolerance)]
    progress(_("Grading the reference by its own exercise"))
    named = {part.file for part in exercise.model.parts if part.file} | {exercise.model.reference}
    handed_in = {name: data for name, data in files.items() if name in named}
    report = grade(exercise, handed_in, tolerance=tolerance, progress=progress) if handed_in else None
    judged = (
        [check for check in report.checks if not check.levels and not KINDS[check.kind].needs_second_model]
        if report
        else []
    )
    return Examined(
        prepared=Prepared(sheet=sheet, checks=checks),
        forms={name: form_of(kind.fields) for name, kind in KINDS.items()},
        audit=audit,
        awarded=sum(result.awarded for result in judged),
        available=sum(result.available for result in judged),
        missed=[
            OwnMark(
                id=result.id,
                title=result.title,
                verdict=result.verdict,
                measured=result.measured_message,
                required=result.required_message,
            )
            for result in judged
            if result.verdict != "met"
        ],
        faults=faults,
        places=_places(exercise),
        **pointed,
    )


def _places(exercise: Exercise) -> dict[str, PlacedInstance]:
    instances = exercise.reference.instances if exercise.reference else ()
    return {
        instance.id: PlacedInstance(
            part=instance.part,
            name=exercise.instance_name(instance.id),
            position=(instance.pose.position / exercise.mm).tolist(),
            quaternion=instance.pose.quaternion(),
        )
        for instance in instances
    }


def _nominals(exercise: Exercise) -> dict[str, float]:
    """Return what each dimension asks, in the exercise's unit."""
    sizes = [check for check in exercise.model.checks if check.kind == "dimension"]
    return {
        size.id: requirement_of(size, DimensionFields.model_validate(size.fields), exercise).nominal for size in sizes
    }


def _pointed(exercise: Exercise, audit: AuditReport, tolerance: Tolerance) -> dict[str, Any]:
    """Say what can be pointed at, what of it is loose, and of what each dimension speaks."""
    mm, checks = exercise.mm, exercise.model.checks
    pointed: dict[str, dict[str, Any]] = {"pointable": {}, "loose": {}, "offered": {}, "speaks_of": {}}
    for part in exercise.model.parts:
        if part.file is None:
            continue
        features = read_reference(exercise, part, tolerance=tolerance)
        listed = pointables(features, mm=mm)
        own = [pointable.feature.feature() for pointable in listed]
        pointed["pointable"][part.id] = listed
        for check in checks:
            if check.kind == "dimension" and check.fields.get("part") == part.id:
                pointed["speaks_of"][check.id] = numbers_of(features_of(check), own)
        report = audit.parts.get(part.id)
        if report and report.missing:
            loose = [missing.feature.feature() for missing in report.missing]
            pointed["loose"][part.id] = numbers_of(loose, own)
            pointed["offered"][part.id] = missing_dimensions(part, features, checks, mm=mm, tolerance=tolerance)
    return pointed
