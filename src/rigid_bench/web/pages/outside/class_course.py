"""The courses that a class is: their people, and the marks that were sent there."""

from fastapi import Request
from fastapi.responses import RedirectResponse, Response

from rigid_bench.app.people import courses as attending
from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.jobs.course_service import learners, registration_of
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.outside import courses, sent_marks
from rigid_bench.store.outside.accounts import OutsidePerson
from rigid_bench.store.queries import class_queries
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, Id, TaughtClass, Teacher

router = page_router(prefix="/classes/{class_id}/courses")


@router.get("", name="class_courses")
def class_courses(request: Request, classroom: TaughtClass, session: DbSession) -> Response:
    """Show what was sent, and what a platform did not take."""
    students = {student.id: student for student in class_queries.students_of_class(session, classroom.id)}
    courses_of_class = courses.courses_of_class(session, classroom.id)
    titles = {choice.exercise: choice.title for choice in courses.choosable(session, [classroom.id])}
    return page(
        request, "class_courses.html", classroom=classroom, settings=ClassSettings.model_validate(classroom.settings),
        courses=[(course, sent_marks.sent_marks(session, course.id)) for course in courses_of_class], students=students,
        titles=titles,
    )  # fmt: skip


@router.post("/{course_id}/people", name="take_course_people", dependencies=[CheckedForm])
def take_course_people(
    request: Request, course_id: Id, classroom: TaughtClass, user: Teacher, session: DbSession
) -> Response:
    """Put everybody who learns in a course into the class; who is new gets an account, and nobody is taken out."""
    course = courses.course_of_class(session, course_id, classroom.id)
    if not course.members_url:
        raise NotFound(
            _("course"), _("the platform does not say who is in it"),
            _("Let an administrator allow that there, then open a link of the course once"),
        )  # fmt: skip
    people = [
        OutsidePerson(
            issuer=course.platform.issuer,
            subject=member.subject,
            name=member.name,
            role="student",
            sourced_id=member.sourced_id,
        )
        for member in learners(registration_of(session, course.platform), course.members_url)
    ]
    attending.take_people(session, classroom, course, people, teacher=user)
    return RedirectResponse(request.url_for("class_courses", class_id=classroom.id), status_code=303)


@router.post("/{course_id}/again", name="send_marks_again", dependencies=[CheckedForm])
def send_marks_again(request: Request, course_id: Id, classroom: TaughtClass, session: DbSession) -> Response:
    """Have what a platform did not take sent again at once."""
    attending.send_marks_again(session, courses.course_of_class(session, course_id, classroom.id))
    return RedirectResponse(request.url_for("class_courses", class_id=classroom.id), status_code=303)


@router.post("/{course_id}/end", name="end_course", dependencies=[CheckedForm])
def end_course(request: Request, course_id: Id, classroom: TaughtClass, user: Teacher, session: DbSession) -> Response:
    """Let a course be the class no more."""
    course = courses.course_of_class(session, course_id, classroom.id)
    attending.leave_course(session, classroom, course, teacher=user)
    return RedirectResponse(request.url_for("class_courses", class_id=classroom.id), status_code=303)
