"""A stand-in for a school's identity provider: OpenID Connect's code flow with PKCE, for made-up people."""

import base64
import hashlib
import secrets
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Form, HTTPException, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from fastapi.security import HTTPBasic, HTTPBasicCredentials

from rigid_bench.demo.stand_in.pages import show
from rigid_bench.demo.stand_in.signing import LASTS_S, Signer


@dataclass(frozen=True, slots=True, kw_only=True)
class StandInPerson:
    """A made-up person with an account at the made-up school."""

    subject: str
    login: str
    name: str
    roles: tuple[str, ...]
    sourced_id: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class _Asked:
    """What was asked for when a person was sent here."""

    redirect_uri: str
    nonce: str
    challenge: str


class StandInIdentity:
    """An identity provider that asks nobody for a password."""

    def __init__(self, people: Sequence[StandInPerson], *, client_id: str, client_secret: str) -> None:
        self._people = {person.subject: person for person in people}
        self._client_id, self._client_secret = client_id, client_secret
        self._signer = Signer()
        self._codes: dict[str, tuple[StandInPerson, _Asked]] = {}
        self._tokens: dict[str, StandInPerson] = {}
        #: What a test makes of the claims before they are signed.
        self.alter: Callable[[dict[str, Any]], Mapping[str, Any]] = dict

    def router(self) -> APIRouter:
        """Return its pages and endpoints, all below /accounts."""
        router = APIRouter(prefix="/accounts")
        router.get("/.well-known/openid-configuration")(self._configuration)
        router.get("/keys")(self._keys)
        router.get("/authorize", response_class=HTMLResponse)(self._ask_who)
        router.get("/chosen")(self._send_back)
        router.post("/token")(self._give_tokens)
        router.get("/person")(self._tell_of_person)
        router.get("/out")(self._sign_out)
        return router

    def new_key(self) -> None:
        """Sign with another key from now on, as providers do from time to time."""
        self._signer = Signer(kid=secrets.token_hex(4))

    def _configuration(self, request: Request) -> dict[str, Any]:
        own = f"{request.base_url}accounts"
        return {
            "issuer": own,
            "authorization_endpoint": f"{own}/authorize",
            "token_endpoint": f"{own}/token",
            "userinfo_endpoint": f"{own}/person",
            "jwks_uri": f"{own}/keys",
            "end_session_endpoint": f"{own}/out",
            "response_types_supported": ["code"],
            "subject_types_supported": ["public"],
            "id_token_signing_alg_values_supported": ["RS256"],
        }

    def _keys(self) -> dict[str, Any]:
        return self._signer.public_keys()

    def _ask_who(
        self, client_id: str, redirect_uri: str, state: str, nonce: str, code_challenge: str,
        code_challenge_method: str, response_type: str,
    ) -> str:  # fmt: skip
        if (client_id, response_type, code_challenge_method) != (self._client_id, "code", "S256"):
            raise HTTPException(400, "that is not asked as it was agreed")
        asked = {"redirect_uri": redirect_uri, "state": state, "nonce": nonce, "challenge": code_challenge}
        return show("who.html", people=self._people.values(), asked=asked)

    def _send_back(self, subject: str, redirect_uri: str, state: str, nonce: str, challenge: str) -> Response:
        code = secrets.token_urlsafe(16)
        asked = _Asked(redirect_uri=redirect_uri, nonce=nonce, challenge=challenge)
        self._codes[code] = self._people[subject], asked
        return RedirectResponse(f"{redirect_uri}?code={code}&state={state}", status_code=303)

    def _give_tokens(
        self,
        request: Request,
        client: Annotated[HTTPBasicCredentials, Depends(HTTPBasic())],
        code: Annotated[str, Form()],
        redirect_uri: Annotated[str, Form()],
        code_verifier: Annotated[str, Form()],
    ) -> dict[str, Any]:
        person, asked = self._codes.pop(code, (None, None))
        challenge = base64.urlsafe_b64encode(hashlib.sha256(code_verifier.encode()).digest()).rstrip(b"=").decode()
        if (client.username, client.password) != (self._client_id, self._client_secret) or person is None:
            raise HTTPException(400, "invalid_grant")
        if asked is None or (redirect_uri, challenge) != (asked.redirect_uri, asked.challenge):
            raise HTTPException(400, "invalid_grant")
        access = secrets.token_urlsafe(16)
        self._tokens[access] = person
        own = f"{request.base_url}accounts"
        claims = {"iss": own, "aud": self._client_id, "sub": person.subject, "nonce": asked.nonce}
        token = self._signer.sign(self.alter(claims))
        return {"access_token": access, "token_type": "Bearer", "expires_in": LASTS_S, "id_token": token}

    def _tell_of_person(self, request: Request) -> dict[str, Any]:
        person = self._tokens.get(request.headers.get("authorization", "").removeprefix("Bearer "))
        if person is None:
            raise HTTPException(401)
        return {
            "sub": person.subject, "name": person.name, "preferred_username": person.login,
            "roles": list(person.roles), "sourced_id": person.sourced_id,
        }  # fmt: skip

    def _sign_out(self, post_logout_redirect_uri: str) -> Response:
        return RedirectResponse(post_logout_redirect_uri, status_code=303)
