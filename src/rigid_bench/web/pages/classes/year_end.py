"""The year's end: a class goes into the archive, and the next one begins from it."""

from datetime import UTC, datetime
from typing import Annotated

from fastapi import Form, Request
from fastapi.responses import RedirectResponse, Response

from rigid_bench.store.log import log
from rigid_bench.store.queries import plan_queries
from rigid_bench.web.forms import whole_between
from rigid_bench.web.people import check_name
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, OwnedClass, SentOnce, Teacher

router = page_router("/classes/{class_id}")
#: Weeks between a lesson and next year's.
_MOST_WEEKS = 200
_DAYS_A_WEEK = 7


@router.post("/archive", name="archive_class", dependencies=[CheckedForm])
def archive_class(
    request: Request, classroom: OwnedClass, user: Teacher, session: DbSession, back: Annotated[bool, Form()] = False
) -> Response:
    """Put a class into the archive, or take it out."""
    if back:
        plan_queries.take_out_of_archive(session, classroom)
    else:
        plan_queries.archive_class(session, classroom, datetime.now(UTC))
    log(session, "class-unarchived" if back else "class-archived", who_id=user.id, class_id=classroom.id)
    return RedirectResponse(request.url_for("class_list"), status_code=303)


@router.post("/next-year", name="roll_over", dependencies=[CheckedForm, SentOnce])
def roll_over(
    request: Request, classroom: OwnedClass, user: Teacher, session: DbSession,
    name: Annotated[str, Form(max_length=200)] = "", weeks: Annotated[str, Form(max_length=10)] = "52",
    with_students: Annotated[bool, Form()] = False, then_archive: Annotated[bool, Form()] = False,
) -> Response:  # fmt: skip
    """Begin the next year's class from this one."""
    days = _DAYS_A_WEEK * whole_between(weeks, 1, _MOST_WEEKS, where="weeks later", field="weeks")
    following = plan_queries.roll_over(
        session, classroom, name=check_name(name), days=days, with_students=with_students
    )
    log(session, "class-rolled-over", who_id=user.id, class_id=classroom.id, name=following.name)
    log(session, "class-made", who_id=user.id, class_id=following.id)
    if then_archive:
        plan_queries.archive_class(session, classroom, datetime.now(UTC))
        log(session, "class-archived", who_id=user.id, class_id=classroom.id)
    return RedirectResponse(request.url_for("plan", class_id=following.id), status_code=303)
