"""Where a build stands, as tables and cards show it: a word, a mark, the marks that count, what needs a person."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from rigid_bench.core.grading.report.models import CheckResult, Report
from rigid_bench.store.grid import GridBuild
from rigid_bench.store.tables import Assignment, Build, Override, Run, Terms

#: state -> word; each has its own shape in the templates.
WORDS = {
    "none": "not handed in",
    "absent": "excused",
    "queued": "waiting",
    "measuring": "being measured",
    "failed": "could not be measured",
    "graded": "to return",
    "returned": "returned",
}
#: Below this share of like area it is doubtful whether a part was taken for the right one.
_DOUBTFUL = 0.6


@dataclass(frozen=True, slots=True, kw_only=True)
class Rules:
    """What a class has decided about an exercise, as far as marks depend on it."""

    #: Checks that count for nobody, with the reason.
    withdrawn: Mapping[str, str]
    assignment: Assignment | None = None
    #: What is agreed with the student.
    terms: Terms | None = None
    #: What is agreed with the partner, where two work together: more time for one is more time for both.
    partner_terms: Terms | None = None

    @property
    def due_at(self) -> datetime | None:
        """When it is due for this student: of two who work together, the later time."""
        everybody = self.assignment.due_at if self.assignment else None
        agreed = [self.terms, *([self.partner_terms] if self.partner_terms else [])]
        dues = [terms.due_at if terms and terms.due_at else everybody for terms in agreed]
        known = [due for due in dues if due]
        return max(known) if len(known) == len(dues) else None

    def is_late(self, handed_in_at: datetime) -> bool:
        """Say whether a build came after it was due."""
        return self.due_at is not None and handed_in_at > self.due_at

    def share(self, handed_in_at: datetime) -> float:
        """Return the share of the marks that a build keeps: less than 1 where late ones lose some."""
        is_cut = self.assignment is not None and self.assignment.late == "minus" and self.is_late(handed_in_at)
        return 1 - self.assignment.late_percent / 100 if is_cut and self.assignment else 1.0


NO_RULES = Rules(withdrawn={})


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckMarks:
    """One check, as far as marks depend on it."""

    id: str
    title: str
    kind: str
    verdict: str
    awarded: float
    available: float
    follows: str | None


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
    warnings: Sequence[str] = ()
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
        root = next((each for each in self.checks or () if each.id == check.follows), None)
        if root is not None and self.verdict(root, rules) in ("met", "withdrawn"):
            return "met"
        return check.verdict

    def is_open(self, check: CheckMarks, rules: Rules) -> bool:
        """Say whether a check still needs another look: near, missed or unchecked, and no judged row that has marks."""
        is_judged = check.kind == "judged" and check.id in self.marks
        return self.verdict(check, rules) not in ("met", "withdrawn") and not is_judged

    def reached(self, rules: Rules) -> tuple[str, tuple[str, list[str]] | None]:
        """Return the last stage reached ("" before the first); and the next one, with the titles of what it needs."""
        last = ""
        for name, wanted in self.stages:
            needed = [
                check.title
                for check in self.checks or ()
                # a row that a person marks holds up no stage
                if ("*" in wanted or check.id in wanted) and check.kind != "judged" and self.is_open(check, rules)
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


def standing_of_grid(build: GridBuild) -> Standing:
    """Say where a build of a class table stands."""
    names = ("id", "title", "kind", "verdict", "awarded", "available", "follows")
    checks = (
        None if build.checks is None else [CheckMarks(**dict(zip(names, row, strict=True))) for row in build.checks]
    )
    return Standing(
        id=build.id,
        student_id=build.student_id,
        state=build.state,
        handed_in_at=build.handed_in_at,
        is_returned=build.is_returned,
        version_id=build.measured_by,
        stages=[(name, wanted) for name, wanted in build.stages],
        checks=checks,
        marks=build.marks,
        questions=frozenset(build.questions),
        parts=build.parts,
        warnings=build.warnings,
        attempts=build.attempts,
    )


def standing(build: Build, *, run: Run | None = None) -> Standing:
    """Say where a build with all that belongs to it stands; by another run than the newest, if one is given."""
    run = run or newest_run(build)
    report = Report.model_validate(run.report) if run else None
    return Standing(
        id=build.id,
        student_id=build.student_id,
        state=build.state,
        handed_in_at=build.handed_in_at,
        is_returned=bool(build.returns),
        version_id=run.version_id if run else None,
        stages=_stages(run.version.document) if run else (),
        checks=[brief(each) for each in report.checks] if report else None,
        marks={check: each.marks for check, each in newest_overrides(build).items() if each.marks is not None},
        questions=frozenset(each.check_id for each in build.questions if each.answer is None),
        parts=[(each.get("part"), each.get("likeness")) for each in report.parts] if report else (),
        warnings=report.warnings if report else (),
    )


def _stages(document: Mapping[str, Any]) -> list[tuple[str, Sequence[str]]]:
    return [(stage["name"], stage["checks"]) for stage in document.get("stages", ())]


def before_return(found: Standing) -> Standing:
    """Return how a student sees a build: a teacher's marks only once the card is returned."""
    return found if found.is_returned else replace(found, marks={})


def brief(check: CheckResult) -> CheckMarks:
    """Return what marks depend on of a check."""
    return CheckMarks(
        id=check.id,
        title=check.title,
        kind=check.kind,
        verdict=check.verdict,
        awarded=check.awarded,
        available=check.available,
        follows=check.follows,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class BuildState:
    """Where one build stands, in words and marks."""

    key: str
    word: str
    awarded: float | None = None
    available: float | None = None
    stage: str = ""
    #: How many checks need another look: missed, near or unchecked.
    open_checks: int = 0
    #: Why a person should look at it, in a few words each.
    review_reasons: tuple[str, ...] = ()
    is_late: bool = False

    @property
    def percent(self) -> float | None:
        """The marks as a percentage."""
        return 100 * (self.awarded or 0.0) / self.available if self.available else None


def build_state(found: Standing | None, rules: Rules = NO_RULES) -> BuildState:
    """Say where a build stands; None is one that was never handed in."""
    if found is None:
        key = "absent" if rules.terms and rules.terms.is_absent else "none"
        return BuildState(key=key, word=WORDS[key])
    key = "returned" if found.is_returned else found.state
    is_late = rules.is_late(found.handed_in_at)
    if found.checks is None or found.state != "graded":
        doubts = ("could not be measured",) if found.state == "failed" and not found.is_returned else ()
        return BuildState(key=key, word=WORDS[key], review_reasons=doubts, is_late=is_late)
    awarded, available = tally(found, rules)
    return BuildState(
        key=key,
        word=WORDS[key],
        awarded=awarded,
        available=available,
        stage=found.reached(rules)[0],
        open_checks=sum(found.is_open(each, rules) for each in found.checks),
        review_reasons=tuple(_review_reasons(found, rules)),
        is_late=is_late,
    )


def tally(found: Standing, rules: Rules) -> tuple[float, float]:
    """Add up the marks that count and those that there are: a teacher's first, none of withdrawn checks."""
    counted = [each for each in found.checks or () if each.id not in rules.withdrawn]
    total = sum(found.given(each) for each in counted) * rules.share(found.handed_in_at)
    return round(total, 4), round(sum(each.available for each in counted), 4)


def needs_a_person(check: CheckMarks, found: Standing) -> str:
    """Say why a person should look at a check: "question", "to be judged", "near", or ""."""
    if check.id in found.questions:
        return "question"
    if check.id in found.marks or found.is_returned:
        return ""
    if check.kind == "judged":
        return "to be judged"
    return "near" if check.verdict == "near" else ""


def _review_reasons(found: Standing, rules: Rules) -> Iterator[str]:
    asked = [needs_a_person(each, found) for each in found.checks or () if each.id not in rules.withdrawn]
    for word in ("question", "to be judged", "near"):
        if count := asked.count(word):
            yield word if count == 1 else f"{count} {word}s" if word == "question" else f"{count} {word}"
    if found.is_returned:
        return
    if any(part is None for part, _ in found.parts):
        yield "unmatched part"
    if any(likeness is not None and likeness < _DOUBTFUL for _, likeness in found.parts):
        yield "doubtful match"
    if any("elsewhere" in warning or "each other's" in warning for warning in found.warnings):
        yield "two readings"


def newest_run(build: Build) -> Run | None:
    """Return the newest run of the grader that is no trial."""
    counted = [run for run in build.runs if not run.is_trial]
    return counted[-1] if counted else None


def newest_report(build: Build) -> Report | None:
    """Return what the newest run of the grader found that is no trial."""
    run = newest_run(build)
    return Report.model_validate(run.report) if run else None


def newest_overrides(build: Build) -> dict[str, Override]:
    """Return the marks of each check that a teacher gave and that count: the newest."""
    return {each.check_id: each for each in build.overrides if each.marks is not None and each.undone_at is None}


def comments(build: Build) -> dict[str, list[Override]]:
    """Return the comments of each check that leave its marks as they are."""
    found: dict[str, list[Override]] = {}
    for each in build.overrides:
        if each.marks is None and each.undone_at is None:
            found.setdefault(each.check_id, []).append(each)
    return found
