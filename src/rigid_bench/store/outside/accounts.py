"""People who sign in with an account that they have elsewhere."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any, Literal

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import FormRejected, NotAllowed
from rigid_bench.core.wording.language import _
from rigid_bench.store.log import log
from rigid_bench.store.queries import people_queries
from rigid_bench.store.tables import OutsideAccount, OutsideTry, User

#: So long may somebody take to sign in elsewhere.
_PATIENCE = timedelta(minutes=15)


@dataclass(frozen=True, slots=True, kw_only=True)
class OutsidePerson:
    """What an issuer says of a person."""

    issuer: str
    subject: str
    name: str
    role: Literal["administrator", "teacher", "student"]
    #: What the school's own system calls the person; "" where the issuer does not say.
    sourced_id: str = ""

    @property
    def teaches(self) -> bool:
        """The issuer vouches for a teacher."""
        return self.role != "student"


def keep_try(session: Session, state_hash: str, known: Mapping[str, Any]) -> None:
    """Keep what is checked when somebody comes back; tries that have run out are forgotten."""
    session.execute(delete(OutsideTry).where(OutsideTry.expires_at < func.now()))
    session.add(OutsideTry(state_hash=state_hash, known=dict(known), expires_at=datetime.now(UTC) + _PATIENCE))


def look_at_try(session: Session, state_hash: str) -> dict[str, Any] | None:
    """Return what was kept of a try that is not over, and leave it."""
    own = (OutsideTry.state_hash == state_hash, OutsideTry.expires_at > func.now())
    return session.scalar(select(OutsideTry.known).where(*own))


def take_try(session: Session, state_hash: str) -> dict[str, Any] | None:
    """Return what was kept of a try, and forget it: it counts once; None where it is over or never was."""
    row = delete(OutsideTry).where(OutsideTry.state_hash == state_hash, OutsideTry.expires_at > func.now())
    return session.scalar(row.returning(OutsideTry.known))


def accounts_of(session: Session, user_id: int) -> list[str]:
    """List the issuers with whose accounts a person signs in."""
    query = select(OutsideAccount.issuer).where(OutsideAccount.user_id == user_id)
    return list(session.scalars(query.order_by(OutsideAccount.issuer)))


def join_account(session: Session, person: OutsidePerson, user_id: int) -> None:
    """Let a person of ours, who is signed in, sign in with an account elsewhere from now on.

    Raises
    ------
    FormRejected
        The account is somebody else's.
    """
    known = session.get(OutsideAccount, (person.issuer, person.subject))
    if known is not None and known.user_id != user_id:
        raise FormRejected(
            _("account"), _("somebody else signs in with it here"), _("Sign out there, and choose your own account")
        )
    if known is None:
        _join(session, person, user_id)


def leave_account(session: Session, user_id: int, issuer: str) -> None:
    """Let a person sign in with an issuer's accounts no more."""
    session.execute(delete(OutsideAccount).where(OutsideAccount.user_id == user_id, OutsideAccount.issuer == issuer))
    log(session, "outside-account-left", who_id=user_id, class_id=None, issuer=issuer)


def user_of(session: Session, person: OutsidePerson) -> int | None:
    """Return who somebody with an account elsewhere is here, or None for who is new."""
    known = session.get(OutsideAccount, (person.issuer, person.subject))
    user = None if known else _imported(session, person)
    return known.user_id if known else user.id if user else None


def admit(session: Session, person: OutsidePerson, *, login: str, home_teacher_id: int | None = None) -> int:
    """Return who somebody with an account elsewhere is here; whoever is new gets an account, without a password.

    Parameters
    ----------
    login
        For a new account: a sign-in name that nobody has.
    home_teacher_id
        For a new student: who answers for the account; None leaves it to the administrators.

    Raises
    ------
    NotAllowed
        The account here is disabled, or is a student's where the issuer says teacher, or the other way round.
    """
    known = session.get(OutsideAccount, (person.issuer, person.subject))
    user = session.get(User, known.user_id) if known else _imported(session, person)
    if user is None:
        user = people_queries.add_user(
            session, login=login, name=person.name, role=person.role, password_hash="", home_teacher_id=home_teacher_id
        )
        user.sourced_id = person.sourced_id
        log(session, "account-made-from-outside", who_id=None, class_id=None, person_id=user.id, issuer=person.issuer)
    if user.disabled_at:
        raise NotAllowed(_("account"), _("it may not sign in any more"), _("Ask an administrator of the school"))
    if user.is_teacher is not person.teaches:
        here, there = ("a teacher", "a student") if user.is_teacher else ("a student", "a teacher")
        raise NotAllowed(
            _("account"),
            _("here it is that of {here}, there of {there}", here=here, there=there),
            _("Ask an administrator of the school"),
        )
    if known is None:
        _join(session, person, user.id)
    return user.id


def _imported(session: Session, person: OutsidePerson) -> User | None:
    """Return the account that a list of the school's brought, by the school's own id, if just one has it."""
    if not person.sourced_id:
        return None
    users = session.scalars(select(User).where(User.sourced_id == person.sourced_id)).all()
    return users[0] if len(users) == 1 else None


def _join(session: Session, person: OutsidePerson, user_id: int) -> None:
    session.add(OutsideAccount(issuer=person.issuer, subject=person.subject, user_id=user_id))
    session.flush()
    log(session, "outside-account-joined", who_id=user_id, class_id=None, issuer=person.issuer)
