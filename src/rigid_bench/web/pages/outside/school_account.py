"""Signing in with the school's own account, joining one to an account here, and signing out of both."""

import secrets
from collections.abc import Mapping
from functools import partial
from typing import Annotated, Any

from fastapi import Query, Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from rigid_bench.app.people.account_fields import check_name, free_login
from rigid_bench.core.values.errors import NotFound, RigidBenchError
from rigid_bench.core.wording.language import _
from rigid_bench.store.outside import accounts
from rigid_bench.store.outside.accounts import OutsidePerson
from rigid_bench.web.identity.openid import OpenIdProvider, SchoolAccountRefused
from rigid_bench.web.pages.people.sign_in import let_in, sign_in_page
from rigid_bench.web.render import set_session_cookie
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, SignedIn, in_session, session_token
from rigid_bench.web.security.passwords import digest, new_token

router = page_router()


def _provider(request: Request) -> OpenIdProvider:
    provider: OpenIdProvider | None = request.app.state.identity_provider
    if provider is None:
        raise NotFound(_("school account"), _("this school has none"), _("Sign in with your name and password"))
    return provider


@router.get("/sign-in/school", name="to_school_account")
async def to_school_account(request: Request) -> Response:
    """Send a browser to the school's identity provider."""
    return await _leave(request, joins=None)


@router.post("/password/school-account", name="join_school_account", dependencies=[CheckedForm])
async def join_school_account(request: Request, user: SignedIn) -> Response:
    """Send somebody who is signed in there, to sign in with that account from now on."""
    return await _leave(request, joins=user.id)


@router.post("/password/school-account/end", name="leave_school_account", dependencies=[CheckedForm])
def leave_school_account(request: Request, user: SignedIn, session: DbSession) -> Response:
    """Sign in with the school's account no more."""
    _provider(request)
    accounts.leave_account(session, user.id, request.app.state.settings.oidc_issuer)
    return RedirectResponse(request.url_for("password_form"), status_code=303)


async def _leave(request: Request, *, joins: int | None) -> Response:
    """Send the browser away, and keep what is checked when it comes back."""
    provider, token = _provider(request), session_token(request) or new_token()
    state, nonce, verifier = (secrets.token_urlsafe(48) for _ in range(3))
    try:
        address = await provider.sign_in_address(back=_back(request), state=state, nonce=nonce, verifier=verifier)
    except SchoolAccountRefused as exc:
        return sign_in_page(request, error=exc, status=502)
    known = {"browser": digest(token), "nonce": nonce, "verifier": verifier, "joins": joins}
    await in_session(request, partial(accounts.keep_try, state_hash=digest(state), known=known))
    response = RedirectResponse(address, status_code=303)
    if not session_token(request):
        set_session_cookie(request, response, token)
    return response


@router.get("/sign-in/school/back", name="from_school_account")
async def from_school_account(
    request: Request,
    state: Annotated[str, Query(max_length=200)] = "",
    code: Annotated[str, Query(max_length=4000)] = "",
) -> Response:
    """Let in whom the school's identity provider vouches for; a person who is new gets an account."""
    provider = _provider(request)
    known = await in_session(request, partial(accounts.take_try, state_hash=digest(state)))
    if known is None or known["browser"] != digest(session_token(request)):
        problem = _("this sign-in was not begun in this browser, or took too long")
        return sign_in_page(request, error=SchoolAccountRefused(_("sign-in"), problem, _("Begin it again")), status=422)
    if not code:
        return sign_in_page(
            request,
            error=SchoolAccountRefused(_("sign-in"), _("it was broken off there"), _("Begin it again")),
            status=422,
        )
    try:
        claims = await provider.claims(back=_back(request), code=code, nonce=known["nonce"], verifier=known["verifier"])
        person = _person(request, claims)
        if known["joins"] is not None:
            await in_session(request, partial(accounts.join_account, person=person, user_id=known["joins"]))
            return RedirectResponse(request.url_for("password_form"), status_code=303)
        user_id = await _admitted(request, person, claims)
    except SchoolAccountRefused as exc:
        return sign_in_page(request, error=exc, status=502)
    except RigidBenchError as exc:
        return sign_in_page(request, error=exc, status=403)
    home = RedirectResponse(request.url_for("home"), status_code=303)
    return await let_in(request, user_id, home, issuer=person.issuer)


@router.get("/sign-in/school/out", name="out_of_school_account")
async def out_of_school_account(request: Request) -> Response:
    """Send a browser to where one signs out of the school account."""
    here = str(request.url_for("sign_in"))
    return RedirectResponse(await _provider(request).sign_out_address(back=here) or here, status_code=303)


def _back(request: Request) -> str:
    return str(request.url_for("from_school_account"))


def _person(request: Request, claims: Mapping[str, Any]) -> OutsidePerson:
    """Read who somebody is from what the provider claims.

    Raises
    ------
    FormRejected
        It gives no name that can be shown.
    """
    settings = request.app.state.settings
    parts = (str(claims.get(part) or "") for part in ("given_name", "family_name"))
    name = str(claims.get("name") or "") or " ".join(parts)
    return OutsidePerson(
        issuer=settings.oidc_issuer,
        subject=str(claims["sub"]),
        name=check_name(name),
        role=settings.role_of(claims),
        sourced_id=str(claims.get(settings.oidc_sourced_id_claim) or "")[:200],
    )


async def _admitted(request: Request, person: OutsidePerson, claims: Mapping[str, Any]) -> int:
    """Return who a person is here."""
    wanted = str(claims.get("preferred_username") or person.name).partition("@")[0]

    def admit(session: Session) -> int:
        return accounts.admit(session, person, login=free_login(session, wanted, set()))

    return await in_session(request, admit)
