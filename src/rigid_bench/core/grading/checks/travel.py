"""How far can a part go along a motion, until a joint meets its limit or the part another?"""

import math
from typing import Annotated

from pydantic import Field, model_validator

from rigid_bench.core.assembly.freedom.freedom_report import MotionReport
from rigid_bench.core.assembly.motion.sweep import ROUND, Stop
from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.checks.freedom import GROUND, asked_motion, moving
from rigid_bench.core.grading.report.models import CheckResult, Gauge
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.phrases import amount, motion_phrase

_DUST = 1e-3
_Length = Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)]


class TravelFields(Document):
    """Fields of a check of kind `travel`: degrees for a turn, else the exercise's unit; both ways together."""

    instance: str
    to: str = GROUND
    motion: MotionReport
    min: _Length | None = None
    max: _Length | None = None

    @model_validator(mode="after")
    def _has_a_range(self) -> "TravelFields":
        if self.min is None and self.max is None:
            raise ValueError(_("needs min, max or both"))
        return self


def _unit(fields: TravelFields, exercise: Exercise) -> tuple[str, float]:
    """Return what amounts are measured as, and what the engine's are divided by."""
    return ("angle", math.radians(1)) if fields.motion.kind == "rotation" else ("length", exercise.mm)


def _required(check: CheckModel, fields: TravelFields, exercise: Exercise) -> Message:
    kind, _ = _unit(fields, exercise)
    doing = motion_phrase(asked_motion(fields.motion, exercise.mm, check.id))
    units = exercise.model.units
    if fields.min is None:
        return phrase("asks.travel-most", doing=doing, most=amount(fields.max or 0.0, kind, units))
    if fields.max is None:
        return phrase("asks.travel-least", doing=doing, least=amount(fields.min, kind, units))
    return phrase("asks.travel", doing=doing, low=fields.min, high=amount(fields.max, kind, units))


def _judge(task: Task[TravelFields]) -> CheckResult:
    own = moving(task)
    if isinstance(own, CheckResult):
        return own
    return _compared(task, [task.context.stop(own.motion, own.index, own.to, way=way) for way in (-1, 1)])


def _compared(task: Task[TravelFields], stops: list[Stop]) -> CheckResult:
    exercise, fields = task.context.exercise, task.fields
    kind, per = _unit(fields, exercise)
    value = sum(stop.amount for stop in stops) / per
    whole_turn = kind == "angle" and any(stop.amount > ROUND for stop in stops)
    value = 360.0 if whole_turn else value
    measured = phrase("measured.all-round") if whole_turn else amount(value, kind, exercise.model.units)
    low, high = (0.0 if fields.min is None else fields.min), (math.inf if fields.max is None else fields.max)
    gauge = Gauge(
        low=fields.min, high=fields.max, measured=value, unit="°" if kind == "angle" else exercise.model.units
    )
    stopped = [cause for stop in stops if (cause := _stopped(task, stop))]
    if stopped:
        different = stopped if len(stopped) == 1 or stopped[0] != stopped[1] else stopped[:1]
        measured = phrase("measured.then", travel=measured, stops=different)
    if low - _DUST <= value <= high + _DUST:
        return task.result("met", measured, gauge=gauge)
    limit = low if value < low else high
    name = exercise.instance_name(fields.instance)
    step = phrase("step.go-further" if value < low else "step.go-less-far", name=name)
    return task.result("missed", measured, difference=round(value - limit, 6), gauge=gauge, next_step=step)


def _stopped(task: Task[TravelFields], stop: Stop) -> Message | None:
    if isinstance(stop.by, tuple):
        return phrase("meeting", items=[task.context.name_of(index) for index in stop.by])
    return phrase("part.limit-of", mate=stop.by) if stop.by else None


def _verify(check: CheckModel, fields: TravelFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.instance, *(() if fields.to == GROUND else (fields.to,)))
    asked_motion(fields.motion, exercise.mm, check.id)


KIND = CheckKind(name="travel", strip="fit", fields=TravelFields, required=_required, judge=_judge, verify=_verify)
