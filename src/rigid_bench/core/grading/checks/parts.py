"""Are all required parts there, each in the right number, and nothing besides?"""

import itertools

from rigid_bench.core.documents import Document
from rigid_bench.core.exercise.exercise import CheckModel, Exercise
from rigid_bench.core.grading.checks.base import CheckKind, Task
from rigid_bench.core.grading.mixed_up import merged
from rigid_bench.core.grading.report import Cause, CheckResult
from rigid_bench.core.grading.wording import listed

#: mm: two instances that are nearer stand in one place.
_ONE_PLACE_MM = 0.01


class PartsFields(Document):
    """Fields of a check of kind `parts`: none of its own."""


def _required(check: CheckModel, fields: PartsFields, exercise: Exercise) -> str:
    return listed([_counted(each.count, each.name) for each in exercise.model.parts])


def _counted(count: int, name: str) -> str:
    return name if count == 1 else f"{count} × {name}"


def _judge(task: Task[PartsFields]) -> CheckResult:
    exercise, copies = task.context.exercise, task.context.matching.copies
    off = [
        (each.name, len(copies.get(each.id, ())) - each.count)
        for each in exercise.model.parts
        if len(copies.get(each.id, ())) != each.count
    ]
    placed = {index for indices in copies.values() for index in indices}
    extra = [each.name for k, each in enumerate(task.context.submission.instances) if k not in placed]
    found = [_counted(len(copies[each.id]), each.name) for each in exercise.model.parts if copies.get(each.id)]
    measured = listed(found + [f"something else ('{name}')" for name in extra]) or "no part that is asked for"
    if not off and not extra:
        return task.result("met", measured)
    missing = [_counted(-by, name) for name, by in off if by < 0]
    too_many = [_counted(by, name) for name, by in off if by > 0] + [f"'{name}'" for name in extra]
    code = "part-missing" if missing else "part-extra"
    joined = [
        cause for each in exercise.model.parts if not copies.get(each.id) and (cause := merged(task.context, each.id))
    ]
    if joined:
        step = "Model each as a part of its own and hand in again."
        return task.result("missed", measured, cause=joined[0], next_step=step)
    twice = _twice_in_place(task)
    if twice and not missing:
        text = f"{listed(twice)} {'is' if len(twice) == 1 else 'are'} there twice, one in the place of the other."
        step = f"Delete the second {listed(twice)} and hand in again."
        return task.result("missed", measured, cause=Cause(code="duplicate", text=text), next_step=step)
    text = " ".join(
        f"{listed(names)} {'is' if len(names) == 1 else 'are'} {what}."
        for names, what in ((missing, "missing"), (too_many, "too many or not asked for"))
        if names
    )
    step = f"Add {listed(missing)}" if missing else f"Take out {listed(too_many)}"
    return task.result("missed", measured, cause=Cause(code=code, text=text), next_step=f"{step} and hand in again.")


def _twice_in_place(task: Task[PartsFields]) -> list[str]:
    """Name the parts of which two instances stand in one place: one hides the other."""
    context, names = task.context, []
    own = context.submission.instances
    for part, indices in context.matching.copies.items():
        pairs = itertools.combinations(indices, 2)
        if any(own[a].pose.is_close(own[b].pose, mm=_ONE_PLACE_MM, rad=1e-4) for a, b in pairs):
            names.append(context.exercise.part_name(part))
    return names


KIND = CheckKind(name="parts", strip="assembly", fields=PartsFields, required=_required, judge=_judge)
