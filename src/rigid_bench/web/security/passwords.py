"""Passwords and session tokens: argon2 hashes, random tokens of which only a digest is kept."""

import hashlib
import os
import secrets
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Annotated, Any, TypeVar

import anyio
from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from fastapi import Depends, Request

from rigid_bench.store.codes import new_password

#: OWASP Password Storage Cheat Sheet, Argon2id: at least 19 MiB, two passes, one lane (from memory).
OWASP: dict[str, Any] = {"memory_cost": 19_456, "time_cost": 2, "parallelism": 1}
_HASHER = PasswordHasher(**OWASP)
#: Checked where there is no such person, so that the answer takes as long.
_NOBODY = _HASHER.hash(secrets.token_urlsafe(16))


def hash_password(password: str) -> str:
    """Return the argon2 hash of a password."""
    return _HASHER.hash(password)


def is_password(password: str, password_hash: str | None) -> bool:
    """Say whether a password fits a hash; without a hash it never does, after as long a time."""
    try:
        _HASHER.verify(password_hash or _NOBODY, password)
    except InvalidHashError:  # somebody without a password: that takes as long, too
        return is_password(password, None)
    except VerificationError:
        return False
    return password_hash is not None


def is_outdated(password_hash: str) -> bool:
    """Say whether a hash was made with other parameters than those of today."""
    return _HASHER.check_needs_rehash(password_hash)


def hashing_turns() -> anyio.CapacityLimiter:
    """Return what lets one hash be worked out a core, and no more: each takes its whole share of memory and time."""
    return anyio.CapacityLimiter(len(os.sched_getaffinity(0)))


_T = TypeVar("_T")


async def in_turn(request: Request, work: Callable[[], _T]) -> _T:
    """Work out or check a hash off the event loop, once it is its turn."""
    return await anyio.to_thread.run_sync(work, limiter=request.app.state.hashing)


@dataclass(frozen=True, slots=True, kw_only=True)
class FreshPassword:
    """A password that was just made up, with its hash."""

    password: str
    password_hash: str


async def fresh_password(request: Request) -> FreshPassword:
    """Make up a password; as the first dependency of a route, before its transaction begins."""
    password = new_password()
    return FreshPassword(password=password, password_hash=await in_turn(request, partial(hash_password, password)))


NewPassword = Annotated[FreshPassword, Depends(fresh_password)]


def new_token() -> str:
    """Return a token for a session cookie."""
    return secrets.token_urlsafe(32)


def digest(token: str) -> str:
    """Return what the database keeps of a token."""
    return hashlib.sha256(token.encode()).hexdigest()


def form_token(token: str) -> str:
    """Return the token that a session's forms carry; who cannot read the cookie cannot make it."""
    return hashlib.sha256(b"form:" + token.encode()).hexdigest()
