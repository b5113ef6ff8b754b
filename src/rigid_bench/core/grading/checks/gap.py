"""Is the clearance between two parts in its range? Between whole solids, or between two named faces."""

import itertools
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field, model_validator

from rigid_bench.core.assembly.contact.clearance import clearance, place
from rigid_bench.core.assembly.freedom.freedom_report import MotionReport
from rigid_bench.core.assembly.motion.sweep import free_way, nearest_along
from rigid_bench.core.exercise.bundle import FILE, CheckModel, Exercise
from rigid_bench.core.formats.documents import Document, NestedFeature, Vector
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.checks.freedom import GROUND, own_motion
from rigid_bench.core.grading.diagnosis import causes
from rigid_bench.core.grading.report.models import Cause, CheckResult, Gauge
from rigid_bench.core.standards.allowances import ALLOWANCES
from rigid_bench.core.standards.fits import limits
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, PlaneFeature
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.frames import unit
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.phrases import amount, looking

_DUST = 1e-6
_Length = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]


class ThroughModel(Document):
    """The motion of an instance, relative to another or to ground, in the coordinates of `to`."""

    instance: str
    to: str = GROUND
    motion: MotionReport


class GapFields(Document):
    """Fields of a check of kind `gap`, in the exercise's unit."""

    a: str
    b: str
    min: _Length | None = None
    max: _Length | None = None
    #: A face of a and a face of b (or a hole and a round part): the gap is theirs, signed, overlap negative.
    between: Annotated[list[NestedFeature], Field(min_length=2, max_length=2)] | None = None
    #: Instead of a range: an ISO 286 fit of the two walls ("H7/g6"), or what it does and how it is made
    #: ("turn, printed"), from the table of classroom values or the exercise's own.
    fit: str | None = None
    #: How far b can go along this direction (of a's coordinates) until it meets a.
    along: Vector | None = None
    #: What min and max are stated for: a gap a side, or a difference of diameters.
    per: Literal["side", "diameter"] = "side"
    #: The greatest gap round the part must be within the range too, not only the least.
    even: bool = False
    #: Not only as it stands: the least gap along this motion.
    through: ThroughModel | None = None

    @model_validator(mode="after")
    def _has_a_range(self) -> "GapFields":
        if self.fit is not None and (self.min is not None or self.max is not None):
            raise ValueError(_("give either a fit, or min and max"))
        if self.fit is None and self.min is None and self.max is None:
            raise ValueError(_("needs min, max or both, or a fit"))
        if self.min is not None and self.max is not None and self.min > self.max:
            raise ValueError(_("min is larger than max"))
        if self.along is not None and (self.between or self.through or not any(self.along)):
            raise ValueError(_("along needs a direction, and stands without between and through"))
        return self


def _required(check: CheckModel, fields: GapFields, exercise: Exercise) -> Message:
    units = exercise.model.units
    low, high = _range(check, fields, exercise)
    if low is None:
        text = phrase("part.at-most", most=amount(high or 0.0, "length", units))
    elif high is None:
        text = phrase("part.at-least", least=amount(low, "length", units))
    else:
        text = phrase("part.range", low=low, high=amount(high, "length", units))
    if fields.even:
        text = phrase("part.all-round", band=text)
    if fields.fit:
        return phrase("asks.gap-of-fit", band=text, fit=fields.fit)
    if fields.through:
        text = phrase("part.all-the-way", band=text)
    if fields.along:
        text = phrase("part.along", band=text, way=looking(unit(fields.along)))
    return phrase("part.a-side", band=text) if fields.per == "diameter" else text


def _range(check: CheckModel, fields: GapFields, exercise: Exercise) -> tuple[float | None, float | None]:
    """Return the least and greatest gap a side, in the exercise's unit; None where there is no limit.

    Raises
    ------
    InvalidDocument
        There is no such fit.
    """
    share = 0.5 if fields.per == "diameter" else 1.0
    if fields.fit is None:
        return (
            None if fields.min is None else share * fields.min,
            None if fields.max is None else share * fields.max,
        )
    where = f"{FILE}, check '{check.id}'"
    if "/" in fields.fit:
        return _iso_range(fields, exercise, where)
    action, _unused, process = (word.strip() for word in fields.fit.partition(","))
    table = ALLOWANCES | exercise.model.allowances
    if action not in table.get(process, {}):
        known = "; ".join(f"{process}: {', '.join(actions)}" for process, actions in table.items())
        raise InvalidDocument(
            where,
            _("there is no fit '{fit}'", fit=fields.fit),
            _("Give a fit such as H7/g6, or one of {known}", known=known),
        )
    low, high = table[process][action]
    return low / exercise.mm, high / exercise.mm


def _iso_range(fields: GapFields, exercise: Exercise, where: str) -> tuple[float, float]:
    """Return the clearance of an ISO 286 fit a side: of the hole's limits and the shaft's."""
    walls = [feature.cylinder for feature in fields.between or [] if feature.cylinder]
    if len(walls) != 2:
        raise InvalidDocument(where, _("a fit is of a hole and a round part"), _('Name both as cylinders in "between"'))
    designation, nominal = (fields.fit or "").split("/"), 2 * max(wall.radius for wall in walls) * exercise.mm
    hole, shaft = (limits(code.strip(), nominal) for code in designation)
    return (hole.lower - shaft.upper) / 2 / exercise.mm, (hole.upper - shaft.lower) / 2 / exercise.mm


def _judge(task: Task[GapFields]) -> CheckResult:
    context, fields = task.context, task.fields
    if absent := task.absent(fields.a, fields.b, shape=True):
        return absent
    if fields.through and context.freedom is None:
        return task.no_mates()
    gaps = (
        _through(task, fields.through)
        if fields.through
        else between_faces(task)
        if fields.between
        else _along(task, fields.along)
        if fields.along
        else _between_solids(task)
    )
    if gaps is None:
        return task.result(
            "missed",
            phrase("measured.face-not-found"),
            cause=Cause(code="feature-missing", message=phrase("cause.no-face-for-gap")),
            next_step=phrase("step.part-first-then-gap"),
        )
    return _beside(task) or _compared(task, gaps / context.exercise.mm)


def _beside(task: Task[GapFields]) -> CheckResult | None:
    """Judge two round walls of which one stands beside the other: there is no gap to speak of; None otherwise."""
    pairs = _standing(task) if task.fields.between else []
    walls = [(a, b) for a, b in pairs if isinstance(a, CylinderFeature) and isinstance(b, CylinderFeature)]
    if not walls:
        return None
    apart, smaller = min((_axes_apart(a, b), min(a.radius, b.radius)) for a, b in walls)
    if apart <= smaller:
        return None
    exercise = task.context.exercise
    words = amount(apart / exercise.mm, "length", exercise.model.units)
    name_a, name_b = (exercise.instance_name(name) for name in (task.fields.a, task.fields.b))
    return task.result(
        "missed",
        phrase("measured.not-in-line", by=words),
        cause=Cause(
            code="not-in-line",
            message=phrase("cause.not-in-line", b=name_b, a=name_a),
            root=_missed_between(task),
        ),
        next_step=phrase("step.mate-on-one-axis", a=name_a, b=name_b),
    )


def _compared(task: Task[GapFields], value: float) -> CheckResult:
    fields, units = task.fields, task.context.exercise.model.units
    least, most = _range(task.check, fields, task.context.exercise)
    low, high = (-np.inf if least is None else least), (np.inf if most is None else most)
    gauge = Gauge(low=least, high=most, measured=value if np.isfinite(value) else None, unit=units)
    if not np.isfinite(value):
        return task.result(
            "met" if most is None else "missed",
            phrase("measured.nothing-in-the-way"),
            gauge=gauge,
            next_step=phrase("step.put-in-line"),
        )
    measured = (
        amount(value, "length", units)
        if value >= 0
        else phrase("measured.overlaps", by=amount(-value, "length", units))
    )
    is_round = bool(fields.between and all(feature.cylinder for feature in fields.between))
    if is_round and value >= 0:
        measured = phrase("measured.gap-and-diameter", gap=measured, diameter=amount(2 * value, "length", units))
    greatest = value
    if fields.even and is_round:
        greatest = (between_faces(task, greatest=True) or 0.0) / task.context.exercise.mm
        measured = phrase(
            "part.from-to", least=amount(value, "length", units), greatest=amount(greatest, "length", units)
        )
    if low - _DUST <= value and greatest <= high + _DUST:
        return task.result("met", measured, gauge=gauge)
    name_a, name_b = (task.context.exercise.instance_name(instance) for instance in (fields.a, fields.b))
    limit = least if value < low else most
    value = value if value < low else greatest
    off = amount(abs(value - (limit or 0.0)), "length", units)
    step = (
        phrase("step.more-room", a=name_a, b=name_b, by=off)
        if value < low
        else phrase("step.close-gap", a=name_a, b=name_b, by=off)
    )
    return task.result(
        "missed",
        measured,
        difference=round(value - (limit or 0.0), 6),
        gauge=gauge,
        cause=_cause(task, value),
        next_step=step,
    )


def _missed_between(task: Task[GapFields]) -> str:
    """Return the first row that says already that these two do not stand to each other as asked, or ""."""
    fields = {check.id: check.fields for check in task.context.exercise.model.checks}
    both = {task.fields.a, task.fields.b}
    missed = (done.id for done in task.context.done if done.verdict == "missed")
    return next((check for check in missed if both <= _instances_of(fields[check])), "")


def _instances_of(fields: dict[str, Any]) -> set[str]:
    """List the instances that a check names, directly or at its features."""
    named = [fields.get(key) for key in ("a", "b", "instance", "to")]
    return {str(name.get("instance") if isinstance(name, dict) else name) for name in named if name}


def _between_solids(task: Task[GapFields]) -> float:
    context = task.context
    indices = [context.matching.instances[instance] for instance in (task.fields.a, task.fields.b)]
    a, b = (context.solids[index] for index in indices)
    return clearance(a, b, tolerance=context.tolerance).gap_mm


def _along(task: Task[GapFields], along: Vector) -> float:
    """Return how far b can go along a direction until it meets a, mm; infinite where a is not on its way."""
    context = task.context
    index, moving = (context.matching.instances[instance] for instance in (task.fields.a, task.fields.b))
    frame = context.submission.instances[index].pose @ context.registrations(index)[0].pose
    direction = frame.direction(unit(along))
    return free_way(context.solids[moving], context.solids[index], direction, tolerance=context.tolerance)


def _through(task: Task[GapFields], through: ThroughModel) -> float:
    """Return the least gap of two solids along a motion, mm; as they stand where the part cannot move so."""
    context, freedom = task.context, task.context.freedom
    assert freedom is not None
    index = context.matching.instances.get(through.instance)
    to = None if through.to == GROUND else context.matching.instances.get(through.to)
    is_ground = through.to == GROUND
    motion = (
        None
        if index is None or (to is None and not is_ground)
        else own_motion(context, freedom, through.motion, index, to, is_ground=is_ground, where=task.where)
    )
    if motion is None or index is None:
        return _between_solids(task)
    places = context.matching.instances[task.fields.a], context.matching.instances[task.fields.b]
    pair = context.solids[places[0]], context.solids[places[1]]
    return nearest_along(freedom, motion, index, to, pair, places, tolerance=context.tolerance).gap_mm


def _features(task: Task[Any]) -> tuple[Feature, Feature]:
    assert task.fields.between is not None
    a, b = (face.feature(mm=task.context.exercise.mm) for face in task.fields.between)
    return a, b


def between_faces(task: Task[Any], *, greatest: bool = False) -> float | None:
    """Return the signed gap of the two named faces where they stand, mm; of round ones the least or the greatest.

    Of a symmetric part's equal faces, those are meant that come nearest to the reference.
    """
    expected = _reference_gap(task)
    is_inside = _is_inside(*_features(task))
    gaps = [_face_gap(a, b, task.where, is_inside=is_inside, greatest=greatest) for a, b in _standing(task)]
    return min(gaps, key=lambda gap: abs(gap - expected), default=None)


def _standing(task: Task[Any]) -> list[tuple[Feature, Feature]]:
    """List the pairs of faces that may be meant where they stand, in the world: one for each symmetry."""
    context = task.context
    index_a, index_b = (context.matching.instances[name] for name in (task.fields.a, task.fields.b))
    a, b = _features(task)
    pose_a, pose_b = (context.submission.instances[index].pose for index in (index_a, index_b))
    return [
        (own_a.moved(pose_a), own_b.moved(pose_b))
        for laid_a, laid_b in itertools.product(context.registrations(index_a), context.registrations(index_b))
        if (own_a := laid_a.feature(a, where=task.where)) and (own_b := laid_b.feature(b, where=task.where))
    ]


def _is_inside(a: Feature, b: Feature) -> bool:
    """Say whether b's wall is the smaller one, as asked: one that is too large then overlaps."""
    return isinstance(a, CylinderFeature) and isinstance(b, CylinderFeature) and b.radius < a.radius


def _face_gap(a: Feature, b: Feature, where: str, *, is_inside: bool, greatest: bool = False) -> float:
    if isinstance(a, PlaneFeature) and isinstance(b, PlaneFeature):
        return float((b.point - a.point) @ a.normal)
    if isinstance(a, CylinderFeature) and isinstance(b, CylinderFeature):
        beside = _axes_apart(a, b)
        room = a.radius - b.radius if is_inside else b.radius - a.radius
        return room + (beside if greatest else -beside)
    raise InvalidDocument(
        where, _("a gap is between two flat faces or two round walls"), _("Name two planes or two cylinders")
    )


def _axes_apart(a: CylinderFeature, b: CylinderFeature) -> float:
    """Return how far the second wall's point lies from the first one's axis, mm."""
    apart = b.point - a.point
    return float(np.linalg.norm(apart - a.direction * float(apart @ a.direction)))


def _reference_gap(task: Task[Any]) -> float:
    """Measure the same gap on the reference build, mm."""
    exercise = task.context.exercise
    assert exercise.reference is not None
    instances = [
        exercise.reference.instances[exercise.reference.index_of(instance)]
        for instance in (task.fields.a, task.fields.b)
    ]
    if task.fields.between:
        a, b = (feature.moved(instance.pose) for feature, instance in zip(_features(task), instances, strict=True))
        return _face_gap(a, b, task.where, is_inside=_is_inside(a, b))
    solids = [place(instance.id, task.context.references[instance.part], instance.pose) for instance in instances]
    return clearance(*solids, tolerance=task.context.tolerance).gap_mm


def _cause(task: Task[GapFields], value: float) -> Cause | None:
    exercise = task.context.exercise
    parts = {task.context.part_of(instance, where=task.where) for instance in (task.fields.a, task.fields.b)}
    by_id = {check.id: check for check in exercise.model.checks}
    sizes = [
        causes.WrongSize(
            id=done.id,
            title=done.title,
            required=done.required_message,
            measured=done.measured_message,
            off_mm=done.difference * exercise.mm,
        )
        for done in task.context.done
        if done.kind == "dimension" and done.verdict in ("near", "missed") and done.difference
        if by_id[done.id].fields.get("part") in parts
    ]
    if not sizes:
        return None
    lost = _reference_gap(task) - value * exercise.mm
    is_used_up = lost > 0 and value == 0.0
    return causes.of_gap(lost, sizes, is_used_up=is_used_up, tolerance=task.context.tolerance)


def _verify(check: CheckModel, fields: GapFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.a, fields.b)
    _range(check, fields, exercise)
    if fields.through:
        through = fields.through
        known_instances(check, exercise, through.instance, *(() if through.to == GROUND else (through.to,)))
    if fields.between:
        a, b = (feature.feature(mm=exercise.mm) for feature in fields.between)
        both_flat = isinstance(a, PlaneFeature) and isinstance(b, PlaneFeature)
        if not both_flat and not (isinstance(a, AxisFeature) and isinstance(b, AxisFeature)):
            _face_gap(a, b, f"{FILE}, check '{check.id}'", is_inside=True)


KIND = CheckKind(name="gap", strip="fit", fields=GapFields, required=_required, judge=_judge, verify=_verify)
