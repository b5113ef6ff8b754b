"""One build, as far as marks depend on it: what counts for each check, and the stage that is reached."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.marking.rules import Rules


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckMarks:
    """One check, as far as marks depend on it."""

    id: str
    title: str
    verdict: str
    awarded: float
    available: float
    follows: str | None
    #: A person marks it, by its levels.
    by_person: bool = False
    #: Percent of all marks that its slip leaves at most, until it is put right.
    caps_at: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """One build, as far as its state and marks depend on it."""

    id: int
    student_id: int
    state: str
    handed_in_at: datetime
    is_returned: bool
    #: The version of the exercise that it was measured by; None before it was.
    version_id: int | None = None
    #: Each stage's name and checks, "*" for all, in the order in which they are reached.
    stages: Sequence[tuple[str, Sequence[str]]] = ()
    #: None before it was measured.
    checks: Sequence[CheckMarks] | None = None
    #: A teacher's marks, by check.
    marks: Mapping[str, float]
    #: Checks with a question that waits for its answer.
    questions: frozenset[str] = frozenset()
    #: Each part's required part and likeness.
    parts: Sequence[tuple[str | None, float | None]] = ()
    #: Codes of what the grader noticed.
    notices: Sequence[str] = ()
    attempts: int = 0

    def given(self, check: CheckMarks) -> float:
        """Return the marks that count for a check: a teacher's where there are some, else those measured."""
        return self.marks.get(check.id, check.awarded)

    def verdict(self, check: CheckMarks, rules: Rules) -> str:
        """Return what counts for a check: "withdrawn", or as measured where no teacher decided otherwise.

        Full marks settle a check, and with it whatever followed from its slip.
        """
        if check.id in rules.withdrawn:
            return "withdrawn"
        if check.id in self.marks:
            return _verdict_by_marks(check, self.marks[check.id])
        root = next((candidate for candidate in self.checks or () if candidate.id == check.follows), None)
        if root is not None and self.verdict(root, rules) in ("met", "withdrawn"):
            return "met"
        return check.verdict

    def capping(self, rules: Rules) -> CheckMarks | None:
        """Return the open check whose slip leaves the least of the marks; None where nothing caps them."""
        slips = [
            check
            for check in self.checks or ()
            if check.caps_at is not None and self.verdict(check, rules) not in ("met", "withdrawn")
        ]
        return min(slips, key=lambda check: check.caps_at or 0.0, default=None)

    def is_open(self, check: CheckMarks, rules: Rules) -> bool:
        """Say whether a check still needs another look: near, missed or unchecked, and no judged row that has marks."""
        is_judged = check.by_person and check.id in self.marks
        return self.verdict(check, rules) not in ("met", "withdrawn") and not is_judged

    def reached(self, rules: Rules) -> tuple[str, tuple[str, list[str]] | None]:
        """Return the last stage reached ("" before the first); and the next one, with the titles of what it needs."""
        last = ""
        for name, wanted in self.stages:
            needed = [
                check.title
                for check in self.checks or ()
                # a row that a person marks holds up no stage
                if ("*" in wanted or check.id in wanted) and not check.by_person and self.is_open(check, rules)
            ]
            if needed:
                return last, (name, needed)
            last = name
        return last, None


def _verdict_by_marks(check: CheckMarks, marks: float) -> str:
    if marks >= check.available - 1e-9:
        return "met"
    measured = "near" if marks > 0 else "missed"
    return check.verdict if check.verdict != "met" else measured


def before_return(standing: Standing) -> Standing:
    """Return how a student sees a build: a teacher's marks only once the card is returned."""
    return standing if standing.is_returned else replace(standing, marks={})


def brief(check: CheckResult) -> CheckMarks:
    """Return what marks depend on of a check."""
    return CheckMarks(
        id=check.id,
        title=check.title,
        verdict=check.verdict,
        awarded=check.awarded,
        available=check.available,
        follows=check.follows,
        by_person=bool(check.levels),
        caps_at=check.caps_at,
    )
