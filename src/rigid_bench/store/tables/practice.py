"""Tables of practice: sets that are given to a class, and what was answered."""

from datetime import datetime

from sqlalchemy import ForeignKey, UniqueConstraint, func
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from rigid_bench.store.tables.base import Base


class PracticeSet(Base):
    """What a teacher gives a class to practise."""

    __tablename__ = "practice_sets"

    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    title: Mapped[str]
    kinds: Mapped[list[str]] = mapped_column(JSONB)
    #: None follows each student.
    level: Mapped[int | None]
    number: Mapped[int]
    until: Mapped[datetime | None]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())


class PracticeAnswer(Base):
    """One drill that a student answered, at the first try."""

    __tablename__ = "practice_answers"
    __table_args__ = (UniqueConstraint("student_id", "kind", "level", "seed"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    student_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), index=True)
    set_id: Mapped[int | None] = mapped_column(ForeignKey("practice_sets.id", ondelete="SET NULL"), index=True)
    kind: Mapped[str]
    level: Mapped[int]
    seed: Mapped[int]
    is_right: Mapped[bool]
    #: Cause code of the fault that was planted.
    slip: Mapped[str | None]
    answered_at: Mapped[datetime] = mapped_column(server_default=func.now())
