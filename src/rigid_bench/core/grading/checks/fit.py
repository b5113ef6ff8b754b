"""Does one part's outline go into another's, with the right room a side? By shape, wherever the parts stand."""

from typing import Annotated

from pydantic import Field, model_validator

from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import BarePlane, Document, FeatureModel
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_part
from rigid_bench.core.grading.report.models import CheckResult, Gauge
from rigid_bench.core.measurement.measure_request import Request
from rigid_bench.core.measurement.sizes import own_outline
from rigid_bench.core.part.recognition.outline import Outline, room_inside
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.phrases import amount

_DUST = 1e-6
_Length = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]


class FaceOfPart(Document):
    """A flat face of a part: the floor of a pocket, the top of a boss, or a wall of either."""

    part: str
    plane: BarePlane


class FitFields(Document):
    """Fields of a check of kind `fit`: the room a side, in the exercise's unit."""

    pocket: FaceOfPart
    peg: FaceOfPart
    min: _Length
    max: _Length

    @model_validator(mode="after")
    def _is_a_range(self) -> "FitFields":
        if self.min > self.max:
            raise ValueError(_("min is larger than max"))
        return self


def _required(check: CheckModel, fields: FitFields, exercise: Exercise) -> Message:
    return phrase("asks.room-a-side", low=fields.min, high=amount(fields.max, "length", exercise.model.units))


def _judge(task: Task[FitFields]) -> CheckResult:
    fields, exercise = task.fields, task.context.exercise
    outlines = []
    for face in (fields.pocket, fields.peg):
        registered = task.context.registered(face.part, where=task.where)
        if registered is None:
            return task.missing_part(face.part)
        feature = FeatureModel(plane=face.plane).feature(mm=exercise.mm)
        request = Request(measure="outline", features=(feature,), where=task.where)
        outlines.append(own_outline(registered, request))
    pocket, peg = outlines
    if pocket is None or peg is None:
        name = exercise.part_name(fields.pocket.part if pocket is None else fields.peg.part)
        return task.lacking("cause.no-pocket-or-boss", name)
    return _compared(task, pocket, peg)


def _compared(task: Task[FitFields], pocket_outline: Outline, peg_outline: Outline) -> CheckResult:
    fields, exercise = task.fields, task.context.exercise
    units = exercise.model.units
    room = room_inside(peg_outline, pocket_outline) / exercise.mm
    gauge = Gauge(low=fields.min, high=fields.max, measured=room, unit=units)
    measured = (
        phrase("measured.room-a-side", room=amount(room, "length", units))
        if room >= 0
        else phrase("measured.too-large-a-side", by=amount(-room, "length", units))
    )
    if fields.min - _DUST <= room <= fields.max + _DUST:
        return task.result("met", measured, gauge=gauge)
    limit = fields.min if room < fields.min else fields.max
    off = amount(abs(room - limit), "length", units)
    peg, pocket = (exercise.part_name(face.part) for face in (fields.peg, fields.pocket))
    if room < limit:
        step = phrase("step.too-little-room", peg=peg, pocket=pocket, off=off)
    else:
        step = phrase("step.too-much-room", peg=peg, pocket=pocket, off=off)
    return task.result(
        "missed",
        measured,
        difference=round(room - limit, 6),
        gauge=gauge,
        next_step=step,
    )


def _verify(check: CheckModel, fields: FitFields, exercise: Exercise) -> None:
    known_part(check, exercise, fields.pocket.part)
    known_part(check, exercise, fields.peg.part)


KIND = CheckKind(name="fit", strip="fit", fields=FitFields, required=_required, judge=_judge, verify=_verify)
