"""Does any part pass through another?"""

from collections import Counter
from typing import Annotated

from pydantic import Field

from rigid_bench.core.assembly.contact.clearance import Clearance, chord_slack
from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.diagnosis.part_or_place import of_overlaps
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.wording.phrases import listed

#: Share of a part's volume that lies in another when it lies wholly in it.
_WHOLLY = 0.999


class OverlapModel(Document):
    """An overlap that is meant: a thread shown plain, a press fit, faces that are glued or printed as one."""

    a: str
    b: str
    #: mm3
    min: Annotated[float, Field(ge=0, le=1e9)] = 0.0
    max: Annotated[float, Field(gt=0, le=1e9)]
    why: str = "meant to overlap"


class InterferenceFields(Document):
    """Fields of a check of kind `interference`."""

    expected: Annotated[list[OverlapModel], Field(max_length=500)] = []


def _required(check: CheckModel, fields: InterferenceFields, exercise: Exercise) -> Message:
    if not fields.expected:
        return phrase("asks.no-overlap")
    reference = exercise.reference
    part_of = {
        instance.id: exercise.part_name(instance.part) for instance in (reference.instances if reference else ())
    }
    pairs = Counter((part_of[overlap.b], part_of[overlap.a], overlap.why) for overlap in fields.expected)
    meant = [
        phrase("part.times", count=count, what=phrase("part.overlap-meant", inner=b, outer=a, why=why))
        for (b, a, why), count in pairs.items()
    ]
    return phrase("asks.no-overlap-but", meant=meant)


def _judge(task: Task[InterferenceFields]) -> CheckResult:
    context = task.context
    without = [instance.name for instance in context.submission.instances if instance.part is None]
    if without or not context.solids:
        return task.no_geometry()
    meant, shared = (
        _meant(task),
        {frozenset((int(clearance.a), int(clearance.b))): clearance for clearance in context.clearances},
    )
    for pair, expected in meant.items():
        volume = shared[pair].overlap_mm3 if pair in shared else 0.0
        slack = chord_slack(*(context.solids[index] for index in pair)) if len(pair) == 2 else 0.0
        if not expected.min - slack <= volume <= expected.max + slack:
            return _wrong_overlap(task, expected, volume)
    overlaps = [
        clearance for pair, clearance in shared.items() if clearance.state == "interfering" and pair not in meant
    ]
    if not overlaps:
        return task.result("met", phrase("measured.none-but-meant" if meant else "measured.none"))
    said = [
        phrase(
            "part.share",
            a=context.name_of(int(overlap.a)),
            b=context.name_of(int(overlap.b)),
            volume=round(overlap.overlap_mm3, 2),
        )
        for overlap in overlaps
    ]
    names = [context.name_of(int(index)) for index in (overlaps[0].a, overlaps[0].b)]
    return task.result(
        "missed",
        listed(said),
        cause=_nested(task, overlaps) or of_overlaps(context, overlaps),
        next_step=phrase("step.move-apart", names=names),
    )


def _nested(task: Task[InterferenceFields], overlaps: list[Clearance]) -> Cause | None:
    """Say that one part lies wholly within another's material: it cannot be seen from outside."""
    context = task.context
    for overlap in overlaps:
        inner, outer = sorted((int(overlap.a), int(overlap.b)), key=lambda k: context.solids[k].part.volume)
        if overlap.overlap_mm3 > _WHOLLY * context.solids[inner].part.volume:
            told = next((done.id for done in context.done if done.cause and done.cause.code == "duplicate"), "")
            if told and context.submission.instances[inner].part == context.submission.instances[outer].part:
                return Cause(code="duplicate", message=phrase("cause.one-twice"), root=told)
            text = phrase("cause.nested", inner=context.name_of(inner), outer=context.name_of(outer))
            return Cause(code="nested", message=text)
    return None


def _meant(task: Task[InterferenceFields]) -> dict[frozenset[int], OverlapModel]:
    """Return the overlaps that are meant, by the student's two instances."""
    known = task.context.matching.instances
    return {
        frozenset((known[overlap.a], known[overlap.b])): overlap
        for overlap in task.fields.expected
        if overlap.a in known and overlap.b in known
    }


def _wrong_overlap(task: Task[InterferenceFields], expected: OverlapModel, volume: float) -> CheckResult:
    names = [task.context.exercise.instance_name(instance) for instance in (expected.a, expected.b)]
    text = phrase(
        "cause.overlap-as-meant",
        names=names,
        volume=round(volume, 2),
        least=expected.min,
        most=expected.max,
        why=expected.why,
    )
    cause = Cause(code="overlap-as-meant", message=text)
    if volume < expected.min:
        step = phrase("step.overlap-more", names=names)
    else:
        step = phrase("step.overlap-less", names=names)
    return task.result("missed", phrase("measured.shared", volume=round(volume, 2)), cause=cause, next_step=step)


def _verify(check: CheckModel, fields: InterferenceFields, exercise: Exercise) -> None:
    for overlap in fields.expected:
        known_instances(check, exercise, overlap.a, overlap.b)


KIND = CheckKind(
    name="interference", strip="fit", fields=InterferenceFields, required=_required, judge=_judge, verify=_verify
)
