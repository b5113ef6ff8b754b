"""Does a part keep exactly the motions asked, relative to the part that is named?"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from rigid_bench.core.assembly.freedom.advice import advise
from rigid_bench.core.assembly.freedom.analysis import Freedom
from rigid_bench.core.assembly.freedom.dof_steps import ladder
from rigid_bench.core.assembly.freedom.freedom_report import MotionReport, motion_report
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.freedom.spaces import holds_space, is_same_space, petals, space_of
from rigid_bench.core.assembly.freedom.states import state_of
from rigid_bench.core.exercise.bundle import FILE, CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import UNSAID, Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.context import Context
from rigid_bench.core.grading.diagnosis.consequential_errors import LEFT_AT_ORIGIN
from rigid_bench.core.grading.diagnosis.freedom_causes import explain
from rigid_bench.core.grading.matching.placement import left_at_origin
from rigid_bench.core.grading.report.models import Cause, CheckResult, DofStepModel, RoseModel
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.datums import CylinderFeature, Feature, PlaneFeature
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.frames import Pose, unit
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.phrases import motion_phrase, motions_phrase, quoted

_Array = NDArray[np.float64]
#: Stands for the world where a freedom is judged to no part.
GROUND = "ground"
#: So many of a part's faces, the largest ones, are offered for a mate.
_OFFERED = 20


class FreedomFields(Document):
    """Fields of a check of kind `freedom`."""

    instance: str
    to: str = GROUND
    motions: list[MotionReport]
    #: How many of the instance's mates may be redundant; any number without it.
    redundant: Annotated[int, Field(ge=0, le=1000)] | None = None


def asked_motion(model: MotionReport, mm: float, where: str) -> Motion:
    """Read a motion that an exercise asks for, in mm.

    Raises
    ------
    InvalidDocument
        It lacks its axis or direction.
    """
    direction = model.direction if model.kind == "translation" else model.axis and model.axis.direction
    if not direction or not np.linalg.norm(direction):
        field = _("a direction") if model.kind == "translation" else _("an axis with its direction")
        raise InvalidDocument(
            where, _("a {kind} needs {field}", kind=model.kind, field=field), _("Give three numbers, such as [1, 0, 0]")
        )
    return Motion(
        kind=model.kind,
        direction=unit(direction),
        point=mm * np.array(model.axis.point if model.axis else [0.0, 0.0, 0.0]),
        pitch=mm * (model.pitch or 0.0),
    )


def _wanted(check: CheckModel, fields: FreedomFields, exercise: Exercise) -> list[Motion]:
    where = _("{file}, check '{id}', at motions", file=FILE, id=check.id)
    return [asked_motion(motion, exercise.mm, where) for motion in fields.motions]


def _required(check: CheckModel, fields: FreedomFields, exercise: Exercise) -> Message:
    return phrase(
        "asks.motions", motions=motions_phrase(_wanted(check, fields, exercise)), to=_to_name(fields, exercise)
    )


def _to_name(fields: FreedomFields, exercise: Exercise) -> Message | str:
    return phrase("part.ground") if fields.to == GROUND else exercise.instance_name(fields.to)


def _judge(task: Task[FreedomFields]) -> CheckResult:
    context, fields = task.context, task.fields
    if absent := task.absent(fields.instance, *(() if fields.to == GROUND else (fields.to,))):
        return absent
    freedom = context.freedom
    if freedom is None:
        return task.no_mates()
    index = context.matching.instances[fields.instance]
    to = _ground(task) if fields.to == GROUND else context.matching.instances[fields.to]
    if max(index, -1 if to is None else to) >= len(freedom.poses):
        return task.result("missed", phrase("measured.not-in-build-file"), next_step=phrase("step.write-build-file"))
    return _compared(task, freedom, index, to)


def _compared(task: Task[FreedomFields], freedom: Freedom, index: int, to: int | None) -> CheckResult:
    wanted = _wanted(task.check, task.fields, task.context.exercise)
    own, idle = freedom.motions(index, to), idle_spin(task.context, freedom, index)
    length = float(freedom.system.lengths[index])
    space, wanted_space = space_of(own, length), space_of(wanted, length)
    spin = [motion for motion in idle if holds_space(space, space_of([motion], length))]
    ways = []
    for frame in frames_of(task.context, freedom, to, is_ground=task.fields.to == GROUND):
        back = frame.inverse()  # from the world to the coordinates in which motions are asked
        seen, excused = [motion.moved(back) for motion in own], [motion.moved(back) for motion in spin]
        excused = [motion for motion in excused if not holds_space(wanted_space, space_of([motion], length))]
        ways.append((_agree(seen, wanted, excused, length), seen, excused, frame))
    fits, seen, excused, frame = max(ways, key=lambda way: way[0])
    measured = motions_phrase(seen)
    if fits and excused:
        measured = phrase("measured.idle-excused", measured=measured)
    rose = _rose(seen, [*wanted, *excused], freedom, index, allowed=task.fields.redundant or 0)
    needless = _needless(freedom, index)
    if fits and (task.fields.redundant is None or len(needless) <= task.fields.redundant):
        return task.result("met", measured, rose=rose)
    if fits:
        name = task.context.exercise.instance_name(task.fields.instance)
        text = phrase("cause.over-held", name=name, mates=quoted(needless))
        cause = Cause(code="over-held", message=text)
        return task.result(
            "missed",
            phrase("measured.over-held"),
            cause=cause,
            next_step=phrase("step.take-out", mates=quoted(needless)),
            rose=rose,
        )
    asked = [*(motion.moved(frame) for motion in wanted), *spin]
    why, step = _explain(task, seen, asked, freedom, index, to)
    root = task.context.groups.get((LEFT_AT_ORIGIN,))
    if root and task.fields.instance in left_at_origin(task.context):
        why = Cause(code=LEFT_AT_ORIGIN, message=why.message if why else UNSAID, root=root)
    return task.result("missed", motions_phrase(seen), cause=why, next_step=step, rose=rose)


def _needless(freedom: Freedom, index: int) -> list[str]:
    """List an instance's own mates that add nothing."""
    own = {mate.id for mate in freedom.system.mates if index in (mate.a, mate.b)}
    return [redundant_mate for redundant_mate in freedom.redundant_mates if redundant_mate in own]


def frames_of(context: Context, freedom: Freedom, to: int | None, *, is_ground: bool) -> list[Pose]:
    """List where the reference's coordinates stand in the student's world, one per symmetry.

    Motions relative to ground are asked in the world of the reference build; the student's
    world is laid over it by the base.
    """
    if to is not None and not is_ground:
        return [freedom.poses[to] @ registered.pose for registered in context.registrations(to)] or [freedom.poses[to]]
    base = context.base
    if base is None:
        return [Pose.identity()]
    index, reference = base
    return [
        freedom.poses[index] @ registered.pose @ reference.inverse() for registered in context.registrations(index)
    ] or [Pose.identity()]


def own_motion(
    context: Context, freedom: Freedom, model: MotionReport, index: int, to: int | None, *, is_ground: bool, where: str
) -> Motion | None:
    """Return a motion that is asked, in the student's world; None where their part cannot make it."""
    asked = asked_motion(model, context.exercise.mm, where)
    length = float(freedom.system.lengths[index])
    own = space_of(freedom.motions(index, to), length)
    for frame in frames_of(context, freedom, to, is_ground=is_ground):
        if holds_space(own, space_of([asked.moved(frame)], length)):
            return asked.moved(frame)
    return None


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Moving:
    """A part that makes the motion that is asked, in the student's build."""

    freedom: Freedom
    motion: Motion
    index: int
    to: int | None
    name: str


def moving(task: Task[Any]) -> Moving | CheckResult:
    """Find the part and motion of a check with `instance`, `to` and `motion`, or say why it cannot be judged."""
    context, fields = task.context, task.fields
    if absent := task.absent(fields.instance, *(() if fields.to == GROUND else (fields.to,))):
        return absent
    freedom = context.freedom
    if freedom is None:
        return task.no_mates()
    if len(context.solids) < len(context.submission.instances):
        return task.no_geometry()
    index = context.matching.instances[fields.instance]
    to = None if fields.to == GROUND else context.matching.instances[fields.to]
    motion = own_motion(context, freedom, fields.motion, index, to, is_ground=fields.to == GROUND, where=task.where)
    name = context.exercise.instance_name(fields.instance)
    if motion is None:
        doing = motion_phrase(asked_motion(fields.motion, context.exercise.mm, task.where))
        cause = Cause(code="cannot-move", message=phrase("cause.cannot-move", name=name, doing=doing))
        return task.result(
            "missed",
            phrase("measured.cannot-move"),
            cause=cause,
            next_step=phrase("step.mate-so-that", name=name, doing=doing),
        )
    return Moving(freedom=freedom, motion=motion, index=index, to=to, name=name)


def _ground(task: Task[FreedomFields]) -> int | None:
    """Return what stands for the ground: the base, where the exercise lets it be fixed undeclared."""
    base = task.context.base
    is_declared = any(instance.grounded for instance in task.context.submission.instances)
    if base is None or is_declared or set(task.context.exercise.model.grounding) == {"declared"}:
        return None
    return base[0]


def _agree(seen: Sequence[Motion], wanted: Sequence[Motion], spin: Sequence[Motion], length: float) -> bool:
    """Say whether the motions span what is asked, an idle spin of a round part excused."""
    return any(
        is_same_space(space_of(seen, length), space_of([*wanted, *excused], length)) for excused in ([], list(spin))
    )


def idle_spin(context: Context, freedom: Freedom, index: int) -> list[Motion]:
    """Return the spin of a round part about its own axis, in the world; nothing where it is not round."""
    part = context.submission.instances[index].part
    if part is None:
        return []
    axis = spin_axis(context.submission.parts[part].features)
    if axis is None:
        return []
    point, direction = axis
    return [Motion(kind="rotation", direction=direction, point=point).moved(freedom.poses[index])]


def spin_axis(part: PartFeatures) -> tuple[_Array, _Array] | None:
    """Return the axis about which a part may spin and look the same, or None.

    Parameters
    ----------
    part
        Features of a solid.

    Returns
    -------
    (point, direction) : (3,) float, mm and (3,) float, unit
        None where a face is not of a solid of revolution about one axis.
    """
    if not part.cylinders or part.others:
        return None
    first = part.cylinders[0]
    point, direction = first.point, first.direction

    def is_on_axis(other: _Array) -> bool:
        return bool(np.linalg.norm(np.cross(other - point, direction)) < 1e-3)

    def is_along(other: _Array) -> bool:
        return abs(float(other @ direction)) > 1 - 1e-9

    walls = all(
        is_on_axis(cylinder.point) and is_along(cylinder.direction) and cylinder.sweep > 6.28
        for cylinder in part.cylinders
    )
    ends = all(is_along(plane.normal) and is_on_axis(plane.point) for plane in part.planes)
    cones = all(is_on_axis(cone.apex) and is_along(cone.direction) for cone in part.cones)
    return (point, direction) if walls and ends and cones else None


def _rose(seen: Sequence[Motion], wanted: Sequence[Motion], freedom: Freedom, index: int, *, allowed: int) -> RoseModel:
    slides, turns = petals(seen, freedom.system.lengths[index])
    required_slides, required_turns = petals(wanted, freedom.system.lengths[index])
    return RoseModel(
        state=state_of(freedom, index, len(seen), allowed=allowed),
        slides=slides,
        turns=turns,
        required_slides=required_slides,
        required_turns=required_turns,
        words=motions_phrase(seen),
        motions=[motion_report(motion) for motion in seen],
        ladder=[
            DofStepModel(mate=step.mate, before=step.before, after=step.after)
            for step in ladder(freedom)
            if step.instance == index and step.after < step.before
        ],
    )


def _explain(
    task: Task[FreedomFields],
    seen: Sequence[Motion],
    wanted: Sequence[Motion],
    freedom: Freedom,
    index: int,
    to: int | None,
) -> tuple[Cause | None, Message]:
    exercise = task.context.exercise
    advice = advise(freedom, index, to, wanted, features=_features(task, freedom, index, to))
    if advice.build is not None:
        task.context.repairs[task.check.id] = advice.build
    return explain(
        advice,
        [mate for mate in freedom.system.mates if index in (mate.a, mate.b)],
        name=exercise.instance_name(task.fields.instance),
        other=_to_name(task.fields, exercise),
        asked=_wanted(task.check, task.fields, exercise),
        seen=seen,
        units=exercise.model.units,
    )


def _features(
    task: Task[FreedomFields], freedom: Freedom, index: int, to: int | None
) -> tuple[list[Feature], list[Feature]]:
    """List the largest faces of both parts, in the world, for a mate to use."""
    other = to if to is not None else next(iter(freedom.system.held), None)
    first, second = (
        [] if instance is None else [feature.moved(freedom.poses[instance]) for feature in _faces(task, instance)]
        for instance in (index, other)
    )
    return first, second


def _faces(task: Task[FreedomFields], index: int) -> list[Feature]:
    part = task.context.submission.instances[index].part
    if part is None:
        return []
    features = task.context.submission.parts[part].features
    planes = sorted(features.planes, key=lambda face: -face.area)[:_OFFERED]
    walls = sorted(features.cylinders, key=lambda face: -face.area)[:_OFFERED]
    return [
        *(PlaneFeature(face.point, face.normal) for face in planes),
        *(CylinderFeature(face.point, face.direction, face.radius) for face in walls),
    ]


def _verify(check: CheckModel, fields: FreedomFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.instance, *(() if fields.to == GROUND else (fields.to,)))
    _wanted(check, fields, exercise)


KIND = CheckKind(
    name="freedom",
    mended_by_mates=True,
    strip="assembly",
    fields=FreedomFields,
    required=_required,
    judge=_judge,
    verify=_verify,
)
