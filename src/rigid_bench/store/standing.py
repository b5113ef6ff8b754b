"""Reads where a build stands from its rows."""

from collections.abc import Mapping, Sequence
from typing import Any

from rigid_bench.core.grading.report.models import CheckResult, Report
from rigid_bench.core.marking.standing import CheckMarks, Standing, brief
from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.store.grid import GridBuild
from rigid_bench.store.tables import Build, Override, Run


def standing_of_grid(build: GridBuild) -> Standing:
    """Say where a build of a class table stands."""
    names = ("id", "title", "verdict", "awarded", "available", "follows", "by_person", "caps_at")
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
        notices=build.notices,
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
        checks=[brief(check) for check in report.checks] if report else None,
        marks={
            check: newest_override.marks
            for check, newest_override in newest_overrides(build).items()
            if newest_override.marks is not None
        },
        questions=frozenset(question.check_id for question in build.questions if question.answer is None),
        parts=[(part.get("part"), part.get("likeness")) for part in report.parts] if report else (),
        notices=[notice.code for notice in report.notices] if report else (),
    )


def _stages(document: Mapping[str, Any]) -> list[tuple[str, Sequence[str]]]:
    return [(stage["name"], stage["checks"]) for stage in document.get("stages", ())]


def newest_run(build: Build) -> Run | None:
    """Return the newest run of the grader that is no trial."""
    counted = [run for run in build.runs if not run.is_trial]
    return counted[-1] if counted else None


def newest_report(build: Build) -> Report | None:
    """Return what the newest run of the grader found that is no trial."""
    run = newest_run(build)
    return Report.model_validate(run.report) if run else None


def check_of(build: Build, check_id: str) -> CheckResult:
    """Return a check of a build's newest report.

    Raises
    ------
    NotFound
        There is none.
    """
    report = newest_report(build)
    check = next((check for check in report.checks if check.id == check_id), None) if report else None
    if check is None:
        raise NotFound(_("check"), _("this build has no such check"), _("Open the card again"))
    return check


def newest_overrides(build: Build) -> dict[str, Override]:
    """Return the marks of each check that a teacher gave and that count: the newest."""
    return {
        override.check_id: override
        for override in build.overrides
        if override.marks is not None and override.undone_at is None
    }


def comments(build: Build) -> dict[str, list[Override]]:
    """Return the comments of each check that leave its marks as they are."""
    by_check: dict[str, list[Override]] = {}
    for override in build.overrides:
        if override.marks is None and override.undone_at is None:
            by_check.setdefault(override.check_id, []).append(override)
    return by_check
