"""Giving a class an exercise, and how it works on it: terms, students, groups, checks withdrawn, trials."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

import procrastinate
from sqlalchemy.orm import Session

from rigid_bench.app.builds.return_cards import returned_marks_guarded
from rigid_bench.core.marking.state import tally
from rigid_bench.core.values.errors import FormRejected, NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.jobs.enqueue import TRY, enqueue
from rigid_bench.store.log import log
from rigid_bench.store.queries import (
    build_queries,
    class_queries,
    draft_queries,
    exercise_queries,
    group_queries,
    marking_queries,
    notice_queries,
)
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.rules import ClassRules, rules_of_class
from rigid_bench.store.standing import standing
from rigid_bench.store.tables import Assignment, Build, Classroom, ExerciseVersion


def give_exercise(session: Session, classroom: Classroom, version: ExerciseVersion, *, teacher: Person) -> None:
    """Give a class a released exercise, as its last; one that it works on already changes nothing."""
    if draft_queries.give(session, classroom.id, version.id):
        about: dict[str, Any] = {"title": version.title, "number": version.number}
        log(session, "exercise-given", who_id=teacher.id, class_id=classroom.id, **about)


@dataclass(frozen=True, slots=True, kw_only=True)
class ExerciseTerms:
    """When an exercise is due and returned, what is shown before, and what happens to late builds."""

    due_at: datetime | None
    return_at: datetime | None
    shows: Literal["full", "verdicts", "nothing"]
    #: None for any number.
    attempts: int | None
    late: Literal["taken", "minus", "refused"]
    #: Taken off a late build, percent.
    late_percent: float


def change_terms(
    session: Session, assignment: Assignment, terms: ExerciseTerms, *, teacher: Person, is_sure: bool
) -> None:
    """Keep the terms of an exercise.

    Raises
    ------
    ToBeConfirmed
        They would change marks that were returned, and that is not meant yet; likewise below.
    """
    with returned_marks_guarded(session, assignment, is_sure=is_sure):
        assignment.due_at, assignment.return_at = terms.due_at, terms.return_at
        assignment.shows, assignment.attempts = terms.shows, terms.attempts
        assignment.late, assignment.late_percent = terms.late, terms.late_percent
    _log(session, teacher, "terms-changed", assignment)


def agree(
    session: Session,
    assignment: Assignment,
    students: Sequence[int],
    *,
    due_at: datetime | None,
    is_absent: bool,
    teacher: Person,
    is_sure: bool,
) -> None:
    """Keep more time or absence for students; who works with whom stays as it was."""
    with returned_marks_guarded(session, assignment, is_sure=is_sure):
        for student_id in students:
            class_queries.agree(
                session,
                class_id=assignment.class_id,
                version_id=assignment.version_id,
                student_id=student_id,
                due_at=due_at,
                is_absent=is_absent,
            )
    for student_id in students:
        _log(session, teacher, "agreed", assignment, person_id=student_id)


def change_groups(
    session: Session, assignment: Assignment, groups: Sequence[Sequence[int]], *, teacher: Person, is_sure: bool
) -> None:
    """Let students work as groups from now on; a group of one works alone."""
    with returned_marks_guarded(session, assignment, is_sure=is_sure):
        for group in groups:
            group_queries.keep_group(session, assignment.class_id, assignment.version_id, group)
    for student_id in (student_id for group in groups for student_id in group):
        _log(session, teacher, "group-changed", assignment, person_id=student_id)


def copy_groups(
    session: Session, assignment: Assignment, other_version_id: int, *, teacher: Person, is_sure: bool
) -> None:
    """Let students work in the groups that they are in for another exercise.

    Raises
    ------
    FormRejected
        There are none in that exercise.
    """
    own = [student.id for student in class_queries.students_of_class(session, assignment.class_id)]
    with returned_marks_guarded(session, assignment, is_sure=is_sure):
        if not group_queries.copy_groups(session, assignment.class_id, assignment.version_id, other_version_id, own):
            raise FormRejected(_("groups"), _("there are none in that exercise"), _("Choose another exercise"), "other")
    _log(session, teacher, "groups-copied", assignment)


def withdraw_check(
    session: Session, assignment: Assignment, check_id: str, *, title: str, reason: str, teacher: Person, is_sure: bool
) -> None:
    """Let a check count for nobody in the class; students with returned marks are told.

    Raises
    ------
    FormRejected
        There is no reason.
    """
    if not reason.strip():
        raise FormRejected(_("reason"), _("a check is not withdrawn without one"), _("Write a few words"), "reason")
    exercise = exercise_queries.version(session, assignment.version_id).exercise
    of_check: dict[str, Any] = {"class_id": assignment.class_id, "exercise": exercise, "check_id": check_id}
    with returned_marks_guarded(session, assignment, is_sure=is_sure):
        marking_queries.withdraw(session, **of_check, reason=reason.strip(), teacher_id=teacher.id)
    _log(session, teacher, "check-withdrawn", assignment, check=title)


def reinstate_check(
    session: Session, assignment: Assignment, check_id: str, *, title: str, teacher: Person, is_sure: bool
) -> None:
    """Let a check that was withdrawn count again."""
    exercise = exercise_queries.version(session, assignment.version_id).exercise
    with returned_marks_guarded(session, assignment, is_sure=is_sure):
        marking_queries.reinstate(session, class_id=assignment.class_id, exercise=exercise, check_id=check_id)
    _log(session, teacher, "check-reinstated", assignment, check=title)


# --- marking anew by another version ---


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """What marking anew would change for one student."""

    build: Build
    before: float
    after: float
    #: Titles of checks whose marks would change.
    checks: list[str]


def trials_of(builds: Sequence[Build], version: ExerciseVersion, rules: ClassRules) -> list[Trial]:
    """Compare trial runs with what counts now."""
    trials = []
    for build in builds:
        runs = [run for run in build.runs if run.is_trial]
        if not runs:
            continue
        own = rules.of(version, build.student_id)
        now = standing(build)
        then = standing(build, run=runs[-1])
        titles = {check.id: check.title for check in then.checks or ()}
        was = {check.id: now.given(check) for check in now.checks or ()}
        changed = [
            titles[check.id] for check in then.checks or () if abs(was.get(check.id, 0.0) - then.given(check)) > 1e-9
        ]
        trials.append(Trial(build=build, before=tally(now, own)[0], after=tally(then, own)[0], checks=changed))
    return trials


def try_version(
    session: Session, queue: procrastinate.App, assignment: Assignment, other_version_id: int, *, teacher: Person
) -> None:
    """Mark all builds anew by another version of the exercise, to see what would change.

    Raises
    ------
    NotFound
        The exercise has no such version.
    """
    version = exercise_queries.version(session, assignment.version_id)
    if other_version_id not in [other.id for other in exercise_queries.versions_of(session, version.exercise)]:
        raise NotFound(_("version"), _("the exercise has no such version"), _("Choose one from the list"))
    builds = build_queries.builds_of_exercise(session, assignment.class_id, version.id)
    measured = [build.id for build in builds if build.runs]
    marking_queries.drop_trials(session, measured)
    for build_id in measured:
        enqueue(session, queue, TRY, build_id=build_id, version_id=other_version_id)
    _log(session, teacher, "version-tried", assignment)


def apply_trials(session: Session, assignment: Assignment, *, teacher: Person) -> None:
    """Let the marks of trials count, and tell those whose returned card changed."""
    version = exercise_queries.version(session, assignment.version_id)
    trials = _trials(session, assignment, version)
    marking_queries.apply_trials(session, [trial.build.id for trial in trials])
    for trial in trials:
        if trial.build.returns and abs(trial.after - trial.before) > 1e-9:
            text = _(
                "Your marks for {title} have changed from {before:g} to {after:g}: re-marked.",
                title=version.title,
                before=trial.before,
                after=trial.after,
            )
            students = marking_queries.students_of(session, trial.build)
            notice_queries.notify(session, students, text, kind="changed", build_id=trial.build.id)
    _log(session, teacher, "marks-applied", assignment, count=len(trials))


def drop_trials(session: Session, assignment: Assignment) -> None:
    """Forget trials that were not applied."""
    version = exercise_queries.version(session, assignment.version_id)
    marking_queries.drop_trials(session, [trial.build.id for trial in _trials(session, assignment, version)])


def _trials(session: Session, assignment: Assignment, version: ExerciseVersion) -> list[Trial]:
    builds = build_queries.builds_of_exercise(session, assignment.class_id, version.id)
    return trials_of(builds, version, rules_of_class(session, assignment.class_id))


def _log(session: Session, teacher: Person, action: str, assignment: Assignment, **about: Any) -> None:
    title = exercise_queries.version(session, assignment.version_id).title
    log(session, action, who_id=teacher.id, class_id=assignment.class_id, title=title, **about)
