"""An account: for its person, its home teacher and administrators; a new password, and erasing it with all it holds."""

from typing import Annotated

from fastapi import Form, Request
from fastapi.responses import RedirectResponse, Response

from rigid_bench.app.people import people
from rigid_bench.core.values.errors import NotAllowed
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries import account_queries
from rigid_bench.web.pages.people.sign_in_cards import keep_cards, reset, to_cards
from rigid_bench.web.render import drop_session_cookie, page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, ManagedAccount, SignedIn, Teacher
from rigid_bench.web.security.passwords import NewPassword

router = page_router(prefix="/accounts/{user_id}")


@router.get("", name="account")
def account(request: Request, person: ManagedAccount, user: SignedIn, session: DbSession) -> Response:
    """Show an account, and what erasing it would take away."""
    touched = account_queries.touched_by_erasing(session, person.id)
    return page(request, "account.html", account=person, touched=touched, is_own=person.id == user.id)


@router.post("/password", name="reset_account", dependencies=[CheckedForm])
def reset_account(
    request: Request, fresh: NewPassword, person: ManagedAccount, user: Teacher, session: DbSession
) -> Response:
    """Give the account a new password, shown to be handed out."""
    if person.id == user.id:
        raise NotAllowed(_("password"), _("your own is changed, not made anew"), _("Open your password page"))
    card = reset(session, person, fresh, who=user)
    return to_cards(request, keep_cards(request, session, user.id, [card], None))


@router.post("/erase", name="erase_account", dependencies=[CheckedForm])
def erase_account(
    request: Request,
    person: ManagedAccount,
    user: SignedIn,
    session: DbSession,
    sure: Annotated[str, Form(max_length=200)] = "",
) -> Response:
    """Erase a student's account in all classes, once the sign-in name is typed."""
    people.erase_account(session, person, who=user, typed=sure)
    if person.id == user.id:
        response = RedirectResponse(request.url_for("sign_in"), status_code=303)
        drop_session_cookie(request, response)
        return response
    return RedirectResponse(request.url_for("school" if user.is_administrator else "class_list"), status_code=303)
