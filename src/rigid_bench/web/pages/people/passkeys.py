"""Passkeys of people who teach: made, used to sign in, and removed."""

import json
import secrets
from datetime import UTC, datetime
from functools import partial
from typing import Annotated

from fastapi import Form, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from rigid_bench.app.people import sign_in as signing_in
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import N_, _
from rigid_bench.store.outside import accounts
from rigid_bench.store.queries import people_queries
from rigid_bench.store.tables import Passkey
from rigid_bench.web.pages.people.sign_in import let_in
from rigid_bench.web.routing import page_router
from rigid_bench.web.security import passkeys
from rigid_bench.web.security.access import (
    CheckedForm,
    DbSession,
    Id,
    Teacher,
    client_address,
    in_session,
    session_token,
)
from rigid_bench.web.security.passwords import digest
from rigid_bench.web.security.throttle import ADDRESS

router = page_router()
_Credential = Annotated[str, Form(max_length=20_000)]
_OVER = FormRejected(N_("passkey"), N_("this took too long"), N_("Try again"), "passkey")
_NO_NAME = FormRejected(
    N_("passkey"), N_("none can belong to this address"), N_("Call the program by its name, over HTTPS"), "passkey"
)
_UNKNOWN = FormRejected(N_("passkey"), N_("nobody signs in with it here"), N_("Sign in with your password"), "passkey")


def _json(text: str) -> Response:
    return Response(text, media_type="application/json", headers={"Cache-Control": "no-store"})


def _challenge(session: Session, request: Request) -> bytes:
    """Make what a passkey signs, and keep it for this browser.

    Raises
    ------
    FormRejected
        The program is called by an address that can have no passkeys.
    """
    if not passkeys.host_for_passkeys(request):
        raise _NO_NAME
    challenge = secrets.token_bytes(32)
    key = digest(f"passkey:{session_token(request)}")
    accounts.take_try(session, key)  # one at a time
    accounts.keep_try(session, key, {"challenge": passkeys.challenge_as_text(challenge)})
    return challenge


def _taken_challenge(session: Session, request: Request) -> bytes:
    known = accounts.take_try(session, digest(f"passkey:{session_token(request)}"))
    if known is None:
        raise _OVER
    return passkeys.challenge_from_text(known["challenge"])


@router.post("/password/passkeys/begin", name="begin_passkey", dependencies=[CheckedForm])
def begin_passkey(request: Request, user: Teacher, session: DbSession) -> Response:
    """Tell a browser what to make a passkey with."""
    own = people_queries.user_by_id(session, user.id)
    known = [passkey.credential_id for passkey in people_queries.passkeys_of(session, user.id)]
    challenge = _challenge(session, request)
    return _json(
        passkeys.registration_options(
            request, challenge=challenge, user_id=own.id, login=own.login, name=own.name, known=known
        )
    )


@router.post("/password/passkeys", name="keep_passkey", dependencies=[CheckedForm])
def keep_passkey(
    request: Request, user: Teacher, session: DbSession, credential: _Credential = "",
    name: Annotated[str, Form(max_length=80)] = "",
) -> Response:  # fmt: skip
    """Keep a passkey that a browser made."""
    made = passkeys.checked_registration(request, credential, challenge=_taken_challenge(session, request))
    passkey = Passkey(
        user_id=user.id,
        credential_id=made.credential_id,
        public_key=made.credential_public_key,
        sign_count=made.sign_count,
        name=name.strip() or _("Passkey"),
    )
    signing_in.keep_passkey(session, passkey)
    return _json(json.dumps({"go_to": str(request.url_for("password_form"))}))


@router.post("/password/passkeys/{passkey_id}/remove", name="remove_passkey", dependencies=[CheckedForm])
def remove_passkey(request: Request, passkey_id: Id, user: Teacher, session: DbSession) -> Response:
    """Let nobody sign in with a passkey any more."""
    signing_in.remove_passkey(session, passkey_id, user_id=user.id)
    return RedirectResponse(request.url_for("password_form"), status_code=303)


@router.post("/sign-in/passkey/begin", name="begin_passkey_sign_in", dependencies=[CheckedForm])
def begin_passkey_sign_in(request: Request, session: DbSession) -> Response:
    """Tell a browser what to sign."""
    return _json(passkeys.sign_in_options(request, challenge=_challenge(session, request)))


@router.post("/sign-in/passkey", name="sign_in_by_passkey", dependencies=[CheckedForm])
async def sign_in_by_passkey(request: Request, credential: _Credential = "") -> Response:
    """Let in whose passkey signed; tries count with those of passwords."""
    address, throttle = client_address(request), request.app.state.throttle
    await run_in_threadpool(throttle.check, ADDRESS, address)
    try:
        user_id = await in_session(request, partial(_whose, request=request, credential=credential))
    except FormRejected:
        await run_in_threadpool(throttle.note, ADDRESS, address)
        raise
    return await let_in(request, user_id, _json(json.dumps({"go_to": str(request.url_for("home"))})))


def _whose(session: Session, *, request: Request, credential: str) -> int:
    """Return whose passkey signed the challenge of this browser."""
    challenge = _taken_challenge(session, request)
    try:
        given = json.loads(credential)
    except ValueError as exc:
        raise _UNKNOWN from exc
    if not isinstance(given, dict):
        raise _UNKNOWN
    passkey = people_queries.passkey_to_sign_in(session, passkeys.credential_id(given))
    if passkey is None:
        raise _UNKNOWN
    signed = passkeys.checked_sign_in(
        request, credential, challenge=challenge, public_key=passkey.public_key, sign_count=passkey.sign_count
    )
    passkey.sign_count, passkey.used_at = signed.new_sign_count, datetime.now(UTC)
    return passkey.user_id
