"""Tables of exercises: drafts, and released versions."""

from datetime import datetime
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, LargeBinary, UniqueConstraint, func
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column, relationship

from rigid_bench.store.tables.base import Base
from rigid_bench.store.tables.stored_files import StoredFile


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
    #: None for versions of before this was kept.
    released_at: Mapped[datetime | None] = mapped_column(server_default=func.now())


class ArchivedExercise(Base):
    """An exercise that is out of the way: readable, and given to nobody anew."""

    __tablename__ = "archived_exercises"

    exercise: Mapped[str] = mapped_column(primary_key=True)
    archived_at: Mapped[datetime] = mapped_column(server_default=func.now())


class ChangeRequest(Base):
    """Sizes of an exercise that a teacher wants to change, and what that touches; its drafts are made together."""

    __tablename__ = "change_requests"
    __table_args__ = (CheckConstraint("state in ('waiting', 'ready', 'refused')", name="change_state_is_known"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    teacher_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), index=True)
    version_id: Mapped[int] = mapped_column(ForeignKey("exercise_versions.id"))
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    state: Mapped[str] = mapped_column(server_default="waiting", default="waiting")
    #: `SizeChange` in JSON, each.
    sizes: Mapped[list[Any]] = mapped_column(JSONB)
    #: Of each exercise that it touches: version, parts, joined parts, and `TouchedCheck` in JSON.
    touched: Mapped[list[Any]] = mapped_column("found", JSONB, server_default="[]")
    error: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    version: Mapped[ExerciseVersion] = relationship()


class Draft(Base):
    """An exercise in the making: a teacher's model or bundle, and what was found of it."""

    __tablename__ = "drafts"
    __table_args__ = (CheckConstraint("state in ('waiting', 'ready', 'refused')", name="draft_state_is_known"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    teacher_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), index=True)
    #: The change of sizes that it was made for.
    change_id: Mapped[int | None] = mapped_column(ForeignKey("change_requests.id", ondelete="CASCADE"), index=True)
    title: Mapped[str]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    state: Mapped[str] = mapped_column(server_default="waiting", default="waiting")
    source_name: Mapped[str]
    source_digest: Mapped[str] = mapped_column(ForeignKey("stored_files.digest"), index=True)
    #: The step at which it stands, the oldest that can be gone back to and the newest that was undone; 0 before an
    #: exercise was made of the source.
    at: Mapped[int] = mapped_column(server_default="0", default=0)
    oldest: Mapped[int] = mapped_column(server_default="0", default=0)
    newest: Mapped[int] = mapped_column(server_default="0", default=0)
    #: Counts what was done to it: a job knows by it whether the draft is as it was read.
    revision: Mapped[int] = mapped_column(server_default="0", default=0)
    #: `Examined` in JSON.
    examined: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    #: `KeptEquations` in JSON, by part: what a change touches is audited again from them at once.
    equations: Mapped[dict[str, Any]] = mapped_column(JSONB, server_default="{}", default=dict, deferred=True)
    error: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    #: The solved assembly as `scene_of` draws it, and of which files.
    scene: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    scene_digest: Mapped[str] = mapped_column(server_default="", default="")
    source_file: Mapped[StoredFile] = relationship()
    #: All files of its bundle but the document.
    files: Mapped[list["DraftFile"]] = relationship(order_by="DraftFile.name")
    step: Mapped["DraftStep | None"] = relationship(
        primaryjoin="and_(DraftStep.draft_id == Draft.id, DraftStep.number == foreign(Draft.at))",
        viewonly=True,
        lazy="joined",
    )

    @property
    def document(self) -> dict[str, Any] | None:
        """`exercise.json` as it stands; None before an exercise was made of the source."""
        return self.step.document if self.step else None

    @property
    def can_undo(self) -> bool:
        """There is a step before."""
        return self.at > self.oldest

    @property
    def can_redo(self) -> bool:
        """There is a step that was undone."""
        return self.at < self.newest


class DraftStep(Base):
    """The document of a draft after a change."""

    __tablename__ = "draft_steps"

    draft_id: Mapped[int] = mapped_column(ForeignKey("drafts.id", ondelete="CASCADE"), primary_key=True)
    #: From 1.
    number: Mapped[int] = mapped_column(primary_key=True)
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    document: Mapped[dict[str, Any]] = mapped_column(JSONB)


class DraftFile(Base):
    """A file of a draft's bundle, by the digest of its content: a model, or the build of the assembly."""

    __tablename__ = "draft_files"

    draft_id: Mapped[int] = mapped_column(ForeignKey("drafts.id", ondelete="CASCADE"), primary_key=True)
    name: Mapped[str] = mapped_column(primary_key=True)
    digest: Mapped[str] = mapped_column(ForeignKey("stored_files.digest"), index=True)
    stored: Mapped[StoredFile] = relationship()
