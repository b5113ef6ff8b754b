"""Do two features stand as required? Judged from the geometry as placed, whatever mates made it so."""

import itertools
import math
from collections.abc import Iterator, Mapping

import numpy as np

from rigid_bench.core.assembly.mates.registry import check_mate, equations
from rigid_bench.core.assembly.mates.system import Residual
from rigid_bench.core.exercise.bundle import FILE, CheckModel, Exercise
from rigid_bench.core.formats.build import Mate, OperandModel, Sense
from rigid_bench.core.formats.documents import Coordinate, Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.diagnosis.consequential_errors import (
    LEFT_AT_ORIGIN,
    feature_key,
    feature_keys,
    wrong_walls,
)
from rigid_bench.core.grading.diagnosis.missing_faces import ends_a_wall
from rigid_bench.core.grading.diagnosis.place_causes import Side, of_placing
from rigid_bench.core.grading.matching.placement import left_at_origin, mates_to_undo, misplaced, right_feature
from rigid_bench.core.grading.matching.swapped_parts import swapped_places
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.measurement.measure import MEASURES
from rigid_bench.core.values.datums import Feature
from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.core.values.units import MM_PER_UNIT
from rigid_bench.core.wording.phrases import amount, feature_phrase, quoted

#: So many parts that are off together are a sub-build.
_SUB_BUILD = 2


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


def _required(check: CheckModel, fields: RelationFields, exercise: Exercise) -> Message:
    a, b = exercise.instance_name(fields.a.instance), exercise.instance_name(fields.b.instance)
    return phrase("asks.pair", a=b, b=a, doing=_doing(fields, exercise))


def _doing(fields: RelationFields, exercise: Exercise) -> Message:
    doing = phrase(f"mate.{fields.relation}")
    if fields.relation == "coincident" and fields.a.plane and fields.b.plane:
        doing = phrase(f"mate.coincident-{fields.sense}")
    if fields.value is not None:
        is_angle = fields.relation == "angle"
        doing = phrase(
            "part.doing-by",
            doing=doing,
            by=amount(fields.value, "angle" if is_angle else "length", exercise.model.units),
        )
    return doing


def _judge(task: Task[RelationFields]) -> CheckResult:
    context, fields = task.context, task.fields
    if absent := task.absent(fields.a.instance, fields.b.instance, shape=True):
        return absent
    mate = _mate(task.check, fields, context.exercise)
    ways = list(_ways(task, mate))
    if not ways:
        text = phrase("cause.no-face-or-axis")
        return task.result(
            "missed",
            phrase("measured.face-not-found"),
            cause=Cause(code="feature-missing", message=text, root=_missing_on_part(task)),
            next_step=phrase("step.part-first-then-mate"),
        )
    best, a, b = min(((_residual(mate, a, b), a, b) for a, b in ways), key=lambda way: way[0].mm + 100 * way[0].rad)
    if best.holds(context.tolerance):
        return task.result("met", phrase("measured.holds"))
    swapped = swapped_places(context, fields.a.instance) or swapped_places(context, fields.b.instance)
    together, other_value = _together(task), _other_value(task, best)
    if together and together.root:
        cause: Cause | None = together
    else:
        cause = (
            swapped
            or other_value
            or _by_size(task, best)
            or _at_origin(task)
            or _cause(best)
            or _placing(task, mate, a, b)
            or together
        )
    step = _next_step(task)
    if cause and cause.code == "mate-value":
        step = phrase("step.change-to", nominal=_value_words(task, fields.value or 0.0))
    if cause and cause.code == LEFT_AT_ORIGIN:
        left = [context.exercise.instance_name(instance) for instance in left_at_origin(context)]
        step = phrase("step.bring-into-place", names=left)
    return task.result("missed", _off(best, context.exercise), cause=cause, next_step=step)


def _missing_on_part(task: Task[RelationFields]) -> str:
    """Return the row of one of the two parts that lacks the same face or axis, or by whose size it is gone; or ""."""
    context = task.context
    asked = {check.id: check for check in context.exercise.model.checks}
    named = {
        (
            context.part_of(operand.instance, where=task.where),
            feature_key(operand.model_dump(mode="json", exclude={"instance"}, exclude_none=True)),
        )
        for operand in _operands(task)
    }
    lacking = (
        done.id
        for done in context.done
        if done.cause and done.cause.code == "feature-missing"
        if named & {(asked[done.id].fields.get("part"), key) for key in feature_keys(asked[done.id])}
    )
    return next(lacking, "") or next(_too_wide(task, asked), "")


def _too_wide(task: Task[RelationFields], asked: Mapping[str, CheckModel]) -> Iterator[str]:
    """Yield the rows by whose wrong size across a face that is missing was taken away."""
    context, mm = task.context, task.context.exercise.mm
    for operand in _operands(task):
        part = context.part_of(operand.instance, where=task.where)
        for done in context.done:
            if asked[done.id].fields.get("part") != part or part not in context.references:
                continue
            for wall in wrong_walls(done, asked[done.id], mm):
                if ends_a_wall(context.references[part], wall, [operand.feature(mm=mm)], where=task.where):
                    yield done.id


def _other_value(task: Task[RelationFields], residual: Residual) -> Cause | None:
    """Say that a mate of the kind that is asked has another value, where that is all that is off."""
    build, asked = task.context.submission.build, task.fields.value
    if build is None or asked is None:
        return None
    is_angle = task.fields.relation == "angle"
    mm, model_mm = task.context.exercise.mm, task.context.tolerance.model_mm
    off, exact = (math.degrees(residual.rad), 0.01) if is_angle else (residual.mm / mm, model_mm / mm)
    for mate in build.mates:
        if mate.kind != task.fields.relation or mate.value is None or not _joins(task, mate.id):
            continue
        given = mate.value if is_angle else mate.value / mm
        is_turned_round = abs(given + asked) <= exact  # tells more: the sign of an offset
        if abs(abs(given - asked) - off) <= exact < off and not is_turned_round:
            text = phrase(
                "cause.mate-value", mate=mate.id, measured=_value_words(task, given), asked=_value_words(task, asked)
            )
            return Cause(code="mate-value", message=text)
    return None


def _value_words(task: Task[RelationFields], value: float) -> Message:
    return amount(value, "angle" if task.fields.relation == "angle" else "length", task.context.exercise.model.units)


def _by_size(task: Task[RelationFields], residual: Residual) -> Cause | None:
    """Say that two features are apart by just as much as a size of one of their parts is off."""
    context = task.context
    if residual.rad > context.tolerance.mate_rad:
        return None
    parts = {context.part_of(operand.instance, where=task.where) for operand in _operands(task)}
    asked = {check.id: check for check in context.exercise.model.checks}
    for done in context.done:
        fields = asked[done.id].fields
        is_off = done.kind == "dimension" and done.verdict in ("near", "missed") and done.difference
        if not is_off or fields.get("part") not in parts or MEASURES[fields["measure"]].gives != "length":
            continue
        if abs(abs(done.difference or 0.0) * context.exercise.mm - residual.mm) <= context.tolerance.model_mm:
            text = phrase("cause.moved-by-size", size=done.title)
            return Cause(code="moved-by-size", message=text, root=done.id)
    return None


def _ways(task: Task[RelationFields], mate: Mate) -> Iterator[tuple[Feature, Feature]]:
    """Yield both features in the student's world, for every symmetry of the two parts."""
    context = task.context
    index_a = context.matching.instances[task.fields.a.instance]
    index_b = context.matching.instances[task.fields.b.instance]
    for laid_a, laid_b in itertools.product(context.registrations(index_a), context.registrations(index_b)):
        a = laid_a.feature(mate.feature_a, where=task.where)
        b = laid_b.feature(mate.feature_b, where=task.where)
        if a is not None and b is not None:
            instances = context.submission.instances
            yield a.moved(instances[index_a].pose), b.moved(instances[index_b].pose)


def _residual(mate: Mate, a: Feature, b: Feature) -> Residual:
    rows = equations(mate, a, b)
    return Residual(
        mm=math.hypot(*(equation.residual for equation in rows if not equation.is_angular)),
        rad=math.hypot(*(equation.residual for equation in rows if equation.is_angular)),
    )


def _off(residual: Residual, exercise: Exercise) -> Message:
    parts = []
    if residual.mm > 1e-3:
        units = exercise.model.units
        parts.append(phrase("part.off", by=amount(residual.mm / MM_PER_UNIT[units], "length", units)))
    if residual.rad > math.radians(0.01):
        parts.append(phrase("part.turned-off", by=round(math.degrees(residual.rad), 2)))
    return phrase("beside", items=parts)


def _cause(residual: Residual) -> Cause | None:
    degrees = math.degrees(residual.rad)
    if abs(degrees - 180) < 0.01:
        return Cause(code="turned-over", message=phrase("cause.turned-over"))
    if abs(degrees - 90) < 0.01:
        return Cause(code="quarter-turn", message=phrase("cause.quarter-turn"))
    return None


def _together(task: Task[RelationFields]) -> Cause | None:
    """Say once that several parts are off by the same motion; further relations of theirs follow from the first."""
    context = task.context
    own = {task.fields.a.instance, task.fields.b.instance}
    for group in misplaced(context):
        if len(group.instances) < _SUB_BUILD or len(own & set(group.instances)) != 1:
            continue
        root = context.groups.setdefault(group.instances, task.check.id)
        names = [context.exercise.instance_name(instance) for instance in group.instances]
        shift = float(np.linalg.norm(group.motion.position)) / context.exercise.mm
        is_shift = np.allclose(group.motion.rotation, np.eye(3), atol=1e-6)
        text = phrase("cause.group-move", names=names)
        if is_shift:
            far = amount(shift, "length", context.exercise.model.units)
            text = phrase("cause.group-shift", names=names, by=far)
        return Cause(code="group-move", message=text, root="" if root == task.check.id else root)
    return None


def _at_origin(task: Task[RelationFields]) -> Cause | None:
    """Say once which parts were left where they were drawn; all that is asked of their places follows."""
    context = task.context
    left = left_at_origin(context)
    if not {operand.instance for operand in _operands(task)} & set(left):
        return None
    root = context.groups.setdefault((LEFT_AT_ORIGIN,), task.check.id)
    names = [context.exercise.instance_name(instance) for instance in left]
    return Cause(
        code=LEFT_AT_ORIGIN,
        message=phrase("cause.left-at-origin", names=names),
        root="" if root == task.check.id else root,
    )


def _placing(task: Task[RelationFields], mate: Mate, a: Feature, b: Feature) -> Cause | None:
    context = task.context
    sides = []
    for operand, feature in zip(_operands(task), (a, b), strict=True):
        instance = context.submission.instances[context.matching.instances[operand.instance]]
        part = context.submission.parts[instance.part or 0].features
        if part.is_mesh:
            return None
        name = context.exercise.instance_name(operand.instance)
        sides.append(Side(name=name, part=part, pose=instance.pose, feature=feature))
    return of_placing(mate, *sides, units=context.exercise.model.units)


def _operands(task: Task[RelationFields]) -> tuple[OperandModel, OperandModel]:
    return task.fields.a, task.fields.b


def _next_step(task: Task[RelationFields]) -> Message:
    exercise = task.context.exercise
    undo = mates_to_undo(task.context, [operand.instance for operand in _operands(task)])
    wrong = [mate for mate in undo.delete if _joins(task, mate)]
    kept = [mate for mate in undo.keep if _joins(task, mate)]
    if wrong:
        again = _required(task.check, task.fields, exercise)
        step = phrase("step.delete-and-mate", mates=quoted(wrong), asked=again)
        if kept:
            step = phrase("step.keep-delete-and-mate", kept=quoted(kept), mates=quoted(wrong), asked=again)
        instead = [sentence for mate in wrong if (sentence := _instead(task, mate))]
        return phrase("together", items=[step, *instead]) if instead else step
    a, b = (exercise.instance_name(operand.instance) for operand in (task.fields.a, task.fields.b))
    return phrase("step.mate-again", a=b, b=a, doing=_doing(task.fields, exercise))


def _instead(task: Task[RelationFields], mate: str) -> Message | None:
    """Say which feature a wrong mate should have used."""
    context = task.context
    used_wrongly = right_feature(context, mate)
    if used_wrongly is None:
        return None
    name = context.name_of(used_wrongly.instance)
    return phrase(
        "step.should-use",
        mate=mate,
        right=feature_phrase(used_wrongly.right),
        name=name,
        used=feature_phrase(used_wrongly.used),
    )


def _joins(task: Task[RelationFields], mate: str) -> bool:
    """Say whether a mate is between the two instances of the check."""
    build, known = task.context.submission.build, task.context.matching.instances
    own = {known[operand.instance] for operand in _operands(task)}
    return any(
        known_mate.id == mate and {known_mate.a, known_mate.b} == own for known_mate in (build.mates if build else ())
    )


def _verify(check: CheckModel, fields: RelationFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.a.instance, fields.b.instance)
    try:
        check_mate(_mate(check, fields, exercise))
    except RigidBenchError as exc:
        raise type(exc)(f"{FILE}, check '{check.id}'", exc.problem, exc.next_step) from exc


KIND = CheckKind(
    name="relation",
    subject="mate",
    strip="assembly",
    fields=RelationFields,
    required=_required,
    judge=_judge,
    verify=_verify,
)
