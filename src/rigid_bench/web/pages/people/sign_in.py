"""Signing in and out."""

import time
from datetime import timedelta
from functools import partial
from typing import Annotated

from fastapi import Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import FormRejected, TooManyTries
from rigid_bench.store.log import log
from rigid_bench.store.queries import account_queries, people_queries
from rigid_bench.web.render import drop_session_cookie, page, set_session_cookie
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import (
    CheckedForm,
    DbSession,
    MaybePerson,
    client_address,
    in_session,
    session_token,
)
from rigid_bench.web.security.passwords import digest, hash_password, in_turn, is_outdated, is_password, new_token
from rigid_bench.web.security.second_step import takes_code
from rigid_bench.web.security.throttle import ACCOUNT, ADDRESS

router = page_router()
#: The code is waited for so long, minutes.
_CODE_MINUTES = 5

_WRONG_CODE = FormRejected(
    "code",
    "it is not right, or was used already",
    "Type the one that the app shows now, or ask an administrator",
    "code",
)
_WRONG = FormRejected(
    "sign-in", "that name and password do not go together", "Check both, capital letters too, or ask your teacher"
)


@router.get("/sign-in")
def sign_in(
    request: Request, user: MaybePerson, session: DbSession, login: Annotated[str, Query(max_length=200)] = ""
) -> Response:
    """Show the form, with the name of a sign-in card, or the start page to whoever is signed in."""
    if user:
        return RedirectResponse(request.url_for("home"), status_code=303)
    if not people_queries.people_exist(session):
        return RedirectResponse(request.url_for("start"), status_code=303)
    return page(request, "sign_in.html", error=None, login=login)


@router.post("/sign-in", name="check_sign_in", dependencies=[CheckedForm])
async def check_sign_in(
    request: Request,
    login: Annotated[str, Form(max_length=200)] = "",
    password: Annotated[str, Form(max_length=1000)] = "",
) -> Response:
    """Start a session with a new token, so that one planted before is worth nothing."""
    account, address, throttle = login.strip().lower(), client_address(request), request.app.state.throttle
    try:
        throttle.check(ADDRESS, address)
        throttle.take(ACCOUNT, account)
    except TooManyTries as exc:
        return page(request, "sign_in.html", status=429, error=exc, login=login, wait_s=exc.wait_s)
    known = await in_session(request, partial(people_queries.password_of, login=account))
    fits = await in_turn(request, partial(is_password, password, known.password_hash if known else None))
    if known is None or not fits:
        throttle.note(ADDRESS, address)
        if known is not None:
            await in_session(
                request,
                lambda session: log(session, "sign-in-refused", who_id=None, class_id=None, person_id=known.user_id),
            )
        return page(request, "sign_in.html", status=422, error=_WRONG, login=login)
    throttle.forget(ACCOUNT, account)
    if is_outdated(known.password_hash):
        renewed = await in_turn(request, partial(hash_password, password))
        await in_session(request, partial(people_queries.renew_hash, user_id=known.user_id, password_hash=renewed))
    where = request.url_for("second_step" if known.has_second_step else "home")
    response = RedirectResponse(where, status_code=303)
    return await let_in(request, known.user_id, response, awaits_code=known.has_second_step)


@router.get("/sign-in/code", name="second_step")
def second_step(request: Request, session: DbSession) -> Response:
    """Ask for the code of the second step of whoever gave the right password."""
    if people_queries.person_awaiting_code(session, digest(session_token(request))) is None:
        return RedirectResponse(request.url_for("sign_in"), status_code=303)
    return page(request, "second_step.html", error=None)


@router.post("/sign-in/code", name="check_code", dependencies=[CheckedForm])
async def check_code(request: Request, code: Annotated[str, Form(max_length=20)] = "") -> Response:
    """Let in whoever gives the code; ten tries, then a wait."""

    def check(session: Session) -> tuple[int, bool] | None:
        user = people_queries.person_awaiting_code(session, digest(session_token(request)))
        if user is None:
            return None
        request.app.state.throttle.take(ACCOUNT, f"code of {user.id}")
        if not takes_code(user, code, now_s=int(time.time())):
            log(session, "sign-in-refused", who_id=None, class_id=None, person_id=user.id)
            return user.id, False
        people_queries.end_sign_in(session, digest(session_token(request)))
        return user.id, True

    try:
        checked = await in_session(request, check)
    except TooManyTries as exc:
        return page(request, "second_step.html", status=429, error=exc, wait_s=exc.wait_s)
    if checked is None:
        return RedirectResponse(request.url_for("sign_in"), status_code=303)
    user_id, is_right = checked
    if not is_right:
        return page(request, "second_step.html", status=422, error=_WRONG_CODE)
    request.app.state.throttle.forget(ACCOUNT, f"code of {user_id}")
    return await let_in(request, user_id, RedirectResponse(request.url_for("home"), status_code=303))


async def let_in(request: Request, user_id: int, response: Response, *, awaits_code: bool = False) -> Response:
    """Start a session for a person with a new token, and put it into the answer; or one that waits for a code."""
    token, hours = new_token(), request.app.state.settings.session_hours
    lasts = timedelta(minutes=_CODE_MINUTES) if awaits_code else timedelta(hours=hours)

    def start(session: Session) -> None:
        people_queries.start_sign_in(
            session, user_id=user_id, token_hash=digest(token), lasts=lasts, awaits_code=awaits_code
        )
        if not awaits_code:
            log(session, "signed-in", who_id=user_id, class_id=None)

    await in_session(request, start)
    set_session_cookie(request, response, token)
    return response


async def change_own_password(request: Request, user_id: int, password: str) -> None:
    """Keep a person's new password; all sessions end."""
    password_hash = await in_turn(request, partial(hash_password, password))

    def keep(session: Session) -> None:
        account_queries.set_password(session, user_id, password_hash)

    await in_session(request, keep)


@router.post("/sign-out", dependencies=[CheckedForm])
def sign_out(request: Request, session: DbSession) -> Response:
    """End the session."""
    people_queries.end_sign_in(session, digest(session_token(request)))
    response = RedirectResponse(request.url_for("sign_in"), status_code=303)
    drop_session_cookie(request, response)
    return response
