"""A class's people and settings: students, its code, teachers who share it, what is its own."""

from typing import Annotated, Any, Literal
from zoneinfo import available_timezones

from fastapi import Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import Field, ValidationError

from rigid_bench.app.classes import classes
from rigid_bench.app.people import people as accounts
from rigid_bench.app.people.account_fields import check_name
from rigid_bench.core.formats.documents import document_error
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.names import slug
from rigid_bench.core.wording.language import _
from rigid_bench.store.class_settings import LANGUAGES, ClassSettings
from rigid_bench.store.outside import courses
from rigid_bench.store.queries import account_queries, class_queries
from rigid_bench.store.tables import Classroom, User
from rigid_bench.web.forms import FormModel
from rigid_bench.web.paging import PAGE, Pages
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import (
    CheckedForm,
    DbSession,
    Id,
    OwnClass,
    OwnStudent,
    SentOnce,
    StudentWithWork,
    TaughtClass,
    Teacher,
)

router = page_router()
of_class = page_router("/classes/{class_id}")


@router.post("/classes", name="add_class", dependencies=[CheckedForm, SentOnce])
def add_class(
    request: Request,
    user: Teacher,
    session: DbSession,
    name: Annotated[str, Form(max_length=200)] = "",
    time_zone: Annotated[str, Form(max_length=100)] = "",
) -> Response:
    """Make a class; it takes the time zone of the teacher's browser."""
    settings = ClassSettings(time_zone=time_zone if time_zone in available_timezones() else "UTC")
    classroom = classes.make_class(session, check_name(name), teacher=user, settings=settings)
    return RedirectResponse(request.url_for("people", class_id=classroom.id), status_code=303)


@of_class.get("/people")
def people(
    request: Request,
    classroom: TaughtClass,
    user: Teacher,
    session: DbSession,
    q: Annotated[str, Query(max_length=100)] = "",
    at: Annotated[int, Query(ge=1, le=10_000)] = 1,
) -> Response:
    """Show the class's people, a page of those whom the words find, and its settings."""
    students = class_queries.students_of_class(session, classroom.id)
    users = [student for student in students if _is_meant(student, q)]
    return page(
        request,
        "people.html",
        classroom=classroom,
        count=len(students),
        pages=Pages(at=at, count=len(users)),
        students=[
            (known_user, account_queries.may_manage(user, known_user))
            for known_user in users[(at - 1) * PAGE : at * PAGE]
        ],
        q=q,
        former=class_queries.former_students(session, classroom.id),
        teachers=class_queries.teachers_of_class(session, classroom.id),
        settings=ClassSettings.model_validate(classroom.settings),
        languages=LANGUAGES,
        has_courses=bool(courses.courses_of_class(session, classroom.id)),
        join_address=str(request.url_for("join").include_query_params(code=classroom.code)),
    )


def _is_meant(student: User, words: str) -> bool:
    return all(word in f"{student.name} {student.login}".casefold() for word in words.casefold().split())


@of_class.post("/students/{student_id}/leave", name="remove_student", dependencies=[CheckedForm])
def remove_student(
    request: Request, classroom: TaughtClass, student: OwnStudent, user: Teacher, session: DbSession
) -> Response:
    """Take a student out of the class; the builds are kept."""
    accounts.remove_student(session, classroom, student, teacher=user)
    return _back(request, classroom)


@of_class.post("/students/{student_id}/back", name="put_back", dependencies=[CheckedForm])
def put_back(
    request: Request, classroom: TaughtClass, student: StudentWithWork, user: Teacher, session: DbSession
) -> Response:
    """Put a student who left the class, and whose work is still there, back into it."""
    accounts.put_back(session, classroom, student, teacher=user)
    return _back(request, classroom)


@of_class.post("/students/{student_id}/erase", name="erase_work", dependencies=[CheckedForm])
def erase_work(
    request: Request,
    classroom: TaughtClass,
    student: StudentWithWork,
    user: Teacher,
    session: DbSession,
    sure: Annotated[str, Form(max_length=200)] = "",
) -> Response:
    """Erase what a student did in this class, once the sign-in name is typed; the account is not the class's."""
    accounts.erase_work(session, classroom, student, teacher=user, typed=sure)
    return _back(request, classroom)


@of_class.get("/students/{student_id}/record.zip", name="record")
def record(classroom: TaughtClass, student: StudentWithWork, user: Teacher, session: DbSession) -> Response:
    """Give a student's whole record in this class: files, cards, marks and comments."""
    content = accounts.take_record(session, classroom, student, teacher=user)
    headers = {"Content-Disposition": f'attachment; filename="{slug(student.name)}-record.zip"'}
    return Response(content, media_type="application/zip", headers=headers)


@of_class.post("/teachers", name="share_class", dependencies=[CheckedForm])
def share_class(
    request: Request,
    classroom: TaughtClass,
    user: Teacher,
    session: DbSession,
    login: Annotated[str, Form(max_length=200)] = "",
    role: Annotated[Literal["teacher", "assistant"], Form()] = "teacher",
) -> Response:
    """Let another teacher share the class, or mark and help in it."""
    classes.share_class(session, classroom, login, role=role, teacher=user)
    return _back(request, classroom)


@of_class.post("/teachers/{user_id}/end", name="unshare_class", dependencies=[CheckedForm])
def unshare_class(request: Request, user_id: Id, classroom: OwnClass, user: Teacher, session: DbSession) -> Response:
    """End a share: the owner anybody's, all others their own."""
    classes.unshare_class(session, classroom, user_id, teacher=user)
    if user.id == user_id:
        return RedirectResponse(request.url_for("class_list"), status_code=303)
    return _back(request, classroom)


@of_class.post("/code", name="change_code", dependencies=[CheckedForm])
def change_code(request: Request, classroom: TaughtClass, user: Teacher, session: DbSession) -> Response:
    """Give the class a new code."""
    classes.change_code(session, classroom, teacher=user)
    return _back(request, classroom)


class ClassForm(FormModel):
    """A class's name and what it has of its own, as typed."""

    name: str = Field(default="", max_length=200)
    mate_word: str = Field(default="mate", max_length=100)
    time_zone: str = Field(default="UTC", max_length=100)
    decimal: str = Field(default="point", max_length=10)
    grades: str = Field(default="", max_length=2000)
    language: str = Field(default="en", max_length=10)

    def settings(self, before: ClassSettings) -> ClassSettings:
        """Read the settings; those that are not typed here stay as they were."""
        typed = {
            "mate_word": self.mate_word.strip(),
            "time_zone": self.time_zone.strip(),
            "decimal": self.decimal,
            "grades": _grades(self.grades),
            "language": self.language,
            "rates": before.rates,
        }
        try:
            return ClassSettings.model_validate(typed)
        except ValidationError as exc:
            error = document_error("settings", exc)
            raise FormRejected(error.where, error.problem, _("Mend it"), str(exc.errors()[0]["loc"][0])) from exc


@of_class.post("/settings", name="change_class", dependencies=[CheckedForm])
def change_class(
    request: Request,
    classroom: TaughtClass,
    user: Teacher,
    session: DbSession,
    form: Annotated[ClassForm, Form()],
) -> Response:
    """Keep the class's name and what it has of its own."""
    settings = form.settings(ClassSettings.model_validate(classroom.settings))
    classes.change_settings(session, classroom, name=check_name(form.name), settings=settings, teacher=user)
    return _back(request, classroom)


def _grades(text: str) -> list[dict[str, Any]]:
    """Read grades, a line each: name, then the least percentage, such as "A 80"."""
    grades = []
    for line in filter(None, (line.strip() for line in text.splitlines())):
        name, _unused, least = line.replace(",", ".").rpartition(" ")
        try:
            grades.append({"name": name.strip(" :"), "at_least": float(least.strip("% "))})
        except ValueError as exc:
            next_step = _("Write a name and a percentage, such as: A 80")
            raise FormRejected(_("grades"), _("'{line}' is no grade", line=line), next_step, "grades") from exc
    return grades


def _back(request: Request, classroom: Classroom) -> Response:
    return RedirectResponse(request.url_for("people", class_id=classroom.id), status_code=303)


router.include_router(of_class)
