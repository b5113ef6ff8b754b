"""Students join a class by its code: as somebody new, or as who they are already."""

from functools import partial
from typing import Annotated

from fastapi import Form, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import RedirectResponse, Response
from pydantic import Field
from sqlalchemy.orm import Session

from rigid_bench.app.people import people
from rigid_bench.app.people.account_fields import check_free_login, check_new_person
from rigid_bench.core.values.errors import FormRejected, TooManyTries
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries import class_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.web.forms import FormModel
from rigid_bench.web.pages.people.sign_in import let_in
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import (
    CheckedForm,
    MaybePerson,
    SignInNeeded,
    client_address,
    in_session,
    person,
)
from rigid_bench.web.security.passwords import hash_password, in_turn
from rigid_bench.web.security.throttle import CODES

router = page_router(prefix="/join")


@router.get("")
def join(request: Request, user: MaybePerson, code: str = "") -> Response:
    """Show the form; where the school's own accounts are the only ones, to whoever is signed in."""
    if user is None and not request.app.state.settings.password_sign_in:
        return RedirectResponse(request.url_for("sign_in"), status_code=303)
    return page(request, "join.html", error=None, code=code[:20], name="", login="", field="")


class JoinForm(FormModel):
    """Who joins a class, as typed."""

    code: Annotated[str, Field(max_length=40)] = ""
    name: Annotated[str, Field(max_length=200)] = ""
    login: Annotated[str, Field(max_length=200)] = ""
    password: Annotated[str, Field(max_length=1000)] = ""


@router.post("", name="join_class", dependencies=[CheckedForm])
async def join_class(
    request: Request,
    form: Annotated[JoinForm, Form()],
) -> Response:
    """Put the student into the class."""
    user = await in_session(request, partial(person, request))
    if user is None and not request.app.state.settings.password_sign_in:
        raise SignInNeeded(
            _("class code"), _("you are not signed in"), _("Sign in with your school's account, then join")
        )
    home = RedirectResponse(request.url_for("home"), status_code=303)
    throttle, address = request.app.state.throttle, client_address(request)
    try:
        await run_in_threadpool(throttle.check, CODES, address)
        class_id = await in_session(request, partial(_class_by_code, code=form.code, user=user))
        if class_id is None:
            await run_in_threadpool(throttle.note, CODES, address)
            problem = _("there is no class '{code}'", code=form.code.strip())
            raise FormRejected(_("class code"), problem, _("Check the letters and digits"), "code")
        if user:
            await in_session(request, partial(people.join_class, class_id=class_id, student_id=user.id))
            return home
        newcomer = check_new_person(login=form.login, name=form.name, password=form.password)
        await in_session(request, partial(check_free_login, login=newcomer.login))
        password_hash = await in_turn(request, partial(hash_password, form.password))
        join = partial(people.join_as_newcomer, class_id=class_id, newcomer=newcomer, password_hash=password_hash)
        user_id = await in_session(request, join)
    except (FormRejected, TooManyTries) as exc:
        status, field = (429, "") if isinstance(exc, TooManyTries) else (422, exc.field)
        return page(
            request,
            "join.html",
            status=status,
            error=exc,
            code=form.code,
            name=form.name,
            login=form.login,
            field=field,
        )
    return await let_in(request, user_id, home)


def _class_by_code(session: Session, *, code: str, user: Person | None) -> int | None:
    if user and not user.is_student:
        raise FormRejected(
            _("class code"), _("only students join with it"), _("Let a teacher of the class add you"), "code"
        )
    classroom = class_queries.class_by_code(session, code)
    return classroom.id if classroom else None
