"""Is a hole or stud of the size that a thread needs: its drill, its core, or the thread's own diameter drawn plain?"""

from typing import Annotated, Literal

from pydantic import Field

from rigid_bench.core.exercise.bundle import FILE, CheckModel, Exercise
from rigid_bench.core.formats.documents import Document, NestedFeature
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_part
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.standards.threads import Thread, find_thread, match_diameter, threads
from rigid_bench.core.values.datums import AxisFeature
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.units import MM_PER_UNIT
from rigid_bench.core.wording.language import _, series
from rigid_bench.core.wording.phrases import amount

#: mm: how near a plain cylinder must be to a size of the table; and how much shorter than the thread it may be.
_NEAR = 0.06


class ThreadFields(Document):
    """Fields of a check of kind `thread`: lengths in the exercise's unit."""

    part: str
    #: The axis, or the round wall, of the hole or stud.
    of: NestedFeature
    #: "M6", "M8x1"
    thread: Annotated[str, Field(min_length=2, max_length=20)]
    #: How far the thread goes; the hole may be deeper.
    depth: Annotated[float, Field(gt=0, le=1e6)] | None = None
    #: A model without cut threads shows no hand: it is drawn and noted, and not judged.
    hand: Literal["right", "left"] = "right"


def _required(check: CheckModel, fields: ThreadFields, exercise: Exercise) -> Message:
    thread = f"{fields.thread}-LH" if fields.hand == "left" else fields.thread
    if fields.depth is None:
        return phrase("as-said", text=thread)
    return phrase("asks.thread-deep", thread=thread, depth=amount(fields.depth, "length", exercise.model.units))


def _sizes(thread: Thread, *, is_hole: bool) -> dict[str, float]:
    """Return the diameters that a thread may be modelled with, mm, by the codes of what they are."""
    if is_hole:
        return {
            "thread.drill": thread.tapping_drill,
            "thread.core": thread.minor_internal,
            "thread.drawn-plain": thread.nominal,
        }
    return {"thread.nominal": thread.nominal, "thread.core": thread.root_external}


def _judge(task: Task[ThreadFields]) -> CheckResult:
    registered = task.context.registered(task.fields.part, where=task.where)
    if registered is None:
        return task.missing_part(task.fields.part)
    exercise, fields = task.context.exercise, task.fields
    units, thread = exercise.model.units, find_thread(task.fields.thread)
    feature = fields.of.feature(mm=exercise.mm)
    assert thread
    assert isinstance(feature, AxisFeature)
    wall = registered.wall(AxisFeature(feature.point, feature.direction), where=task.where)
    name = exercise.part_name(fields.part)
    if wall is None:
        return task.lacking("cause.no-wall-for-thread", name)
    measured = phrase("part.diameter", diameter=2 * wall.radius / MM_PER_UNIT[units])
    sizes = _sizes(thread, is_hole=wall.is_hollow)
    modelled_as = next((what for what, size in sizes.items() if abs(size - 2 * wall.radius) <= _NEAR), None)
    if modelled_as is None:
        wanted = next(iter(sizes.values())) / MM_PER_UNIT[units]
        step = phrase(
            "step.change-to-thread-size",
            size=amount(wanted, "length", units),
            what=phrase(next(iter(sizes))),
            thread=thread.designation,
        )
        return task.result("missed", measured, cause=_another(wall), next_step=step)
    if fields.depth and wall.length / exercise.mm < fields.depth - _NEAR / exercise.mm:
        deep = amount(wall.length / exercise.mm, "length", units)
        step = phrase("step.thread-deeper", depth=amount(fields.depth, "length", units))
        return task.result(
            "missed",
            phrase("measured.thread-too-short", diameter=measured, what=phrase(modelled_as), depth=deep),
            next_step=step,
        )
    return task.result("met", phrase("measured.thread", diameter=measured, what=phrase(modelled_as)))


def _another(wall: Cylinder) -> Cause | None:
    """Name the thread whose size it is, if it is one's."""
    others = match_diameter(2 * wall.radius, is_hole=wall.is_hollow)
    if not others:
        return None
    return Cause(
        code="other-thread",
        message=phrase(
            "cause.other-thread",
            what=phrase(f"thread.{others[0].size.replace(' ', '-')}"),
            thread=others[0].designation,
        ),
    )


def _verify(check: CheckModel, fields: ThreadFields, exercise: Exercise) -> None:
    known_part(check, exercise, fields.part)
    where = f"{FILE}, check '{check.id}'"
    if find_thread(fields.thread) is None:
        known = series(thread.designation for thread in threads())
        raise InvalidDocument(
            where,
            _("there is no thread '{thread}' in the table", thread=fields.thread),
            _("The threads are: {known}", known=known),
        )
    if not isinstance(fields.of.feature(), AxisFeature):
        raise InvalidDocument(where, _("a thread is on a round wall"), _("Give the axis of its hole or stud"))


KIND = CheckKind(
    name="thread",
    strip="parts",
    fields=ThreadFields,
    subject="part",
    required=_required,
    judge=_judge,
    verify=_verify,
)
