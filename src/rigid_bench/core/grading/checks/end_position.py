"""Does a part stand at the end of its travel: fully open, at the top of its stroke, pushed home?"""

import math
from typing import Annotated, Literal

from pydantic import Field

from rigid_bench.core.assembly.freedom.freedom_report import MotionReport
from rigid_bench.core.assembly.motion.sweep import ROUND
from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.checks.freedom import GROUND, asked_motion, moving
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.wording.phrases import amount, motion_phrase


class EndPositionFields(Document):
    """Fields of a check of kind `end_position`."""

    instance: str
    to: str = GROUND
    motion: MotionReport
    #: The end that lies along the motion's direction, or against it.
    end: Literal["along", "against"] = "along"
    #: How near to the end counts: the exercise's unit, or degrees for a turn.
    within: Annotated[float, Field(gt=0, le=1e3, allow_inf_nan=False)] = 0.1


def _required(check: CheckModel, fields: EndPositionFields, exercise: Exercise) -> Message:
    doing = motion_phrase(asked_motion(fields.motion, exercise.mm, check.id))
    name = exercise.instance_name(fields.instance)
    if fields.end == "along":
        return phrase("asks.end-along", name=name, doing=doing)
    return phrase("asks.end-against", name=name, doing=doing)


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
        cause = Cause(code="no-stop", message=phrase("cause.no-stop", name=name))
        return task.result("missed", phrase("measured.no-end"), cause=cause, next_step=phrase("step.add-stop"))
    if short <= fields.within:
        return task.result("met", phrase("measured.at-end"))
    words = amount(short, "angle" if is_turn else "length", context.exercise.model.units)
    step = phrase("step.move-on", name=name, by=words)
    return task.result("missed", phrase("measured.short-of-end", by=words), difference=round(-short, 6), next_step=step)


def _verify(check: CheckModel, fields: EndPositionFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.instance, *(() if fields.to == GROUND else (fields.to,)))
    asked_motion(fields.motion, exercise.mm, check.id)


KIND = CheckKind(
    name="end_position", strip="assembly", fields=EndPositionFields, required=_required, judge=_judge, verify=_verify
)
