"""How a class works on one exercise: due, shown, late, returned; single students; checks withdrawn; marked anew."""

from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Literal
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from rigid_bench.core.errors import FormRejected, NotFound
from rigid_bench.core.grading.report import Report
from rigid_bench.jobs import tasks
from rigid_bench.store import class_queries, marking_queries, queries
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.returning import ready_to_return, return_ready
from rigid_bench.store.rules import rules_of_class
from rigid_bench.store.standing import standing, tally
from rigid_bench.store.tables import Assignment, Build, Classroom, ExerciseVersion
from rigid_bench.web.access import CheckedForm, DbSession, Id, OwnAssignment, OwnClass, OwnStudent, Teacher
from rigid_bench.web.pages.sheet import read_version
from rigid_bench.web.render import page

router = APIRouter(prefix="/classes/{class_id}/exercises/{version_id}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """What marking anew would change for one student."""

    build: Build
    before: float
    after: float
    #: Titles of checks whose marks would change.
    checks: list[str]


@router.get("", name="assignment")
def assignment(
    request: Request, class_id: Id, classroom: OwnClass, found: OwnAssignment, session: DbSession
) -> Response:
    """Show how the class works on the exercise."""
    version = queries.version(session, found.version_id)
    _, prepared = read_version(version)
    students = queries.students_of_class(session, class_id)
    terms = class_queries.terms_of_class(session, class_id)
    trials, waiting = _trials(session, classroom, version)
    return page(
        request,
        "assignment.html",
        classroom=classroom,
        version=version,
        assignment=found,
        zone=ClassSettings.model_validate(classroom.settings).zone,
        people=[(each, terms.get((each.id, version.id))) for each in students],
        names={each.id: each.name for each in students},
        withdrawn=marking_queries.withdrawn_of_class(session, class_id).get(version.exercise, {}),
        checks=prepared.checks,
        versions=[each for each in queries.versions_of(session, version.exercise) if each.id != version.id],
        trials=trials,
        waiting=waiting,
        ready=len(ready_to_return(session, class_id, version.id)),
    )


def _trials(session: Session, classroom: Classroom, version: ExerciseVersion) -> tuple[list[Trial], int]:
    """Compare trial runs with what counts now; and count those that are still being made."""
    rules, found, waiting = rules_of_class(session, classroom.id), [], 0
    for build in queries.builds_of_exercise(session, classroom.id, version.id):
        runs = [run for run in build.runs if run.is_trial]
        if not runs:
            waiting += build.progress.startswith(tasks.TRYING)
            continue
        own = rules.of(version, build.student_id)
        now = standing(build)
        then = standing(build, report=Report.model_validate(runs[-1].report))
        titles = {each.id: each.title for each in then.checks or ()}
        was = {each.id: now.given(each) for each in now.checks or ()}
        changed = [
            titles[each.id] for each in then.checks or () if abs(was.get(each.id, 0.0) - then.given(each)) > 1e-9
        ]
        found.append(Trial(build=build, before=tally(now, own)[0], after=tally(then, own)[0], checks=changed))
    return found, waiting


@router.post("/terms", name="change_assignment", dependencies=[CheckedForm])
def change_assignment(
    request: Request,
    classroom: OwnClass,
    found: OwnAssignment,
    user: Teacher,
    session: DbSession,
    due_at: Annotated[str, Form(max_length=40)] = "",
    return_at: Annotated[str, Form(max_length=40)] = "",
    shows: Annotated[Literal["full", "verdicts", "nothing"], Form()] = "full",
    attempts: Annotated[str, Form(max_length=10)] = "",
    late: Annotated[Literal["taken", "minus", "refused"], Form()] = "taken",
    late_percent: Annotated[str, Form(max_length=10)] = "",
) -> Response:
    """Keep when it is due, what is shown before, and what happens to late builds."""
    zone = ClassSettings.model_validate(classroom.settings).zone
    found.due_at, found.return_at = _moment(due_at, zone), _moment(return_at, zone)
    found.shows, found.late = shows, late
    found.attempts = int(_number("attempts", attempts, 1, 1000)) if attempts.strip() else None
    found.late_percent = _number("percent off", late_percent, 0, 100) if late_percent.strip() else 0.0
    _log(session, user.name, "changed the terms of", found)
    return _back(request, found)


def _moment(text: str, zone: ZoneInfo) -> datetime | None:
    if not text.strip():
        return None
    try:
        return datetime.fromisoformat(text.strip()).replace(tzinfo=zone)
    except ValueError as exc:
        raise FormRejected("time", f"'{text}' is no time", "Give one such as 2026-03-14T12:00") from exc


def _number(where: str, text: str, low: float, high: float) -> float:
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = low - 1
    if not low <= value <= high:
        raise FormRejected(where, f"'{text}' is not from {low:g} to {high:g}", "Go back and type such a number")
    return value


@router.post("/students/{student_id}", name="agree", dependencies=[CheckedForm])
def agree(
    request: Request,
    classroom: OwnClass,
    student: OwnStudent,
    found: OwnAssignment,
    user: Teacher,
    session: DbSession,
    due_at: Annotated[str, Form(max_length=40)] = "",
    is_absent: Annotated[bool, Form()] = False,
    partner: Annotated[str, Form(max_length=20)] = "",
) -> Response:
    """Keep more time, absence or a partner for one student."""
    partner_id = int(partner) if partner.isdigit() else None
    if partner_id is not None:
        class_queries.student_of_class(session, classroom.id, partner_id)
        if partner_id == student.id:
            raise FormRejected("partner", "nobody is their own partner", "Choose another student")
    class_queries.agree(
        session,
        class_id=classroom.id,
        version_id=found.version_id,
        student_id=student.id,
        due_at=_moment(due_at, ClassSettings.model_validate(classroom.settings).zone),
        is_absent=is_absent,
        partner_id=partner_id,
    )
    _log(session, user.name, f"changed what is agreed with {student.name} for", found)
    return _back(request, found)


@router.post("/return", name="return_all", dependencies=[CheckedForm])
def return_all(request: Request, found: OwnAssignment, user: Teacher, session: DbSession) -> Response:
    """Return all cards that are ready."""
    count = return_ready(session, found, teacher_id=user.id)
    _log(session, user.name, f"returned {count} cards of", found)
    return RedirectResponse(request.url_for("class_table", class_id=found.class_id), status_code=303)


@router.post("/checks/{check_id}/withdraw", name="withdraw", dependencies=[CheckedForm])
def withdraw(
    request: Request,
    check_id: str,
    found: OwnAssignment,
    user: Teacher,
    session: DbSession,
    reason: Annotated[str, Form(max_length=500)] = "",
    back: Annotated[bool, Form()] = False,
) -> Response:
    """Let a check count for nobody in the class, or count again; returned students are told."""
    version = queries.version(session, found.version_id)
    _, prepared = read_version(version)
    check = next((each for each in prepared.checks if each.id == check_id), None)
    if check is None:
        raise NotFound("check", "the exercise has no such check", "Open its page again")
    if not back and not reason.strip():
        raise FormRejected("reason", "a check is not withdrawn without one", "Go back and write a few words")
    if back:
        marking_queries.reinstate(session, class_id=found.class_id, exercise=version.exercise, check_id=check_id)
    else:
        marking_queries.withdraw(
            session,
            class_id=found.class_id,
            exercise=version.exercise,
            check_id=check_id,
            reason=reason.strip(),
            teacher_id=user.id,
        )
    words = "counts again" if back else "counts for nobody any more"
    returned = [each for each in queries.builds_of_exercise(session, found.class_id, version.id) if each.returns]
    for build in returned:
        text = f"“{check.title}” of {version.title} {words}: your marks may have changed."
        class_queries.notify(session, marking_queries.students_of(session, build), text, build_id=build.id)
    _log(session, user.name, "let count again" if back else f"withdrew “{check.title}” of", found)
    return _back(request, found)


@router.post("/try", name="try_version", dependencies=[CheckedForm])
def try_version(
    request: Request,
    found: OwnAssignment,
    user: Teacher,
    session: DbSession,
    other: Annotated[int, Form()] = 0,
) -> Response:
    """Mark all builds anew by another version of the exercise, to see what would change."""
    version = queries.version(session, found.version_id)
    if other not in [each.id for each in queries.versions_of(session, version.exercise)]:
        raise NotFound("version", "the exercise has no such version", "Choose one from the list")
    builds = [each.id for each in queries.builds_of_exercise(session, found.class_id, version.id) if each.runs]
    marking_queries.drop_trials(session, builds)
    for build_id in builds:
        tasks.try_version(session, request.app.state.queue, build_id=build_id, version_id=other)
    _log(session, user.name, "tried another version on", found)
    return _back(request, found)


@router.post("/apply", name="apply_trials", dependencies=[CheckedForm])
def apply_trials(
    request: Request,
    found: OwnAssignment,
    user: Teacher,
    session: DbSession,
    do: Annotated[Literal["apply", "drop"], Form()] = "drop",
) -> Response:
    """Let the new marks count and tell those whose returned card changed; or forget them."""
    version = queries.version(session, found.version_id)
    classroom = queries.class_of_teacher(session, found.class_id, user.id)
    trials, _ = _trials(session, classroom, version)
    builds = [each.build.id for each in trials]
    if do == "drop":
        marking_queries.drop_trials(session, builds)
        return _back(request, found)
    marking_queries.apply_trials(session, builds)
    for each in trials:
        if each.build.returns and abs(each.after - each.before) > 1e-9:
            text = f"Your marks for {version.title} have changed from {each.before:g} to {each.after:g}: marked anew."
            owners = marking_queries.students_of(session, each.build)
            class_queries.notify(session, owners, text, build_id=each.build.id)
    _log(session, user.name, f"applied new marks to {len(builds)} builds of", found)
    return _back(request, found)


def _log(session: Session, who: str, action: str, found: Assignment) -> None:
    title = queries.version(session, found.version_id).title
    class_queries.log(session, who=who, action=action, subject=title, class_id=found.class_id)


def _back(request: Request, found: Assignment) -> Response:
    address = request.url_for("assignment", class_id=found.class_id, version_id=found.version_id)
    return RedirectResponse(address, status_code=303)
