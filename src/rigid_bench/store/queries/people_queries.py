"""What is asked of the database about people who sign in, by name."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy import delete, func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _
from rigid_bench.store.tables import (
    TEACHING,
    Passkey,
    SentForm,
    SignIn,
    User,
)

#: That a session is used is noted so often at most: not with every request.
_NOTED_EVERY = timedelta(minutes=1)
#: Sessions in a list.
_MOST_SIGN_INS = 500


@dataclass(frozen=True, slots=True, kw_only=True)
class Person:
    """Who is signed in: a plain value, so that an error page can show it after the transaction is gone."""

    id: int
    name: str
    role: str

    @property
    def is_teacher(self) -> bool:
        """Somebody who teaches: an administrator is a teacher, too."""
        return self.role in TEACHING

    @property
    def is_student(self) -> bool:
        """Somebody who hands in."""
        return self.role == "student"

    @property
    def is_administrator(self) -> bool:
        """Somebody who looks after the school's accounts."""
        return self.role == "administrator"


def user_by_login(session: Session, login: str) -> User | None:
    """Return the person with a sign-in name, or None."""
    return session.scalar(select(User).where(User.login == login))


def user_by_id(session: Session, user_id: int) -> User:
    """Return a person who is signed in, whole."""
    return session.get_one(User, user_id)


def add_user(
    session: Session, *, login: str, name: str, role: str, password_hash: str, home_teacher_id: int | None = None
) -> User:
    """Add somebody.

    Raises
    ------
    FormRejected
        Somebody has that sign-in name already, be it since a moment ago.
    """
    user = User(login=login, name=name, role=role, password_hash=password_hash, home_teacher_id=home_teacher_id)
    try:
        with session.begin_nested():
            session.add(user)
    except IntegrityError as exc:
        raise FormRejected(
            _("sign-in name"), _("'{login}' is taken", login=login), _("Choose another"), "login"
        ) from exc
    return user


@dataclass(frozen=True, slots=True, kw_only=True)
class KnownPassword:
    """What checking a password needs."""

    user_id: int
    login: str
    name: str
    password_hash: str
    #: A code is asked for, too.
    has_second_step: bool = False


def password_of(session: Session, *, login: str) -> KnownPassword | None:
    """Return what checking the password of a sign-in name needs; None where nobody with it may sign in."""
    user = user_by_login(session, login)
    return None if user is None or user.disabled_at else _known_password(user)


def password_of_person(session: Session, user_id: int) -> KnownPassword:
    """Return what checking the password of a person who is signed in needs."""
    return _known_password(user_by_id(session, user_id))


def _known_password(user: User) -> KnownPassword:
    return KnownPassword(
        user_id=user.id, login=user.login, name=user.name, password_hash=user.password_hash,
        has_second_step=user.totp_secret is not None,
    )  # fmt: skip


def renew_hash(session: Session, *, user_id: int, password_hash: str) -> None:
    """Keep another hash of the same password."""
    session.execute(update(User).where(User.id == user_id).values(password_hash=password_hash))


def start_sign_in(
    session: Session, *, user_id: int, token_hash: str, lasts: timedelta, awaits_code: bool = False, issuer: str = ""
) -> None:
    """Note that a person is signed in, or has to give a code yet, and forget sessions that have run out."""
    session.execute(delete(SignIn).where(SignIn.expires_at < func.now()))
    expires_at = datetime.now(UTC) + lasts
    session.add(
        SignIn(
            token_hash=token_hash, user_id=user_id, expires_at=expires_at, awaits_code=awaits_code, issuer=issuer
        )
    )  # fmt: skip


def person_awaiting_code(session: Session, token_hash: str) -> User | None:
    """Return whose password was right and whose code is waited for, locked; None where nobody's is."""
    is_open = (SignIn.token_hash == token_hash, SignIn.expires_at > func.now(), SignIn.awaits_code)
    query = select(User).join(SignIn, SignIn.user_id == User.id).where(*is_open, User.disabled_at.is_(None))
    return session.scalar(query.with_for_update(of=User).execution_options(populate_existing=True))


def signed_in_person(session: Session, token_hash: str, *, idle_minutes: int = 0) -> Person | None:
    """Return who a session belongs to, or None once it has run out, or was not used for so many minutes (0: any)."""
    is_open = (SignIn.token_hash == token_hash, SignIn.expires_at > func.now(), SignIn.awaits_code.is_(False))
    sign_in = session.scalar(select(SignIn).join(SignIn.user).where(*is_open, User.disabled_at.is_(None)))
    if sign_in is None:
        return None
    unused = datetime.now(UTC) - sign_in.used_at
    if idle_minutes and unused > timedelta(minutes=idle_minutes):
        return None
    if unused > _NOTED_EVERY:
        session.execute(update(SignIn).where(SignIn.token_hash == token_hash).values(used_at=func.now()))
    return Person(id=sign_in.user.id, name=sign_in.user.name, role=sign_in.user.role)


def open_sign_ins(session: Session, *, user_id: int | None = None) -> Sequence[SignIn]:
    """List the sessions that have not run out, of one person or of all, those used last first."""
    query = select(SignIn).where(SignIn.expires_at > func.now()).order_by(SignIn.used_at.desc()).limit(_MOST_SIGN_INS)
    return session.scalars(query if user_id is None else query.where(SignIn.user_id == user_id)).all()


def end_sign_in_of(session: Session, number: int) -> int | None:
    """End a session by its number; return whose it was, or None where there is none."""
    return session.scalar(delete(SignIn).where(SignIn.number == number).returning(SignIn.user_id))


def end_sign_in(session: Session, token_hash: str) -> str:
    """Forget a session; return who vouched for the person, "" where that was a password of ours."""
    row = delete(SignIn).where(SignIn.token_hash == token_hash).returning(SignIn.issuer)
    return session.scalar(row) or ""


def passkeys_of(session: Session, user_id: int) -> Sequence[Passkey]:
    """List a person's passkeys, the oldest first."""
    return session.scalars(select(Passkey).where(Passkey.user_id == user_id).order_by(Passkey.id)).all()


def passkey_to_sign_in(session: Session, credential_id: bytes) -> Passkey | None:
    """Return a passkey of somebody who may sign in, locked; None where there is none."""
    query = select(Passkey).join(User, User.id == Passkey.user_id)
    own = (Passkey.credential_id == credential_id, User.disabled_at.is_(None), User.role.in_(TEACHING))
    return session.scalar(query.where(*own).with_for_update(of=Passkey))


def remove_passkey(session: Session, passkey_id: int, user_id: int) -> bool:
    """Forget a person's passkey; False where the person has no such one."""
    row = delete(Passkey).where(Passkey.id == passkey_id, Passkey.user_id == user_id)
    return session.scalar(row.returning(Passkey.id)) is not None


def people_exist(session: Session) -> bool:
    """Say whether there is anybody yet."""
    return session.scalar(select(func.count()).select_from(User)) != 0


def keep_sent(session: Session, token: str) -> bool:
    """Note that a form was sent; False if it was before. Forms of yesterday are forgotten."""
    session.execute(delete(SentForm).where(SentForm.sent_at < func.now() - timedelta(days=1)))
    row = insert(SentForm).values(token=token).on_conflict_do_nothing().returning(SentForm.token)
    return session.scalar(row) is not None
