"""From a course platform's launch to who comes, from which course and link (LTI 1.3 core, and deep linking 2.0).

The library checks the message; what it leaves to the program stands here: tries count once, in the browser that began
them, and are made for this program.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import requests
from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from pylti1p3.cookie import CookieService
from pylti1p3.deployment import Deployment
from pylti1p3.exception import LtiException, OIDCException
from pylti1p3.message_launch import MessageLaunch
from pylti1p3.oidc_login import OIDCLogin
from pylti1p3.redirect import Redirect
from pylti1p3.registration import Registration
from pylti1p3.request import Request as LtiRequest
from pylti1p3.session import SessionService
from pylti1p3.tool_config.abstract import ToolConfAbstract

from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.core.wording.language import _
from rigid_bench.jobs.course_service import PatientSession, registration_of
from rigid_bench.store.database import Database
from rigid_bench.store.outside import accounts, courses
from rigid_bench.store.outside.accounts import OutsidePerson
from rigid_bench.store.tables import CoursePlatform
from rigid_bench.web.security.passwords import digest

_CLAIM = "https://purl.imsglobal.org/spec/lti/claim/"
_TEACHING = {"Instructor", "TeachingAssistant", "ContentDeveloper", "Administrator"}


class LaunchRefused(RigidBenchError):
    """What a course platform sent cannot be believed, or does not say enough."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Launch:
    """Who comes from which course, and what for."""

    platform_id: int
    client_id: str
    deployment: str
    person: OutsidePerson
    course: str
    course_title: str
    #: What the platform calls the link; "" where an exercise is to be chosen.
    resource: str
    #: The exercise that a link of ours names; "" for none.
    exercise: str
    #: Where the course's people are listed, and the column of the link; "" for neither.
    members_url: str
    line_item: str
    #: Where a chosen exercise goes, as the platform sent it; None for a launch of a link.
    choosing: Mapping[str, Any] | None


class _Sent(LtiRequest):
    """A request's fields, as the library wants them."""

    def __init__(self, request: Request, fields: Mapping[str, str]) -> None:
        super().__init__()
        self._fields, self._is_secure = fields, request.url.scheme == "https"

    @property
    def session(self) -> dict[str, Any]:
        return {}

    def is_secure(self) -> bool:
        return self._is_secure

    def get_param(self, key: str) -> str:
        return self._fields.get(key, "")


@dataclass
class _Cookies(CookieService):
    """Cookies that come with a form from the platform's page, too: by HTTPS they say that they may (SameSite=None)."""

    request: Request
    to_set: dict[str, str] = field(default_factory=dict)

    def get_cookie(self, name: str) -> str | None:
        return self.request.cookies.get(self._named(name))

    def set_cookie(self, name: str, value: str | int, exp: int | None = 3600) -> None:
        self.to_set[self._named(name)] = str(value)

    def put_into(self, response: Response) -> None:
        is_secure = self.request.url.scheme == "https"
        for name, value in self.to_set.items():
            response.set_cookie(
                name, value, max_age=300, httponly=True, secure=is_secure, samesite="none" if is_secure else "lax"
            )

    @staticmethod
    def _named(name: str) -> str:
        # names of states are random: one cookie for each try
        return f"rigid_bench_lti_{name}"


class _Tries(SessionService):
    """Nonces in our database: each counts once (LTI security framework, 5.1.3; from memory)."""

    def __init__(self, request: _Sent, database: Database) -> None:
        super().__init__(request)
        self._database = database

    def save_nonce(self, nonce: str) -> None:
        with self._database.session() as session:
            accounts.keep_try(session, digest(f"lti:{nonce}"), {})

    def check_nonce(self, nonce: str) -> bool:
        with self._database.session() as session:
            return accounts.take_try(session, digest(f"lti:{nonce}")) is not None

    def check_state_is_valid(self, state: str, id_token_hash: str) -> bool:
        return False  # by its cookie alone

    def save_launch_data(self, key: str, jwt_body: Mapping[str, Any]) -> None:
        """Nothing is looked up later."""

    def set_state_valid(self, state: str, id_token_hash: str) -> None:
        """A launch counts once."""


class _Platforms(ToolConfAbstract[_Sent]):
    """The platforms that administrators registered."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def check_iss_has_one_client(self, iss: str) -> bool:
        return False

    def check_iss_has_many_clients(self, iss: str) -> bool:
        return True

    def find_registration_by_issuer(self, iss: str, *args: Any, **options: Any) -> Registration:
        return self.find_registration_by_params(iss, "")

    def find_registration_by_params(self, iss: str, client_id: str, *args: Any, **options: Any) -> Registration:
        with self._database.session() as session:
            platform = courses.platform_of(session, iss, client_id or None)
            if platform is None:
                raise LtiException(_("the school knows no such platform"))
            return registration_of(session, platform)

    def find_deployment(self, iss: str, deployment_id: str) -> Deployment | None:
        return self.find_deployment_by_params(iss, deployment_id, "")

    def find_deployment_by_params(
        self, iss: str, deployment_id: str, client_id: str, *args: Any, **options: Any
    ) -> Deployment | None:
        with self._database.session() as session:
            platform = courses.platform_of(session, iss, client_id or None)
            is_known = platform is not None and deployment_id in platform.deployments
        return Deployment().set_deployment_id(deployment_id) if is_known else None


class _Login(OIDCLogin):  # type: ignore[type-arg]  # five parameters that say nothing here
    def get_redirect(self, url: str) -> "_Away":
        return _Away(url)


class _Away(Redirect[Response]):
    def __init__(self, url: str) -> None:
        self._url = url

    def do_redirect(self) -> Response:
        return RedirectResponse(self._url, status_code=303)

    def do_js_redirect(self) -> Response:
        return self.do_redirect()

    def set_redirect_url(self, location: str) -> None:
        self._url = location

    def get_redirect_url(self) -> str:
        return self._url


class _Message(MessageLaunch):  # type: ignore[type-arg]
    def _get_request_param(self, key: str) -> str:
        return str(self._request.get_param(key))


def begin(request: Request, fields: Mapping[str, str], *, launch_url: str) -> Response:
    """Send a browser that a platform sent on to where the platform says who it is (third-party initiated sign-in).

    Raises
    ------
    LaunchRefused
        The platform is not one that the school registered.
    """
    database, sent, cookies = request.app.state.database, _Sent(request, fields), _Cookies(request)
    try:
        response: Response = _Login(sent, _Platforms(database), _Tries(sent, database), cookies).redirect(launch_url)
    except (OIDCException, LtiException) as exc:
        raise _refusal(exc) from exc
    cookies.put_into(response)
    return response


def check(request: Request, fields: Mapping[str, str]) -> Launch:
    """Check what a platform sent, and read it.

    Raises
    ------
    LaunchRefused
        It cannot be believed, or does not say who comes from where.
    """
    database, sent = request.app.state.database, _Sent(request, fields)
    message = _Message(sent, _Platforms(database), _Tries(sent, database), _Cookies(request), None, PatientSession())
    try:
        body: Mapping[str, Any] = message.validate().get_launch_data()
        _check_made_for_us(body, message.get_client_id())
    except (LtiException, requests.RequestException, ValueError, KeyError, TypeError) as exc:
        raise _refusal(exc) from exc
    with database.session() as session:
        platform = courses.platform_of(session, body["iss"], message.get_client_id())
        return _read(body, platform)


def _check_made_for_us(body: Mapping[str, Any], client_id: str) -> None:
    """Refuse a message that is for others, too, or never runs out: the library lets both by."""
    audience = body["aud"] if isinstance(body["aud"], list) else [body["aud"]]
    if audience != [client_id] and body.get("azp") != client_id:
        raise ValueError(_("it is for others, too"))
    if "exp" not in body:
        raise ValueError(_("it never runs out"))


def _read(body: Mapping[str, Any], platform: CoursePlatform | None) -> Launch:
    context, link = body.get(f"{_CLAIM}context") or {}, body.get(f"{_CLAIM}resource_link") or {}
    subject, name = body.get("sub"), body.get("name") or _joined(body)
    if platform is None or not subject or not name or not context.get("id"):
        missing = _("the course") if not context.get("id") else _("who you are")
        raise LaunchRefused(
            _("course"),
            _("the platform does not say {missing}", missing=missing),
            _("Let an administrator allow it to give names and courses"),
        )
    roles = {str(role).rpartition("#")[2] for role in body.get(f"{_CLAIM}roles") or ()}
    grades = body.get("https://purl.imsglobal.org/spec/lti-ags/claim/endpoint") or {}
    people = body.get("https://purl.imsglobal.org/spec/lti-nrps/claim/namesroleservice") or {}
    choosing = body.get("https://purl.imsglobal.org/spec/lti-dl/claim/deep_linking_settings")
    known = (body.get(f"{_CLAIM}lis") or {}).get("person_sourcedid")
    return Launch(
        platform_id=platform.id,
        client_id=platform.client_id,
        deployment=body[f"{_CLAIM}deployment_id"],
        person=OutsidePerson(
            issuer=platform.issuer, subject=str(subject), name=str(name),
            role="teacher" if roles & _TEACHING else "student", sourced_id=str(known or ""),
        ),
        course=str(context["id"]),
        course_title=str(context.get("title") or context.get("label") or context["id"]),
        resource=str(link.get("id") or ""),
        exercise=str((body.get(f"{_CLAIM}custom") or {}).get("exercise") or ""),
        members_url=str(people.get("context_memberships_url") or ""),
        line_item=str(grades.get("lineitem") or "") if _may_score(grades) else "",
        choosing=choosing,
    )  # fmt: skip


def _joined(body: Mapping[str, Any]) -> str:
    return " ".join(str(body[part]) for part in ("given_name", "family_name") if body.get(part))


def _may_score(grades: Mapping[str, Any]) -> bool:
    return "https://purl.imsglobal.org/spec/lti-ags/scope/score" in (grades.get("scope") or ())


def _refusal(exc: Exception) -> LaunchRefused:
    return LaunchRefused(
        _("course"),
        _("what the platform sent cannot be believed ({exc})", exc=exc),
        _("Open the link in the course again"),
    )
