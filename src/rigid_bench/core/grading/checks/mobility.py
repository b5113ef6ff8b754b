"""How many motions has the whole build? Idle spins of round parts are not counted."""

from typing import Annotated

from pydantic import Field

from rigid_bench.core.assembly.freedom.analysis import Freedom
from rigid_bench.core.assembly.freedom.spaces import holds_space, space_of
from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task
from rigid_bench.core.grading.checks.freedom import idle_spin
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.wording.phrases import quoted

#: A build that nothing holds moves as a whole, six ways.
_COMMON = 6


class MobilityFields(Document):
    """Fields of a check of kind `mobility`."""

    count: Annotated[int, Field(ge=0, le=1000)]


def _required(check: CheckModel, fields: MobilityFields, exercise: Exercise) -> Message:
    return _motions(fields.count)


def _motions(count: int) -> Message:
    return phrase("part.motions", count=count)


def _judge(task: Task[MobilityFields]) -> CheckResult:
    freedom = task.context.freedom
    if freedom is None:
        return task.no_mates()
    idle = sum(_spins(task, freedom, index) for index in range(len(freedom.poses)))
    count = freedom.mobility - idle - (0 if freedom.system.held or not _is_based(task) else _COMMON)
    if freedom.conflicts:
        names = quoted(conflict.mate for conflict in freedom.conflicts[:3])
        cause = Cause(code="clash", message=phrase("cause.clash", mates=names))
        return task.result(
            "missed", phrase("measured.mates-clash"), cause=cause, next_step=phrase("step.put-mates-right", mates=names)
        )
    measured = _motions(count)
    if idle:
        measured = phrase("measured.with-idle-spins", motions=measured, idle=phrase("part.idle-spins", count=idle))
    if count == task.fields.count:
        return task.result("met", measured)
    off = abs(count - task.fields.count)
    if count > task.fields.count:
        cause = Cause(code="motion-too-many", message=phrase("cause.motion-too-many", count=off))
        step = phrase("step.drag-each")
    else:
        cause = Cause(code="motion-too-few", message=phrase("cause.motion-too-few", count=off))
        step = phrase("step.look-for-fixed")
    return task.result("missed", measured, difference=float(count - task.fields.count), cause=cause, next_step=step)


def _is_based(task: Task[MobilityFields]) -> bool:
    """Say whether the exercise lets the base be fixed without declaring it: then common motions do not count."""
    return set(task.context.exercise.model.grounding) != {"declared"}


def _spins(task: Task[MobilityFields], freedom: Freedom, index: int) -> bool:
    """Say whether a round part spins idly: about its own axis, while nothing else need move."""
    length = float(freedom.system.lengths[index])
    own = idle_spin(task.context, freedom, index)
    if not own or index in freedom.system.held:
        return False
    space = space_of(freedom.motions(index), length)
    return holds_space(space, space_of(own, length)) and freedom.moves_alone(index, own[0])


KIND = CheckKind(
    name="mobility", mended_by_mates=True, strip="assembly", fields=MobilityFields, required=_required, judge=_judge
)
