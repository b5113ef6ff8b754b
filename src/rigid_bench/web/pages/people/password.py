"""One's own password, and what one hears of by e-mail."""

import re
import time
from functools import partial
from typing import Annotated

from fastapi import Form, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from rigid_bench.app.people import sign_in as signing_in
from rigid_bench.app.people.account_fields import check_password
from rigid_bench.core.values.errors import FormRejected, RigidBenchError, TooManyTries
from rigid_bench.core.wording.language import N_, _
from rigid_bench.store.outside import accounts
from rigid_bench.store.queries import notice_queries, people_queries
from rigid_bench.store.queries.notice_queries import NoticeKind
from rigid_bench.web.figures.qr_code import qr_code
from rigid_bench.web.pages.people.sign_in import change_own_password, let_in
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import (
    CheckedForm,
    DbSession,
    SignedIn,
    Teacher,
    in_session,
    own_settings,
    person,
    signed_in,
)
from rigid_bench.web.security.passkeys import host_for_passkeys
from rigid_bench.web.security.passwords import in_turn, is_password
from rigid_bench.web.security.second_step import address_for_app, new_secret, step_of, takes_code
from rigid_bench.web.security.throttle import ACCOUNT

router = page_router(prefix="/password")
#: Roughly; the mail server knows (RFC 5321 allows much that nobody has).
_OF_STUDENTS: dict[NoticeKind, str] = {
    "returned": N_("a card is returned, or taken back"),
    "changed": N_("something on a returned card has changed"),
    "answered": N_("a question is answered"),
}
_OF_TEACHERS: dict[NoticeKind, str] = {
    "asked": N_("a student asks a question"),
    "held back": N_("cards are held back at the time set for returning them"),
}
_ADDRESS = re.compile(r"[^@\s]+@[^@\s]+\.[^@\s]+")


@router.get("", name="password_form")
def password_form(request: Request, user: SignedIn, session: DbSession) -> Response:
    """Show the form."""
    return _form(request, session, user.id, error=None, field="")


def _form(
    request: Request, session: Session, user_id: int, *, error: RigidBenchError | None, field: str, status: int = 200
) -> Response:
    own = people_queries.user_by_id(session, user_id)
    settings = request.app.state.settings
    has_mail = bool(settings.mail_server)
    kinds = _OF_TEACHERS if own and own.is_teacher else _OF_STUDENTS
    return page(
        request, "password.html", status=status, error=error, field=field, own=own, has_mail=has_mail, kinds=kinds,
        school=settings.oidc_name if settings.oidc_issuer else "", by_password=settings.password_sign_in,
        passkeys=people_queries.passkeys_of(session, user_id), takes_passkeys=bool(host_for_passkeys(request)),
        zone=own_settings(session, user_id), is_joined=settings.oidc_issuer in accounts.accounts_of(session, user_id),
    )  # fmt: skip


@router.post("/mail", name="want_mail", dependencies=[CheckedForm])
def want_mail(
    request: Request,
    user: SignedIn,
    session: DbSession,
    email: Annotated[str, Form(max_length=200)] = "",
    kinds: Annotated[list[NoticeKind], Form()] = [],  # noqa: B006 (FastAPI copies its defaults)
) -> Response:
    """Keep where notices go by e-mail, and which."""
    address = email.strip()
    if address and not _ADDRESS.fullmatch(address):
        raise FormRejected(
            _("e-mail"),
            _("'{address}' is no address", address=address[:60]),
            _("Write one such as name@school.example"),
            "email",
        )
    if kinds and not address:
        raise FormRejected(_("e-mail"), _("there is no address to write to"), _("Give one, or choose nothing"), "email")
    notice_queries.want_mail(session, user.id, email=address, kinds=kinds)
    return RedirectResponse(request.url_for("password_form"), status_code=303)


@router.post("/second-step", name="begin_second_step", dependencies=[CheckedForm])
def begin_second_step(request: Request, user: Teacher, session: DbSession) -> Response:
    """Show a new secret, to be read by an app; it counts once a code of it was given."""
    return _second_step(request, session, user.id, new_secret())


@router.post("/second-step/confirm", name="confirm_second_step", dependencies=[CheckedForm])
def confirm_second_step(
    request: Request, user: Teacher, session: DbSession, secret: Annotated[str, Form(max_length=64)] = "",
    code: Annotated[str, Form(max_length=20)] = "",
) -> Response:  # fmt: skip
    """Ask for codes of a secret from now on."""
    own = people_queries.user_by_id(session, user.id)
    if not re.fullmatch(r"[A-Z2-7]{32}", secret):
        raise FormRejected(_("second step"), _("the secret is not the one that was shown"), _("Begin anew"), "code")
    step = step_of(secret, code, now_s=int(time.time()))
    if step is None:
        error = FormRejected(
            _("code"), _("it is not that of the app"), _("Type the six digits that it shows now"), "code"
        )
        return _second_step(request, session, user.id, secret, error=error)
    signing_in.begin_second_step(session, own, secret=secret, step=step)
    return RedirectResponse(request.url_for("password_form"), status_code=303)


@router.post("/second-step/end", name="end_second_step", dependencies=[CheckedForm])
def end_second_step(
    request: Request, user: Teacher, session: DbSession, code: Annotated[str, Form(max_length=20)] = ""
) -> Response:
    """Ask for codes no more, once one was given."""
    request.app.state.throttle.take(ACCOUNT, f"code of {user.id}")
    own = people_queries.user_by_id(session, user.id)
    if not takes_code(own, code, now_s=int(time.time())):
        raise FormRejected(
            _("code"), _("it is not right, or was used already"), _("Type the one that the app shows now"), "code"
        )
    signing_in.end_second_step(session, own)
    return RedirectResponse(request.url_for("password_form"), status_code=303)


def _second_step(
    request: Request, session: Session, user_id: int, secret: str, *, error: FormRejected | None = None
) -> Response:
    own = people_queries.user_by_id(session, user_id)
    code = qr_code(address_for_app(secret, own.login))
    status = 422 if error else 200
    return page(request, "begin_second_step.html", status=status, secret=secret, code=code, error=error)


@router.post("", name="change_password", dependencies=[CheckedForm])
async def change_password(
    request: Request,
    old: Annotated[str, Form(max_length=1000)] = "",
    new: Annotated[str, Form(max_length=1000)] = "",
) -> Response:
    """Change it, and stay signed in here only."""
    own = await in_session(request, partial(_own, request))
    try:
        await run_in_threadpool(request.app.state.throttle.take, ACCOUNT, own.login)
        if not await in_turn(request, partial(is_password, old, own.password_hash)):
            problem = _("it is not the one you have now")
            raise FormRejected(_("old password"), problem, _("Type it again, or ask your teacher"), "old")
        check_password(new, field="new", of=(own.login, own.name))
    except (FormRejected, TooManyTries) as exc:
        status, field = (429, "") if isinstance(exc, TooManyTries) else (422, exc.field)
        return await in_session(request, partial(_refused, request, own.user_id, exc, field, status))
    await run_in_threadpool(request.app.state.throttle.forget, ACCOUNT, own.login)
    await change_own_password(request, own.user_id, new)
    return await let_in(request, own.user_id, RedirectResponse(request.url_for("home"), status_code=303))


def _refused(
    request: Request, user_id: int, error: RigidBenchError, field: str, status: int, session: Session
) -> Response:
    return _form(request, session, user_id, error=error, field=field, status=status)


def _own(request: Request, session: Session) -> people_queries.KnownPassword:
    return people_queries.password_of_person(session, signed_in(person(request, session)).id)
