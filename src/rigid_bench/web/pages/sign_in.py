"""Signing in and out."""

from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response

from rigid_bench.core.errors import FormRejected
from rigid_bench.store import queries
from rigid_bench.store.tables import User
from rigid_bench.web.access import COOKIE, CheckedForm, DbSession, MaybePerson
from rigid_bench.web.passwords import digest, is_password, new_token
from rigid_bench.web.render import page, set_session_cookie

router = APIRouter()

_WRONG = FormRejected(
    "sign-in", "that name and password do not go together", "Check both, capital letters too, or ask your teacher"
)


@router.get("/sign-in")
def sign_in(request: Request, user: MaybePerson, session: DbSession) -> Response:
    """Show the form, or the start page to whoever is signed in."""
    if user:
        return RedirectResponse(request.url_for("home"), status_code=303)
    if not queries.people_exist(session):
        return RedirectResponse(request.url_for("start"), status_code=303)
    return page(request, "sign_in.html", error=None, login="")


@router.post("/sign-in", name="check_sign_in", dependencies=[CheckedForm])
def check_sign_in(
    request: Request,
    session: DbSession,
    login: Annotated[str, Form(max_length=200)] = "",
    password: Annotated[str, Form(max_length=1000)] = "",
) -> Response:
    """Start a session with a new token, so that one planted before is worth nothing."""
    found = queries.user_by_login(session, login.strip().lower())
    if not is_password(password, found.password_hash if found else None) or found is None:
        return page(request, "sign_in.html", status=422, error=_WRONG, login=login)
    return let_in(request, session, found, RedirectResponse(request.url_for("home"), status_code=303))


def let_in(request: Request, session: DbSession, user: User, response: Response) -> Response:
    """Start a session for a person with a new token, and put it into the answer."""
    token = new_token()
    hours = request.app.state.settings.session_hours
    queries.start_sign_in(session, user, token_hash=digest(token), hours=hours)
    set_session_cookie(request, response, token)
    return response


@router.post("/sign-out", dependencies=[CheckedForm])
def sign_out(request: Request, session: DbSession) -> Response:
    """End the session."""
    queries.end_sign_in(session, digest(request.cookies.get(COOKIE, "")))
    response = RedirectResponse(request.url_for("sign_in"), status_code=303)
    response.delete_cookie(COOKIE, path="/")
    return response
