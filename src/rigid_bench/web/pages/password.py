"""One's own password."""

from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response

from rigid_bench.core.errors import FormRejected
from rigid_bench.store import class_queries, queries
from rigid_bench.web.access import CheckedForm, DbSession, SignedIn
from rigid_bench.web.pages.sign_in import let_in
from rigid_bench.web.passwords import hash_password, is_password
from rigid_bench.web.people import check_password
from rigid_bench.web.render import page

router = APIRouter(prefix="/password")


@router.get("", name="password_form")
def password_form(request: Request, user: SignedIn) -> Response:
    """Show the form."""
    return page(request, "password.html", error=None)


@router.post("", name="change_password", dependencies=[CheckedForm])
def change_password(
    request: Request,
    user: SignedIn,
    session: DbSession,
    old: Annotated[str, Form(max_length=1000)] = "",
    new: Annotated[str, Form(max_length=1000)] = "",
) -> Response:
    """Change it, and stay signed in here only."""
    found = queries.user_by_id(session, user.id)
    try:
        if not is_password(old, found.password_hash):
            raise FormRejected("old password", "it is not the one you have now", "Type it again, or ask your teacher")
        password_hash = hash_password(check_password(new))
    except FormRejected as exc:
        return page(request, "password.html", status=422, error=exc)
    class_queries.set_password(session, found, password_hash)
    return let_in(request, session, found, RedirectResponse(request.url_for("home"), status_code=303))
