"""A class's people and settings: students, codes, lists, passwords, teachers who share it, what is its own."""

import io
import json
import zipfile
from typing import Annotated, Any

from fastapi import APIRouter, File, Form, Request, UploadFile
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError

from rigid_bench.core.documents import document_error
from rigid_bench.core.errors import FormRejected
from rigid_bench.core.names import slug
from rigid_bench.store import class_queries, queries
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.codes import new_password
from rigid_bench.store.tables import Build, Classroom
from rigid_bench.web.access import CheckedForm, DbSession, OwnClass, OwnStudent, Teacher
from rigid_bench.web.passwords import hash_password
from rigid_bench.web.people import Newcomer, add_students, check_name
from rigid_bench.web.render import page

router = APIRouter()
of_class = APIRouter(prefix="/classes/{class_id}")
_LONGEST_LIST = 200_000


@router.post("/classes", name="add_class", dependencies=[CheckedForm])
def add_class(
    request: Request, user: Teacher, session: DbSession, name: Annotated[str, Form(max_length=200)] = ""
) -> Response:
    """Make a class."""
    teacher = queries.user_by_id(session, user.id)
    classroom = queries.add_class(session, name=check_name(name), teacher=teacher)
    class_queries.log(session, who=user.name, action="made the class", subject=name, class_id=classroom.id)
    return RedirectResponse(request.url_for("people", class_id=classroom.id), status_code=303)


def _shown(
    request: Request, session: DbSession, classroom: Classroom, *, newcomers: list[Newcomer] | None = None
) -> Response:
    return page(
        request,
        "people.html",
        classroom=classroom,
        students=queries.students_of_class(session, classroom.id),
        teachers=class_queries.teachers_of_class(session, classroom.id),
        settings=ClassSettings.model_validate(classroom.settings),
        newcomers=newcomers or [],
        join_address=str(request.url_for("join").include_query_params(code=classroom.code)),
    )


@of_class.get("/people")
def people(request: Request, classroom: OwnClass, session: DbSession) -> Response:
    """Show the class's people and settings."""
    return _shown(request, session, classroom)


@of_class.post("/students", name="add_to_class", dependencies=[CheckedForm])
def add_to_class(
    request: Request,
    classroom: OwnClass,
    user: Teacher,
    session: DbSession,
    names: Annotated[str, Form(max_length=_LONGEST_LIST)] = "",
    list_file: Annotated[UploadFile | None, File()] = None,
) -> Response:
    """Add students from a list, typed or as a CSV file, and show their first passwords once."""
    added = add_students(session, _listed(list_file) or names)
    for student, _ in added:
        class_queries.join(session, classroom.id, student.id)
    subject = ", ".join(newcomer.name for _, newcomer in added)
    class_queries.log(session, who=user.name, action="added", subject=subject, class_id=classroom.id)
    return _shown(request, session, classroom, newcomers=[newcomer for _, newcomer in added])


def _listed(file: UploadFile | None) -> str:
    if file is None or not file.filename:
        return ""
    data = file.file.read(_LONGEST_LIST + 1)
    if len(data) > _LONGEST_LIST:
        raise FormRejected(file.filename, "it is too long for a list of students", "Give a CSV file of names")
    for encoding in ("utf-8-sig", "cp1252"):
        try:
            return data.decode(encoding)
        except UnicodeDecodeError:
            continue
    raise FormRejected(file.filename, "it is no text", "Save the list as CSV, UTF-8")


@of_class.post("/students/{student_id}/password", name="reset_password", dependencies=[CheckedForm])
def reset_password(
    request: Request, classroom: OwnClass, student: OwnStudent, user: Teacher, session: DbSession
) -> Response:
    """Give a student a new password, shown once."""
    password = new_password()
    class_queries.set_password(session, student, hash_password(password))
    class_queries.log(
        session, who=user.name, action="reset the password of", subject=student.name, class_id=classroom.id
    )
    newcomer = Newcomer(name=student.name, login=student.login, password=password)
    return _shown(request, session, classroom, newcomers=[newcomer])


@of_class.post("/students/{student_id}/leave", name="remove_student", dependencies=[CheckedForm])
def remove_student(
    request: Request, classroom: OwnClass, student: OwnStudent, user: Teacher, session: DbSession
) -> Response:
    """Take a student out of the class; the builds are kept."""
    class_queries.leave(session, classroom.id, student.id)
    class_queries.log(session, who=user.name, action="took out", subject=student.name, class_id=classroom.id)
    return _back(request, classroom)


@of_class.post("/students/{student_id}/erase", name="erase_student", dependencies=[CheckedForm])
def erase_student(
    request: Request,
    classroom: OwnClass,
    student: OwnStudent,
    user: Teacher,
    session: DbSession,
    sure: Annotated[str, Form(max_length=200)] = "",
) -> Response:
    """Erase a student with all builds, once the sign-in name is typed."""
    if sure.strip().lower() != student.login:
        raise FormRejected("erasing", "nothing was erased", f"Type '{student.login}' to erase {student.name} for good")
    class_queries.log(session, who=user.name, action="erased a student", subject="", class_id=classroom.id)
    class_queries.erase_student(session, student)
    return _back(request, classroom)


@of_class.get("/students/{student_id}/record.zip", name="record")
def record(classroom: OwnClass, student: OwnStudent, user: Teacher, session: DbSession) -> Response:
    """Give a student's whole record in this class: files, cards, marks and comments."""
    builds = class_queries.record_of_student(session, student.id, [classroom.id])
    class_queries.log(session, who=user.name, action="took the record of", subject=student.name, class_id=classroom.id)
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
            {"check": each.check_id, "marks": each.marks, "comment": each.comment, "at": each.made_at.isoformat()}
            for each in build.overrides
            if each.undone_at is None
        ],
        "returned": [each.returned_at.isoformat() for each in build.returns],
        "questions": [{"check": each.check_id, "text": each.text, "answer": each.answer} for each in build.questions],
    }


@of_class.post("/teachers", name="share_class", dependencies=[CheckedForm])
def share_class(
    request: Request,
    classroom: OwnClass,
    user: Teacher,
    session: DbSession,
    login: Annotated[str, Form(max_length=200)] = "",
) -> Response:
    """Let another teacher share the class."""
    found = queries.user_by_login(session, login.strip().lower())
    if found is None or found.role != "teacher":
        raise FormRejected("teacher", f"there is no teacher '{login.strip()}'", "Ask for their sign-in name")
    class_queries.share_class(session, classroom.id, found.id)
    class_queries.log(session, who=user.name, action="shared the class with", subject=found.name, class_id=classroom.id)
    return _back(request, classroom)


@of_class.post("/code", name="change_code", dependencies=[CheckedForm])
def change_code(request: Request, classroom: OwnClass, user: Teacher, session: DbSession) -> Response:
    """Give the class a new code."""
    class_queries.change_code(session, classroom)
    class_queries.log(session, who=user.name, action="changed the code", subject="", class_id=classroom.id)
    return _back(request, classroom)


@of_class.post("/settings", name="change_class", dependencies=[CheckedForm])
def change_class(
    request: Request,
    classroom: OwnClass,
    user: Teacher,
    session: DbSession,
    name: Annotated[str, Form(max_length=200)] = "",
    mate_word: Annotated[str, Form(max_length=100)] = "mate",
    time_zone: Annotated[str, Form(max_length=100)] = "UTC",
    decimal: Annotated[str, Form(max_length=10)] = "point",
    grades: Annotated[str, Form(max_length=2000)] = "",
) -> Response:
    """Keep the class's name and what it has of its own."""
    given = {
        "mate_word": mate_word.strip(),
        "time_zone": time_zone.strip(),
        "decimal": decimal,
        "grades": _grades(grades),
    }
    try:
        settings = ClassSettings.model_validate(given)
    except ValidationError as exc:
        raise document_error("settings", exc) from exc
    class_queries.change_class(session, classroom, name=check_name(name), settings=settings.model_dump(mode="json"))
    class_queries.log(session, who=user.name, action="changed the settings", subject="", class_id=classroom.id)
    return _back(request, classroom)


def _grades(text: str) -> list[dict[str, Any]]:
    """Read grades, a line each: name, then the least percentage, such as "A 80"."""
    found = []
    for line in filter(None, (each.strip() for each in text.splitlines())):
        name, _, least = line.replace(",", ".").rpartition(" ")
        try:
            found.append({"name": name.strip(" :"), "at_least": float(least.strip("% "))})
        except ValueError as exc:
            raise FormRejected(
                "grades", f"'{line}' is no grade", "Write a name and a percentage, such as: A 80"
            ) from exc
    return found


def _back(request: Request, classroom: Classroom) -> Response:
    return RedirectResponse(request.url_for("people", class_id=classroom.id), status_code=303)


router.include_router(of_class)
