"""The key of a stand-in, and what is signed with it."""

import time
from collections.abc import Mapping
from typing import Any

from joserfc import jwt
from joserfc.jwk import KeySet, RSAKey

_ALGORITHM = "RS256"
#: What is signed holds so long, seconds.
LASTS_S = 300


class Signer:
    """Signs claims with a key that is made anew at each start."""

    def __init__(self, kid: str = "stand-in") -> None:
        self.kid = kid
        self._key = RSAKey.generate_key(2048, {"kid": kid, "alg": _ALGORITHM, "use": "sig"}, private=True)

    def public_keys(self) -> dict[str, Any]:
        """Return the key set that others check signatures with."""
        return dict(KeySet([self._key]).as_dict(private=False))

    def sign(self, claims: Mapping[str, Any]) -> str:
        """Return claims as a signed token, made now."""
        now = int(time.time())
        held = {"iat": now, "exp": now + LASTS_S, **claims}
        return jwt.encode({"alg": _ALGORITHM, "kid": self.kid}, held, self._key)
