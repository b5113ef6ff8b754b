"""Signing in with a passkey (Web Authentication, level 2): what a browser is asked for, and whether its answer holds.

A passkey is what somebody has (the device) and is or knows (what unlocks it), so no code is asked for beside it.
"""

import ipaddress
from collections.abc import Iterator, Sequence
from contextlib import contextmanager

from fastapi import Request
from webauthn import (
    generate_authentication_options,
    generate_registration_options,
    options_to_json,
    verify_authentication_response,
    verify_registration_response,
)
from webauthn.authentication.verify_authentication_response import VerifiedAuthentication
from webauthn.helpers import base64url_to_bytes, bytes_to_base64url
from webauthn.helpers.exceptions import WebAuthnException
from webauthn.helpers.structs import (
    AuthenticatorSelectionCriteria,
    PublicKeyCredentialDescriptor,
    ResidentKeyRequirement,
    UserVerificationRequirement,
)
from webauthn.registration.verify_registration_response import VerifiedRegistration

from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import N_

_UNLOCKED = UserVerificationRequirement.REQUIRED
_REFUSED = FormRejected(
    N_("passkey"), N_("it does not hold here"), N_("Try again, or sign in with your password"), "passkey"
)


@contextmanager
def _refused_where_it_does_not_hold() -> Iterator[None]:
    try:
        yield
    except (WebAuthnException, ValueError, KeyError, TypeError) as exc:
        raise _REFUSED from exc


def host_for_passkeys(request: Request) -> str:
    """Return the name that passkeys are bound to; "" where there is none: a bare address cannot have any (5.1.3)."""
    host = request.url.hostname or ""
    try:
        ipaddress.ip_address(host)
    except ValueError:
        return host if request.url.scheme == "https" or host == "localhost" else ""
    return ""


def registration_options(
    request: Request, *, challenge: bytes, user_id: int, login: str, name: str, known: Sequence[bytes]
) -> str:
    """Return what a browser is asked to make a passkey with, as JSON.

    Parameters
    ----------
    known
        Ids of the passkeys that the person has: one device makes no second one.
    """
    options = generate_registration_options(
        rp_id=host_for_passkeys(request),
        rp_name="Rigid Bench",
        user_id=str(user_id).encode(),
        user_name=login,
        user_display_name=name,
        challenge=challenge,
        authenticator_selection=AuthenticatorSelectionCriteria(
            resident_key=ResidentKeyRequirement.REQUIRED, user_verification=_UNLOCKED
        ),
        exclude_credentials=[PublicKeyCredentialDescriptor(id=own) for own in known],
    )
    return options_to_json(options)


def sign_in_options(request: Request, *, challenge: bytes) -> str:
    """Return what a browser is asked to sign in with, as JSON: any passkey that it has for this host."""
    options = generate_authentication_options(
        rp_id=host_for_passkeys(request), challenge=challenge, user_verification=_UNLOCKED
    )
    return options_to_json(options)


def checked_registration(request: Request, credential: str, *, challenge: bytes) -> VerifiedRegistration:
    """Check a passkey that a browser made.

    Raises
    ------
    FormRejected
        It was not made for this host, this challenge, or without unlocking the device.
    """
    with _refused_where_it_does_not_hold():
        return verify_registration_response(
            credential=credential,
            expected_challenge=challenge,
            expected_rp_id=host_for_passkeys(request),
            expected_origin=_origin(request),
            require_user_verification=True,
        )


def credential_id(credential: dict[str, object]) -> bytes:
    """Return which passkey a browser answers with.

    Raises
    ------
    FormRejected
        It does not say.
    """
    with _refused_where_it_does_not_hold():
        return base64url_to_bytes(str(credential["id"]))


def checked_sign_in(
    request: Request, credential: str, *, challenge: bytes, public_key: bytes, sign_count: int
) -> VerifiedAuthentication:
    """Check what a passkey signed.

    Raises
    ------
    FormRejected
        It is another's signature, or for another host or challenge, or its counter went back: it may be a copy (6.1.1).
    """
    with _refused_where_it_does_not_hold():
        return verify_authentication_response(
            credential=credential,
            expected_challenge=challenge,
            expected_rp_id=host_for_passkeys(request),
            expected_origin=_origin(request),
            credential_public_key=public_key,
            credential_current_sign_count=sign_count,
            require_user_verification=True,
        )


def challenge_as_text(challenge: bytes) -> str:
    """Return a challenge as it is kept."""
    return bytes_to_base64url(challenge)


def challenge_from_text(text: str) -> bytes:
    """Return a challenge that was kept."""
    return base64url_to_bytes(text)


def _origin(request: Request) -> str:
    return f"{request.url.scheme}://{request.url.netloc}"
