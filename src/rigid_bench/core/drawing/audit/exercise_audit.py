"""The audit of all parts of an exercise that students make."""

from collections.abc import Callable, Mapping, Sequence

from rigid_bench.core.drawing.audit.part_audit import audit_part, equations_of
from rigid_bench.core.drawing.audit.report import part_report
from rigid_bench.core.drawing.audit.size_equations import PartEquations
from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.exercise.references import read_reference
from rigid_bench.core.formats.audit import AuditReport
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _


def audit_exercise(
    exercise: Exercise, *, tolerance: Tolerance, progress: Callable[[str], None] = lambda text: None
) -> AuditReport:
    """Say for each part that students make whether its dimensions fix every size and position.

    Raises
    ------
    InvalidDocument
        A reference file does not hold exactly one solid.
    UnreadableFile
        A reference file cannot be read.
    """
    parts = {}
    for model in exercise.model.parts:
        if model.origin != "made" or model.file is None:
            continue
        progress(_("Looking what fixes {name}", name=model.name))
        features = read_reference(exercise, model, tolerance=tolerance)
        audit = audit_part(features, model, exercise.model.checks, mm=exercise.mm)
        parts[model.id] = part_report(audit, exercise.mm)
    return AuditReport(parts=parts)


def exercise_equations(
    exercise: Exercise, offered: Mapping[str, Sequence[CheckModel]], *, tolerance: Tolerance
) -> dict[str, PartEquations]:
    """Return what the audits of an exercise's parts need of their models, by part.

    Parameters
    ----------
    exercise
        Its parts and checks.
    offered
        By part: checks that it does not have, and may have next.
    """
    return {
        model.id: equations_of(
            read_reference(exercise, model, tolerance=tolerance),
            model,
            [*exercise.model.checks, *offered.get(model.id, ())],
            mm=exercise.mm,
        )
        for model in exercise.model.parts
        if model.origin == "made" and model.file is not None
    }
