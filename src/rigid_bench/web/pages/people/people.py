"""A class's people and settings: students, its code, teachers who share it, what is its own."""

import io
import json
import zipfile
from typing import Annotated, Any, Literal
from zoneinfo import available_timezones

from fastapi import Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError

from rigid_bench.core.formats.documents import document_error
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.names import slug
from rigid_bench.core.wording.language import _
from rigid_bench.store.class_settings import LANGUAGES, ClassSettings
from rigid_bench.store.log import log
from rigid_bench.store.outside import courses
from rigid_bench.store.queries import account_queries, class_queries, people_queries
from rigid_bench.store.tables import Build, Classroom, User
from rigid_bench.web.paging import PAGE, Pages
from rigid_bench.web.people import check_name
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
    teacher = people_queries.user_by_id(session, user.id)
    settings = ClassSettings(time_zone=time_zone if time_zone in available_timezones() else "UTC")
    classroom = class_queries.add_class(session, name=check_name(name), teacher=teacher, settings=settings)
    log(session, "class-made", who_id=user.id, class_id=classroom.id)
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
    class_queries.leave(session, classroom.id, student.id)
    log(session, "student-removed", who_id=user.id, class_id=classroom.id, person_id=student.id)
    return _back(request, classroom)


@of_class.post("/students/{student_id}/back", name="put_back", dependencies=[CheckedForm])
def put_back(
    request: Request, classroom: TaughtClass, student: StudentWithWork, user: Teacher, session: DbSession
) -> Response:
    """Put a student who left the class, and whose work is still there, back into it."""
    if class_queries.join(session, classroom.id, student.id):
        log(session, "student-put-back", who_id=user.id, class_id=classroom.id, person_id=student.id)
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
    if sure.strip().lower() != student.login:
        next_step = _(
            "Type '{login}' to erase the work of {name} in this class for good", login=student.login, name=student.name
        )
        raise FormRejected(_("erasing"), _("nothing was erased"), next_step, "sure")
    account_queries.erase_work(session, classroom.id, student.id)
    log(session, "work-erased", who_id=user.id, class_id=classroom.id, person_id=student.id)
    return _back(request, classroom)


@of_class.get("/students/{student_id}/record.zip", name="record")
def record(classroom: TaughtClass, student: StudentWithWork, user: Teacher, session: DbSession) -> Response:
    """Give a student's whole record in this class: files, cards, marks and comments."""
    builds = class_queries.record_of_student(session, student.id, [classroom.id])
    log(session, "record-taken", who_id=user.id, class_id=classroom.id, person_id=student.id)
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        about = {"name": student.name, "sign_in": student.login, "class": classroom.name}
        archive.writestr("student.json", json.dumps(about, indent=1, ensure_ascii=False))
        for build in builds:
            for file in build.files:
                archive.writestr(f"build-{build.id}/{file.name}", file.content)
            archive.writestr(f"build-{build.id}/card.json", json.dumps(_facts(build), indent=1, ensure_ascii=False))
    headers = {"Content-Disposition": f'attachment; filename="{slug(student.name)}-record.zip"'}
    return Response(packed.getvalue(), media_type="application/zip", headers=headers)


def _facts(build: Build) -> dict[str, Any]:
    return {
        "handed_in": build.handed_in_at.isoformat(),
        "state": build.state,
        "reports": [run.report for run in build.runs],
        "changed": [
            {
                "check": override.check_id,
                "marks": override.marks,
                "comment": override.comment,
                "at": override.made_at.isoformat(),
            }
            for override in build.overrides
            if override.undone_at is None
        ],
        "returned": [returned.returned_at.isoformat() for returned in build.returns],
        "questions": [
            {"check": question.check_id, "text": question.text, "answer": question.answer}
            for question in build.questions
        ],
    }


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
    colleague = account_queries.teacher_by_login(session, login)
    class_queries.share_class(session, classroom.id, colleague.id, role=role)
    log(session, "class-shared", who_id=user.id, class_id=classroom.id, person_id=colleague.id, role=role)
    return _back(request, classroom)


@of_class.post("/teachers/{user_id}/end", name="unshare_class", dependencies=[CheckedForm])
def unshare_class(
    request: Request, class_id: Id, user_id: Id, classroom: OwnClass, user: Teacher, session: DbSession
) -> Response:
    """End a share: the owner anybody's, all others their own."""
    if user.id != user_id:
        class_queries.class_of_teacher(session, class_id, user.id, roles=("owner",))
    if not class_queries.unshare_class(session, classroom.id, user_id):
        problem = _("the owner of a class does not leave it")
        raise FormRejected(_("share"), problem, _("Let an administrator of the school hand the class over"))
    log(session, "class-unshared", who_id=user.id, class_id=classroom.id, person_id=user_id)
    if user.id == user_id:
        return RedirectResponse(request.url_for("class_list"), status_code=303)
    return _back(request, classroom)


@of_class.post("/code", name="change_code", dependencies=[CheckedForm])
def change_code(request: Request, classroom: TaughtClass, user: Teacher, session: DbSession) -> Response:
    """Give the class a new code."""
    class_queries.change_code(session, classroom)
    log(session, "code-changed", who_id=user.id, class_id=classroom.id)
    return _back(request, classroom)


@of_class.post("/settings", name="change_class", dependencies=[CheckedForm])
def change_class(
    request: Request,
    classroom: TaughtClass,
    user: Teacher,
    session: DbSession,
    name: Annotated[str, Form(max_length=200)] = "",
    mate_word: Annotated[str, Form(max_length=100)] = "mate",
    time_zone: Annotated[str, Form(max_length=100)] = "UTC",
    decimal: Annotated[str, Form(max_length=10)] = "point",
    grades: Annotated[str, Form(max_length=2000)] = "",
    language: Annotated[str, Form(max_length=10)] = "en",
) -> Response:
    """Keep the class's name and what it has of its own."""
    given = {
        "mate_word": mate_word.strip(),
        "time_zone": time_zone.strip(),
        "decimal": decimal,
        "grades": _grades(grades),
        "language": language,
        "rates": ClassSettings.model_validate(classroom.settings).rates,
    }
    try:
        settings = ClassSettings.model_validate(given)
    except ValidationError as exc:
        error = document_error("settings", exc)
        raise FormRejected(error.where, error.problem, _("Mend it"), str(exc.errors()[0]["loc"][0])) from exc
    class_queries.change_class(session, classroom, name=check_name(name), settings=settings.model_dump(mode="json"))
    log(session, "settings-changed", who_id=user.id, class_id=classroom.id)
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
