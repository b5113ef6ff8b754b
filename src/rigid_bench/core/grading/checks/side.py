"""Is a hole or boss on the side of the part that was asked for?"""

import numpy as np

from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import BareCylinder, BarePlane, Document, FeatureModel
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_part
from rigid_bench.core.grading.diagnosis.part_causes import is_mirrored, mirrored_part
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.part.faces import Cone, Cylinder, Plane
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.datums import AxisFeature, PlaneFeature

#: mm, and cosine: how near two walls are to sharing an axis.
_ON_AXIS, _ALONG = 1e-3, 1 - 1e-6
#: In the published format, of a side that the exercise gives no name.
_UNNAMED = "the side asked for"


class SideFields(Document):
    """Fields of a check of kind `side`, in the reference part's coordinates."""

    part: str
    of: BareCylinder
    #: The face on which the hole opens or the boss stands.
    side: BarePlane
    #: What the sheet calls that side.
    name: str = _UNNAMED


def _required(check: CheckModel, fields: SideFields, exercise: Exercise) -> Message:
    return phrase("asks.on-side", side=_side(fields))


def _side(fields: SideFields) -> Message | str:
    """Return what the side is called: as the exercise says, or in words of ours."""
    return phrase("part.side-asked-for") if fields.name == _UNNAMED else fields.name


def _judge(task: Task[SideFields]) -> CheckResult:
    registered = task.context.registered(task.fields.part, where=task.where)
    if registered is None:
        return task.missing_part(task.fields.part)
    mm, name = task.context.exercise.mm, task.context.exercise.part_name(task.fields.part)
    feature = FeatureModel(cylinder=task.fields.of).feature(mm=mm)
    side = FeatureModel(plane=task.fields.side).feature(mm=mm)
    assert isinstance(feature, AxisFeature)
    assert isinstance(side, PlaneFeature)
    wall, flat = registered.wall(feature, where=task.where), registered.flat(side, where=task.where)
    if wall is None or flat is None:
        return task.lacking("cause.no-hole-boss-or-face", name)
    beside = _flats_beside(registered, wall)
    if any(set(plane.faces) <= set(flat.faces) for plane in beside):
        return task.result("met", phrase("asks.on-side", side=_side(task.fields)))
    opposite = any(float(plane.normal @ flat.normal) < -_ALONG for plane in beside)
    where = phrase("measured.on-opposite-side" if opposite else "measured.on-another-side")
    if is_mirrored(registered, task.context.tolerance):
        cause = mirrored_part()
        return task.result("missed", where, cause=cause, next_step=phrase("step.make-it-other-hand"))
    cause = Cause(code="wrong-side", message=phrase("cause.wrong-side", where=where))
    return task.result("missed", where, cause=cause, next_step=phrase("step.make-on-side", side=_side(task.fields)))


def _flats_beside(registered: RegisteredPart, wall: Cylinder) -> list[Plane]:
    """Return the flat faces that a wall, or a wall or cone on its axis, meets."""
    part = registered.part
    numbers = {number for number, surface in enumerate(part.surfaces) if _shares_axis(surface, wall)}
    numbers |= {number for number, surface in enumerate(part.surfaces) if set(surface.faces) <= set(wall.faces)}
    beside = {other for number in numbers for _, other in part.edges.neighbours(number)}
    return [surface for other in beside if isinstance(surface := part.surfaces[other], Plane)]


def _shares_axis(other: object, wall: Cylinder) -> bool:
    if not isinstance(other, Cylinder | Cone):
        return False
    point = other.point if isinstance(other, Cylinder) else other.apex
    away = np.linalg.norm(np.cross(point - wall.point, wall.direction))
    return bool(
        other.is_hollow == wall.is_hollow and away < _ON_AXIS and abs(other.direction @ wall.direction) > _ALONG
    )


def _verify(check: CheckModel, fields: SideFields, exercise: Exercise) -> None:
    known_part(check, exercise, fields.part)


KIND = CheckKind(
    name="side",
    subject="part",
    spreads=True,
    strip="parts",
    fields=SideFields,
    required=_required,
    judge=_judge,
    verify=_verify,
)
