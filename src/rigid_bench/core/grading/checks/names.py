"""Do the parts' names follow the pattern that the class uses?"""

import re
from typing import Annotated

from pydantic import Field

from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.grading.checks.base import CheckKind, Task
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.wording.quantities import listed


class NamesFields(Document):
    """Fields of a check of kind `names`."""

    #: `#` stands for a digit, `*` for anything, all else for itself; capitals do not matter.
    pattern: Annotated[str, Field(min_length=1, max_length=100)]


def _required(check: CheckModel, fields: NamesFields, exercise: Exercise) -> str:
    return f"names like {fields.pattern} (# a digit, * anything)"


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
    wrong = [f"'{name}'" for name in names if not follows(name, task.fields.pattern)]
    if not wrong:
        return task.result("met", f"all {len(names)} names")
    cause = Cause(
        code="names", text=f"{listed(wrong[:6])} {'do' if len(wrong) > 1 else 'does'} not follow the pattern."
    )
    step = f"Rename to {task.fields.pattern} and hand in again."
    return task.result("missed", f"{len(names) - len(wrong)} of {len(names)} names", cause=cause, next_step=step)


KIND = CheckKind(
    name="names",
    subject="part",
    outlives_change=False,
    strip="assembly",
    fields=NamesFields,
    required=_required,
    judge=_judge,
)
