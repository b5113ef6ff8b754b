"""Is a part one body, or as many as asked: pieces not joined, or merged with a neighbour?"""

from typing import Annotated

from pydantic import Field

from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_part
from rigid_bench.core.grading.report.models import Cause, CheckResult


class BodiesFields(Document):
    """Fields of a check of kind `bodies`."""

    part: str
    count: Annotated[int, Field(ge=1, le=100)] = 1


def _required(check: CheckModel, fields: BodiesFields, exercise: Exercise) -> Message:
    return phrase("asks.bodies", count=fields.count)


def _judge(task: Task[BodiesFields]) -> CheckResult:
    matching, submission = task.context.matching, task.context.submission
    index = matching.parts.get(task.fields.part)
    if index is None:
        return task.missing_part(task.fields.part)
    own = submission.parts[index]
    # in a file of loose bodies the other parts of the exercise share the product
    taken = {submission.instances[k].part for copies in matching.copies.values() for k in copies}
    loose = [k for k, part in enumerate(submission.parts) if part.product == own.product and k not in taken]
    count = 1 + len(loose)
    name = task.context.exercise.part_name(task.fields.part)
    if not own.features.closed:
        cause = Cause(code="not-closed", message=phrase("cause.not-closed"))
        return task.result("missed", phrase("measured.open"), cause=cause, next_step=phrase("step.close", name=name))
    measured = phrase("measured.bodies", count=count)
    if count == task.fields.count:
        return task.result("met", measured)
    if count > task.fields.count:
        cause = Cause(code="several-bodies", message=phrase("cause.several-bodies"))
        return task.result("missed", measured, cause=cause, next_step=phrase("step.join", name=name))
    cause = Cause(code="merged", message=phrase("cause.pieces-joined"))
    return task.result("missed", measured, cause=cause, next_step=phrase("step.model-apart", name=name))


def _verify(check: CheckModel, fields: BodiesFields, exercise: Exercise) -> None:
    known_part(check, exercise, fields.part)


KIND = CheckKind(
    name="bodies", subject="part", strip="parts", fields=BodiesFields, required=_required, judge=_judge, verify=_verify
)
