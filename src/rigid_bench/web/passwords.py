"""Passwords and session tokens: argon2 hashes, random tokens of which only a digest is kept."""

import hashlib
import secrets

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

_HASHER = PasswordHasher()
#: Checked where there is no such person, so that the answer takes as long.
_NOBODY = _HASHER.hash(secrets.token_urlsafe(16))


def hash_password(password: str) -> str:
    """Return the argon2 hash of a password."""
    return _HASHER.hash(password)


def is_password(password: str, password_hash: str | None) -> bool:
    """Say whether a password fits a hash; without a hash it never does, after as long a time."""
    try:
        _HASHER.verify(password_hash or _NOBODY, password)
    except (VerificationError, InvalidHashError):
        return False
    return password_hash is not None


def new_token() -> str:
    """Return a token for a session cookie."""
    return secrets.token_urlsafe(32)


def digest(token: str) -> str:
    """Return what the database keeps of a token."""
    return hashlib.sha256(token.encode()).hexdigest()


def form_token(token: str) -> str:
    """Return the token that a session's forms carry; who cannot read the cookie cannot make it."""
    return hashlib.sha256(b"form:" + token.encode()).hexdigest()
