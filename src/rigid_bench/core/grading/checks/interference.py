"""Does any part pass through another?"""

from rigid_bench.core.documents import Document
from rigid_bench.core.exercise.exercise import CheckModel, Exercise
from rigid_bench.core.grading.checks.base import CheckKind, Task
from rigid_bench.core.grading.report import CheckResult
from rigid_bench.core.grading.wording import listed, number


class InterferenceFields(Document):
    """Fields of a check of kind `interference`: none of its own."""


def _required(check: CheckModel, fields: InterferenceFields, exercise: Exercise) -> str:
    return "no part passes through another"


def _judge(task: Task[InterferenceFields]) -> CheckResult:
    context = task.context
    without = [each.name for each in context.submission.instances if each.part is None]
    if without or not context.solids:
        return task.no_geometry()
    overlaps = [each for each in context.clearances if each.state == "interfering"]
    if not overlaps:
        return task.result("met", "none")
    said = [
        f"{context.name_of(int(each.a))} and {context.name_of(int(each.b))} share {number(each.overlap_mm3, 2)} mm³"
        for each in overlaps
    ]
    names = f"{context.name_of(int(overlaps[0].a))} and {context.name_of(int(overlaps[0].b))}"
    return task.result(
        "missed",
        listed(said),
        next_step=f"Move {names} apart, or make the one that is too large smaller.",
    )


KIND = CheckKind(name="interference", strip="fit", fields=InterferenceFields, required=_required, judge=_judge)
