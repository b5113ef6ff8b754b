"""Tables of classes: who teaches and who learns in them, and what is set."""

from datetime import datetime
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, Index, func, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column, relationship

from rigid_bench.store.tables.base import Base
from rigid_bench.store.tables.people import User


class Classroom(Base):
    """A class; its teachers are in `class_teachers`."""

    __tablename__ = "classes"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    #: With which students join.
    code: Mapped[str] = mapped_column(unique=True)
    #: `ClassSettings` in JSON: its word for mate, grades, time zone, decimal sign.
    settings: Mapped[dict[str, Any]] = mapped_column(JSONB, server_default="{}")
    #: Out of the way since then: it is read, and nothing is handed in to it any more.
    archived_at: Mapped[datetime | None]
    #: The secret part of its calendar's address; None where there is none.
    calendar_key: Mapped[str | None] = mapped_column(unique=True)


class Lesson(Base):
    """A lesson of a class, planned or given."""

    __tablename__ = "lessons"

    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    starts_at: Mapped[datetime]
    minutes: Mapped[int]
    room: Mapped[str] = mapped_column(server_default="", default="")
    title: Mapped[str] = mapped_column(server_default="", default="")


class ClassTeacher(Base):
    """A teacher of a class; several may share one.

    Its owner answers for it; a teacher does all but end others' share; an assistant marks and helps.
    """

    __tablename__ = "class_teachers"
    __table_args__ = (
        CheckConstraint("role in ('owner', 'teacher', 'assistant')", name="class_role_is_known"),
        Index("one_owner_a_class", "class_id", unique=True, postgresql_where=text("role = 'owner'")),
    )

    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True)
    teacher_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), primary_key=True, index=True)
    role: Mapped[str] = mapped_column(server_default="teacher", default="teacher")
    teacher: Mapped[User] = relationship()


class Membership(Base):
    """A student in a class."""

    __tablename__ = "memberships"

    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True)
    student_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), primary_key=True, index=True)


class Assignment(Base):
    """An exercise version that a class works on."""

    __tablename__ = "assignments"

    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True)
    version_id: Mapped[int] = mapped_column(ForeignKey("exercise_versions.id"), primary_key=True)
    place: Mapped[int] = mapped_column(default=0)
    due_at: Mapped[datetime | None]
    #: What a student sees before it is returned: the full card, verdicts only, or nothing.
    shows: Mapped[str] = mapped_column(server_default="full")
    #: So many hand-ins count at most; None for any number.
    attempts: Mapped[int | None]
    #: What happens to late builds: taken, taken with so many percent off, or refused.
    late: Mapped[str] = mapped_column(server_default="taken")
    late_percent: Mapped[float] = mapped_column(server_default="0")
    #: All cards that are ready are returned then; None for by hand.
    return_at: Mapped[datetime | None]
    #: In which lesson it is worked on.
    lesson_id: Mapped[int | None] = mapped_column(ForeignKey("lessons.id", ondelete="SET NULL"), index=True)
    #: Students see it from then on; None for at once.
    opens_at: Mapped[datetime | None]
    #: The exercise that comes before it, as parts before their assembly; "" for none.
    after: Mapped[str] = mapped_column(server_default="", default="")


class Terms(Base):
    """What is agreed with one student for one exercise: more time, absence, with whom they work."""

    __tablename__ = "terms"

    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True)
    version_id: Mapped[int] = mapped_column(ForeignKey("exercise_versions.id"), primary_key=True)
    student_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), primary_key=True)
    due_at: Mapped[datetime | None]
    is_absent: Mapped[bool] = mapped_column(server_default="false")
    #: Students with the same number work as a group now; None works alone. `group_memberships` has who was in it when:
    #: here it is read with everything else that is agreed, in one query.
    group_number: Mapped[int | None]


class GroupMembership(Base):
    """That a student was in a group for an exercise, from when until when."""

    __tablename__ = "group_memberships"
    __table_args__ = (
        Index(
            "one_group_at_a_time", "class_id", "version_id", "student_id", unique=True,
            postgresql_where=text("left_at is null"),
        ),
    )  # fmt: skip

    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"))
    version_id: Mapped[int] = mapped_column(ForeignKey("exercise_versions.id"))
    number: Mapped[int]
    student_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), index=True)
    #: None for pairs of before this was kept.
    joined_at: Mapped[datetime | None]
    left_at: Mapped[datetime | None]
    student: Mapped[User] = relationship()


class StageLesson(Base):
    """In which lesson a stage of an exercise is worked on, where that is not the exercise's own."""

    __tablename__ = "stage_lessons"

    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True)
    version_id: Mapped[int] = mapped_column(ForeignKey("exercise_versions.id"), primary_key=True)
    stage: Mapped[str] = mapped_column(primary_key=True)
    lesson_id: Mapped[int] = mapped_column(ForeignKey("lessons.id", ondelete="CASCADE"), index=True)


class Withdrawal(Base):
    """A check of an exercise that counts for nobody of a class any more."""

    __tablename__ = "withdrawals"

    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True)
    exercise: Mapped[str] = mapped_column(primary_key=True)
    check_id: Mapped[str] = mapped_column(primary_key=True)
    reason: Mapped[str]
    teacher_id: Mapped[int] = mapped_column(ForeignKey("users.id"))
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())


class StudentList(Base):
    """A list of students that a teacher typed, before it is taken."""

    __tablename__ = "student_lists"

    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    teacher_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"))
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    content: Mapped[str]


class Allowance(Base):
    """A classroom value for a fit, which the school has changed: gap a side, mm."""

    __tablename__ = "allowances"

    process: Mapped[str] = mapped_column(primary_key=True)
    action: Mapped[str] = mapped_column(primary_key=True)
    least: Mapped[float]
    most: Mapped[float]
