"""The school's own accounts by OpenID Connect: from our address to what the provider claims of a person.

OpenID Connect Core 1.0 (code flow), Discovery 1.0, and PKCE (RFC 7636). Authlib speaks it; nothing is trusted that is
not signed with a key that the provider publishes, made for us, and for this one try.
"""

import time
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import httpx2
from authlib.common.errors import AuthlibBaseError
from authlib.integrations.httpx_client import AsyncOAuth2Client
from authlib.oidc.core import CodeIDToken
from authlib.oidc.discovery import OpenIDProviderMetadata, get_well_known_url
from joserfc import jwt
from joserfc.errors import JoseError
from joserfc.jwk import KeySet

from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.core.wording.language import _
from rigid_bench.settings import Settings

_SCOPE = "openid profile email"
#: Signatures with a published key; none that a secret, or nothing, could make (RFC 8725, 3.1).
_ALGORITHMS = ["RS256", "RS384", "RS512", "PS256", "ES256", "ES384", "Ed25519"]
#: What a provider publishes is asked for again after so long, seconds.
_KEPT_S = 3600.0
_PATIENCE_S = 10.0
#: Clocks may be off by so much, seconds.
_CLOCKS_S = 60


class SchoolAccountRefused(RigidBenchError):
    """The provider does not answer, or what it says of a person cannot be believed."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PublishedByProvider:
    """Where a provider's parts are, and the keys that it signs with."""

    metadata: Mapping[str, Any]
    keys: KeySet
    #: By the monotonic clock, seconds.
    asked_at_s: float


class OpenIdProvider:
    """The school's identity provider, as the settings name it."""

    def __init__(self, settings: Settings) -> None:
        self._settings = settings
        self._published: PublishedByProvider | None = None

    async def sign_in_address(self, *, back: str, state: str, nonce: str, verifier: str) -> str:
        """Return the provider's address to which a browser is sent.

        Parameters
        ----------
        back
            Our address to which it comes back.
        state, nonce, verifier
            Made for this one try; who has not all three can do nothing with the code that comes back.

        Raises
        ------
        SchoolAccountRefused
            The provider does not answer.
        """
        metadata = (await self._what_it_publishes()).metadata
        async with self._client(back) as client:
            address, _ = client.create_authorization_url(
                metadata["authorization_endpoint"], state=state, nonce=nonce, code_verifier=verifier
            )
        return str(address)

    async def claims(self, *, back: str, code: str, nonce: str, verifier: str) -> dict[str, Any]:
        """Exchange a code for what the provider claims of a person.

        Raises
        ------
        SchoolAccountRefused
            The code is not good, or the answer is not signed by the provider, for us, for this try, and now.
        """
        published = await self._what_it_publishes()
        try:
            async with self._client(back) as client:
                tokens = await client.fetch_token(
                    published.metadata["token_endpoint"], code=code, code_verifier=verifier
                )
                claims = await self._verified(tokens, nonce=nonce)
                if address := published.metadata.get("userinfo_endpoint"):
                    more = (await client.get(address)).raise_for_status().json()
                    # of the same person, or not at all (Core 1.0, 5.3.2)
                    claims = more | claims if more.get("sub") == claims["sub"] else claims
        except (AuthlibBaseError, JoseError, httpx2.HTTPError, ValueError, KeyError) as exc:
            problem = _("the school's accounts did not vouch for you ({name__})", name__=type(exc).__name__)
            raise SchoolAccountRefused(
                _("sign-in"), problem, _("Try again; if it stays, tell an administrator")
            ) from exc
        return claims

    async def sign_out_address(self, *, back: str) -> str | None:
        """Return where one signs out there, too (RP-Initiated Logout 1.0); None where that is nowhere."""
        address = (await self._what_it_publishes()).metadata.get("end_session_endpoint")
        if not address:
            return None
        asked = {"client_id": self._settings.oidc_client_id, "post_logout_redirect_uri": back}
        return str(httpx2.URL(address).copy_merge_params(asked))

    def _client(self, back: str) -> AsyncOAuth2Client:
        return AsyncOAuth2Client(
            self._settings.oidc_client_id,
            self._settings.oidc_client_secret,
            scope=_SCOPE,
            redirect_uri=back,
            code_challenge_method="S256",
            timeout=_PATIENCE_S,
        )

    async def _verified(self, tokens: Mapping[str, Any], *, nonce: str) -> dict[str, Any]:
        """Return what an ID token claims, once its signature and its claims hold (Core 1.0, 3.1.3.7)."""
        published = await self._what_it_publishes()
        try:
            token = jwt.decode(tokens["id_token"], published.keys, algorithms=_ALGORITHMS)
        except (JoseError, ValueError):  # signed with a key that is newer than what we know
            published = await self._what_it_publishes(anew=True)
            token = jwt.decode(tokens["id_token"], published.keys, algorithms=_ALGORITHMS)
        client_id = self._settings.oidc_client_id
        wanted = {
            "iss": {"essential": True, "value": published.metadata["issuer"]},
            "aud": {"essential": True, "value": client_id},
        }
        known = {"nonce": nonce, "client_id": client_id, "access_token": tokens.get("access_token")}
        claims = CodeIDToken(token.claims, token.header, wanted, known)
        claims.validate(leeway=_CLOCKS_S)
        return dict(claims)

    async def _what_it_publishes(self, *, anew: bool = False) -> PublishedByProvider:
        """Ask for the provider's documents, or take those of a while ago.

        Raises
        ------
        SchoolAccountRefused
            It does not answer, or its documents are not what they must be.
        """
        known = self._published
        if known is not None and not anew and time.monotonic() - known.asked_at_s < _KEPT_S:
            return known
        issuer = self._settings.oidc_issuer
        try:
            async with httpx2.AsyncClient(timeout=_PATIENCE_S, follow_redirects=True) as client:
                address = get_well_known_url(issuer, external=True)
                metadata = OpenIDProviderMetadata((await client.get(address)).raise_for_status().json())
                if metadata["issuer"].rstrip("/") != issuer:
                    raise ValueError(_("it calls itself {issuer}", issuer=metadata["issuer"]))
                keys = KeySet.import_key_set((await client.get(metadata["jwks_uri"])).raise_for_status().json())
        except (httpx2.HTTPError, httpx2.InvalidURL, ValueError, KeyError, AttributeError) as exc:
            problem = _("the school's accounts do not answer ({value})", value=exc or type(exc).__name__)
            raise SchoolAccountRefused(
                _("sign-in"), problem, _("Try again in a moment; if it stays, tell an administrator")
            ) from exc
        self._published = PublishedByProvider(metadata=metadata, keys=keys, asked_at_s=time.monotonic())
        return self._published
