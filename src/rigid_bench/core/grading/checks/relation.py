"""Do two features stand as required? Judged from the geometry as placed, whatever mates made it so."""

import itertools
import math
from collections.abc import Iterator

from rigid_bench.core.assembly.build import Mate, OperandModel, Sense
from rigid_bench.core.assembly.mates import check_mate, equations
from rigid_bench.core.assembly.system import Residual
from rigid_bench.core.documents import Coordinate, Document
from rigid_bench.core.errors import RigidBenchError
from rigid_bench.core.exercise.exercise import FILE, CheckModel, Exercise
from rigid_bench.core.feature import Feature
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.mixed_up import swapped_places
from rigid_bench.core.grading.report import Cause, CheckResult
from rigid_bench.core.grading.wording import WORDS, number, quantity
from rigid_bench.core.units import MM_PER_UNIT


class RelationFields(Document):
    """Fields of a check of kind `relation`."""

    relation: str
    a: OperandModel
    b: OperandModel
    value: Coordinate | None = None
    sense: Sense = "either"
    offset: Coordinate = 0.0


def _mate(check: CheckModel, fields: RelationFields, exercise: Exercise) -> Mate:
    scale = 1.0 if fields.relation == "angle" else exercise.mm
    return Mate(
        id=check.id,
        kind=fields.relation,
        a=0,
        feature_a=fields.a.feature(mm=exercise.mm),
        b=1,
        feature_b=fields.b.feature(mm=exercise.mm),
        value=None if fields.value is None else fields.value * scale,
        sense=fields.sense,
        offset=fields.offset * exercise.mm,
    )


def _required(check: CheckModel, fields: RelationFields, exercise: Exercise) -> str:
    doing = WORDS.get(fields.relation, fields.relation)
    if fields.relation == "coincident" and fields.a.plane and fields.b.plane:
        doing = {"aligned": "faces level", "opposed": "faces meet", "either": "faces meet or level"}[fields.sense]
    if fields.value is not None:
        is_angle = fields.relation == "angle"
        doing += f" of {quantity(fields.value, 'angle' if is_angle else 'length', exercise.model.units)}"
    a, b = exercise.instance_name(fields.a.instance), exercise.instance_name(fields.b.instance)
    return f"{b} and {a}: {doing}"


def _judge(task: Task[RelationFields]) -> CheckResult:
    context, fields = task.context, task.fields
    for operand in (fields.a, fields.b):
        if context.student_index(operand.instance, where=task.where) is None:
            return task.missing_part(context.part_of(operand.instance, where=task.where))
        if not context.lays(context.matching.instances[operand.instance]):
            return task.no_geometry()
    mate = _mate(task.check, fields, context.exercise)
    residuals = [_residual(mate, a, b) for a, b in _ways(task, mate)]
    if not residuals:
        return task.result(
            "missed",
            "face not found",
            cause=Cause(
                code="feature-missing", text="One of the two parts lacks the face or axis that should be there."
            ),
            next_step="Put the part right first, then mate it again.",
        )
    best = min(residuals, key=lambda each: each.mm + 100 * each.rad)
    if best.holds(context.tolerance):
        return task.result("met", "holds")
    swapped = swapped_places(context, fields.a.instance) or swapped_places(context, fields.b.instance)
    cause = swapped or _cause(best)
    return task.result("missed", _off(best, context.exercise), cause=cause, next_step=_next_step(task, best))


def _ways(task: Task[RelationFields], mate: Mate) -> Iterator[tuple[Feature, Feature]]:
    """Yield both features in the student's world, for every symmetry of the two parts."""
    context = task.context
    index_a = context.matching.instances[task.fields.a.instance]
    index_b = context.matching.instances[task.fields.b.instance]
    for laid_a, laid_b in itertools.product(context.lays(index_a), context.lays(index_b)):
        a = laid_a.feature(mate.feature_a, where=task.where)
        b = laid_b.feature(mate.feature_b, where=task.where)
        if a is not None and b is not None:
            instances = context.submission.instances
            yield a.moved(instances[index_a].pose), b.moved(instances[index_b].pose)


def _residual(mate: Mate, a: Feature, b: Feature) -> Residual:
    found = equations(mate, a, b)
    return Residual(
        mm=math.hypot(*(each.residual for each in found if not each.is_angular)),
        rad=math.hypot(*(each.residual for each in found if each.is_angular)),
    )


def _off(residual: Residual, exercise: Exercise) -> str:
    parts = []
    if residual.mm > 1e-3:
        units = exercise.model.units
        parts.append(f"{quantity(residual.mm / MM_PER_UNIT[units], 'length', units)} off")
    if residual.rad > math.radians(0.01):
        parts.append(f"{number(math.degrees(residual.rad), 2)}° turned")
    return ", ".join(parts)


def _cause(residual: Residual) -> Cause | None:
    degrees = math.degrees(residual.rad)
    if abs(degrees - 180) < 0.01:
        return Cause(code="turned-over", text="It looks as if the part is turned over: the faces look the wrong way.")
    if abs(degrees - 90) < 0.01:
        return Cause(code="quarter-turn", text="It looks as if the part is turned by a quarter.")
    return None


def _next_step(task: Task[RelationFields], residual: Residual) -> str:
    exercise = task.context.exercise
    a, b = (exercise.instance_name(each.instance) for each in (task.fields.a, task.fields.b))
    doing = _required(task.check, task.fields, exercise).split(": ", 1)[1]
    return f"Mate {b} and {a} again so that they do this: {doing}."


def _verify(check: CheckModel, fields: RelationFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.a.instance, fields.b.instance)
    try:
        check_mate(_mate(check, fields, exercise))
    except RigidBenchError as exc:
        raise type(exc)(f"{FILE}, check '{check.id}'", exc.problem, exc.next_step) from exc


KIND = CheckKind(
    name="relation", strip="assembly", fields=RelationFields, required=_required, judge=_judge, verify=_verify
)
