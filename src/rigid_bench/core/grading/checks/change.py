"""After a size was changed and the model rebuilt: does it follow, and does all hold that did not depend on it?"""

from typing import Annotated, Any

from pydantic import Field

from rigid_bench.core.exercise.bundle import FILE, CheckModel, Exercise, after_change
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task
from rigid_bench.core.grading.report.models import Cause, CheckResult, Report
from rigid_bench.core.grading.requirement import DimensionFields, requirement_of
from rigid_bench.core.values.errors import InvalidDocument, RigidBenchError
from rigid_bench.core.wording.language import _, series
from rigid_bench.core.wording.phrases import amount

#: Measures of a whole part, which any other size changes too: they are left out.
_WHOLE = ("volume", "mass", "area", "likeness", "centre_of_mass", "extent")
#: So many checks that broke are named.
_NAMED = 3


class ChangeFields(Document):
    """Fields of a check of kind `change`."""

    #: Ids of dimension checks, and what they are changed to, in the exercise's unit.
    set: Annotated[dict[str, float], Field(min_length=1, max_length=20)]


def _changes(fields: ChangeFields, exercise: Exercise) -> list[Message]:
    titles = {known_check.id: known_check.title for known_check in exercise.model.checks}
    units = exercise.model.units
    return [
        phrase("part.set-to", title=titles.get(changed, changed), value=amount(value, "length", units))
        for changed, value in fields.set.items()
    ]


def _required(check: CheckModel, fields: ChangeFields, exercise: Exercise) -> Message:
    return phrase("asks.change", changes=_changes(fields, exercise))


def _judge(task: Task[ChangeFields]) -> CheckResult:
    context = task.context
    said = _changes(task.fields, context.exercise)
    if not context.submission.changed:
        step = phrase("step.set-and-export", changes=said)
        return task.result("unchecked", phrase("measured.first-model-only"), next_step=step)
    try:
        after = context.regrade(_altered(context.exercise, task.fields), context.submission.changed)
    except RigidBenchError as exc:
        cause = Cause(code="change-unread", message=phrase("cause.change-unread", where=exc.where, problem=exc.problem))
        return task.result(
            "missed",
            phrase("measured.not-readable"),
            cause=cause,
            next_step=phrase("step.of-error", step=exc.next_step),
        )
    broken = _broken(task, after)
    held = len(after.checks) - len(broken)
    measured = phrase("measured.hold-after-change", held=held, count=len(after.checks))
    if not broken:
        return task.result("met", measured)
    told: list[Message] = [
        phrase(
            "part.measured-where-asked",
            title=result.title,
            measured=result.measured_message,
            asked=result.required_message,
        )
        for result in broken[:_NAMED]
    ]
    if len(broken) > _NAMED:
        told.append(phrase("part.more", count=len(broken) - _NAMED))
    cause = Cause(code="change-broke", message=phrase("cause.change-broke", titles=told))
    step = phrase("step.look-what-it-hangs-on", title=broken[0].title)
    return task.result("missed", measured, cause=cause, next_step=step)


def _altered(exercise: Exercise, fields: ChangeFields) -> Exercise:
    """Return the exercise as it is asked after the change."""
    from rigid_bench.core.grading.checks import kind_of  # the registry, of which this kind is one entry

    kept = []
    for check in exercise.model.checks:
        of_the_whole = check.kind == "dimension" and check.fields.get("measure") in _WHOLE
        if (not kind_of(check).outlives_change or of_the_whole) and check.id not in fields.set:
            continue
        if check.id in fields.set:
            check = check.model_copy(update={"nominal": fields.set[check.id]})
        kept.append(check)
    return after_change(exercise, kept)


def _broken(task: Task[ChangeFields], after: Report) -> list[CheckResult]:
    """List what held before the change and does not after it, and the changed sizes that did not follow."""
    before = {result.id: result.verdict for result in task.context.done}
    return [
        check
        for check in after.checks
        if check.verdict in ("near", "missed")
        and not check.follows
        and (check.id in task.fields.set or before.get(check.id, "met") == "met")
    ]


def _verify(check: CheckModel, fields: ChangeFields, exercise: Exercise) -> None:
    where = f"{FILE}, check '{check.id}'"
    sizes: dict[str, Any] = {
        candidate.id: candidate for candidate in exercise.model.checks if candidate.kind == "dimension"
    }
    for changed in fields.set:
        if changed not in sizes:
            raise InvalidDocument(
                where,
                _("there is no dimension '{changed}' to change", changed=changed),
                _("Name one of: {sizes}", sizes=series(sizes)),
            )
    altered = _altered(exercise, fields)
    for other in altered.model.checks:
        if other.kind == "dimension":
            requirement_of(other, DimensionFields.model_validate(other.fields), altered)


KIND = CheckKind(
    name="change",
    needs_second_model=True,
    outlives_change=False,
    strip="fit",
    fields=ChangeFields,
    required=_required,
    judge=_judge,
    verify=_verify,
)
