"""Does a screw, pin or peg reach and sit: seated, gripping, engaged, its nut filled, its tip clear?

Along its axis the lengths are added up over all parts that it goes through, and the sum is shown.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import BareCylinder, Document, FeatureModel
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.context import Context
from rigid_bench.core.grading.report.models import Cause, CheckResult, Gauge
from rigid_bench.core.part.faces import Cylinder, Plane
from rigid_bench.core.part.flat_bounds import FlatBounds
from rigid_bench.core.part.recognition.holes import Hole, find_holes, is_closed_at_end
from rigid_bench.core.values.datums import AxisFeature
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.phrases import amount

_Length = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]
#: mm and cosine: a hole this near to the axis is one that the screw or pin goes through.
_ON_AXIS, _ALONG = 0.05, 1 - 1e-6
#: Sine: a bore is crossed when the shank is further from parallel to it.
_SQUARE = 0.1
#: mm: shorter stretches are rounding.
_LEAST, _DUST = 1e-3, 1e-6


class StackFields(Document):
    """Fields of a check of kind `stack`, in the exercise's unit."""

    instance: str
    #: The shank: a round wall of the reference part.
    of: BareCylinder
    #: The part that it should reach into.
    into: str
    #: How much of the shank is in it; how far the tip is from the blind end, from a bore that crosses, or
    #: beyond the far side (of a nut, which is filled from 0 on); how far the head or shoulder is off it; how
    #: much is gripped between head and it.
    measure: Literal["engaged", "tip", "crossing", "beyond", "seat", "grip"] = "engaged"
    min: _Length | None = None
    max: _Length | None = None

    @model_validator(mode="after")
    def _has_a_range(self) -> "StackFields":
        if self.min is None and self.max is None:
            raise ValueError(_("needs min, max or both"))
        return self


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Shank:
    """A round wall where it stands."""

    #: Place of its instance.
    index: int
    point: NDArray[np.float64]
    direction: NDArray[np.float64]
    length: float
    #: The end that goes in first: `length`, or 0 where the shank is given from its tip.
    tip: float
    #: The face under its head or shoulder, in the part's own coordinates; None for a plain pin.
    shoulder: int | None

    @property
    def inward(self) -> NDArray[np.float64]:
        """(3,) unit, the way it goes in."""
        return self.direction if self.tip else -self.direction

    def stretch(self, context: Context, index: int, hole: Hole) -> tuple[float, float] | None:
        """Return where along the shank, in mm, a hole of an instance begins and ends; None where it is elsewhere."""
        wall, pose = hole.cylinder, context.submission.instances[index].pose
        point, end, way = pose.point(wall.point), pose.point(wall.end), pose.direction(wall.direction)
        away = np.linalg.norm(np.cross(point - self.point, self.direction))
        if away > _ON_AXIS or abs(float(way @ self.direction)) < _ALONG:
            return None
        ends = sorted(float((point_on_axis - self.point) @ self.direction) for point_on_axis in (point, end))
        return ends[0], ends[1]


def _required(check: CheckModel, fields: StackFields, exercise: Exercise) -> Message:
    units, name = exercise.model.units, exercise.instance_name(fields.into)
    if fields.min is None:
        band = phrase("part.at-most", most=amount(fields.max or 0.0, "length", units))
    elif fields.max is None:
        band = phrase("part.at-least", least=amount(fields.min, "length", units))
    else:
        band = phrase("part.range", low=fields.min, high=amount(fields.max, "length", units))
    return phrase(f"asks.{fields.measure}", band=band, name=name)


def _judge(task: Task[StackFields]) -> CheckResult:
    context, fields = task.context, task.fields
    if absent := task.absent(fields.instance, fields.into, shape=True):
        return absent
    shank = _shank(task)
    if shank is None:
        name = context.exercise.instance_name(fields.instance)
        cause = Cause(code="feature-missing", message=phrase("cause.no-shank", name=name))
        return task.result(
            "missed", phrase("measured.not-found"), cause=cause, next_step=phrase("step.bring-in-right", name=name)
        )
    into = context.matching.instances[fields.into]
    stretches = _stretches(context, shank)
    mm, units = context.exercise.mm, context.exercise.model.units
    pieces = [
        phrase("part.length-in", length=length / mm, name=context.name_of(index))
        for index, length in stretches.items()
        if length > _LEAST
    ]
    said = phrase("added", items=pieces) if pieces else phrase("part.in-nothing")
    if fields.measure == "engaged":
        value = stretches.get(into, 0.0) / mm
        shown = phrase("measured.engaged", engaged=amount(value, "length", units), length=shank.length / mm, where=said)
        return _compared(task, value, shown)
    if fields.measure == "grip":
        value = sum(length for index, length in stretches.items() if index != into) / mm
        return _compared(
            task, value, phrase("measured.with-stretches", size=amount(value, "length", units), where=said)
        )
    find, without, step = _MEASURES[fields.measure]
    reading = find(context, shank, into)
    if reading is None:
        is_open = task.fields.max is None and fields.measure in ("tip", "crossing")
        return task.result("met" if is_open else "missed", phrase(without), next_step=phrase(step))
    return _compared(
        task, reading / mm, phrase("measured.with-stretches", size=amount(reading / mm, "length", units), where=said)
    )


def _shank(task: Task[StackFields]) -> _Shank | None:
    context = task.context
    index = context.matching.instances[task.fields.instance]
    feature = FeatureModel(cylinder=task.fields.of).feature(mm=context.exercise.mm)
    assert isinstance(feature, AxisFeature)
    wall: Cylinder | None = context.registrations(index)[0].wall(feature, where=task.where)
    if wall is None:
        return None
    pose = context.submission.instances[index].pose
    point, direction = pose.point(wall.point), pose.direction(wall.direction)
    part = context.registrations(index)[0].part
    shoulders = [
        (end, k)
        for k, face in enumerate(part.surfaces)
        if isinstance(face, Plane)
        for end, way in ((0.0, 1.0), (wall.length, -1.0))
        if way * float(face.normal @ wall.direction) > _ALONG
        if abs(float((face.point - wall.point) @ wall.direction) - end) < _ON_AXIS
    ]
    if shoulders:
        head, shoulder = shoulders[0]
        tip = wall.length if head == 0.0 else 0.0
        return _Shank(index=index, point=point, direction=direction, length=wall.length, tip=tip, shoulder=shoulder)
    # a plain pin goes into the part with the end that is nearer to its middle
    other = context.matching.instances[task.fields.into]
    middle = context.submission.instances[other].pose.point(context.registrations(other)[0].part.centroid)
    tip = wall.length if float((middle - point) @ direction) > wall.length / 2 else 0.0
    return _Shank(index=index, point=point, direction=direction, length=wall.length, tip=tip, shoulder=None)


def _stretches(context: Context, shank: _Shank) -> dict[int, float]:
    """Add up, for each instance, how much of the shank is in its holes, mm."""
    stretches: dict[int, float] = {}
    for index, instance in enumerate(context.submission.instances):
        if instance.part is None:
            continue
        for hole in find_holes(context.submission.parts[instance.part].features):
            stretch = shank.stretch(context, index, hole)
            if stretch is not None:
                length = min(stretch[1], shank.length) - max(stretch[0], 0.0)
                if length > _LEAST:
                    stretches[index] = stretches.get(index, 0.0) + length
    return stretches


def _tip(context: Context, shank: _Shank, into: int) -> float | None:
    """Return how far the shank's end is from the closed end of the hole that it goes into, mm; None without one."""
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


def _beyond(context: Context, shank: _Shank, into: int) -> float | None:
    """Return how far the tip stands out of the hole that it goes through, mm; below 0 where it ends inside."""
    part = context.submission.parts[context.submission.instances[into].part or 0].features
    stretches = [shank.stretch(context, into, hole) for hole in find_holes(part)]
    ends = [(stretch[1] if shank.tip else -stretch[0]) for stretch in stretches if stretch]
    return (shank.tip if shank.tip else 0.0) - max(ends) if ends else None


def _crossing(context: Context, shank: _Shank, into: int) -> float | None:
    """Return how far the tip is from the nearest bore that crosses its axis, mm; below 0 where it is in or past it."""
    part, pose = context.registrations(into)[0].part, context.submission.instances[into].pose
    tip = shank.point + shank.tip * shank.direction
    crossing = []
    for wall in part.cylinders:
        way, apart = pose.direction(wall.direction), tip - pose.point(wall.point)
        across = shank.inward - float(shank.inward @ way) * way
        size = float(np.linalg.norm(across))
        if not wall.is_hollow or size < _SQUARE:
            continue
        # where the line of the shank enters the bore: a circle seen along the bore's axis
        beside = apart - float(apart @ way) * way
        nearest = -float(beside @ across) / size**2
        off = float(np.linalg.norm(beside + nearest * across))
        if off < wall.radius:
            entry = nearest - float(np.sqrt(wall.radius**2 - off**2)) / size
            along = float((apart + entry * shank.inward) @ way)
            if -_ON_AXIS <= along <= wall.length + _ON_AXIS and entry > -shank.length:
                crossing.append(entry)
    return min(crossing, key=abs, default=None)


def _seat(context: Context, shank: _Shank, into: int) -> float | None:
    """Return how far the head's underside is off the part's face under it, mm; None where there is none."""
    if shank.shoulder is None:
        return None
    own, other = context.placings[shank.index], context.placings[into]
    samples = own[1].point(FlatBounds(own[0]).samples(shank.shoulder))
    bounds, gaps = FlatBounds(other[0]), []
    for k, face in enumerate(other[0].surfaces):
        if not isinstance(face, Plane) or float(other[1].direction(face.normal) @ shank.inward) > -_ALONG:
            continue
        if bounds.holds(k, other[1].inverse().point(samples)).any():
            gaps.append(float((other[1].point(face.point) - samples[0]) @ shank.inward))
    return min(gaps, key=abs, default=None)


def _compared(task: Task[StackFields], value: float, shown: Message) -> CheckResult:
    fields, units = task.fields, task.context.exercise.model.units
    low, high = (-1e9 if fields.min is None else fields.min), (1e9 if fields.max is None else fields.max)
    gauge = Gauge(low=fields.min, high=fields.max, measured=value, unit=units)
    if low - _DUST <= value <= high + _DUST:
        return task.result("met", shown, gauge=gauge)
    limit = low if value < low else high
    name = task.context.exercise.instance_name(fields.instance)
    off = amount(abs(value - limit), "length", units)
    step = phrase("step.is-short" if value < low else "step.is-too-much", name=name, by=off)
    return task.result("missed", shown, difference=round(value - limit, 6), gauge=gauge, next_step=step)


def _verify(check: CheckModel, fields: StackFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.instance, fields.into)


#: What finds each measure, and the codes of what is said, and to be done, where there is none.
_MEASURES: dict[str, tuple[Callable[[Context, _Shank, int], float | None], str, str]] = {
    "tip": (_tip, "measured.no-blind-end", "step.drill-blind"),
    "crossing": (_crossing, "measured.no-bore-crosses", "step.look-for-bore"),
    "beyond": (_beyond, "measured.not-through", "step.put-through"),
    "seat": (_seat, "measured.no-face-under-head", "step.seat-head"),
}

KIND = CheckKind(name="stack", strip="fit", fields=StackFields, required=_required, judge=_judge, verify=_verify)
