"""How far can a part go along a motion, until a joint meets its limit or the part another?"""

import math
from typing import Annotated

from pydantic import Field, model_validator

from rigid_bench.core.assembly.freedom.freedom_report import MotionReport
from rigid_bench.core.assembly.motion.sweep import ROUND, Stop
from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.checks.freedom import GROUND, asked_motion, moving
from rigid_bench.core.grading.report.models import CheckResult, Gauge
from rigid_bench.core.wording.quantities import motion_words, number, quantity

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
            raise ValueError("needs min, max or both")
        return self


def _unit(fields: TravelFields, exercise: Exercise) -> tuple[str, float]:
    """Return what amounts are measured as, and what the engine's are divided by."""
    return ("angle", math.radians(1)) if fields.motion.kind == "rotation" else ("length", exercise.mm)


def _required(check: CheckModel, fields: TravelFields, exercise: Exercise) -> str:
    kind, _ = _unit(fields, exercise)
    doing = motion_words(asked_motion(fields.motion, exercise.mm, check.id))
    units = exercise.model.units
    if fields.min is None:
        return f"can {doing} by at most {quantity(fields.max or 0.0, kind, units)}"
    if fields.max is None:
        return f"can {doing} by at least {quantity(fields.min, kind, units)}"
    return f"can {doing} by {number(fields.min)} to {quantity(fields.max, kind, units)}"


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
    measured = "all round" if whole_turn else quantity(value, kind, exercise.model.units)
    low, high = (0.0 if fields.min is None else fields.min), (math.inf if fields.max is None else fields.max)
    gauge = Gauge(
        low=fields.min, high=fields.max, measured=value, unit="°" if kind == "angle" else exercise.model.units
    )
    said = " and ".join(dict.fromkeys(filter(None, (_stopped(task, stop) for stop in stops))))
    measured += f", then {said}" if said else ""
    if low - _DUST <= value <= high + _DUST:
        return task.result("met", measured, gauge=gauge)
    limit = low if value < low else high
    name = exercise.instance_name(fields.instance)
    step = f"{name} should go {'further' if value < low else 'less far'}: look at what stops it."
    return task.result("missed", measured, difference=round(value - limit, 6), gauge=gauge, next_step=step)


def _stopped(task: Task[TravelFields], stop: Stop) -> str:
    if isinstance(stop.by, tuple):
        return " meets ".join(task.context.name_of(index) for index in stop.by)
    return f"the limit of '{stop.by}'" if stop.by else ""


def _verify(check: CheckModel, fields: TravelFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.instance, *(() if fields.to == GROUND else (fields.to,)))
    asked_motion(fields.motion, exercise.mm, check.id)


KIND = CheckKind(name="travel", strip="fit", fields=TravelFields, required=_required, judge=_judge, verify=_verify)
