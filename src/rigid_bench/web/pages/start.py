"""The first start: nobody is there yet, and the first teacher is made."""

from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response

from rigid_bench.core.errors import FormRejected, NotAllowed
from rigid_bench.store import queries
from rigid_bench.web.access import CheckedForm, DbSession
from rigid_bench.web.pages.sign_in import let_in
from rigid_bench.web.people import add_person
from rigid_bench.web.render import page

router = APIRouter(prefix="/start")


def _only_first(session: DbSession) -> None:
    if queries.people_exist(session):
        raise NotAllowed("page", "there is a teacher already", "Sign in, or ask that teacher")


@router.get("")
def start(request: Request, session: DbSession) -> Response:
    """Show the form."""
    _only_first(session)
    return page(request, "start.html", error=None, login="", name="")


@router.post("", name="make_first_teacher", dependencies=[CheckedForm])
def make_first_teacher(
    request: Request,
    session: DbSession,
    name: Annotated[str, Form(max_length=200)] = "",
    login: Annotated[str, Form(max_length=200)] = "",
    password: Annotated[str, Form(max_length=1000)] = "",
) -> Response:
    """Make the first teacher and sign them in."""
    _only_first(session)
    try:
        user = add_person(session, login=login, name=name, role="teacher", password=password)
    except FormRejected as exc:
        return page(request, "start.html", status=422, error=exc, login=login, name=name)
    return let_in(request, session, user, RedirectResponse(request.url_for("home"), status_code=303))
