"""The year's end: a class goes into the archive or into a zip, and the next one begins from it."""

from datetime import UTC, datetime
from typing import Annotated

from fastapi import File, Form, Request, UploadFile
from fastapi.responses import RedirectResponse, Response
from pydantic import Field

from rigid_bench.app.classes import classes
from rigid_bench.app.people.account_fields import check_name
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.names import slug
from rigid_bench.core.wording.language import _
from rigid_bench.web.forms import FormModel, whole_between
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, OwnedClass, SentOnce, Teacher

router = page_router()
of_class = page_router("/classes/{class_id}")
#: Weeks between a lesson and next year's.
_MOST_WEEKS = 200
_DAYS_A_WEEK = 7


@of_class.post("/archive", name="archive_class", dependencies=[CheckedForm])
def archive_class(
    request: Request, classroom: OwnedClass, user: Teacher, session: DbSession, back: Annotated[bool, Form()] = False
) -> Response:
    """Put a class into the archive, or take it out."""
    if back:
        classes.take_out_of_archive(session, classroom, teacher=user)
    else:
        classes.archive_class(session, classroom, teacher=user, now=datetime.now(UTC))
    return RedirectResponse(request.url_for("class_list"), status_code=303)


class NextYearForm(FormModel):
    """The next year of a class, as typed."""

    name: Annotated[str, Field(max_length=200)] = ""
    weeks: Annotated[str, Field(max_length=10)] = "52"
    with_students: bool = False
    then_archive: bool = False


@of_class.post("/next-year", name="roll_over", dependencies=[CheckedForm, SentOnce])
def roll_over(
    request: Request,
    classroom: OwnedClass,
    user: Teacher,
    session: DbSession,
    form: Annotated[NextYearForm, Form()],
) -> Response:
    """Begin the next year's class from this one."""
    days = _DAYS_A_WEEK * whole_between(form.weeks, 1, _MOST_WEEKS, where=_("weeks later"), field="weeks")
    following = classes.roll_over(
        session, classroom, name=check_name(form.name), days=days, with_students=form.with_students, teacher=user
    )
    if form.then_archive:
        classes.archive_class(session, classroom, teacher=user, now=datetime.now(UTC))
    return RedirectResponse(request.url_for("plan", class_id=following.id), status_code=303)


@of_class.get("/class.zip", name="class_zip")
def class_zip(classroom: OwnedClass, user: Teacher, session: DbSession) -> Response:
    """Give the whole class: people, exercises, plan, builds, reports, marks and comments."""
    content = classes.take_class(session, classroom, teacher=user)
    headers = {"Content-Disposition": f'attachment; filename="{slug(classroom.name)}.zip"'}
    return Response(content, media_type="application/zip", headers=headers)


@router.post("/classes/read", name="read_class_zip", dependencies=[CheckedForm, SentOnce])
def read_class_zip(
    request: Request, user: Teacher, session: DbSession, file: Annotated[UploadFile | None, File()] = None
) -> Response:
    """Read a class back in from its zip; it is in the archive then."""
    content = file.file.read() if file else b""
    if not content:
        raise FormRejected(_("class"), _("no file was chosen"), _("Choose the zip of a class"), "file")
    name = (file and file.filename) or "class"
    made = classes.read_class(session, content, name=name, teacher=user, now=datetime.now(UTC))
    return RedirectResponse(request.url_for("class_table", class_id=made.id), status_code=303)


router.include_router(of_class)
