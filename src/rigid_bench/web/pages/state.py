"""Where a build stands, as tables and lists show it: a word, a mark, the marks that count."""

from dataclasses import dataclass

from rigid_bench.core.grading.report import Report
from rigid_bench.store.tables import Build, Override

#: state -> word; each has its own shape in the templates.
WORDS = {
    "none": "not handed in",
    "queued": "waiting",
    "measuring": "being measured",
    "failed": "could not be measured",
    "graded": "measured",
    "returned": "returned",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class BuildState:
    """Where one build stands."""

    key: str
    word: str
    awarded: float | None = None
    available: float | None = None
    stage: str = ""
    #: How many checks need another look: missed, near or unchecked.
    open_checks: int = 0


def build_state(build: Build | None) -> BuildState:
    """Say where a build stands; None is one that was never handed in."""
    if build is None:
        return BuildState(key="none", word=WORDS["none"])
    report = newest_report(build)
    key = "returned" if build.returns else build.state
    if report is None or build.state != "graded":
        return BuildState(key=key, word=WORDS[key])
    return BuildState(
        key=key,
        word=WORDS[key],
        awarded=awarded(report, newest_overrides(build)),
        available=report.available,
        stage=report.stage,
        open_checks=sum(1 for each in report.checks if each.verdict != "met"),
    )


def newest_report(build: Build) -> Report | None:
    """Return what the newest run of the grader found."""
    return Report.model_validate(build.runs[-1].report) if build.runs else None


def newest_overrides(build: Build) -> dict[str, Override]:
    """Return the override of each check that counts: the newest."""
    return {each.check_id: each for each in build.overrides}


def awarded(report: Report, overrides: dict[str, Override]) -> float:
    """Add up the marks that count: a teacher's where there are some, else those measured."""
    return sum(overrides[each.id].marks if each.id in overrides else each.awarded for each in report.checks)
