"""How a class works on one exercise: due, shown, late, returned; single students; checks withdrawn; re-marked."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal
from zoneinfo import ZoneInfo

from fastapi import Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import Field
from sqlalchemy.orm import Session

from rigid_bench.app.builds import return_cards
from rigid_bench.app.classes import assign
from rigid_bench.core.values.errors import FormRejected, NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.jobs.enqueue import TRY
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.queries import build_queries, class_queries, exercise_queries, group_queries, work_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.rules import rules_of_class
from rigid_bench.store.tables import Assignment, Classroom, GroupMembership, Terms, User
from rigid_bench.web.forms import FormId, FormModel, IdField, moment_or_none, number_between, whole_between
from rigid_bench.web.pages.exercises.sheet import read_version
from rigid_bench.web.paging import PAGE, Pages
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, Id, OwnAssignment, OwnStudent, TaughtClass, Teacher

router = page_router("/classes/{class_id}/exercises/{version_id}")


class TermsForm(FormModel):
    """When it is due and returned, what is shown before, and what happens to late builds, as typed."""

    due_at: str = Field(default="", max_length=40)
    return_at: str = Field(default="", max_length=40)
    shows: Literal["full", "verdicts", "nothing"] = "full"
    attempts: str = Field(default="", max_length=10)
    late: Literal["taken", "minus", "refused"] = "taken"
    late_percent: str = Field(default="", max_length=10)
    sure: bool = False

    def terms(self, zone: ZoneInfo) -> assign.ExerciseTerms:
        """Read what was typed, by a class's clock."""
        attempts, percent = self.attempts.strip(), self.late_percent.strip()
        return assign.ExerciseTerms(
            due_at=moment_or_none(self.due_at, zone, field="due_at"),
            return_at=moment_or_none(self.return_at, zone, field="return_at"),
            shows=self.shows,
            attempts=whole_between(attempts, 1, 1000, where=_("hand-ins at most"), field="attempts")
            if attempts
            else None,
            late=self.late,
            late_percent=number_between(percent, 0, 100, where=_("percent off"), field="late_percent")
            if percent
            else 0.0,
        )


class AgreedForm(FormModel):
    """More time or absence, as typed."""

    due_at: str = Field(default="", max_length=40)
    is_absent: bool = False
    sure: bool = False


class AgreedWithManyForm(AgreedForm):
    """More time or absence for those who are ticked."""

    students: list[IdField] = []


class GroupForm(FormModel):
    """Who is to work as a group, or alone again."""

    students: list[IdField] = []
    do: Literal["group", "end"] = "group"
    sure: bool = False


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
        trials=assign.trials_of(builds, version, rules),
        waiting=work_queries.count_waiting(session, TRY, [build.id for build in builds]),
        ready=sum(map(return_cards.is_ready, builds)),
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


@router.post("/terms", name="change_assignment", dependencies=[CheckedForm])
def change_assignment(
    request: Request,
    classroom: TaughtClass,
    assignment: OwnAssignment,
    user: Teacher,
    session: DbSession,
    form: Annotated[TermsForm, Form()],
) -> Response:
    """Keep when it is due, what is shown before, and what happens to late builds."""
    terms = form.terms(ClassSettings.model_validate(classroom.settings).zone)
    assign.change_terms(session, assignment, terms, teacher=user, is_sure=form.sure)
    return _back(request, assignment)


@router.post("/students/{student_id}", name="agree", dependencies=[CheckedForm])
def agree(
    request: Request,
    classroom: TaughtClass,
    student: OwnStudent,
    assignment: OwnAssignment,
    user: Teacher,
    session: DbSession,
    form: Annotated[AgreedForm, Form()],
) -> Response:
    """Keep more time or absence for one student."""
    _agree(session, classroom, assignment, user, [student.id], form)
    return _back(request, assignment)


@router.post("/students", name="agree_with_many", dependencies=[CheckedForm])
def agree_with_many(
    request: Request,
    classroom: TaughtClass,
    assignment: OwnAssignment,
    user: Teacher,
    session: DbSession,
    form: Annotated[AgreedWithManyForm, Form()],
) -> Response:
    """Keep more time or absence for several students; who works with whom stays as it was."""
    _agree(session, classroom, assignment, user, _meant(session, classroom, form.students), form)
    return _back(request, assignment)


def _agree(
    session: Session,
    classroom: Classroom,
    assignment: Assignment,
    user: Person,
    students: Sequence[int],
    form: AgreedForm,
) -> None:
    zone = ClassSettings.model_validate(classroom.settings).zone
    due_at = moment_or_none(form.due_at, zone, field="due_at")
    assign.agree(
        session, assignment, students, due_at=due_at, is_absent=form.is_absent, teacher=user, is_sure=form.sure
    )


@router.post("/groups", name="keep_group", dependencies=[CheckedForm])
def keep_group(
    request: Request,
    classroom: TaughtClass,
    assignment: OwnAssignment,
    user: Teacher,
    session: DbSession,
    form: Annotated[GroupForm, Form()],
) -> Response:
    """Let students work as one group, or each alone again; marks that this changes are shown first."""
    meant = _meant(session, classroom, form.students)
    if form.do == "group" and len(meant) < 2:
        raise FormRejected(
            _("group"), _("a group has two students at least"), _("Tick all who work together"), "students"
        )
    groups = [meant] if form.do == "group" else [[student_id] for student_id in meant]
    assign.change_groups(session, assignment, groups, teacher=user, is_sure=form.sure)
    return _back(request, assignment)


@router.post("/groups/as", name="copy_groups", dependencies=[CheckedForm])
def copy_groups(
    request: Request,
    classroom: TaughtClass,
    assignment: OwnAssignment,
    user: Teacher,
    session: DbSession,
    other: FormId = 0,
    sure: Annotated[bool, Form()] = False,
) -> Response:
    """Let students work in the groups that they are in for another exercise."""
    assign.copy_groups(session, assignment, other, teacher=user, is_sure=sure)
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
    batch = return_cards.return_all(session, assignment, teacher=user, is_sure=sure)
    address = request.url_for("class_table", class_id=assignment.class_id).include_query_params(returned=batch)
    return RedirectResponse(address, status_code=303)


class WithdrawalForm(FormModel):
    """Why a check is withdrawn, or that it counts again."""

    reason: Annotated[str, Field(max_length=500)] = ""
    back: bool = False
    sure: bool = False


@router.post("/checks/{check_id}/withdraw", name="withdraw", dependencies=[CheckedForm])
def withdraw(
    request: Request,
    check_id: str,
    assignment: OwnAssignment,
    user: Teacher,
    session: DbSession,
    form: Annotated[WithdrawalForm, Form()],
) -> Response:
    """Let a check count for nobody in the class, or count again; students with returned marks are told."""
    _unused, prepared = read_version(exercise_queries.version(session, assignment.version_id))
    title = next((check.title for check in prepared.checks if check.id == check_id), None)
    if title is None:
        raise NotFound(_("check"), _("the exercise has no such check"), _("Open its page again"))
    if form.back:
        assign.reinstate_check(session, assignment, check_id, title=title, teacher=user, is_sure=form.sure)
    else:
        assign.withdraw_check(
            session, assignment, check_id, title=title, reason=form.reason, teacher=user, is_sure=form.sure
        )
    return _back(request, assignment)


@router.post("/try", name="try_version", dependencies=[CheckedForm])
def try_version(
    request: Request, assignment: OwnAssignment, user: Teacher, session: DbSession, other: FormId = 0
) -> Response:
    """Mark all builds anew by another version of the exercise, to see what would change."""
    assign.try_version(session, request.app.state.queue, assignment, other, teacher=user)
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
    if do == "drop":
        assign.drop_trials(session, assignment)
    else:
        assign.apply_trials(session, assignment, teacher=user)
    return _back(request, assignment)


def _back(request: Request, assignment: Assignment) -> Response:
    address = request.url_for("assignment", class_id=assignment.class_id, version_id=assignment.version_id)
    return RedirectResponse(address, status_code=303)
