"""One's own password."""

from functools import partial
from typing import Annotated

from fastapi import Form, Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import FormRejected, TooManyTries
from rigid_bench.store.queries import people_queries
from rigid_bench.web.pages.people.sign_in import change_own_password, let_in
from rigid_bench.web.people import check_password
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, SignedIn, in_session, person, signed_in
from rigid_bench.web.security.passwords import in_turn, is_password
from rigid_bench.web.security.throttle import ACCOUNT

router = page_router(prefix="/password")


@router.get("", name="password_form")
def password_form(request: Request, user: SignedIn) -> Response:
    """Show the form."""
    return page(request, "password.html", error=None, field="")


@router.post("", name="change_password", dependencies=[CheckedForm])
async def change_password(
    request: Request,
    old: Annotated[str, Form(max_length=1000)] = "",
    new: Annotated[str, Form(max_length=1000)] = "",
) -> Response:
    """Change it, and stay signed in here only."""
    own = await in_session(request, partial(_own, request))
    try:
        request.app.state.throttle.take(ACCOUNT, own.login)
        if not await in_turn(request, partial(is_password, old, own.password_hash)):
            problem = "it is not the one you have now"
            raise FormRejected("old password", problem, "Type it again, or ask your teacher", "old")
        check_password(new, field="new", of=(own.login, own.name))
    except (FormRejected, TooManyTries) as exc:
        status, field = (429, "") if isinstance(exc, TooManyTries) else (422, exc.field)
        return page(request, "password.html", status=status, error=exc, field=field)
    request.app.state.throttle.forget(ACCOUNT, own.login)
    await change_own_password(request, own.user_id, new)
    return await let_in(request, own.user_id, RedirectResponse(request.url_for("home"), status_code=303))


def _own(request: Request, session: Session) -> people_queries.KnownPassword:
    user = people_queries.user_by_id(session, signed_in(person(request, session)).id)
    return people_queries.KnownPassword(
        user_id=user.id, login=user.login, name=user.name, password_hash=user.password_hash
    )
