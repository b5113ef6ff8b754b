"""What moved between two exports, before and after dragging? For classes whose programs export positions only."""

import math
from typing import Annotated

import numpy as np
from pydantic import Field

from rigid_bench.core.assembly.freedom.freedom_report import MotionReport
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.freedom.spaces import holds_space, space_of
from rigid_bench.core.exercise.bundle import FILE, CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.checks.freedom import GROUND, asked_motion, spin_axis
from rigid_bench.core.grading.intake.two_exports import fitted
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.phrases import amount, looking, motions_phrase


class MovedFields(Document):
    """Fields of a check of kind `moved`."""

    instance: str
    #: An instance, or the ground: then motions are in the coordinates of the reference build's world.
    to: str = GROUND
    #: What it should do; none for a part that should stay where it is.
    motions: Annotated[list[MotionReport], Field(max_length=6)]


def _wanted(check: CheckModel, fields: MovedFields, exercise: Exercise) -> list[Motion]:
    where = _("{file}, check '{id}', at motions", file=FILE, id=check.id)
    return [asked_motion(motion, exercise.mm, where) for motion in fields.motions]


def _required(check: CheckModel, fields: MovedFields, exercise: Exercise) -> Message:
    wanted = _wanted(check, fields, exercise)
    return phrase("asks.dragged", motions=motions_phrase(wanted))


def _judge(task: Task[MovedFields]) -> CheckResult:
    context, fields = task.context, task.fields
    base = context.base[0] if context.base else None
    if absent := task.absent(fields.instance, *(() if fields.to == GROUND else (fields.to,)), shape=True):
        return absent
    name = context.exercise.instance_name(fields.instance)
    if not context.submission.moved:
        step = phrase("step.drag-and-export", name=name)
        return task.result("unchecked", phrase("measured.one-export"), next_step=step)
    index = context.matching.instances[fields.instance]
    to = base if fields.to == GROUND else context.matching.instances[fields.to]
    after, to_after = context.submission.moved[index], None if to is None else context.submission.moved[to]
    if after is None or (to is not None and to_after is None):
        return task.result("missed", phrase("measured.not-in-second-export"), next_step=phrase("step.export-whole"))
    before = context.submission.instances[index].pose
    world = Pose.identity() if to is None or to_after is None else context.submission.instances[to].pose
    back = Pose.identity() if to_after is None else world @ to_after.inverse()
    return _compared(task, fitted(back @ after @ before.inverse()), index, to)


def _compared(task: Task[MovedFields], moved: tuple[Motion, float] | None, index: int, to: int | None) -> CheckResult:
    context, wanted = task.context, _wanted(task.check, task.fields, task.context.exercise)
    name, units = context.exercise.instance_name(task.fields.instance), context.exercise.model.units
    length = context.registrations(index)[0].part.size
    spin = _idle_spin(task, index)
    frames = _frames(task, to)
    if moved is None or (not wanted and spin and _is_of(moved[0], [spin], length)):
        if not wanted:
            return task.result("met", phrase("measured.stayed"))
        cause = Cause(code="did-not-move", message=phrase("cause.did-not-move", name=name))
        step = phrase("step.drag-or-look", name=name)
        return task.result("missed", phrase("measured.did-not-move"), cause=cause, next_step=step)
    motion, done = moved
    asked = [[motion.moved(frame) for motion in wanted] for frame in frames]
    excused = [spin] if spin else []
    fits = [
        k
        for k, motions in enumerate(asked)
        if _is_of(motion, motions, length) or _is_of(motion, motions + excused, length)
    ]
    seen = motion.moved(frames[fits[0] if fits else 0].inverse())
    measured = _phrase(seen, done, context.exercise.mm, units)
    if fits and wanted:
        return task.result("met", measured)
    code = "moved-though-fixed" if not wanted else "moved-otherwise"
    text = (
        phrase("cause.moved-otherwise", name=name, measured=measured)
        if wanted
        else phrase("cause.should-stay", name=name, measured=measured)
    )
    step = phrase("step.mate-and-drag", name=name, motions=motions_phrase(wanted))
    return task.result("missed", measured, cause=Cause(code=code, message=text), next_step=step)


def _is_of(motion: Motion, allowed: list[Motion], length: float) -> bool:
    return holds_space(space_of(allowed, length), space_of([motion], length))


def _idle_spin(task: Task[MovedFields], index: int) -> Motion | None:
    """Return the spin of a round part about its own axis, in the first export's world."""
    instance = task.context.submission.instances[index]
    axis = spin_axis(task.context.registrations(index)[0].part)
    if axis is None:
        return None
    return Motion(kind="rotation", direction=axis[1], point=axis[0]).moved(instance.pose)


def _frames(task: Task[MovedFields], to: int | None) -> list[Pose]:
    """List where the coordinates in which motions are asked stand in the first export's world."""
    context = task.context
    if to is None:
        return [Pose.identity()]
    pose = context.submission.instances[to].pose
    reference = context.base[1].inverse() if task.fields.to == GROUND and context.base else Pose.identity()
    return [pose @ registered.pose @ reference for registered in context.registrations(to)] or [pose @ reference]


def _phrase(motion: Motion, done: float, mm: float, units: str) -> Message:
    way = looking(motion.direction)
    if motion.kind == "translation":
        return phrase("part.slid", by=amount(done / mm, "length", units), way=way)
    turned = phrase("part.turned", by=amount(float(np.degrees(done)), "angle", units), way=way)
    if motion.kind == "rotation":
        return turned
    slid = amount(motion.pitch * done / (2 * math.pi) / mm, "length", units)
    return phrase("part.turned-and-slid", turned=turned, by=slid)


def _verify(check: CheckModel, fields: MovedFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.instance, *(() if fields.to == GROUND else (fields.to,)))
    _wanted(check, fields, exercise)


KIND = CheckKind(
    name="moved",
    needs_second_model=True,
    outlives_change=False,
    strip="assembly",
    fields=MovedFields,
    required=_required,
    judge=_judge,
    verify=_verify,
)
