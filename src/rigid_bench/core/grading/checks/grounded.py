"""Is the base fixed, in one of the ways the exercise accepts?"""

from rigid_bench.core.exercise.bundle import CheckModel, Exercise, Grounding
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import HAND_IN_BUILD, CheckKind, Task, known_instances
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.values.frames import Pose


class GroundedFields(Document):
    """Fields of a check of kind `grounded`."""

    instance: str


def _required(check: CheckModel, fields: GroundedFields, exercise: Exercise) -> Message:
    ways = phrase("either", items=[phrase(f"grounding.{way}") for way in exercise.model.grounding])
    return phrase("asks.grounded", name=exercise.instance_name(fields.instance), how=ways)


def _judge(task: Task[GroundedFields]) -> CheckResult:
    context = task.context
    index = context.student_index(task.fields.instance, where=task.where)
    if index is None:
        return task.missing_part(context.part_of(task.fields.instance, where=task.where))
    name = context.exercise.instance_name(task.fields.instance)
    grounded = [k for k, instance in enumerate(context.submission.instances) if instance.grounded]
    if grounded and index not in grounded:
        others = [context.name_of(k) for k in grounded]
        return task.result(
            "missed",
            phrase("measured.others-grounded", names=others),
            cause=Cause(
                code="wrong-part-grounded", message=phrase("cause.wrong-part-grounded", names=others, name=name)
            ),
            next_step=phrase("step.ground-instead", name=name),
        )
    way = next((way for way in context.exercise.model.grounding if _is_grounded(task, index, way)), None)
    if way:
        measured = phrase("asks.grounded", name=name, how=phrase(f"grounding.{way}"))
        remark = _remark(task, grounded)
        return task.result("met", phrase("in-turn", items=[measured, remark]) if remark else measured)
    if context.submission.build is None and "declared" in context.exercise.model.grounding:
        return task.result("unchecked", phrase("measured.not-stated"), next_step=HAND_IN_BUILD)
    return task.result(
        "missed",
        phrase("measured.nothing-grounded"),
        cause=Cause(code="nothing-grounded", message=phrase("cause.nothing-grounded")),
        next_step=phrase("step.ground-first", name=name),
    )


def _remark(task: Task[GroundedFields], grounded: list[int]) -> Message | None:
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
        return phrase("measured.grounded-and-mated", names=twice)
    others = [task.context.name_of(instance) for instance in grounded[1:]]
    return phrase("measured.grounded-too", names=others) if others else None


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
