"""A stand-in for a school's course platform: one course of made-up people, with links, a roster and a mark book.

LTI 1.3 core, deep linking 2.0, names and roles 2.0, assignments and grades 2.0, as far as this program speaks them.
"""

import secrets
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal

import httpx2
from fastapi import APIRouter, Form, HTTPException, Request
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse, Response
from joserfc import jwt
from joserfc.errors import JoseError
from joserfc.jwk import KeySet

from rigid_bench.demo.stand_in.pages import show
from rigid_bench.demo.stand_in.signing import LASTS_S, Signer

CLIENT_ID, DEPLOYMENT, CONTEXT = "bench-at-courses", "d-1", "course-9b"
_CLAIM = "https://purl.imsglobal.org/spec/lti/claim/"
_ROLE = "http://purl.imsglobal.org/vocab/lis/v2/membership#"
_SCOPES = {
    "https://purl.imsglobal.org/spec/lti-ags/scope/score",
    "https://purl.imsglobal.org/spec/lti-nrps/scope/contextmembership.readonly",
}
#: Members on a page of the roster.
_PAGE = 20


@dataclass(frozen=True, slots=True, kw_only=True)
class CoursePerson:
    """A made-up person of the course."""

    subject: str
    name: str
    role: Literal["Instructor", "Learner"]
    sourced_id: str = ""


@dataclass(slots=True, kw_only=True)
class LinkInCourse:
    """A link that leads out of the course, and its column in the mark book."""

    number: int
    title: str
    custom: Mapping[str, str]
    most: float
    #: Subject -> what was told last of the person's mark.
    scores: dict[str, Mapping[str, Any]] = field(default_factory=dict)


class StandInCourse:
    """A course platform with one course; whoever opens it chooses who to be."""

    def __init__(self, title: str, people: Sequence[CoursePerson], *, program: str) -> None:
        """Make it.

        Parameters
        ----------
        program
            The address of the program to which its links lead.
        """
        self.title, self.program = title, program.rstrip("/")
        self.people = {person.subject: person for person in people}
        self.links: dict[int, LinkInCourse] = {}
        self._signer, self._tokens = Signer("course"), dict[str, set[str]]()
        #: With this status marks are refused, as long as it is set; in tests.
        self.refuses_with: int | None = None
        #: What a test makes of the claims before they are signed.
        self.alter: Callable[[dict[str, Any]], Mapping[str, Any]] = dict

    def router(self) -> APIRouter:
        """Return its pages and services, all below /course."""
        router = APIRouter(prefix="/course")
        router.get("", response_class=HTMLResponse)(self._show)
        router.get("/open")(self._open)
        router.get("/who", response_class=HTMLResponse)(self._vouch)
        router.post("/chosen", response_class=HTMLResponse)(self._take_chosen)
        router.get("/keys")(self._signer.public_keys)
        router.post("/token")(self._give_token)
        router.get("/people")(self._list_people)
        router.post("/columns/{number}/scores")(self._take_score)
        return router

    def agreed(self, address: str) -> dict[str, str]:
        """Return what an administrator of the program types about this platform, by field."""
        own = f"{address}/course"
        return {
            "name": "the course pages", "issuer": own, "client_id": CLIENT_ID, "deployments": DEPLOYMENT,
            "sign_in_url": f"{own}/who", "token_url": f"{own}/token", "keys_url": f"{own}/keys",
        }  # fmt: skip

    def _show(self, who: str = "") -> str:
        return show("course.html", course=self, who=self.people.get(who) or next(iter(self.people.values())))

    def _open(self, request: Request, who: str, link: int = 0) -> Response:
        """Begin a launch: of a link, or, without one, to choose an exercise."""
        asked = {
            "iss": f"{request.base_url}course", "login_hint": who, "lti_message_hint": str(link),
            "client_id": CLIENT_ID, "lti_deployment_id": DEPLOYMENT, "target_link_uri": f"{self.program}/lti/launch",
        }  # fmt: skip
        return RedirectResponse(str(httpx2.URL(f"{self.program}/lti/login", params=asked)), status_code=303)

    def _vouch(
        self, request: Request, client_id: str, redirect_uri: str, state: str, nonce: str, login_hint: str,
        response_mode: str, lti_message_hint: str = "0",
    ) -> str:  # fmt: skip
        if (client_id, redirect_uri, response_mode) != (CLIENT_ID, f"{self.program}/lti/launch", "form_post"):
            raise HTTPException(400, "that is not asked as it was agreed")
        claims = self._claims(f"{request.base_url}course", self.people[login_hint], int(lti_message_hint))
        token = self._signer.sign(self.alter({**claims, "nonce": nonce}))
        return show("send_on.html", address=redirect_uri, fields={"id_token": token, "state": state})

    def _claims(self, own: str, person: CoursePerson, number: int) -> dict[str, Any]:
        link = self.links.get(number)
        claims = {
            "iss": own, "aud": CLIENT_ID, "sub": person.subject, "name": person.name,
            f"{_CLAIM}version": "1.3.0", f"{_CLAIM}deployment_id": DEPLOYMENT,
            f"{_CLAIM}target_link_uri": f"{self.program}/lti/launch", f"{_CLAIM}roles": [f"{_ROLE}{person.role}"],
            f"{_CLAIM}context": {"id": CONTEXT, "title": self.title},
            f"{_CLAIM}lis": {"person_sourcedid": person.sourced_id},
            "https://purl.imsglobal.org/spec/lti-nrps/claim/namesroleservice": {
                "context_memberships_url": f"{own}/people", "service_versions": ["2.0"],
            },
        }  # fmt: skip
        if link is None:
            choosing = {
                "deep_link_return_url": f"{own}/chosen", "accept_types": ["ltiResourceLink"],
                "accept_presentation_document_targets": ["window"], "data": "kept for us",
            }  # fmt: skip
            return claims | {
                f"{_CLAIM}message_type": "LtiDeepLinkingRequest",
                "https://purl.imsglobal.org/spec/lti-dl/claim/deep_linking_settings": choosing,
            }
        return claims | {
            f"{_CLAIM}message_type": "LtiResourceLinkRequest",
            f"{_CLAIM}resource_link": {"id": f"link-{number}", "title": link.title},
            f"{_CLAIM}custom": dict(link.custom),
            "https://purl.imsglobal.org/spec/lti-ags/claim/endpoint": {
                "scope": sorted(_SCOPES), "lineitem": f"{own}/columns/{number}",
            },
        }  # fmt: skip

    def _program_keys(self) -> KeySet:
        return KeySet.import_key_set(httpx2.get(f"{self.program}/lti/keys").raise_for_status().json())

    def _take_chosen(self, token: Annotated[str, Form(alias="JWT")]) -> Response:
        """Put what was chosen into the course (deep linking 2.0, response)."""
        try:
            claims = jwt.decode(token, self._program_keys(), algorithms=["RS256"]).claims
        except (JoseError, ValueError) as exc:
            raise HTTPException(400, "it is not signed by the program") from exc
        if (
            claims.get("iss") != CLIENT_ID
            or claims["https://purl.imsglobal.org/spec/lti-dl/claim/data"] != "kept for us"
        ):
            raise HTTPException(400, "it is not an answer to what was asked")
        for item in claims["https://purl.imsglobal.org/spec/lti-dl/claim/content_items"]:
            number = len(self.links) + 1
            most = item["lineItem"]["scoreMaximum"]
            self.links[number] = LinkInCourse(number=number, title=item["title"], custom=item["custom"], most=most)
        return RedirectResponse("/course", status_code=303)

    def _give_token(
        self, client_assertion: Annotated[str, Form()], scope: Annotated[str, Form()],
        grant_type: Annotated[str, Form()],
    ) -> dict[str, Any]:  # fmt: skip
        """Give an access token for what is signed with the program's key (RFC 7523)."""
        try:
            claims = jwt.decode(client_assertion, self._program_keys(), algorithms=["RS256"]).claims
        except (JoseError, ValueError) as exc:
            raise HTTPException(401) from exc
        if grant_type != "client_credentials" or claims.get("sub") != CLIENT_ID or not set(scope.split()) <= _SCOPES:
            raise HTTPException(401)
        token = secrets.token_urlsafe(16)
        self._tokens[token] = set(scope.split())
        return {"access_token": token, "token_type": "Bearer", "expires_in": LASTS_S, "scope": scope}

    def _check_scope(self, request: Request, ending: str) -> None:
        token = request.headers.get("authorization", "").removeprefix("Bearer ")
        if not any(scope.endswith(ending) for scope in self._tokens.get(token, ())):
            raise HTTPException(403)

    def _list_people(self, request: Request, at: int = 0) -> Response:
        self._check_scope(request, "contextmembership.readonly")
        shown = list(self.people.values())[at : at + _PAGE]
        members = [
            {
                "user_id": person.subject, "name": person.name, "status": "Active",
                "roles": [f"{_ROLE}{person.role}"], "lis_person_sourcedid": person.sourced_id,
            }
            for person in shown
        ]  # fmt: skip
        answer = JSONResponse({"id": str(request.url), "context": {"id": CONTEXT}, "members": members})
        if at + _PAGE < len(self.people):
            answer.headers["link"] = f'<{request.url.include_query_params(at=at + _PAGE)}>; rel="next"'
        return answer

    async def _take_score(self, request: Request, number: int) -> Response:
        self._check_scope(request, "scope/score")
        if self.refuses_with is not None:
            return Response(status_code=self.refuses_with)
        score = await request.json()
        self.links[number].scores[score["userId"]] = score
        return Response(status_code=204)
