"""Tables of exercises: drafts, and released versions."""

from datetime import datetime
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, LargeBinary, UniqueConstraint, func
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column, relationship

from rigid_bench.store.tables.base import Base


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
    found: Mapped[list[Any]] = mapped_column(JSONB, server_default="[]")
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
    source: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
    #: The bundle as a zip, once something was made of the source.
    bundle: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    document: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    #: Earlier documents, oldest first.
    past: Mapped[list[Any]] = mapped_column(JSONB, server_default="[]")
    #: Documents that were undone, the one to be taken again first last.
    undone: Mapped[list[Any]] = mapped_column(JSONB, server_default="[]")
    #: `Examined` in JSON.
    examined: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    error: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    #: The solved assembly as `scene_of` draws it, and of which files.
    scene: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    scene_digest: Mapped[str] = mapped_column(server_default="", default="")
