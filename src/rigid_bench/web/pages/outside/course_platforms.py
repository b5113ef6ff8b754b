"""Course platforms that the school has: what was agreed with each, for administrators."""

from typing import Annotated

from fastapi import Form, Request
from fastapi.responses import RedirectResponse, Response

from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _
from rigid_bench.store.log import log
from rigid_bench.store.outside import courses
from rigid_bench.store.tables import CoursePlatform
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import Administrator, CheckedForm, DbSession, Id

router = page_router(prefix="/school/platforms")
#: Platforms on this machine itself are tried without HTTPS.
_SECURE = ("https://", "http://127.0.0.1", "http://localhost")


@router.get("", name="course_platforms")
def course_platforms(request: Request, user: Administrator, session: DbSession) -> Response:
    """Show them, with what is to be told to a new one."""
    return page(request, "course_platforms.html", platforms=courses.platforms(session))


@router.post("", name="add_platform", dependencies=[CheckedForm])
def add_platform(
    request: Request,
    user: Administrator,
    session: DbSession,
    name: Annotated[str, Form(max_length=100)] = "",
    issuer: Annotated[str, Form(max_length=500)] = "",
    client_id: Annotated[str, Form(max_length=500)] = "",
    deployments: Annotated[str, Form(max_length=2000)] = "",
    sign_in_url: Annotated[str, Form(max_length=500)] = "",
    token_url: Annotated[str, Form(max_length=500)] = "",
    keys_url: Annotated[str, Form(max_length=500)] = "",
) -> Response:
    """Keep what was agreed with a platform."""
    given = {"name": name, "issuer": issuer, "client_id": client_id}
    urls = {"sign_in_url": sign_in_url, "token_url": token_url, "keys_url": keys_url}
    values = {field: value.strip() for field, value in (given | urls).items()}
    known = [word for word in deployments.replace(",", " ").split() if word]
    empty = next((field for field, value in {**values, "deployments": known}.items() if not value), None)
    if empty:
        raise FormRejected(
            _("course platform"), _("something is missing"), _("Fill in all that the platform shows"), empty
        )
    wrong = next((field for field in urls if not values[field].startswith(_SECURE)), None)
    if wrong:
        raise FormRejected(
            _("address"),
            _("'{values}' does not begin with https://", values=values[wrong][:60]),
            _("Copy it anew"),
            wrong,
        )
    courses.add_platform(session, CoursePlatform(**values, deployments=known))
    log(session, "platform-added", who_id=user.id, class_id=None, name=values["name"])
    return RedirectResponse(request.url_for("course_platforms"), status_code=303)


@router.post("/{platform_id}/remove", name="remove_platform", dependencies=[CheckedForm])
def remove_platform(request: Request, platform_id: Id, user: Administrator, session: DbSession) -> Response:
    """Forget a platform; classes, people and marks stay here."""
    name = courses.remove_platform(session, platform_id)
    log(session, "platform-removed", who_id=user.id, class_id=None, name=name)
    return RedirectResponse(request.url_for("course_platforms"), status_code=303)
