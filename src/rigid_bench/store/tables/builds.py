"""Tables of what is handed in, of the runs of the grader, and of what teachers decide and students ask of them."""

from datetime import datetime
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, Index, LargeBinary, UniqueConstraint, func, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column, relationship

from rigid_bench.store.tables.base import Base
from rigid_bench.store.tables.exercises import ExerciseVersion
from rigid_bench.store.tables.people import User
from rigid_bench.store.tables.stored_files import StoredFile

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
    #: Handed in; a build that was only checked is measured and does not count.
    counts: Mapped[bool] = mapped_column(server_default="true", default=True)
    #: `Preview` in JSON, once the files were looked at.
    understood: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    #: What is being done just now, for the live line.
    progress: Mapped[str] = mapped_column(default="")
    #: Where, problem and next step, when the build could not be measured.
    error: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    version: Mapped[ExerciseVersion] = relationship()
    student: Mapped[User] = relationship()
    files: Mapped[list["BuildFile"]] = relationship(order_by="BuildFile.id")
    questions: Mapped[list["Question"]] = relationship(order_by="Question.id")
    runs: Mapped[list["Run"]] = relationship(order_by="Run.id")
    overrides: Mapped[list["Override"]] = relationship(order_by="Override.id")
    #: Those that were not taken back.
    returns: Mapped[list["Return"]] = relationship(
        order_by="Return.id",
        primaryjoin="and_(Build.id == Return.build_id, Return.taken_back_at.is_(None))",
        viewonly=True,
    )


class BuildFile(Base):
    """A file of a build, as it was handed in."""

    __tablename__ = "build_files"

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    size: Mapped[int]
    #: A picture, drawing or PDF beside the model: kept and shown, never measured.
    is_evidence: Mapped[bool] = mapped_column(server_default="false", default=False)
    digest: Mapped[str] = mapped_column(ForeignKey("stored_files.digest"), index=True)
    stored: Mapped[StoredFile] = relationship()

    @property
    def content(self) -> bytes:
        """The bytes of the file."""
        return self.stored.read()


class Scene(Base):
    """The triangles of a build and of its reference, for the comparison in 3D: gzipped JSON."""

    __tablename__ = "scenes"

    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), primary_key=True)
    content: Mapped[bytes] = mapped_column(LargeBinary)


class Run(Base):
    """One run of the grader over a build: the report is never altered."""

    __tablename__ = "runs"

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), index=True)
    version_id: Mapped[int] = mapped_column(ForeignKey("exercise_versions.id"))
    engine_version: Mapped[str]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    #: A trial with another version of the exercise, until the teacher applies it.
    is_trial: Mapped[bool] = mapped_column(server_default="false", default=False)
    report: Mapped[dict[str, Any]] = mapped_column(JSONB)
    #: Of each check that is not met: id, title, verdict, cause code or null, the check that it follows from or null.
    open_checks: Mapped[list[Any]] = mapped_column(JSONB, server_default="[]")
    version: Mapped[ExerciseVersion] = relationship()


class Override(Base):
    """A teacher's marks for one check, with the reason; the newest of a check that is not undone counts."""

    __tablename__ = "overrides"

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), index=True)
    check_id: Mapped[str]
    #: None for a comment that leaves the measured marks as they are.
    marks: Mapped[float | None]
    comment: Mapped[str]
    teacher_id: Mapped[int] = mapped_column(ForeignKey("users.id"))
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    #: Decisions made at once for several builds share it, and are undone at once.
    batch: Mapped[str | None] = mapped_column(index=True)
    undone_at: Mapped[datetime | None]
    teacher: Mapped[User] = relationship()


class Return(Base):
    """A build's card was returned to its student."""

    __tablename__ = "returns"
    #: A second press, or a second teacher, who knew of as many returns, returns nothing more.
    __table_args__ = (UniqueConstraint("build_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), index=True)
    teacher_id: Mapped[int] = mapped_column(ForeignKey("users.id"))
    returned_at: Mapped[datetime] = mapped_column(server_default=func.now())
    #: The marks as they were returned: what changes afterwards is said.
    total: Mapped[float | None]
    #: The how-manieth return of the build, from 1; those taken back count.
    number: Mapped[int] = mapped_column(server_default="1", default=1)
    #: Cards that were returned at once share it, and are taken back at once.
    batch: Mapped[str | None] = mapped_column(index=True)
    #: When one of its students first opened the card after it.
    seen_at: Mapped[datetime | None]
    taken_back_at: Mapped[datetime | None]


class Question(Base):
    """A student's question about one check, and the teacher's answer."""

    __tablename__ = "questions"
    #: The same question is asked once, however often the button is pressed.
    __table_args__ = (Index("one_question_once", "build_id", "check_id", text("md5(text)"), unique=True),)

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), index=True)
    check_id: Mapped[str]
    text: Mapped[str]
    asked_at: Mapped[datetime] = mapped_column(server_default=func.now())
    answer: Mapped[str | None]
    answered_at: Mapped[datetime | None]
