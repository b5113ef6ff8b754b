"""Does one part's outline go into another's, with the right room a side? By shape, wherever the parts stand."""

from typing import Annotated

from pydantic import Field, model_validator

from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import BarePlane, Document, FeatureModel
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_part
from rigid_bench.core.grading.report.models import Cause, CheckResult, Gauge
from rigid_bench.core.measurement.measure_request import Request
from rigid_bench.core.measurement.sizes import own_outline
from rigid_bench.core.part.recognition.outline import Outline, room_inside
from rigid_bench.core.wording.quantities import number, quantity

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
            raise ValueError("min is larger than max")
        return self


def _required(check: CheckModel, fields: FitFields, exercise: Exercise) -> str:
    return f"{number(fields.min)} to {quantity(fields.max, 'length', exercise.model.units)} a side"


def _judge(task: Task[FitFields]) -> CheckResult:
    fields, exercise = task.fields, task.context.exercise
    outlines = []
    for face in (fields.pocket, fields.peg):
        laid = task.context.laid(face.part, where=task.where)
        if laid is None:
            return task.missing_part(face.part)
        feature = FeatureModel(plane=face.plane).feature(mm=exercise.mm)
        request = Request(measure="outline", features=(feature,), where=task.where)
        outlines.append(own_outline(laid, request))
    pocket, peg = outlines
    if pocket is None or peg is None:
        name = exercise.part_name(fields.pocket.part if pocket is None else fields.peg.part)
        cause = Cause(code="feature-missing", text=f"{name} has no such pocket or boss where it should be.")
        return task.result("missed", "not found", cause=cause, next_step=f"Add it to {name} and hand in again.")
    return _compared(task, pocket, peg)


def _compared(task: Task[FitFields], pocket: Outline, peg: Outline) -> CheckResult:
    fields, exercise = task.fields, task.context.exercise
    units = exercise.model.units
    room = room_inside(peg, pocket) / exercise.mm
    gauge = Gauge(low=fields.min, high=fields.max, measured=room, unit=units)
    measured = quantity(room, "length", units) if room >= 0 else f"too large by {quantity(-room, 'length', units)}"
    if fields.min - _DUST <= room <= fields.max + _DUST:
        return task.result("met", f"{measured} a side", gauge=gauge)
    limit = fields.min if room < fields.min else fields.max
    off = quantity(abs(room - limit), "length", units)
    names = f"{exercise.part_name(fields.peg.part)} in {exercise.part_name(fields.pocket.part)}"
    return task.result(
        "missed",
        f"{measured} a side",
        difference=round(room - limit, 6),
        gauge=gauge,
        next_step=f"{names} has {off} a side too {'little' if room < limit else 'much'} room: "
        "change the one whose size is wrong.",
    )


def _verify(check: CheckModel, fields: FitFields, exercise: Exercise) -> None:
    known_part(check, exercise, fields.pocket.part)
    known_part(check, exercise, fields.peg.part)


KIND = CheckKind(name="fit", strip="fit", fields=FitFields, required=_required, judge=_judge, verify=_verify)
