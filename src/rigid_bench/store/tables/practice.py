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
    #: The exercise that its drills are made of; None for generated parts.
    version_id: Mapped[int | None] = mapped_column(ForeignKey("exercise_versions.id", ondelete="SET NULL"))
    #: So long is there for a drill; None without a clock.
    seconds: Mapped[int | None]
    #: What all right answers earn; None for practice alone.
    marks: Mapped[float | None]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())


class PracticeStart(Base):
    """When a student first saw a drill of a set with a clock."""

    __tablename__ = "practice_starts"

    student_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), primary_key=True)
    set_id: Mapped[int] = mapped_column(ForeignKey("practice_sets.id", ondelete="CASCADE"), primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    level: Mapped[int] = mapped_column(primary_key=True)
    seed: Mapped[int] = mapped_column(primary_key=True)
    started_at: Mapped[datetime] = mapped_column(server_default=func.now())


class PracticeAnswer(Base):
    """One drill that a student answered, at the first try."""

    __tablename__ = "practice_answers"
    __table_args__ = (
        UniqueConstraint(
            "student_id", "kind", "level", "seed", "version_id",
            name="practice_answers_once", postgresql_nulls_not_distinct=True,
        ),
    )  # fmt: skip

    id: Mapped[int] = mapped_column(primary_key=True)
    student_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), index=True)
    set_id: Mapped[int | None] = mapped_column(ForeignKey("practice_sets.id", ondelete="SET NULL"), index=True)
    kind: Mapped[str]
    level: Mapped[int]
    seed: Mapped[int]
    #: The exercise that the drill was made of.
    version_id: Mapped[int | None] = mapped_column(ForeignKey("exercise_versions.id"))
    is_right: Mapped[bool]
    #: Cause code of the fault that was planted.
    slip: Mapped[str | None]
    answered_at: Mapped[datetime] = mapped_column(server_default=func.now())
