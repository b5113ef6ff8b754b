"""Jobs on benches: lay the parts out, draw them apart, find their ways out, write them as STEP."""

import gzip
from abc import abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from sqlalchemy.orm import Session

from rigid_bench.core.bench.documents import BenchState, LaidOut
from rigid_bench.core.formats.archive import read_zip
from rigid_bench.jobs import enqueue
from rigid_bench.jobs.job import Job, Tools
from rigid_bench.store.queries import bench_queries

#: An exercise's bundle, and the student's own files or None.
_Files = tuple[dict[str, bytes], dict[str, bytes] | None]


@dataclass(frozen=True, slots=True)
class NewBench:
    """A bench that nothing lies on yet."""

    bundle: bytes
    own_files: bytes | None
    student: str


@dataclass(frozen=True, slots=True)
class HeldBench:
    """What a bench holds at a step."""

    files: _Files
    state: BenchState
    #: Of its parts, by their ids there.
    names: dict[str, str]


def _unpacked(bundle: bytes, own_files: bytes | None) -> _Files:
    own = dict(read_zip(own_files, name="bench")) if own_files else None
    return dict(read_zip(bundle, name="exercise")), own


@dataclass(frozen=True, slots=True, kw_only=True)
class PrepareBench(Job[NewBench, LaidOut]):
    """Lay the parts of a bench out: those of the exercise, or the student's own."""

    bench_id: int
    NAME = enqueue.BENCH

    def load(self, session: Session) -> NewBench | None:
        """Take its files."""
        bench = bench_queries.bench_work(session, self.bench_id)
        return NewBench(bench.version.bundle, bench.files, bench.student.name) if bench else None

    def run(self, work: NewBench, tools: Tools) -> LaidOut:
        """Read the parts."""
        laid_out: LaidOut = tools.sandbox.run("benches.lay_out", *_unpacked(work.bundle, work.own_files), name="bench")
        return laid_out

    def keep(self, session: Session, work: NewBench, result: LaidOut) -> None:
        """Keep the parts, and the first step where the student's own build has one."""
        parts = result.parts
        first = BenchState(placed=parts.placed, mates=parts.mates).model_dump(mode="json")
        bench_queries.keep_parts(
            session,
            self.bench_id,
            parts=parts.model_dump(mode="json", exclude={"parts": {"__all__": {"vertices", "triangles", "faces"}}}),
            drawn=gzip.compress(parts.model_dump_json().encode(), mtime=0),
            collision_meshes=result.collision_meshes,
            first=first if parts.placed else None,
            who=work.student,
        )

    def refuse(self, session: Session, work: NewBench | None, error: Mapping[str, str]) -> None:
        """Keep why it could not be laid out."""
        bench_queries.refuse_bench(session, self.bench_id, dict(error))


@dataclass(frozen=True, slots=True, kw_only=True)
class _StepJob(Job[HeldBench, Any]):
    """A geometry task on what a bench held at a step."""

    bench_id: int
    at: int
    TASK: ClassVar[str]

    def load(self, session: Session) -> HeldBench | None:
        """Take what it held then."""
        bench = bench_queries.bench_work(session, self.bench_id)
        if bench is None:
            return None
        step = bench_queries.step_of(session, bench, self.at)
        names = {part["id"]: part["name"] for part in (bench.parts or {"parts": []})["parts"]}
        state = BenchState.model_validate(step.document) if step else BenchState()
        return HeldBench(_unpacked(bench.version.bundle, bench.files), state, names)

    def run(self, work: HeldBench, tools: Tools) -> Any:
        """Let the sandbox do it."""
        return tools.sandbox.run(self.TASK, *work.files, work.state, *self.options(work), name="bench")

    def options(self, work: HeldBench) -> tuple[Any, ...]:
        """Return what else the task is told."""
        return ()

    @abstractmethod
    def keep(self, session: Session, work: HeldBench, result: Any) -> None: ...


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawApart(_StepJob):
    """Draw apart what a bench held at a step."""

    percent: int = 100
    NAME, TASK = enqueue.APART, "benches.draw_apart"

    def options(self, work: HeldBench) -> tuple[Any, ...]:
        """How far on its way out each part is drawn."""
        return (self.percent / 100,)

    def keep(self, session: Session, work: HeldBench, result: Any) -> None:
        """Keep the drawing."""
        bench_queries.keep_apart(session, self.bench_id, at=self.at, apart=result.model_dump(mode="json"))

    def refuse(self, session: Session, work: HeldBench | None, error: Mapping[str, str]) -> None:
        """Keep why it is not drawn."""
        bench_queries.keep_apart(session, self.bench_id, at=self.at, apart=dict(error))


@dataclass(frozen=True, slots=True, kw_only=True)
class FindWays(_StepJob):
    """Find how what a bench held at a step comes apart."""

    NAME, TASK = enqueue.WAYS, "benches.find_bench_ways"

    def keep(self, session: Session, work: HeldBench, result: Any) -> None:
        """Keep the ways."""
        bench_queries.keep_ways(session, self.bench_id, at=self.at, ways=result.model_dump(mode="json"))

    def refuse(self, session: Session, work: HeldBench | None, error: Mapping[str, str]) -> None:
        """Keep why they are not known."""
        bench_queries.keep_ways(session, self.bench_id, at=self.at, ways=dict(error))


@dataclass(frozen=True, slots=True, kw_only=True)
class WriteStep(_StepJob):
    """Write what a bench held at a step as a STEP file."""

    NAME, TASK = enqueue.STEP, "benches.write_bench"

    def options(self, work: HeldBench) -> tuple[Any, ...]:
        """The names of its parts."""
        return (work.names,)

    def keep(self, session: Session, work: HeldBench, result: Any) -> None:
        """Keep the file."""
        bench_queries.keep_step_file(session, self.bench_id, at=self.at, file=result)

    def refuse(self, session: Session, work: HeldBench | None, error: Mapping[str, str]) -> None:
        """Keep why there is none."""
        bench_queries.keep_step_file(session, self.bench_id, at=self.at, error=dict(error))
