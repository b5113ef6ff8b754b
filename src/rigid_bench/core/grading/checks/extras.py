"""What a part has besides what the sheet asks: shown always, marked only where the exercise says so."""

from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_part
from rigid_bench.core.grading.diagnosis.feature_differences import feature_differences
from rigid_bench.core.grading.diagnosis.part_causes import is_mirrored, mirrored_part
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.wording.phrases import listed

_ASKED = {
    "forbidden": "asks.nothing-besides",
    "allowed": "asks.extras-as-you-like",
    "wanted": "asks.something-own",
}


class ExtrasFields(Document):
    """Fields of a check of kind `extras`."""

    part: str


def _required(check: CheckModel, fields: ExtrasFields, exercise: Exercise) -> Message:
    return phrase(_ASKED[exercise.part(fields.part).extras])


def _judge(task: Task[ExtrasFields]) -> CheckResult:
    registered = task.context.registered(task.fields.part, where=task.where)
    if registered is None:
        return task.missing_part(task.fields.part)
    registered.need_solid(where=task.where)
    part = task.context.exercise.part(task.fields.part)
    differences = feature_differences(registered, task.context.tolerance)
    extra: list[Message | str] = [*differences.extra] if registered.unasked else []
    if differences.loose_faces and not extra:
        extra = [phrase("part.faces", count=differences.loose_faces)]
    measured = listed(extra) if extra else phrase("measured.nothing-besides")
    if part.extras == "wanted" and not extra:
        step = phrase("step.add-own", name=part.name)
        return task.result("missed", measured, next_step=step)
    if part.extras == "forbidden" and extra and is_mirrored(registered, task.context.tolerance):
        cause = mirrored_part()
        return task.result("missed", measured, cause=cause, next_step=phrase("step.other-hand", name=part.name))
    if part.extras == "forbidden" and extra:
        cause = Cause(code="feature-extra", message=phrase("cause.feature-extra", features=extra))
        return task.result("missed", measured, cause=cause, next_step=phrase("step.take-off", name=part.name))
    return task.result("met", measured)


def _verify(check: CheckModel, fields: ExtrasFields, exercise: Exercise) -> None:
    known_part(check, exercise, fields.part)


KIND = CheckKind(
    name="extras",
    subject="part",
    spreads=True,
    strip="parts",
    fields=ExtrasFields,
    required=_required,
    judge=_judge,
    verify=_verify,
)
