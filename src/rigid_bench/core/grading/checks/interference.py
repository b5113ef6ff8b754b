"""Does any part pass through another?"""

from collections import Counter
from typing import Annotated

from pydantic import Field

from rigid_bench.core.assembly.contact.clearance import Clearance, chord_slack
from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.diagnosis.part_or_place import of_overlaps
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.wording.quantities import listed, number

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


def _required(check: CheckModel, fields: InterferenceFields, exercise: Exercise) -> str:
    if not fields.expected:
        return "no part passes through another"
    reference = exercise.reference
    part_of = {
        instance.id: exercise.part_name(instance.part) for instance in (reference.instances if reference else ())
    }
    pairs = Counter((part_of[overlap.b], part_of[overlap.a], overlap.why) for overlap in fields.expected)
    meant = [f"{f'{count} × ' if count > 1 else ''}{b} in {a} ({why})" for (b, a, why), count in pairs.items()]
    return f"no part passes through another, but for {listed(meant)}"


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
        return task.result("met", "none but those that are meant" if meant else "none")
    said = [
        f"{context.name_of(int(overlap.a))} and {context.name_of(int(overlap.b))} "
        f"share {number(overlap.overlap_mm3, 2)} mm³"
        for overlap in overlaps
    ]
    names = f"{context.name_of(int(overlaps[0].a))} and {context.name_of(int(overlaps[0].b))}"
    return task.result(
        "missed",
        listed(said),
        cause=_nested(task, overlaps) or of_overlaps(context, overlaps),
        next_step=f"Move {names} apart, or make the one that is too large smaller.",
    )


def _nested(task: Task[InterferenceFields], overlaps: list[Clearance]) -> Cause | None:
    """Say that one part lies wholly within another's material: it cannot be seen from outside."""
    context = task.context
    for overlap in overlaps:
        inner, outer = sorted((int(overlap.a), int(overlap.b)), key=lambda k: context.solids[k].part.volume)
        if overlap.overlap_mm3 > _WHOLLY * context.solids[inner].part.volume:
            told = next((done.id for done in context.done if done.cause and done.cause.code == "duplicate"), "")
            if told and context.submission.instances[inner].part == context.submission.instances[outer].part:
                return Cause(code="duplicate", text="One is there twice, in one place.", root=told)
            text = f"{context.name_of(inner)} lies wholly within {context.name_of(outer)}, where it cannot be seen."
            return Cause(code="nested", text=text)
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
    names = " and ".join(task.context.exercise.instance_name(instance) for instance in (expected.a, expected.b))
    way = "too little" if volume < expected.min else "too much"
    text = f"{names} share {number(volume, 2)} mm³; {number(expected.min)} to {number(expected.max)} mm³ is meant there"
    cause = Cause(code="overlap-as-meant", text=f"{text} ({expected.why}).")
    step = f"{names} overlap {way}: check their sizes and how deep one sits in the other."
    return task.result("missed", f"{number(volume, 2)} mm³ shared", cause=cause, next_step=step)


def _verify(check: CheckModel, fields: InterferenceFields, exercise: Exercise) -> None:
    for overlap in fields.expected:
        known_instances(check, exercise, overlap.a, overlap.b)


KIND = CheckKind(
    name="interference", strip="fit", fields=InterferenceFields, required=_required, judge=_judge, verify=_verify
)
