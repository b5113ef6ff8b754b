"""Does a part stand at the end of its travel: fully open, at the top of its stroke, pushed home?"""

import math
from typing import Annotated, Literal

from pydantic import Field

from rigid_bench.core.assembly.freedom.freedom_report import MotionReport
from rigid_bench.core.assembly.motion.sweep import ROUND
from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.checks.freedom import GROUND, asked_motion, moving
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.wording.quantities import motion_words, quantity


class EndPositionFields(Document):
    """Fields of a check of kind `end_position`."""

    instance: str
    to: str = GROUND
    motion: MotionReport
    #: The end that lies along the motion's direction, or against it.
    end: Literal["along", "against"] = "along"
    #: How near to the end counts: the exercise's unit, or degrees for a turn.
    within: Annotated[float, Field(gt=0, le=1e3, allow_inf_nan=False)] = 0.1


def _required(check: CheckModel, fields: EndPositionFields, exercise: Exercise) -> str:
    doing = motion_words(asked_motion(fields.motion, exercise.mm, check.id))
    way = "as far as it goes" if fields.end == "along" else "as far back as it goes"
    return f"{exercise.instance_name(fields.instance)} at the end of its travel ({doing}, {way})"


def _judge(task: Task[EndPositionFields]) -> CheckResult:
    own = moving(task)
    if isinstance(own, CheckResult):
        return own
    context, fields, name = task.context, task.fields, own.name
    way = 1 if fields.end == "along" else -1
    stop = context.stop(own.motion, own.index, own.to, way=way)
    is_turn = own.motion.kind == "rotation"
    short = stop.amount / (math.radians(1) if is_turn else context.exercise.mm)
    if stop.by is None or (is_turn and stop.amount > ROUND):
        cause = Cause(code="no-stop", text=f"Nothing stops {name} there, so there is no end position.")
        return task.result("missed", "no end found", cause=cause, next_step="Add the stop, or the joint's limit.")
    if short <= fields.within:
        return task.result("met", "at the end")
    words = quantity(short, "angle" if is_turn else "length", context.exercise.model.units)
    step = f"Move {name} on by {words} and hand in again."
    return task.result("missed", f"{words} short of the end", difference=round(-short, 6), next_step=step)


def _verify(check: CheckModel, fields: EndPositionFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.instance, *(() if fields.to == GROUND else (fields.to,)))
    asked_motion(fields.motion, exercise.mm, check.id)


KIND = CheckKind(
    name="end_position", strip="assembly", fields=EndPositionFields, required=_required, judge=_judge, verify=_verify
)
