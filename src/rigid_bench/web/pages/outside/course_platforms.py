"""Course platforms that the school has: what was agreed with each, for administrators."""

from typing import Annotated

from fastapi import Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import Field

from rigid_bench.app.people import school
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _
from rigid_bench.store.outside import courses
from rigid_bench.store.tables import CoursePlatform
from rigid_bench.web.forms import FormModel
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


class PlatformForm(FormModel):
    """What was agreed with a platform, as typed."""

    name: str = Field(default="", max_length=100)
    issuer: str = Field(default="", max_length=500)
    client_id: str = Field(default="", max_length=500)
    deployments: str = Field(default="", max_length=2000)
    sign_in_url: str = Field(default="", max_length=500)
    token_url: str = Field(default="", max_length=500)
    keys_url: str = Field(default="", max_length=500)


#: Fields that are addresses.
_ADDRESSES = ("sign_in_url", "token_url", "keys_url")


@router.post("", name="add_platform", dependencies=[CheckedForm])
def add_platform(
    request: Request,
    user: Administrator,
    session: DbSession,
    form: Annotated[PlatformForm, Form()],
) -> Response:
    """Keep what was agreed with a platform."""
    values = {field: value.strip() for field, value in form.model_dump(exclude={"deployments"}).items()}
    known = [word for word in form.deployments.replace(",", " ").split() if word]
    empty = next((field for field, value in {**values, "deployments": known}.items() if not value), None)
    if empty:
        raise FormRejected(
            _("course platform"), _("something is missing"), _("Fill in all that the platform shows"), empty
        )
    wrong = next((field for field in _ADDRESSES if not values[field].startswith(_SECURE)), None)
    if wrong:
        raise FormRejected(
            _("address"),
            _("'{values}' does not begin with https://", values=values[wrong][:60]),
            _("Copy it anew"),
            wrong,
        )
    school.add_platform(session, CoursePlatform(**values, deployments=known), who=user)
    return RedirectResponse(request.url_for("course_platforms"), status_code=303)


@router.post("/{platform_id}/remove", name="remove_platform", dependencies=[CheckedForm])
def remove_platform(request: Request, platform_id: Id, user: Administrator, session: DbSession) -> Response:
    """Forget a platform; classes, people and marks stay here."""
    school.remove_platform(session, platform_id, who=user)
    return RedirectResponse(request.url_for("course_platforms"), status_code=303)
