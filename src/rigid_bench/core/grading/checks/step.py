"""Is one face proud of its neighbour, flush with it, or sunk? Proud above 0, flush 0, sunk below."""

from rigid_bench.core.exercise.bundle import FILE, CheckModel, Exercise
from rigid_bench.core.formats.documents import NestedFeature
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.checks.gap import GapFields, between_faces
from rigid_bench.core.grading.report.models import Cause, CheckResult, Gauge
from rigid_bench.core.values.datums import PlaneFeature
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.phrases import amount

_DUST = 1e-6
#: mm: less is flush.
_FLUSH = 1e-3


class StepFields(GapFields):
    """Fields of a check of kind `step`: how far b's face stands out over a's, in the exercise's unit."""

    between: list[NestedFeature]


def step_phrase(value: float, units: str) -> Message:
    """Return how far a face stands out or in.

    Examples
    --------
    >>> step_phrase(0.5, "mm").code, step_phrase(0.0, "mm").code, step_phrase(-2.0, "mm").code
    ('part.proud', 'part.flush', 'part.sunk')
    """
    if abs(value) < _FLUSH:
        return phrase("part.flush")
    return phrase("part.proud" if value > 0 else "part.sunk", by=amount(abs(value), "length", units))


def _required(check: CheckModel, fields: StepFields, exercise: Exercise) -> Message:
    units = exercise.model.units
    limits = [limit for limit in (fields.min, fields.max) if limit is not None]
    steps = [step_phrase(limit, units) for limit in limits]
    return (
        steps[0]
        if len(steps) == 1 or steps[0] == steps[1]
        else phrase("part.from-to", least=steps[0], greatest=steps[1])
    )


def _judge(task: Task[StepFields]) -> CheckResult:
    context, fields = task.context, task.fields
    if absent := task.absent(fields.a, fields.b, shape=True):
        return absent
    height = between_faces(task)
    if height is None:
        missing = Cause(code="feature-missing", message=phrase("cause.no-face-compared"))
        return task.result(
            "missed", phrase("measured.face-not-found"), cause=missing, next_step=phrase("step.part-first")
        )
    value, units = height / context.exercise.mm, context.exercise.model.units
    gauge = Gauge(low=fields.min, high=fields.max, measured=value, unit=units)
    low, high = (-1e9 if fields.min is None else fields.min), (1e9 if fields.max is None else fields.max)
    if low - _DUST <= value <= high + _DUST:
        return task.result("met", step_phrase(value, units), gauge=gauge)
    limit = low if value < low else high
    name = context.exercise.instance_name(fields.b)
    off = amount(abs(value - limit), "length", units)
    step = phrase("step.move-out" if value < low else "step.move-in", name=name, by=off)
    return task.result(
        "missed", step_phrase(value, units), difference=round(value - limit, 6), gauge=gauge, next_step=step
    )


def _verify(check: CheckModel, fields: StepFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.a, fields.b)
    for feature in fields.between:
        if not isinstance(feature.feature(mm=exercise.mm), PlaneFeature):
            where = f"{FILE}, check '{check.id}'"
            raise InvalidDocument(where, _("a step is between two flat faces"), _("Name two planes that look one way"))


KIND = CheckKind(name="step", strip="fit", fields=StepFields, required=_required, judge=_judge, verify=_verify)
