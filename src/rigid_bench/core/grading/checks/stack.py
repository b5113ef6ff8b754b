"""Does a screw, pin or peg reach: how much of it is in a part, and is its tip clear of the blind end?

Along its axis the lengths are added up over all parts that it goes through, and the sum is shown.
"""

from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from rigid_bench.core.documents import CylinderModel, Document, FeatureModel
from rigid_bench.core.exercise.exercise import CheckModel, Exercise
from rigid_bench.core.feature import AxisFeature
from rigid_bench.core.geometry.faces import Cylinder
from rigid_bench.core.geometry.holes import Hole, find_holes, is_closed_at_end
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.context import Context
from rigid_bench.core.grading.report import Cause, CheckResult, Gauge
from rigid_bench.core.grading.wording import number, quantity

_Length = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]
#: mm and cosine: a hole this near to the axis is one that the screw or pin goes through.
_ON_AXIS, _ALONG = 0.05, 1 - 1e-6
#: mm: shorter stretches are rounding.
_LEAST, _DUST = 1e-3, 1e-6


class StackFields(Document):
    """Fields of a check of kind `stack`, in the exercise's unit."""

    instance: str
    #: The shank: a round wall of the reference part.
    of: CylinderModel
    #: The part that it should reach into.
    into: str
    #: How much of the shank is in it, or how far the tip is from the blind end.
    measure: Literal["engaged", "tip"] = "engaged"
    min: _Length | None = None
    max: _Length | None = None

    @model_validator(mode="after")
    def _has_a_range(self) -> "StackFields":
        if self.min is None and self.max is None:
            raise ValueError("needs min, max or both")
        return self


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Shank:
    """A round wall where it stands."""

    point: NDArray[np.float64]
    direction: NDArray[np.float64]
    length: float

    def stretch(self, context: Context, index: int, hole: Hole) -> tuple[float, float] | None:
        """Return where along the shank, in mm, a hole of an instance begins and ends; None where it is elsewhere."""
        wall, pose = hole.cylinder, context.submission.instances[index].pose
        point, end, way = pose.point(wall.point), pose.point(wall.end), pose.direction(wall.direction)
        away = np.linalg.norm(np.cross(point - self.point, self.direction))
        if away > _ON_AXIS or abs(float(way @ self.direction)) < _ALONG:
            return None
        ends = sorted(float((each - self.point) @ self.direction) for each in (point, end))
        return ends[0], ends[1]


def _required(check: CheckModel, fields: StackFields, exercise: Exercise) -> str:
    units, name = exercise.model.units, exercise.instance_name(fields.into)
    low = None if fields.min is None else number(fields.min)
    high = None if fields.max is None else quantity(fields.max, "length", units)
    band = f"{low} to {high}" if low and high else f"at least {low} {units}" if low else f"at most {high}"
    return f"{band} in {name}" if fields.measure == "engaged" else f"tip {band} clear of the blind end in {name}"


def _judge(task: Task[StackFields]) -> CheckResult:
    context, fields = task.context, task.fields
    if absent := task.absent(fields.instance, fields.into, shape=True):
        return absent
    shank = _shank(task)
    if shank is None:
        name = context.exercise.instance_name(fields.instance)
        cause = Cause(code="feature-missing", text=f"{name} has no such shank.")
        return task.result("missed", "not found", cause=cause, next_step=f"Bring in the right {name}.")
    into = context.matching.instances[fields.into]
    stretches = _stretches(context, shank)
    mm, units = context.exercise.mm, context.exercise.model.units
    said = " + ".join(
        f"{number(length / mm)} in {context.name_of(index)}" for index, length in stretches.items() if length > _LEAST
    )
    if fields.measure == "engaged":
        value = stretches.get(into, 0.0) / mm
        shown = f"{quantity(value, 'length', units)} ({number(shank.length / mm)} long: {said or 'in nothing'})"
        return _compared(task, value, shown)
    tip = _tip(task, shank, into)
    if tip is None:
        through = task.fields.max is None
        return task.result("met" if through else "missed", "the hole has no blind end", next_step="Drill it blind.")
    return _compared(task, tip / mm, f"{quantity(tip / mm, 'length', units)} ({said or 'in nothing'})")


def _shank(task: Task[StackFields]) -> _Shank | None:
    context = task.context
    index = context.matching.instances[task.fields.instance]
    feature = FeatureModel(cylinder=task.fields.of).feature(mm=context.exercise.mm)
    assert isinstance(feature, AxisFeature)
    wall: Cylinder | None = context.lays(index)[0].wall(feature, where=task.where)
    if wall is None:
        return None
    pose = context.submission.instances[index].pose
    return _Shank(point=pose.point(wall.point), direction=pose.direction(wall.direction), length=wall.length)


def _stretches(context: Context, shank: _Shank) -> dict[int, float]:
    """Add up, for each instance, how much of the shank is in its holes, mm."""
    found: dict[int, float] = {}
    for index, each in enumerate(context.submission.instances):
        if each.part is None:
            continue
        for hole in find_holes(context.submission.parts[each.part].features):
            stretch = shank.stretch(context, index, hole)
            if stretch is not None:
                length = min(stretch[1], shank.length) - max(stretch[0], 0.0)
                if length > _LEAST:
                    found[index] = found.get(index, 0.0) + length
    return found


def _tip(task: Task[StackFields], shank: _Shank, into: int) -> float | None:
    """Return how far the shank's end is from the closed end of the hole that it goes into, mm; None without one."""
    context = task.context
    part = context.submission.parts[context.submission.instances[into].part or 0].features
    for hole in find_holes(part):
        stretch = shank.stretch(context, into, hole)
        if hole.through or stretch is None or min(stretch[1], shank.length) - max(stretch[0], 0.0) < _LEAST:
            continue
        wall = hole.cylinder
        end = wall.end if is_closed_at_end(part, hole) else wall.point
        closed = context.submission.instances[into].pose.point(end)
        floor = float((closed - shank.point) @ shank.direction)
        return min((0.0 - floor, floor - shank.length), key=abs) if not 0 < floor < shank.length else -_LEAST
    return None


def _compared(task: Task[StackFields], value: float, shown: str) -> CheckResult:
    fields, units = task.fields, task.context.exercise.model.units
    low, high = (-1e9 if fields.min is None else fields.min), (1e9 if fields.max is None else fields.max)
    gauge = Gauge(low=fields.min, high=fields.max, measured=value, unit=units)
    if low - _DUST <= value <= high + _DUST:
        return task.result("met", shown, gauge=gauge)
    limit, way = (low, "short") if value < low else (high, "too much")
    name = task.context.exercise.instance_name(fields.instance)
    step = f"{name} is {quantity(abs(value - limit), 'length', units)} {way}: look at its length and its seat."
    return task.result("missed", shown, difference=round(value - limit, 6), gauge=gauge, next_step=step)


def _verify(check: CheckModel, fields: StackFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.instance, fields.into)


KIND = CheckKind(name="stack", strip="fit", fields=StackFields, required=_required, judge=_judge, verify=_verify)
