"""The room: in a lesson, where to go next. Raised hands, longest first; then checks missed three times in a row."""

from dataclasses import dataclass
from datetime import datetime

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from rigid_bench.app.classes import classes
from rigid_bench.core.insight.stuck import stuck
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.queries import class_queries, insight_queries, marking_queries
from rigid_bench.store.standing import newest_report
from rigid_bench.store.tables import Build
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, Id, OwnClass, Teacher

router = page_router("/classes/{class_id}/room")


@dataclass(frozen=True, slots=True, kw_only=True)
class Seat:
    """A student to go to, and why."""

    student_id: int
    name: str
    check: str
    exercise: str
    build_id: int
    #: Since when a hand is up; None for one who is stuck without asking.
    since: datetime | None
    times: int = 0


@router.get("", name="room")
def room(request: Request, classroom: OwnClass, session: DbSession) -> Response:
    """Show where to go next; asked by htmx, the list alone."""
    seats = _hands(session, classroom.id) + _stuck(session, classroom.id)
    name = "_room_list.html" if "hx-request" in request.headers else "room.html"
    settings = ClassSettings.model_validate(classroom.settings)
    return page(request, name, classroom=classroom, seats=seats, settings=settings)


def _hands(session: Session, class_id: int) -> list[Seat]:
    seats = []
    for hand in marking_queries.hands_up(session, class_id):
        build = session.get_one(Build, hand.build_id)
        report = newest_report(build)
        titles = {check.id: check.title for check in report.checks} if report else {}
        seats.append(
            Seat(
                student_id=hand.student_id,
                name=hand.student.name,
                check=titles.get(hand.check_id, hand.check_id),
                exercise=build.version.title,
                build_id=build.id,
                since=hand.raised_at,
            )
        )
    return seats


def _stuck(session: Session, class_id: int) -> list[Seat]:
    """List who is stuck without asking; the deepest stuck first."""
    students = {student.id: student.name for student in class_queries.students_of_class(session, class_id)}
    return [
        Seat(
            student_id=own.student_id,
            name=students[own.student_id],
            check=own.check,
            exercise=own.title,
            build_id=own.build_id,
            since=None,
            times=own.times,
        )
        for own in stuck(insight_queries.attempts_of_class(session, class_id))
        if own.student_id in students
    ]


@router.post("/{student_id}/seen", name="lower_hand", dependencies=[CheckedForm])
def lower_hand(request: Request, classroom: OwnClass, student_id: Id, user: Teacher, session: DbSession) -> Response:
    """Lower a student's hand: the teacher was there."""
    student = class_queries.student_of_class(session, classroom.id, student_id)
    classes.lower_hand(session, classroom, student, teacher=user)
    return RedirectResponse(request.url_for("room", class_id=classroom.id), status_code=303)
