"""Is the base fixed, in one of the ways the exercise accepts?"""

from rigid_bench.core.exercise.bundle import CheckModel, Exercise, Grounding
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.grading.checks.base import HAND_IN_BUILD, CheckKind, Task, known_instances
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.wording.quantities import listed

_WORDS: dict[Grounding, str] = {"declared": "grounded", "first": "first one in", "origin": "on the origin"}


class GroundedFields(Document):
    """Fields of a check of kind `grounded`."""

    instance: str


def _required(check: CheckModel, fields: GroundedFields, exercise: Exercise) -> str:
    ways = [_WORDS[way] for way in exercise.model.grounding]
    return f"{exercise.instance_name(fields.instance)} {' or '.join(ways)}"


def _judge(task: Task[GroundedFields]) -> CheckResult:
    context = task.context
    index = context.student_index(task.fields.instance, where=task.where)
    if index is None:
        return task.missing_part(context.part_of(task.fields.instance, where=task.where))
    name = context.exercise.instance_name(task.fields.instance)
    grounded = [k for k, instance in enumerate(context.submission.instances) if instance.grounded]
    if grounded and index not in grounded:
        others = listed([context.name_of(k) for k in grounded])
        return task.result(
            "missed",
            f"{others} grounded",
            cause=Cause(code="wrong-part-grounded", text=f"{others} is grounded instead of {name}."),
            next_step=f"Ground {name}, and let the others go.",
        )
    way = next((way for way in context.exercise.model.grounding if _is_grounded(task, index, way)), None)
    if way:
        return task.result("met", f"{name} {_WORDS[way]}{_remark(task, grounded)}")
    if context.submission.build is None and "declared" in context.exercise.model.grounding:
        return task.result("unchecked", "not stated in a STEP file", next_step=f"{HAND_IN_BUILD}.")
    return task.result(
        "missed",
        "nothing is grounded",
        cause=Cause(code="nothing-grounded", text="No part is grounded, so moving one moves the lot."),
        next_step=f"Ground {name} before you mate the other parts to it.",
    )


def _remark(task: Task[GroundedFields], grounded: list[int]) -> str:
    """Remark on parts that are grounded and held by mates to another grounded part at once."""
    build = task.context.submission.build
    twice = sorted(
        {
            task.context.name_of(max(mate.a, mate.b, key=lambda k: k != grounded[0]))
            for mate in (build.mates if build else ())
            if len(grounded) > 1 and mate.a in grounded and mate.b in grounded
        }
    )
    if twice:
        return f"; {listed(twice)} {'is' if len(twice) == 1 else 'are'} grounded and mated at once, one of them will do"
    others = [task.context.name_of(instance) for instance in grounded[1:]]
    return f"; {listed(others)} {'is' if len(others) == 1 else 'are'} grounded too" if others else ""


def _is_grounded(task: Task[GroundedFields], index: int, way: Grounding) -> bool:
    instance = task.context.submission.instances[index]
    if way == "declared":
        return instance.grounded
    if way == "first":
        return index == 0
    tolerance = task.context.tolerance
    return instance.pose.is_close(Pose.identity(), mm=tolerance.mate_mm, rad=tolerance.mate_rad)


def _verify(check: CheckModel, fields: GroundedFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.instance)


KIND = CheckKind(
    name="grounded", strip="assembly", fields=GroundedFields, required=_required, judge=_judge, verify=_verify
)
