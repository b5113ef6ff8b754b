"""Tables of people, and of what signing in needs."""

from datetime import datetime

from sqlalchemy import ARRAY, BigInteger, CheckConstraint, ForeignKey, Identity, Index, LargeBinary, String, func
from sqlalchemy.orm import Mapped, mapped_column, relationship

from rigid_bench.store.tables.base import Base

#: Roles of people who teach.
TEACHING = ("administrator", "teacher")


class User(Base):
    """A person of the school: a display name and what signing in needs, no more.

    An administrator is a teacher who also looks after the school's accounts.
    """

    __tablename__ = "users"
    __table_args__ = (CheckConstraint("role in ('administrator', 'teacher', 'student')", name="role_is_known"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    login: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    role: Mapped[str]
    password_hash: Mapped[str]
    #: The teacher who made a student's account and answers for it; None leaves it to the administrators.
    home_teacher_id: Mapped[int | None] = mapped_column(ForeignKey("users.id", ondelete="SET NULL"), index=True)
    #: Where notices go by e-mail, and which kinds of them; "" for nowhere.
    email: Mapped[str] = mapped_column(server_default="", default="")
    mail_of: Mapped[list[str]] = mapped_column(ARRAY(String), server_default="{}", default=list)
    #: What the school's own system calls the person; "" where it was not told.
    sourced_id: Mapped[str] = mapped_column(server_default="", default="")
    #: The secret of the second step of signing in (RFC 6238), in base 32, and the time step of the code used last: a
    #: code counts once. None for signing in by password alone.
    totp_secret: Mapped[str | None]
    totp_step: Mapped[int] = mapped_column(server_default="0", default=0)
    #: Since when the person may not sign in.
    disabled_at: Mapped[datetime | None]

    @property
    def is_teacher(self) -> bool:
        """A teacher, or an administrator, who is one too."""
        return self.role in TEACHING


class SignIn(Base):
    """A signed-in session; only a hash of its token is kept."""

    __tablename__ = "sign_ins"

    token_hash: Mapped[str] = mapped_column(primary_key=True)
    user_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"))
    #: The password was right, and the code of the second step is waited for.
    awaits_code: Mapped[bool] = mapped_column(server_default="false", default=False)
    #: Who vouched for the person, where that was an account elsewhere; "" for a password of ours.
    issuer: Mapped[str] = mapped_column(server_default="", default="")
    #: A name for it that tells nothing of the token: by it the person, or an administrator, ends it.
    number: Mapped[int] = mapped_column(Identity(), unique=True)
    started_at: Mapped[datetime] = mapped_column(server_default=func.now())
    #: When it was last used, to some minutes.
    used_at: Mapped[datetime] = mapped_column(server_default=func.now())
    expires_at: Mapped[datetime]
    user: Mapped[User] = relationship(lazy="joined")


class StartCode(Base):
    """A one-time code that a server printed, with which the first person is made; only its hash is kept."""

    __tablename__ = "start_codes"

    code_hash: Mapped[str] = mapped_column(primary_key=True)
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())


class Try(Base):
    """A try of a password or code, so that they cannot be tried without end."""

    __tablename__ = "tries"
    __table_args__ = (Index("tries_of", "limit", "who", "made_at"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    #: Which limit counts it.
    limit: Mapped[str]
    #: A hash of the name or address that tried.
    who: Mapped[str]
    made_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp(), index=True)


class SentForm(Base):
    """A form that was sent and done: sent a second time, by a second press, it does nothing."""

    __tablename__ = "sent_forms"

    token: Mapped[str] = mapped_column(primary_key=True)
    sent_at: Mapped[datetime] = mapped_column(server_default=func.now(), index=True)


class SignInCards(Base):
    """Sign-in names with new passwords, to be printed: sealed with a key that only their maker's session has."""

    __tablename__ = "sign_in_cards"

    id: Mapped[int] = mapped_column(primary_key=True)
    maker_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), index=True)
    class_id: Mapped[int | None] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"))
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    sealed: Mapped[bytes] = mapped_column(LargeBinary)


class Passkey(Base):
    """A passkey with which a person signs in: its public half."""

    __tablename__ = "passkeys"

    id: Mapped[int] = mapped_column(primary_key=True)
    user_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), index=True)
    credential_id: Mapped[bytes] = mapped_column(LargeBinary, unique=True)
    public_key: Mapped[bytes] = mapped_column(LargeBinary)
    #: How often it signed, as far as its device counts: going back, it may be a copy.
    sign_count: Mapped[int] = mapped_column(BigInteger)
    #: What its owner calls it.
    name: Mapped[str]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    used_at: Mapped[datetime | None]
