"""How a class works on one exercise: due, shown, late, returned; single students; checks withdrawn; re-marked."""

import uuid
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from fastapi import Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from rigid_bench.core.marking.state import tally
from rigid_bench.core.values.errors import FormRejected, NotFound, ToBeConfirmed
from rigid_bench.core.wording.language import _
from rigid_bench.jobs import enqueue
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.log import log
from rigid_bench.store.queries import (
    build_queries,
    class_queries,
    exercise_queries,
    group_queries,
    marking_queries,
    notice_queries,
    work_queries,
)
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.returning import is_ready, ready_to_return, return_builds, returned_totals
from rigid_bench.store.rules import ClassRules, rules_of_class
from rigid_bench.store.standing import standing
from rigid_bench.store.tables import Assignment, Build, Classroom, ExerciseVersion, GroupMembership, Terms, User
from rigid_bench.web.forms import FormId, moment_or_none, number_between, whole_between
from rigid_bench.web.pages.builds.marking import ask_if_unfinished
from rigid_bench.web.pages.exercises.sheet import read_version
from rigid_bench.web.paging import PAGE, Pages
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, Id, OwnAssignment, OwnStudent, TaughtClass, Teacher

router = page_router("/classes/{class_id}/exercises/{version_id}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """What marking anew would change for one student."""

    build: Build
    before: float
    after: float
    #: Titles of checks whose marks would change.
    checks: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class StudentTerms:
    """A student, what is agreed with them, and the names of those they work with."""

    student: User
    agreed: Terms | None
    works_with: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class GroupView:
    """A group of an exercise: who is in it now, and who was before."""

    number: int
    now: list[GroupMembership]
    before: list[GroupMembership]


@router.get("", name="assignment")
def assignment(
    request: Request,
    class_id: Id,
    classroom: TaughtClass,
    assignment: OwnAssignment,
    session: DbSession,
    q: Annotated[str, Query(max_length=100)] = "",
    at: Annotated[int, Query(ge=1, le=10_000)] = 1,
) -> Response:
    """Show how the class works on the exercise; of its students a page of those whom the words find."""
    version = exercise_queries.version(session, assignment.version_id)
    _, prepared = read_version(version)
    students = class_queries.students_of_class(session, class_id)
    meant = [student for student in students if all(word in student.name.casefold() for word in q.casefold().split())]
    names = {student.id: student.name for student in students}
    rules = rules_of_class(session, class_id)
    builds = build_queries.builds_of_exercise(session, class_id, version.id)
    return page(
        request,
        "assignment.html",
        classroom=classroom,
        version=version,
        assignment=assignment,
        settings=ClassSettings.model_validate(classroom.settings),
        people=[
            StudentTerms(
                student=user,
                agreed=rules.terms.get((user.id, version.id)),
                works_with=[names.get(other, "somebody") for other in rules.groups.get((user.id, version.id), ())],
            )
            for user in meant[(at - 1) * PAGE : at * PAGE]
        ],
        groups=_groups(group_queries.history_of(session, class_id, version.id)),
        other_exercises=[own for own in exercise_queries.exercises_of_class(session, class_id) if own.id != version.id],
        pages=Pages(at=at, count=len(meant)),
        q=q,
        classmates=students,
        withdrawn=rules.withdrawn.get(version.exercise, {}),
        checks=prepared.checks,
        versions=[
            candidate
            for candidate in exercise_queries.versions_of(session, version.exercise)
            if candidate.id != version.id
        ],
        trials=_trials(builds, version, rules),
        waiting=work_queries.count_waiting(session, enqueue.TRY, [build.id for build in builds]),
        ready=sum(map(is_ready, builds)),
    )


def _groups(history: Sequence[GroupMembership]) -> list[GroupView]:
    """Sort who was in which group when; groups that have ended come last."""
    numbers = dict.fromkeys(own.number for own in history)
    views = [
        GroupView(
            number=number,
            now=[own for own in history if own.number == number and own.left_at is None],
            before=[own for own in history if own.number == number and own.left_at is not None],
        )
        for number in numbers
    ]
    return sorted(views, key=lambda view: (not view.now, view.number))


def _trials(builds: Sequence[Build], version: ExerciseVersion, rules: ClassRules) -> list[Trial]:
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


@router.post("/terms", name="change_assignment", dependencies=[CheckedForm])
def change_assignment(
    request: Request,
    classroom: TaughtClass,
    assignment: OwnAssignment,
    user: Teacher,
    session: DbSession,
    due_at: Annotated[str, Form(max_length=40)] = "",
    return_at: Annotated[str, Form(max_length=40)] = "",
    shows: Annotated[Literal["full", "verdicts", "nothing"], Form()] = "full",
    attempts: Annotated[str, Form(max_length=10)] = "",
    late: Annotated[Literal["taken", "minus", "refused"], Form()] = "taken",
    late_percent: Annotated[str, Form(max_length=10)] = "",
    sure: Annotated[bool, Form()] = False,
) -> Response:
    """Keep when it is due, what is shown before, and what happens to late builds."""
    zone = ClassSettings.model_validate(classroom.settings).zone
    with _returned_marks(session, assignment, sure=sure):
        assignment.due_at = moment_or_none(due_at, zone, field="due_at")
        assignment.return_at = moment_or_none(return_at, zone, field="return_at")
        assignment.shows, assignment.late = shows, late
        assignment.attempts = None
        if attempts.strip():
            assignment.attempts = whole_between(attempts, 1, 1000, where="hand-ins at most", field="attempts")
        assignment.late_percent = 0.0
        if late_percent.strip():
            assignment.late_percent = number_between(late_percent, 0, 100, where="percent off", field="late_percent")
    _log(session, user, "terms-changed", assignment)
    return _back(request, assignment)


@contextmanager
def _returned_marks(session: Session, assignment: Assignment, *, sure: bool) -> Iterator[None]:
    """Guard marks that were returned: what an act within changes of them is shown first, and told once it is meant.

    Raises
    ------
    ToBeConfirmed
        It would change marks that students have; nothing is kept.
    """
    before = returned_totals(session, assignment.class_id, assignment.version_id)
    yield
    session.flush()
    session.expire_all()
    after = returned_totals(session, assignment.class_id, assignment.version_id)
    changed = [
        (student_id, was, after.get(student_id)) for student_id, was in before.items() if after.get(student_id) != was
    ]
    if not changed:
        return
    title = exercise_queries.version(session, assignment.version_id).title
    names = {student_id: session.get_one(User, student_id).name for student_id, _was, _is in changed}
    if not sure:
        lines = tuple(
            f"{names[student_id]}: {was.words} would become {now.words if now else 'another build, not returned yet'}"
            for student_id, was, now in changed
        )
        problem = _("this changes marks of {title} that were returned", title=title)
        raise ToBeConfirmed(_("returned marks"), problem, _("Change them and tell the students, or leave it"), lines)
    for student_id, was, now in changed:
        became = now.words if now else _("those of a build that is not returned yet")
        text = _(
            "Your marks for {title} have changed: they were {was}, and are {became}.",
            title=title,
            was=was.words,
            became=became,
        )
        notice_queries.notify(
            session, [student_id], text, kind="changed", build_id=now.build_id if now else was.build_id
        )


@router.post("/students/{student_id}", name="agree", dependencies=[CheckedForm])
def agree(
    request: Request,
    classroom: TaughtClass,
    student: OwnStudent,
    assignment: OwnAssignment,
    user: Teacher,
    session: DbSession,
    due_at: Annotated[str, Form(max_length=40)] = "",
    is_absent: Annotated[bool, Form()] = False,
    sure: Annotated[bool, Form()] = False,
) -> Response:
    """Keep more time or absence for one student."""
    with _returned_marks(session, assignment, sure=sure):
        class_queries.agree(
            session,
            class_id=classroom.id,
            version_id=assignment.version_id,
            student_id=student.id,
            due_at=moment_or_none(due_at, ClassSettings.model_validate(classroom.settings).zone, field="due_at"),
            is_absent=is_absent,
        )
    _log(session, user, "agreed", assignment, person_id=student.id)
    return _back(request, assignment)


@router.post("/students", name="agree_with_many", dependencies=[CheckedForm])
def agree_with_many(
    request: Request,
    classroom: TaughtClass,
    assignment: OwnAssignment,
    user: Teacher,
    session: DbSession,
    students: Annotated[list[FormId], Form()] = [],  # noqa: B006 (FastAPI copies its defaults)
    due_at: Annotated[str, Form(max_length=40)] = "",
    is_absent: Annotated[bool, Form()] = False,
    sure: Annotated[bool, Form()] = False,
) -> Response:
    """Keep more time or absence for several students; who works with whom stays as it was."""
    meant = _meant(session, classroom, students)
    until = moment_or_none(due_at, ClassSettings.model_validate(classroom.settings).zone, field="due_at")
    with _returned_marks(session, assignment, sure=sure):
        for student in meant:
            class_queries.agree(
                session,
                class_id=classroom.id,
                version_id=assignment.version_id,
                student_id=student,
                due_at=until,
                is_absent=is_absent,
            )
    for student in meant:
        _log(session, user, "agreed", assignment, person_id=student)
    return _back(request, assignment)


@router.post("/groups", name="keep_group", dependencies=[CheckedForm])
def keep_group(
    request: Request,
    classroom: TaughtClass,
    assignment: OwnAssignment,
    user: Teacher,
    session: DbSession,
    students: Annotated[list[FormId], Form()] = [],  # noqa: B006 (FastAPI copies its defaults)
    do: Annotated[Literal["group", "end"], Form()] = "group",
    sure: Annotated[bool, Form()] = False,
) -> Response:
    """Let students work as one group, or each alone again; marks that this changes are shown first."""
    meant = _meant(session, classroom, students)
    if do == "group" and len(meant) < 2:
        raise FormRejected(
            _("group"), _("a group has two students at least"), _("Tick all who work together"), "students"
        )
    with _returned_marks(session, assignment, sure=sure):
        for group in [meant] if do == "group" else [[student] for student in meant]:
            group_queries.keep_group(session, assignment.class_id, assignment.version_id, group)
    for student in meant:
        _log(session, user, "group-changed", assignment, person_id=student)
    return _back(request, assignment)


@router.post("/groups/as", name="copy_groups", dependencies=[CheckedForm])
def copy_groups(
    request: Request, classroom: TaughtClass, assignment: OwnAssignment, user: Teacher, session: DbSession,
    other: FormId = 0, sure: Annotated[bool, Form()] = False,
) -> Response:  # fmt: skip
    """Let students work in the groups that they are in for another exercise."""
    own = [student.id for student in class_queries.students_of_class(session, classroom.id)]
    with _returned_marks(session, assignment, sure=sure):
        if not group_queries.copy_groups(session, assignment.class_id, assignment.version_id, other, own):
            raise FormRejected(_("groups"), _("there are none in that exercise"), _("Choose another exercise"), "other")
    _log(session, user, "groups-copied", assignment)
    return _back(request, assignment)


def _meant(session: Session, classroom: Classroom, students: Sequence[int]) -> list[int]:
    """Return those of the chosen students who are in the class, each once."""
    own = {student.id for student in class_queries.students_of_class(session, classroom.id)}
    meant = [student for student in dict.fromkeys(students) if student in own]
    if not meant:
        raise FormRejected(_("students"), _("none was chosen"), _("Tick those whom it is for"), "students")
    return meant


@router.post("/return", name="return_all", dependencies=[CheckedForm])
def return_all(
    request: Request,
    assignment: OwnAssignment,
    user: Teacher,
    session: DbSession,
    sure: Annotated[bool, Form()] = False,
) -> Response:
    """Return all cards that are ready."""
    builds = ready_to_return(session, assignment.class_id, assignment.version_id)
    rules, batch = rules_of_class(session, assignment.class_id), uuid.uuid4().hex
    if not sure:
        ask_if_unfinished(builds, rules)
    if count := return_builds(session, builds, rules, teacher_id=user.id, batch=batch):
        _log(session, user, "cards-returned", assignment, count=count)
    address = request.url_for("class_table", class_id=assignment.class_id).include_query_params(returned=batch)
    return RedirectResponse(address, status_code=303)


@router.post("/checks/{check_id}/withdraw", name="withdraw", dependencies=[CheckedForm])
def withdraw(
    request: Request,
    check_id: str,
    assignment: OwnAssignment,
    user: Teacher,
    session: DbSession,
    reason: Annotated[str, Form(max_length=500)] = "",
    back: Annotated[bool, Form()] = False,
    sure: Annotated[bool, Form()] = False,
) -> Response:
    """Let a check count for nobody in the class, or count again; students with returned marks are told."""
    version = exercise_queries.version(session, assignment.version_id)
    _unused, prepared = read_version(version)
    check = next((check for check in prepared.checks if check.id == check_id), None)
    if check is None:
        raise NotFound(_("check"), _("the exercise has no such check"), _("Open its page again"))
    if not back and not reason.strip():
        raise FormRejected(_("reason"), _("a check is not withdrawn without one"), _("Write a few words"), "reason")
    of_check: dict[str, Any] = {"class_id": assignment.class_id, "exercise": version.exercise, "check_id": check_id}
    with _returned_marks(session, assignment, sure=sure):
        if back:
            marking_queries.reinstate(session, **of_check)
        else:
            marking_queries.withdraw(session, **of_check, reason=reason.strip(), teacher_id=user.id)
    _log(session, user, "check-reinstated" if back else "check-withdrawn", assignment, check=check.title)
    return _back(request, assignment)


@router.post("/try", name="try_version", dependencies=[CheckedForm])
def try_version(
    request: Request,
    assignment: OwnAssignment,
    user: Teacher,
    session: DbSession,
    other: FormId = 0,
) -> Response:
    """Mark all builds anew by another version of the exercise, to see what would change."""
    version = exercise_queries.version(session, assignment.version_id)
    if other not in [known_version.id for known_version in exercise_queries.versions_of(session, version.exercise)]:
        raise NotFound(_("version"), _("the exercise has no such version"), _("Choose one from the list"))
    builds = [
        build.id for build in build_queries.builds_of_exercise(session, assignment.class_id, version.id) if build.runs
    ]
    marking_queries.drop_trials(session, builds)
    for build_id in builds:
        enqueue.try_version(session, request.app.state.queue, build_id=build_id, version_id=other)
    _log(session, user, "version-tried", assignment)
    return _back(request, assignment)


@router.post("/apply", name="apply_trials", dependencies=[CheckedForm])
def apply_trials(
    request: Request,
    assignment: OwnAssignment,
    user: Teacher,
    session: DbSession,
    do: Annotated[Literal["apply", "drop"], Form()] = "drop",
) -> Response:
    """Let the new marks count and tell those whose returned card changed; or forget them."""
    version = exercise_queries.version(session, assignment.version_id)
    classroom, _role = class_queries.class_of_teacher(session, assignment.class_id, user.id)
    worked_on = build_queries.builds_of_exercise(session, classroom.id, version.id)
    trials = _trials(worked_on, version, rules_of_class(session, classroom.id))
    builds = [trial.build.id for trial in trials]
    if do == "drop":
        marking_queries.drop_trials(session, builds)
        return _back(request, assignment)
    marking_queries.apply_trials(session, builds)
    for trial in trials:
        if trial.build.returns and abs(trial.after - trial.before) > 1e-9:
            text = _(
                "Your marks for {title} have changed from {before:g} to {after:g}: re-marked.",
                title=version.title,
                before=trial.before,
                after=trial.after,
            )
            owners = marking_queries.students_of(session, trial.build)
            notice_queries.notify(session, owners, text, kind="changed", build_id=trial.build.id)
    _log(session, user, "marks-applied", assignment, count=len(builds))
    return _back(request, assignment)


def _log(session: Session, user: Person, action: str, assignment: Assignment, **about: Any) -> None:
    title = exercise_queries.version(session, assignment.version_id).title
    log(session, action, who_id=user.id, class_id=assignment.class_id, title=title, **about)


def _back(request: Request, assignment: Assignment) -> Response:
    address = request.url_for("assignment", class_id=assignment.class_id, version_id=assignment.version_id)
    return RedirectResponse(address, status_code=303)
