"""Adding students from a list: it is kept, what was understood of it is shown, and then it is taken, once."""

import csv
import io
from functools import partial
from typing import Annotated

from fastapi import File, Form, Request, UploadFile
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from rigid_bench.app.people import people
from rigid_bench.core.formats.archive import is_zip
from rigid_bench.core.formats.one_roster import read_classes
from rigid_bench.core.values.errors import FormRejected, NotFound
from rigid_bench.core.values.names import plain_name
from rigid_bench.core.wording.language import _, series
from rigid_bench.store.queries import account_queries, class_queries
from rigid_bench.web.pages.people.sign_in_cards import keep_cards, to_cards
from rigid_bench.web.render import page
from rigid_bench.web.routing import clean, page_router
from rigid_bench.web.security.access import (
    CheckedForm,
    DbSession,
    Id,
    TaughtClass,
    Teacher,
    in_session,
    person,
    signed_in,
)
from rigid_bench.web.security.passwords import FreshPassword, fresh_password
from rigid_bench.web.security.sealing import SignInCard
from rigid_bench.web.student_lists import ListedStudent, Order, understand_list

router = page_router(prefix="/classes/{class_id}/students")
#: Letters of a list; bytes of a zip of tables.
_LONGEST_LIST, _LARGEST_ZIP = 200_000, 1_000_000


@router.post("", name="add_to_class", dependencies=[CheckedForm])
def add_to_class(
    request: Request,
    classroom: TaughtClass,
    user: Teacher,
    session: DbSession,
    names: Annotated[str, Form(max_length=_LONGEST_LIST)] = "",
    list_file: Annotated[UploadFile | None, File()] = None,
    order: Annotated[Order, Form()] = "guess",
) -> Response:
    """Keep a list, typed or as a CSV file, to be looked through before anybody is added."""
    content = _listed(list_file, classroom.name) or names
    understand_list(session, content, class_id=classroom.id, teacher=user, order=order)
    list_id = account_queries.keep_student_list(session, class_id=classroom.id, teacher_id=user.id, content=content)
    address = request.url_for("student_list", class_id=classroom.id, list_id=list_id)
    return RedirectResponse(address.include_query_params(order=order), status_code=303)


def _listed(file: UploadFile | None, class_name: str) -> str:
    if file is None or not file.filename:
        return ""
    data = file.file.read(_LARGEST_ZIP + 1)
    if is_zip(data):
        return _of_roster(data[: _LARGEST_ZIP + 1], file.filename, class_name)
    if len(data) > _LONGEST_LIST:
        raise FormRejected(
            _("list"), _("it is too long for a list of students"), _("Give a CSV file of names"), "list_file"
        )
    for encoding in ("utf-8-sig", "cp1252"):
        try:
            return clean(data.decode(encoding))
        except UnicodeDecodeError:
            continue
    raise FormRejected(_("list"), _("it is no text"), _("Save the list as CSV, UTF-8"), "list_file")


def _of_roster(data: bytes, name: str, class_name: str) -> str:
    """Return the students of a OneRoster zip as a list: of the class of this name, or of its only one."""
    if len(data) > _LARGEST_ZIP:
        raise FormRejected(_("list"), _("the zip is too large"), _("Export this class alone"), "list_file")
    classes = read_classes(data, name=plain_name(name))
    meant = [title for title in classes if title.casefold() == class_name.casefold()] or list(classes)
    if len(meant) != 1:
        titles = series(sorted(classes)) or "none"
        problem = _("no class in it is called “{class_name}”: there are {titles}", class_name=class_name, titles=titles)
        raise FormRejected(
            _("list"), problem[:500], _("Give your class the same name, or export it alone"), "list_file"
        )
    written = io.StringIO()
    writer = csv.writer(written)
    writer.writerow(("surname", "first name", "sign-in name", "sourcedId"))
    for student in classes[meant[0]]:
        writer.writerow((student.family_name, student.given_name, student.username.lower(), student.sourced_id))
    return clean(written.getvalue())


@router.get("/lists/{list_id}", name="student_list")
def student_list(
    request: Request, list_id: Id, classroom: TaughtClass, user: Teacher, session: DbSession, order: Order = "guess"
) -> Response:
    """Show what was understood of a list."""
    kept = account_queries.student_list(session, list_id, class_id=classroom.id, teacher_id=user.id)
    if kept is None:
        raise NotFound(_("list"), _("it was taken already, or is of yesterday"), _("See the people of the class"))
    understood = understand_list(session, kept.content, class_id=classroom.id, teacher=user, order=order)
    return page(
        request,
        "student_list.html",
        classroom=classroom,
        listed=understood,
        list_id=list_id,
        order=order,
        content=kept.content,
    )


@router.post("/lists/{list_id}", name="take_student_list", dependencies=[CheckedForm])
async def take_student_list(
    request: Request,
    class_id: Id,
    list_id: Id,
    order: Annotated[Order, Form()] = "guess",
    line: Annotated[list[int], Form()] = [],  # noqa: B006 (FastAPI copies its defaults)
) -> Response:
    """Add the students of the lines that are ticked, and go to their sign-in cards; a second time changes nothing."""
    wanted = await in_session(request, partial(_wanted, request, class_id, list_id, order, set(line)))
    # one after the other: others who sign in meanwhile have their turn in between
    passwords = {student.line: await fresh_password(request) for student in wanted if student.user_id is None}
    cards_id = await in_session(request, partial(_take, request, class_id, list_id, order, set(line), passwords))
    if cards_id is not None:
        return to_cards(request, cards_id)
    return RedirectResponse(request.url_for("people", class_id=class_id), status_code=303)


def _wanted(
    request: Request, class_id: int, list_id: int, order: Order, lines: set[int], session: Session
) -> list[ListedStudent]:
    """Return who is to be added; nobody where the list was taken already."""
    user = signed_in(person(request, session))
    class_queries.class_of_teacher(session, class_id, user.id, roles=class_queries.TEACHES)
    kept = account_queries.student_list(session, list_id, class_id=class_id, teacher_id=user.id)
    if kept is None:
        return []
    understood = understand_list(session, kept.content, class_id=class_id, teacher=user, order=order)
    wanted = [student for student in understood.students if student.line in lines]
    fault = next((student for student in wanted if student.fault), None)
    if fault:
        raise FormRejected(
            _("line {line} of the list", line=fault.line), fault.fault, _("Mend the line, or leave it out"), "names"
        )
    if not wanted:
        raise FormRejected(_("list"), _("no line is ticked"), _("Tick who is to be added"), "line")
    return wanted


def _take(
    request: Request,
    class_id: int,
    list_id: int,
    order: Order,
    lines: set[int],
    passwords: dict[int, FreshPassword],
    session: Session,
) -> int | None:
    """Add them, and return the id of their sign-in cards; None where there is nothing to hand out."""
    user = signed_in(person(request, session))
    kept = account_queries.student_list(session, list_id, class_id=class_id, teacher_id=user.id)
    if kept is None:
        return None
    wanted = _wanted(request, class_id, list_id, order, lines, session)
    people.add_students(
        session, class_id, [_to_add(student, passwords.get(student.line)) for student in wanted], teacher=user
    )
    cards = [
        SignInCard(name=student.name, login=student.login, password=passwords[student.line].password)
        for student in wanted
        if student.user_id is None
    ]
    account_queries.drop_student_list(session, kept)
    return keep_cards(request, session, user.id, cards, class_id) if cards else None


def _to_add(student: ListedStudent, fresh: FreshPassword | None) -> people.StudentToAdd:
    return people.StudentToAdd(
        name=student.name,
        login=student.login,
        user_id=student.user_id,
        sourced_id=student.sourced_id,
        password_hash=fresh.password_hash if fresh else "",
    )
