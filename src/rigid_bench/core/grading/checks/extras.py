"""What a part has besides what the sheet asks: shown always, marked only where the exercise says so."""

from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_part
from rigid_bench.core.grading.diagnosis.feature_differences import feature_differences
from rigid_bench.core.grading.diagnosis.part_causes import MIRRORED, is_mirrored
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.wording.quantities import listed

_ASKED = {
    "forbidden": "nothing besides what the sheet asks",
    "allowed": "extras as you like: shown, not marked",
    "wanted": "something of your own on it",
}


class ExtrasFields(Document):
    """Fields of a check of kind `extras`."""

    part: str


def _required(check: CheckModel, fields: ExtrasFields, exercise: Exercise) -> str:
    return _ASKED[exercise.part(fields.part).extras]


def _judge(task: Task[ExtrasFields]) -> CheckResult:
    laid = task.context.laid(task.fields.part, where=task.where)
    if laid is None:
        return task.missing_part(task.fields.part)
    laid.need_solid(where=task.where)
    part = task.context.exercise.part(task.fields.part)
    differences = feature_differences(laid, task.context.tolerance)
    extra = differences.extra if laid.unasked else []
    if differences.loose_faces and not extra:
        extra = [f"{differences.loose_faces} face{'s' if differences.loose_faces > 1 else ''}"]
    measured = listed(extra) or "nothing besides"
    if part.extras == "wanted" and not extra:
        step = f"Add a feature of your own to {part.name} and hand in again."
        return task.result("missed", measured, next_step=step)
    if part.extras == "forbidden" and extra and is_mirrored(laid, task.context.tolerance):
        cause = Cause(code="mirrored", text=MIRRORED)
        return task.result("missed", measured, cause=cause, next_step=f"Make {part.name} for the other hand.")
    if part.extras == "forbidden" and extra:
        cause = Cause(code="feature-extra", text=f"The sheet does not ask for {listed(extra)}.")
        return task.result("missed", measured, cause=cause, next_step=f"Take this off {part.name} and hand in again.")
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
