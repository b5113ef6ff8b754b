"""Signing in and out: sessions, the second step, passkeys, one's own password."""

from datetime import timedelta

from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.store.log import log
from rigid_bench.store.queries import account_queries, people_queries
from rigid_bench.store.tables import Passkey, User


def start_session(
    session: Session, *, user_id: int, token_hash: str, lasts: timedelta, awaits_code: bool, issuer: str
) -> None:
    """Start a person's session; one that waits for the code of a second step is none yet.

    Parameters
    ----------
    issuer
        Who vouched for the person, where that was an account elsewhere.
    """
    people_queries.start_sign_in(
        session, user_id=user_id, token_hash=token_hash, lasts=lasts, awaits_code=awaits_code, issuer=issuer
    )
    if not awaits_code:
        log(session, "signed-in", who_id=user_id, class_id=None)


def end_session(session: Session, token_hash: str) -> str | None:
    """End a session; return who vouched for its person, where that was an account elsewhere."""
    return people_queries.end_sign_in(session, token_hash)


def note_refused(session: Session, user_id: int) -> None:
    """Note in the log that somebody did not get in as this person."""
    log(session, "sign-in-refused", who_id=None, class_id=None, person_id=user_id)


def change_own_password(session: Session, user_id: int, password_hash: str) -> None:
    """Keep a person's new password; all their sessions end."""
    account_queries.set_password(session, user_id, password_hash)


def begin_second_step(session: Session, user: User, *, secret: str, step: int) -> None:
    """Ask for codes of a secret from now on; the one of this step was used."""
    user.totp_secret, user.totp_step = secret, step
    log(session, "second-step-begun", who_id=user.id, class_id=None)


def end_second_step(session: Session, user: User) -> None:
    """Ask for codes no more."""
    user.totp_secret = None
    log(session, "second-step-ended", who_id=user.id, class_id=None)


def keep_passkey(session: Session, passkey: Passkey) -> None:
    """Let a person sign in with a passkey that a browser made."""
    session.add(passkey)
    log(session, "passkey-made", who_id=passkey.user_id, class_id=None)


def remove_passkey(session: Session, passkey_id: int, *, user_id: int) -> None:
    """Let nobody sign in with a passkey any more.

    Raises
    ------
    NotFound
        The person has none such.
    """
    if not people_queries.remove_passkey(session, passkey_id, user_id):
        raise NotFound(_("passkey"), _("you have no such passkey"), _("Load the page again"))
    log(session, "passkey-removed", who_id=user_id, class_id=None)
