"""Is there a mate of a certain kind between two parts, where that is the lesson?"""

from typing import Annotated

from pydantic import Field

from rigid_bench.core.assembly.mates.registry import KINDS, words_of
from rigid_bench.core.exercise.bundle import FILE, CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.wording.quantities import listed


class MateFields(Document):
    """Fields of a check of kind `mate`."""

    a: str
    b: str
    #: Any of these kinds will do.
    kinds: Annotated[list[str], Field(min_length=1, max_length=20)]


def _required(check: CheckModel, fields: MateFields, exercise: Exercise) -> str:
    said = " or ".join(f"{words_of(kind)} ({kind})" for kind in fields.kinds)
    return f"{exercise.instance_name(fields.a)} and {exercise.instance_name(fields.b)}: {said}"


def _judge(task: Task[MateFields]) -> CheckResult:
    context, fields = task.context, task.fields
    if absent := task.absent(fields.a, fields.b):
        return absent
    build = context.submission.build
    if build is None:
        return task.no_mates()
    pair = {context.matching.instances[instance] for instance in (fields.a, fields.b)}
    own = [mate for mate in build.mates if {mate.a, mate.b} == pair]
    measured = listed([f"'{mate.id}' ({mate.kind})" for mate in own]) or "no mate between them"
    if any(mate.kind in fields.kinds for mate in own):
        return task.result("met", measured)
    return task.result(
        "missed", measured, next_step=f"Mate them so: {_required(task.check, fields, context.exercise)}."
    )


def _verify(check: CheckModel, fields: MateFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.a, fields.b)
    unknown = next((kind for kind in fields.kinds if kind not in KINDS), None)
    if unknown:
        where = f"{FILE}, check '{check.id}'"
        raise InvalidDocument(
            where, f"there is no kind of mate '{unknown}'", f"The kinds are: {', '.join(sorted(KINDS))}"
        )


KIND = CheckKind(
    name="mate", subject="mate", strip="assembly", fields=MateFields, required=_required, judge=_judge, verify=_verify
)
