"""Do the parts' names follow the pattern that the class uses?"""

import re
from typing import Annotated

from pydantic import Field

from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.wording.phrases import quoted


class NamesFields(Document):
    """Fields of a check of kind `names`."""

    #: `#` stands for a digit, `*` for anything, all else for itself; capitals do not matter.
    pattern: Annotated[str, Field(min_length=1, max_length=100)]


def _required(check: CheckModel, fields: NamesFields, exercise: Exercise) -> Message:
    return phrase("asks.names", pattern=fields.pattern)


def follows(name: str, pattern: str) -> bool:
    """Say whether a name follows a pattern.

    Examples
    --------
    >>> follows("P-12 Pedal", "P-## *"), follows("pedal", "P-## *")
    (True, False)
    """
    signs = {"#": r"\d", "*": ".*"}
    return re.fullmatch("".join(signs.get(sign, re.escape(sign)) for sign in pattern), name, re.IGNORECASE) is not None


def _judge(task: Task[NamesFields]) -> CheckResult:
    names = list(dict.fromkeys(part.name for part in task.context.submission.parts))
    if not names:
        return task.no_geometry()
    wrong = quoted(name for name in names if not follows(name, task.fields.pattern))
    if not wrong:
        return task.result("met", phrase("measured.all-names", count=len(names)))
    cause = Cause(code="names", message=phrase("cause.names", names=wrong[:6]))
    step = phrase("step.rename", pattern=task.fields.pattern)
    return task.result(
        "missed",
        phrase("measured.names-of", right=len(names) - len(wrong), count=len(names)),
        cause=cause,
        next_step=step,
    )


KIND = CheckKind(
    name="names",
    subject="part",
    outlives_change=False,
    strip="assembly",
    fields=NamesFields,
    required=_required,
    judge=_judge,
)
