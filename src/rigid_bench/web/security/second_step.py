"""A second step of signing in: codes of an app, by time (TOTP, RFC 6238), each counted once."""

import pyotp

from rigid_bench.store.tables import User

#: Steps of half a minute by which a telephone's clock may be off (RFC 6238, 5.2).
_OFF = 1


def new_secret() -> str:
    """Return a secret, in base 32."""
    return pyotp.random_base32()


def address_for_app(secret: str, login: str) -> str:
    """Return what an app reads from a QR code."""
    return pyotp.TOTP(secret).provisioning_uri(name=login, issuer_name="Rigid Bench")


def step_of(secret: str, code: str, *, now_s: int) -> int | None:
    """Return the time step of a code, or None where it is not right.

    Examples
    --------
    RFC 6238, appendix B, the first test value, of which an app shows six digits:

    >>> step_of("GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ", "287082", now_s=59)
    1
    """
    totp, plain = pyotp.TOTP(secret), "".join(code.split())
    now = now_s // totp.interval
    return next(
        (
            step
            for step in range(now - _OFF, now + _OFF + 1)
            if pyotp.utils.strings_equal(plain, totp.generate_otp(step))
        ),
        None,
    )


def takes_code(user: User, code: str, *, now_s: int) -> bool:
    """Say whether a code lets a person in, and note that it was used: it does so once."""
    step = step_of(user.totp_secret, code, now_s=now_s) if user.totp_secret else None
    if step is None or step <= user.totp_step:
        return False
    user.totp_step = step
    return True
