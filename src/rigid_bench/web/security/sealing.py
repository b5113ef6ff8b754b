"""New passwords, kept for an hour in a form that only their maker's session can read."""

import base64
import hashlib
import json
from collections.abc import Sequence
from dataclasses import asdict, dataclass

from cryptography.fernet import Fernet, InvalidToken

#: So long can they be printed, seconds.
KEPT_S = 3600


@dataclass(frozen=True, slots=True, kw_only=True)
class SignInCard:
    """What is handed out to one person."""

    name: str
    login: str
    password: str


def seal(cards: Sequence[SignInCard], *, token: str) -> bytes:
    """Seal cards with a session's token, which the database does not have."""
    return _key(token).encrypt(json.dumps([asdict(card) for card in cards]).encode())


def unseal(sealed: bytes, *, token: str) -> list[SignInCard] | None:
    """Return sealed cards; None for another session, or once their hour is over."""
    try:
        return [SignInCard(**card) for card in json.loads(_key(token).decrypt(sealed, ttl=KEPT_S))]
    except InvalidToken:
        return None


def _key(token: str) -> Fernet:
    return Fernet(base64.urlsafe_b64encode(hashlib.sha256(b"sign-in cards:" + token.encode()).digest()))
