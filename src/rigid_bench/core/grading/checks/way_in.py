"""Can a part be brought to its place without passing through others?"""

import math
from typing import Literal

from rigid_bench.core.assembly.motion.removal import Way, blockers
from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.matching.placement import base_of
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.wording.phrases import looking


class WayInFields(Document):
    """Fields of a check of kind `way_in`."""

    instance: str
    #: One straight move, or a turn on its joint before it as well.
    how: Literal["straight", "any"] = "any"


def _required(check: CheckModel, fields: WayInFields, exercise: Exercise) -> Message:
    name = exercise.instance_name(fields.instance)
    if fields.how == "straight":
        return phrase("asks.straight-way-in", name=name)
    return phrase("asks.way-in", name=name)


def _judge(task: Task[WayInFields]) -> CheckResult:
    context, fields = task.context, task.fields
    if absent := task.absent(fields.instance, shape=True):
        return absent
    if len(context.solids) < len(context.submission.instances):
        return task.no_geometry()
    index, name = context.matching.instances[fields.instance], context.exercise.instance_name(fields.instance)
    way = next((way for way in context.removal_sequence if way.instance == index), None)
    if way is None and len(context.removal_sequence) == len(context.solids) - 1:
        return task.result("met", phrase("measured.others-brought"))
    if way and (way.turn is None or fields.how == "any"):
        return task.result("met", _way_phrase(way, base_of(context)))
    if way:
        cause = Cause(
            code="no-straight-way",
            message=phrase("cause.no-straight-way", name=name, way=_way_phrase(way, base_of(context))),
        )
        step = phrase("step.open-straight-way", name=name)
        return task.result("missed", phrase("measured.no-straight-way"), cause=cause, next_step=step)
    names = [
        context.name_of(blocker)
        for blocker in blockers(index, context.placings, context.removal_sequence, tolerance=context.tolerance)
    ]
    text = phrase("cause.no-way-in", name=name, blockers=names or phrase("part.something"))
    step = phrase("step.open-way", name=name, blockers=names)
    return task.result(
        "missed", phrase("measured.no-way-in"), cause=Cause(code="no-way-in", message=text), next_step=step
    )


def _way_phrase(way: Way, world: Pose | None) -> Message:
    """Say the way in, against the direction in which the part leaves, in the reference's own world."""
    direction = -way.direction if world is None else world.inverse().direction(-way.direction)
    straight = phrase("part.straight-along", way=looking(direction))
    if way.turn is None:
        return straight
    return phrase("part.then-turned", straight=straight, degrees=round(abs(math.degrees(way.amount))))


def _verify(check: CheckModel, fields: WayInFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.instance)


KIND = CheckKind(name="way_in", strip="assembly", fields=WayInFields, required=_required, judge=_judge, verify=_verify)
