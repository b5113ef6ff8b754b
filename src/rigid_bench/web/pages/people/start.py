"""The first start: nobody is there yet, and the first person is made with the code that the server printed."""

from functools import partial
from typing import Annotated

from fastapi import Form, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import RedirectResponse, Response
from pydantic import Field
from sqlalchemy.orm import Session

from rigid_bench.app.people.account_fields import NewPerson, check_new_person
from rigid_bench.app.people.people import add_administrator_or_teacher
from rigid_bench.core.values.errors import FormRejected, NotAllowed, TooManyTries
from rigid_bench.core.wording.language import _
from rigid_bench.store.codes import bare_code
from rigid_bench.store.queries import account_queries, people_queries
from rigid_bench.web.forms import FormModel
from rigid_bench.web.pages.people.sign_in import let_in
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, client_address, in_session
from rigid_bench.web.security.passwords import digest, hash_password, in_turn
from rigid_bench.web.security.throttle import START

router = page_router(prefix="/start")


def _only_first(session: Session) -> None:
    if people_queries.people_exist(session):
        raise NotAllowed(_("page"), _("there is somebody already"), _("Sign in, or ask an administrator of the school"))


@router.get("")
def start(request: Request, session: DbSession) -> Response:
    """Show the form."""
    _only_first(session)
    return page(request, "start.html", error=None, login="", name="", field="")


class FirstPersonForm(FormModel):
    """The first person, as typed."""

    code: Annotated[str, Field(max_length=40)] = ""
    name: Annotated[str, Field(max_length=200)] = ""
    login: Annotated[str, Field(max_length=200)] = ""
    password: Annotated[str, Field(max_length=1000)] = ""


@router.post("", name="make_first_person", dependencies=[CheckedForm])
async def make_first_person(
    request: Request,
    form: Annotated[FirstPersonForm, Form()],
) -> Response:
    """Make the first person, who administers the school, and sign them in."""
    await in_session(request, _only_first)
    try:
        await run_in_threadpool(request.app.state.throttle.take, START, client_address(request))
        await in_session(request, partial(_check_code, code=form.code))
        person = check_new_person(login=form.login, name=form.name, password=form.password)
        password_hash = await in_turn(request, partial(hash_password, form.password))
        user_id = await in_session(request, partial(_make, code=form.code, person=person, password_hash=password_hash))
    except (FormRejected, TooManyTries) as exc:
        status, field = (429, "") if isinstance(exc, TooManyTries) else (422, exc.field)
        return page(request, "start.html", status=status, error=exc, login=form.login, name=form.name, field=field)
    return await let_in(request, user_id, RedirectResponse(request.url_for("home"), status_code=303))


def _check_code(session: Session, *, code: str) -> None:
    if not account_queries.is_start_code(session, digest(bare_code(code))):
        _only_first(session)  # the codes may be gone because somebody was made a moment ago
        next_step = _("Look at what the server printed when it started; start it again for a new code")
        raise FormRejected(_("start code"), _("it is not the one that the server printed"), next_step, "code")


def _make(session: Session, *, code: str, person: NewPerson, password_hash: str) -> int:
    """Make the first person, one at a time: of posts at once the second finds somebody there."""
    account_queries.lock_people(session)
    _only_first(session)
    _check_code(session, code=code)
    return add_administrator_or_teacher(session, person, password_hash=password_hash).id
