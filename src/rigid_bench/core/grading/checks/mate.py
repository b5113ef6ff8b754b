"""Is there a mate of a certain kind between two parts, where that is the lesson?"""

from typing import Annotated

from pydantic import Field

from rigid_bench.core.assembly.mates.registry import KINDS
from rigid_bench.core.exercise.bundle import FILE, CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.wording.language import _, series
from rigid_bench.core.wording.phrases import listed


class MateFields(Document):
    """Fields of a check of kind `mate`."""

    a: str
    b: str
    #: Any of these kinds will do.
    kinds: Annotated[list[str], Field(min_length=1, max_length=20)]


def _required(check: CheckModel, fields: MateFields, exercise: Exercise) -> Message:
    kinds = [phrase("part.mate-kind", doing=phrase(f"mate.{kind}"), kind=kind) for kind in fields.kinds]
    a, b = (exercise.instance_name(instance) for instance in (fields.a, fields.b))
    return phrase("asks.pair", a=a, b=b, doing=phrase("either", items=kinds))


def _judge(task: Task[MateFields]) -> CheckResult:
    context, fields = task.context, task.fields
    if absent := task.absent(fields.a, fields.b):
        return absent
    build = context.submission.build
    if build is None:
        return task.no_mates()
    pair = {context.matching.instances[instance] for instance in (fields.a, fields.b)}
    own = [mate for mate in build.mates if {mate.a, mate.b} == pair]
    measured = (
        listed(phrase("part.mate-of-kind", mate=mate.id, kind=mate.kind) for mate in own)
        if own
        else phrase("measured.no-mate")
    )
    if any(mate.kind in fields.kinds for mate in own):
        return task.result("met", measured)
    return task.result(
        "missed", measured, next_step=phrase("step.mate-them-so", asked=_required(task.check, fields, context.exercise))
    )


def _verify(check: CheckModel, fields: MateFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.a, fields.b)
    unknown = next((kind for kind in fields.kinds if kind not in KINDS), None)
    if unknown:
        where = f"{FILE}, check '{check.id}'"
        raise InvalidDocument(
            where,
            _("there is no kind of mate '{unknown}'", unknown=unknown),
            _("The kinds are: {kinds}", kinds=series(sorted(KINDS))),
        )


KIND = CheckKind(
    name="mate", subject="mate", strip="assembly", fields=MateFields, required=_required, judge=_judge, verify=_verify
)
