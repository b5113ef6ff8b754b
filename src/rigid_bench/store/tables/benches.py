"""Tables of benches and their steps."""

from datetime import datetime
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, Index, LargeBinary, func
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column, relationship

from rigid_bench.store.tables.base import Base
from rigid_bench.store.tables.exercises import ExerciseVersion
from rigid_bench.store.tables.people import User


class Bench(Base):
    """A student's bench for an exercise: parts to put together, and every step that was taken."""

    __tablename__ = "benches"
    __table_args__ = (
        CheckConstraint("state in ('waiting', 'ready', 'refused')", name="bench_state_is_known"),
        Index("benches_by_student", "class_id", "version_id", "student_id", "id"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"))
    version_id: Mapped[int] = mapped_column(ForeignKey("exercise_versions.id"))
    student_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"))
    #: The build that the teacher looks at on it; None for the student's own bench.
    build_id: Mapped[int | None] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), index=True)
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    state: Mapped[str] = mapped_column(server_default="waiting", default="waiting")
    error: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    #: The student's own models as a zip; None for the exercise's parts.
    files: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    #: `BenchParts` without triangles, in JSON; and with them, as gzipped JSON for the browser.
    parts: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    drawn: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    #: What contacts are found by, as `pack_collision_meshes` writes it.
    collision_meshes: Mapped[bytes | None] = mapped_column("skins", LargeBinary, deferred=True)
    #: `Exploded` in JSON, of the step `apart_at`; or `{"waiting": true}`, or an error's facts.
    apart: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    apart_at: Mapped[int] = mapped_column(server_default="0", default=0)
    #: `Ways` in JSON, of the step `ways_at`; None while they are looked for; or an error's facts.
    ways: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    ways_at: Mapped[int] = mapped_column(server_default="-1", default=-1)
    #: What stood there at the step `step_at` as a STEP file, or why there is none; -1 before one was asked for.
    step_file: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    step_error: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    step_at: Mapped[int] = mapped_column(server_default="-1", default=-1)
    #: By mate: what a teacher wrote on it, and who.
    notes: Mapped[dict[str, Any]] = mapped_column(JSONB, server_default="{}", default=dict)
    #: The number of the step at which it stands; 0 before the first.
    at: Mapped[int] = mapped_column(server_default="0", default=0)
    version: Mapped[ExerciseVersion] = relationship()
    student: Mapped[User] = relationship()


class BenchStep(Base):
    """One step on a bench, kept for good; an undone one too."""

    __tablename__ = "bench_steps"

    bench_id: Mapped[int] = mapped_column(ForeignKey("benches.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    #: The step from which it was taken.
    parent: Mapped[int]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    who: Mapped[str]
    words: Mapped[str]
    #: `BenchState` in JSON, after it.
    document: Mapped[dict[str, Any]] = mapped_column(JSONB)
