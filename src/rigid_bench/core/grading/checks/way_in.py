"""Can a part be brought to its place without passing through others?"""

import math
from typing import Literal

from rigid_bench.core.assembly.motion.removal import Way, blockers
from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.matching.placement import base_of
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.wording.quantities import listed, looking, number


class WayInFields(Document):
    """Fields of a check of kind `way_in`."""

    instance: str
    #: One straight move, or a turn on its joint before it as well.
    how: Literal["straight", "any"] = "any"


def _required(check: CheckModel, fields: WayInFields, exercise: Exercise) -> str:
    name = exercise.instance_name(fields.instance)
    way = "one straight move" if fields.how == "straight" else "one straight move, or turned in on its joint"
    return f"{name} can be brought to its place: {way}"


def _judge(task: Task[WayInFields]) -> CheckResult:
    context, fields = task.context, task.fields
    if absent := task.absent(fields.instance, shape=True):
        return absent
    if len(context.solids) < len(context.submission.instances):
        return task.no_geometry()
    index, name = context.matching.instances[fields.instance], context.exercise.instance_name(fields.instance)
    way = next((way for way in context.removal_sequence if way.instance == index), None)
    if way is None and len(context.removal_sequence) == len(context.solids) - 1:
        return task.result("met", "the others are brought to it")
    if way and (way.turn is None or fields.how == "any"):
        return task.result("met", _words(way, base_of(context)))
    if way:
        cause = Cause(code="no-straight-way", text=f"{name} can only be turned in: {_words(way, base_of(context))}.")
        step = f"Open a straight way for {name}, or let it in from another side."
        return task.result("missed", "no straight way", cause=cause, next_step=step)
    names = listed(
        [
            context.name_of(blocker)
            for blocker in blockers(index, context.placings, context.removal_sequence, tolerance=context.tolerance)
        ]
    )
    text = f"{name} is shut in: {names or 'something'} stands in every way that its own faces leave open."
    step = f"Open a way for {name} past {names}, or split the part that shuts it in."
    return task.result("missed", "no way in", cause=Cause(code="no-way-in", text=text), next_step=step)


def _words(way: Way, world: Pose | None) -> str:
    """Say the way in, against the direction in which the part leaves, in the reference's own world."""
    direction = -way.direction if world is None else world.inverse().direction(-way.direction)
    straight = f"straight along {looking(direction)}"
    turned = f", then turned by {number(abs(math.degrees(way.amount)), 0)}°"
    return straight + (turned if way.turn else "")


def _verify(check: CheckModel, fields: WayInFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.instance)


KIND = CheckKind(name="way_in", strip="assembly", fields=WayInFields, required=_required, judge=_judge, verify=_verify)
