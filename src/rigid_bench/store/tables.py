"""The tables: people, classes, exercises and their versions, builds, runs of the grader, what teachers add."""

from datetime import datetime
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, Index, LargeBinary, UniqueConstraint, func
from sqlalchemy.dialects.postgresql import JSONB, TIMESTAMP
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


class Base(DeclarativeBase):
    """Base of all tables."""

    type_annotation_map = {datetime: TIMESTAMP(timezone=True), dict[str, Any]: JSONB}


class User(Base):
    """A teacher or a student: a display name and what signing in needs, no more."""

    __tablename__ = "users"
    __table_args__ = (CheckConstraint("role in ('teacher', 'student')", name="role_is_known"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    login: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    role: Mapped[str]
    password_hash: Mapped[str]


class SignIn(Base):
    """A signed-in session; only a hash of its token is kept."""

    __tablename__ = "sign_ins"

    token_hash: Mapped[str] = mapped_column(primary_key=True)
    user_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"))
    expires_at: Mapped[datetime]
    user: Mapped[User] = relationship(lazy="joined")


class Classroom(Base):
    """A class and its teacher."""

    __tablename__ = "classes"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    teacher_id: Mapped[int] = mapped_column(ForeignKey("users.id"))


class Membership(Base):
    """A student in a class."""

    __tablename__ = "memberships"

    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True)
    student_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), primary_key=True, index=True)


class ExerciseVersion(Base):
    """One version of an exercise; a version never changes."""

    __tablename__ = "exercise_versions"
    __table_args__ = (UniqueConstraint("exercise", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    #: The exercise's own id, such as "seed-drawer".
    exercise: Mapped[str]
    number: Mapped[int]
    title: Mapped[str]
    #: SHA-256 of the bundle.
    digest: Mapped[str]
    #: The bundle as a zip.
    bundle: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
    #: `exercise.json`, and `Prepared` in JSON: what pages show without loading the kernel.
    document: Mapped[dict[str, Any]] = mapped_column(JSONB, deferred=True)
    prepared: Mapped[dict[str, Any]] = mapped_column(JSONB, deferred=True)


class Assignment(Base):
    """An exercise version that a class works on."""

    __tablename__ = "assignments"

    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True)
    version_id: Mapped[int] = mapped_column(ForeignKey("exercise_versions.id"), primary_key=True)
    place: Mapped[int] = mapped_column(default=0)


#: States of a build that was chosen and does not count: being looked at, looked at, refused.
UNCOUNTED = ("looking", "looked", "refused")
COUNTED = ("queued", "measuring", "graded", "failed")


class Build(Base):
    """One handing-in by a student; at first only chosen, and counted when the student says so."""

    __tablename__ = "builds"
    __table_args__ = (
        CheckConstraint(f"state in ({', '.join(map(repr, (*UNCOUNTED, *COUNTED)))})", name="state_is_known"),
        Index("builds_by_student", "class_id", "version_id", "student_id", "id"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"))
    version_id: Mapped[int] = mapped_column(ForeignKey("exercise_versions.id"))
    student_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"))
    handed_in_at: Mapped[datetime] = mapped_column(server_default=func.now())
    state: Mapped[str] = mapped_column(default="queued")
    #: `Understood` in JSON, once the files were looked at.
    understood: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    #: What is being done just now, for the live line.
    progress: Mapped[str] = mapped_column(default="")
    #: Where, problem and next step, when the build could not be measured.
    error: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    version: Mapped[ExerciseVersion] = relationship()
    student: Mapped[User] = relationship()
    files: Mapped[list["BuildFile"]] = relationship(order_by="BuildFile.id")
    runs: Mapped[list["Run"]] = relationship(order_by="Run.id")
    overrides: Mapped[list["Override"]] = relationship(order_by="Override.id")
    returns: Mapped[list["Return"]] = relationship(order_by="Return.id")


class BuildFile(Base):
    """A file of a build, as it was handed in."""

    __tablename__ = "build_files"

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    size: Mapped[int]
    content: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)


class Run(Base):
    """One run of the grader over a build: the report is never altered."""

    __tablename__ = "runs"

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), index=True)
    version_id: Mapped[int] = mapped_column(ForeignKey("exercise_versions.id"))
    engine_version: Mapped[str]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    report: Mapped[dict[str, Any]] = mapped_column(JSONB)


class Override(Base):
    """A teacher's marks for one check, with the reason; the newest of a check counts."""

    __tablename__ = "overrides"

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), index=True)
    check_id: Mapped[str]
    marks: Mapped[float]
    comment: Mapped[str]
    teacher_id: Mapped[int] = mapped_column(ForeignKey("users.id"))
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())


class Return(Base):
    """A build's card was returned to its student."""

    __tablename__ = "returns"

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), index=True)
    teacher_id: Mapped[int] = mapped_column(ForeignKey("users.id"))
    returned_at: Mapped[datetime] = mapped_column(server_default=func.now())
