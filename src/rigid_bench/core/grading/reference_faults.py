"""Rows that an exercise's own reference misses, too: the student is not to blame, and the teacher must know."""

from collections.abc import Iterable, Iterator

from rigid_bench.core.exercise.bundle import CheckModel
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.dimension import request_of
from rigid_bench.core.grading.context import Context
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.grading.requirement import DimensionFields, requirement_of
from rigid_bench.core.measurement.measure import measure
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.errors import GeometryError
from rigid_bench.core.wording.phrases import amount
from rigid_bench.core.wording.quantities import POWERS


def reference_faults(context: Context, results: Iterable[CheckResult]) -> Iterator[Message]:
    """Yield a notice for each missed size that the reference misses, too.

    Parameters
    ----------
    context
        Of the submission that was graded.
    results
        What was found; only rows that are missed are looked at, so that a right build costs nothing.
    """
    checks = {check.id: check for check in context.exercise.model.checks}
    for result in results:
        if result.kind == "dimension" and result.verdict == "missed" and result.follows is None:
            fault = _fault(context, checks[result.id])
            if fault:
                yield fault


def _fault(context: Context, check: CheckModel) -> Message | None:
    exercise, fields = context.exercise, DimensionFields.model_validate(check.fields)
    reference = context.references.get(fields.part)
    if reference is None or fields.value in ("free", "assumed"):
        return None
    wanted = requirement_of(check, fields, exercise)
    try:
        own_size = measure(RegisteredPart.over_itself(reference), request_of(check, fields, exercise))
    except GeometryError:  # nothing is known then, and a build is not refused for it
        return None
    power = POWERS[wanted.dimension]
    value = None if own_size is None else own_size / exercise.mm**power
    if value is not None and wanted.contains(value):
        return None
    measured = phrase("measured.not-found") if value is None else amount(value, wanted.dimension, exercise.model.units)
    asked = amount(wanted.nominal, wanted.dimension, exercise.model.units)
    return phrase("reference-misses", title=check.title, asked=asked, measured=measured)
