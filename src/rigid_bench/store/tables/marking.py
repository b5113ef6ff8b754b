"""Tables around marking: hands, comments used again, notices, the log, printed cards."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, CheckConstraint, ForeignKey, Index, LargeBinary, UniqueConstraint, func
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column, relationship

from rigid_bench.store.tables.base import Base
from rigid_bench.store.tables.builds import Build
from rigid_bench.store.tables.people import User


class Hand(Base):
    """A student's raised hand in a lesson."""

    __tablename__ = "hands"

    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"))
    student_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"))
    check_id: Mapped[str]
    raised_at: Mapped[datetime] = mapped_column(server_default=func.now())
    lowered_at: Mapped[datetime | None]
    student: Mapped[User] = relationship()


class BankComment(Base):
    """A comment that a teacher used before, offered again where the same cause is found."""

    __tablename__ = "bank_comments"
    __table_args__ = (UniqueConstraint("teacher_id", "text"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    teacher_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"))
    text: Mapped[str]
    #: Code of the cause it was written for, or "".
    code: Mapped[str] = mapped_column(server_default="")
    used: Mapped[int] = mapped_column(server_default="1")


class Notice(Base):
    """Something that a student is told on the start page."""

    __tablename__ = "notices"

    id: Mapped[int] = mapped_column(primary_key=True)
    user_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), index=True)
    build_id: Mapped[int | None] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"))
    #: The return that it tells of: taken back without trace, it takes the notice along.
    return_id: Mapped[int | None] = mapped_column(ForeignKey("returns.id", ondelete="CASCADE"), index=True)
    text: Mapped[str]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    seen_at: Mapped[datetime | None]
    #: A `NoticeKind`; and when it was sent by e-mail, to somebody who wants that.
    kind: Mapped[str] = mapped_column(server_default="changed", default="changed")
    mailed_at: Mapped[datetime | None]
    build: Mapped[Build | None] = relationship()


class LogEntry(Base):
    """Who saw or changed what in a class: people by id, what was done as a code with parameters."""

    __tablename__ = "log_entries"
    __table_args__ = (Index("log_entries_by_action", "action", "id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int | None] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    #: What was done; `web/words/log_words.py` has the words of each.
    action: Mapped[str]
    #: Who did it; None for one who was erased, or for the program itself.
    who_id: Mapped[int | None] = mapped_column(ForeignKey("users.id", ondelete="SET NULL"), index=True)
    is_by_program: Mapped[bool] = mapped_column(server_default="false", default=False)
    #: Whom it was done to; None for one who was erased, or where it was nobody.
    person_id: Mapped[int | None] = mapped_column(ForeignKey("users.id", ondelete="SET NULL"), index=True)
    #: What else the words need, never a person's name.
    params: Mapped[dict[str, Any]] = mapped_column(JSONB, server_default="{}", default=dict)
    who: Mapped[User | None] = relationship(foreign_keys=who_id)
    person: Mapped[User | None] = relationship(foreign_keys=person_id)


class Backup(Base):
    """A backup that was written."""

    __tablename__ = "backups"

    id: Mapped[int] = mapped_column(primary_key=True)
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    #: The name of its file.
    name: Mapped[str]
    size: Mapped[int] = mapped_column(BigInteger)
    sha256: Mapped[str]


class Printout(Base):
    """All cards of an exercise as one PDF, made by a worker."""

    __tablename__ = "printouts"
    __table_args__ = (CheckConstraint("state in ('waiting', 'ready', 'refused')", name="printout_state_is_known"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    version_id: Mapped[int] = mapped_column(ForeignKey("exercise_versions.id"))
    maker_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"))
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    state: Mapped[str] = mapped_column(server_default="waiting", default="waiting")
    #: So many of so many cards are drawn.
    done: Mapped[int] = mapped_column(server_default="0", default=0)
    total: Mapped[int] = mapped_column(server_default="0", default=0)
    content: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    error: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
