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
