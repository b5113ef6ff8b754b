"""A row that a person marks: layout, rendering, explanation, by levels with their words."""

from typing import Annotated

from pydantic import Field

from rigid_bench.core.exercise.bundle import FILE, CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.wording.language import _


class LevelModel(Document):
    """One level: what a piece of work of this level shows, and its marks."""

    name: Annotated[str, Field(min_length=1, max_length=60)]
    text: str = ""
    marks: Annotated[float, Field(ge=0, le=1000, allow_inf_nan=False)]


class JudgedFields(Document):
    """Fields of a check of kind `judged`."""

    levels: Annotated[list[LevelModel], Field(min_length=2, max_length=9)]


def _required(check: CheckModel, fields: JudgedFields, exercise: Exercise) -> Message:
    best = max(fields.levels, key=lambda level: level.marks).text
    return phrase("as-said", text=best) if best else phrase("asks.by-teacher")


def _judge(task: Task[JudgedFields]) -> CheckResult:
    levels = [level.model_dump() for level in task.fields.levels]
    step = phrase("step.by-teacher")
    return task.result("unchecked", phrase("measured.to-be-judged"), next_step=step, levels=levels)


def _verify(check: CheckModel, fields: JudgedFields, exercise: Exercise) -> None:
    most = max(level.marks for level in fields.levels)
    if most > check.marks:
        where = f"{FILE}, check '{check.id}'"
        raise InvalidDocument(
            where,
            _("a level gives {most:g} marks, the check only {marks:g}", most=most, marks=check.marks),
            _("Raise its marks"),
        )


KIND = CheckKind(
    name="judged",
    by_person=True,
    outlives_change=False,
    strip="by hand",
    fields=JudgedFields,
    required=_required,
    judge=_judge,
    verify=_verify,
)
