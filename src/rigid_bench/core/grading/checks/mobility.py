"""How many motions has the whole build? Idle spins of round parts are not counted."""

from typing import Annotated

from pydantic import Field

from rigid_bench.core.assembly.freedom.analysis import Freedom
from rigid_bench.core.assembly.freedom.spaces import holds_space, space_of
from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.grading.checks.base import CheckKind, Task
from rigid_bench.core.grading.checks.freedom import idle_spin
from rigid_bench.core.grading.report.models import Cause, CheckResult

#: A build that nothing holds moves as a whole, six ways.
_COMMON = 6


class MobilityFields(Document):
    """Fields of a check of kind `mobility`."""

    count: Annotated[int, Field(ge=0, le=1000)]


def _required(check: CheckModel, fields: MobilityFields, exercise: Exercise) -> str:
    return _motions(fields.count)


def _motions(count: int) -> str:
    return "no motion" if count == 0 else "one motion" if count == 1 else f"{count} motions"


def _judge(task: Task[MobilityFields]) -> CheckResult:
    freedom = task.context.freedom
    if freedom is None:
        return task.no_mates()
    idle = sum(_spins(task, freedom, index) for index in range(len(freedom.poses)))
    count = freedom.mobility - idle - (0 if freedom.system.held or not _is_based(task) else _COMMON)
    if freedom.conflicts:
        names = ", ".join(f"'{conflict.mate}'" for conflict in freedom.conflicts[:3])
        cause = Cause(code="clash", text=f"Mates that do not hold say nothing of what moves: {names}.")
        return task.result("missed", "mates clash", cause=cause, next_step=f"Put {names} right first.")
    measured = _motions(count) + (f", and {idle} idle spin{'s' if idle > 1 else ''}" if idle else "")
    if count == task.fields.count:
        return task.result("met", measured)
    off = abs(count - task.fields.count)
    way, todo = (
        ("many", "a mate is missing") if count > task.fields.count else ("few", "something is held that should move")
    )
    text = f"{_motions(off).capitalize()} too {way}: {todo}."
    cause = Cause(code=f"motion-too-{way}", text=text)
    step = (
        "Drag each part in turn: what moves by itself lacks a mate"
        if way == "many"
        else "Look for the part that is fixed"
    )
    return task.result(
        "missed", measured, difference=float(count - task.fields.count), cause=cause, next_step=f"{step}."
    )


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
