"""Signing in and out."""

import time
from datetime import timedelta
from functools import partial
from typing import Annotated

from fastapi import Form, Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from rigid_bench.app.people import sign_in as signing_in
from rigid_bench.core.values.errors import FormRejected, NotAllowed, RigidBenchError, TooManyTries
from rigid_bench.core.wording.language import N_
from rigid_bench.store.queries import people_queries
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
from rigid_bench.web.security.passkeys import host_for_passkeys
from rigid_bench.web.security.passwords import digest, hash_password, in_turn, is_outdated, is_password, new_token
from rigid_bench.web.security.second_step import takes_code
from rigid_bench.web.security.throttle import ACCOUNT, ADDRESS

router = page_router()
#: The code is waited for so long, minutes.
_CODE_MINUTES = 5

_WRONG_CODE = FormRejected(
    N_("code"),
    N_("it is not right, or was used already"),
    N_("Type the one that the app shows now, or ask an administrator"),
    "code",
)
_WRONG = FormRejected(
    N_("sign-in"),
    N_("that name and password do not go together"),
    N_("Check both, capital letters too, or ask your teacher"),
)

_NO_PASSWORDS = NotAllowed(N_("sign-in"), N_("this school signs in with its own accounts"), N_("Use the button above"))


@router.get("/sign-in")
def sign_in(
    request: Request, user: MaybePerson, session: DbSession, login: Annotated[str, Query(max_length=200)] = ""
) -> Response:
    """Show the form, with the name of a sign-in card, or the start page to whoever is signed in."""
    if user:
        return RedirectResponse(request.url_for("home"), status_code=303)
    if not people_queries.people_exist(session):
        return RedirectResponse(request.url_for("start"), status_code=303)
    return sign_in_page(request, login=login)


def sign_in_page(
    request: Request, *, error: RigidBenchError | None = None, login: str = "", status: int = 200, **more: object
) -> Response:
    """Show the form, with what was wrong, if something was, and a link to the school's accounts, if it has some."""
    settings = request.app.state.settings
    school = settings.oidc_name if settings.oidc_issuer else ""
    left = request.query_params.get("left") == "school"
    return page(
        request, "sign_in.html", status=status, error=error, login=login, school=school, left=left and bool(school),
        by_password=settings.password_sign_in, takes_passkeys=bool(host_for_passkeys(request)), **more,
    )  # fmt: skip


@router.post("/sign-in", name="check_sign_in", dependencies=[CheckedForm])
async def check_sign_in(
    request: Request,
    login: Annotated[str, Form(max_length=200)] = "",
    password: Annotated[str, Form(max_length=1000)] = "",
) -> Response:
    """Start a session with a new token, so that one planted before is worth nothing."""
    if not request.app.state.settings.password_sign_in:
        return sign_in_page(request, error=_NO_PASSWORDS, status=403)
    account, address, throttle = login.strip().lower(), client_address(request), request.app.state.throttle
    try:
        await run_in_threadpool(throttle.check, ADDRESS, address)
        await run_in_threadpool(throttle.take, ACCOUNT, account)
    except TooManyTries as exc:
        return sign_in_page(request, error=exc, login=login, status=429, wait_s=exc.wait_s)
    known = await in_session(request, partial(people_queries.password_of, login=account))
    fits = await in_turn(request, partial(is_password, password, known.password_hash if known else None))
    if known is None or not fits:
        await run_in_threadpool(throttle.note, ADDRESS, address)
        if known is not None:
            await in_session(request, partial(signing_in.note_refused, user_id=known.user_id))
        return sign_in_page(request, error=_WRONG, login=login, status=422)
    await run_in_threadpool(throttle.forget, ACCOUNT, account)
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
            signing_in.note_refused(session, user.id)
            return user.id, False
        signing_in.end_session(session, digest(session_token(request)))
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
    await run_in_threadpool(request.app.state.throttle.forget, ACCOUNT, f"code of {user_id}")
    return await let_in(request, user_id, RedirectResponse(request.url_for("home"), status_code=303))


async def let_in(
    request: Request, user_id: int, response: Response, *, awaits_code: bool = False, issuer: str = ""
) -> Response:
    """Start a session for a person with a new token, and put it into the answer.

    Parameters
    ----------
    awaits_code
        It is one that waits for the code of a second step.
    issuer
        Who vouched for the person, where that was an account elsewhere.
    """
    token, hours = new_token(), request.app.state.settings.session_hours
    lasts = timedelta(minutes=_CODE_MINUTES) if awaits_code else timedelta(hours=hours)

    start = partial(
        signing_in.start_session,
        user_id=user_id,
        token_hash=digest(token),
        lasts=lasts,
        awaits_code=awaits_code,
        issuer=issuer,
    )
    await in_session(request, start)
    set_session_cookie(request, response, token)
    return response


async def change_own_password(request: Request, user_id: int, password: str) -> None:
    """Keep a person's new password; all sessions end."""
    password_hash = await in_turn(request, partial(hash_password, password))
    keep = partial(signing_in.change_own_password, user_id=user_id, password_hash=password_hash)
    await in_session(request, keep)


@router.post("/sign-out", dependencies=[CheckedForm])
def sign_out(request: Request, session: DbSession) -> Response:
    """End the session; who came with the school's account is asked whether to sign out of that, too."""
    issuer = signing_in.end_session(session, digest(session_token(request)))
    address = request.url_for("sign_in")
    is_of_school = bool(issuer) and issuer == request.app.state.settings.oidc_issuer
    response = RedirectResponse(address.include_query_params(left="school") if is_of_school else address, 303)
    drop_session_cookie(request, response)
    return response
