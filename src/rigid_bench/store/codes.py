"""Codes that people read aloud and type: no letter or digit that is taken for another."""

import secrets

_SIGNS = "ABCDEFGHJKMNPQRSTUVWXYZ23456789"


def new_code() -> str:
    """Return a class code, such as "K7P-4MX"."""
    signs = "".join(secrets.choice(_SIGNS) for _ in range(6))
    return f"{signs[:3]}-{signs[3:]}"


def new_password() -> str:
    """Return a password to be told to a student, and changed by them."""
    return "-".join("".join(secrets.choice(_SIGNS.lower()) for _ in range(4)) for _ in range(3))


def bare_code(code: str) -> str:
    """Return a code as it is compared, however it was typed.

    Examples
    --------
    >>> bare_code(" k7p 4mx")
    'K7P4MX'
    """
    return "".join(sign for sign in code.upper() if sign.isascii() and sign.isalnum())


def new_start_code() -> str:
    """Return a one-time code for the first start, such as "K7PX-4MXR-9ABD"."""
    signs = "".join(secrets.choice(_SIGNS) for _ in range(12))
    return "-".join(signs[k : k + 4] for k in (0, 4, 8))
