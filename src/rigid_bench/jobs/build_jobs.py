"""Jobs on builds: look at what was chosen, measure and grade it, try another version of its exercise."""

from abc import abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from sqlalchemy.orm import Session

from rigid_bench.core.formats.archive import read_zip
from rigid_bench.core.grading.report.models import ENGINE_VERSION
from rigid_bench.jobs import enqueue
from rigid_bench.jobs.graded import Graded, Previewed
from rigid_bench.jobs.job import Job, Result, Tools
from rigid_bench.store.queries import work_queries
from rigid_bench.store.queries.work_queries import Work


@dataclass(frozen=True, slots=True, kw_only=True)
class _BuildJob(Job[Work, Result]):
    """A geometry task on an exercise and the files of a build, which says in the build how far it is."""

    build_id: int
    TASK: ClassVar[str]

    def run(self, work: Work, tools: Tools) -> Result:
        """Let the sandbox do it."""

        def note(text: str) -> None:
            with tools.database.session() as session:
                work_queries.note_progress(session, self.build_id, text)

        bundle = dict(read_zip(work.bundle, name="exercise"))
        result: Result = tools.sandbox.run(self.TASK, bundle, work.files, name=", ".join(work.files), progress=note)
        return result

    @abstractmethod
    def load(self, session: Session) -> Work | None: ...


@dataclass(frozen=True, slots=True, kw_only=True)
class GradeBuild(_BuildJob[Graded]):
    """Measure and grade a build, once."""

    NAME, TASK = enqueue.GRADE, "grading.grade_files"

    def load(self, session: Session) -> Work | None:
        """Mark the build as being measured."""
        return work_queries.start_measuring(session, self.build_id)

    def keep(self, session: Session, work: Work, result: Graded) -> None:
        """Keep the run."""
        work_queries.finish_measuring(
            session,
            self.build_id,
            version_id=work.version_id,
            engine_version=ENGINE_VERSION,
            report=result.report.model_dump(mode="json"),
            scene=result.scene,
        )

    def refuse(self, session: Session, work: Work | None, error: Mapping[str, str]) -> None:
        """Say on the card why it could not be measured."""
        work_queries.fail_measuring(session, self.build_id, dict(error))


@dataclass(frozen=True, slots=True, kw_only=True)
class LookAtBuild(_BuildJob[Previewed]):
    """Say what is understood of a build before it counts."""

    NAME, TASK = enqueue.LOOK, "grading.preview_files"

    def load(self, session: Session) -> Work | None:
        """Take the files that were chosen."""
        return work_queries.start_looking(session, self.build_id)

    def keep(self, session: Session, work: Work, result: Previewed) -> None:
        """Keep what was understood."""
        understood = result.preview.model_dump(mode="json")
        work_queries.finish_looking(session, self.build_id, understood=understood, scene=result.scene)

    def refuse(self, session: Session, work: Work | None, error: Mapping[str, str]) -> None:
        """Keep why the files cannot be used."""
        work_queries.refuse_build(session, self.build_id, dict(error))


@dataclass(frozen=True, slots=True, kw_only=True)
class TryVersion(_BuildJob[Graded]):
    """Measure a build by another version of its exercise; the run counts once a teacher applies it."""

    version_id: int
    NAME, TASK = enqueue.TRY, "grading.grade_files"

    def load(self, session: Session) -> Work | None:
        """Take the build's files and the other version."""
        return work_queries.trial_work(session, self.build_id, self.version_id)

    def keep(self, session: Session, work: Work, result: Graded) -> None:
        """Keep the run beside what counts."""
        report: dict[str, Any] = result.report.model_dump(mode="json")
        work_queries.add_trial(
            session, self.build_id, version_id=self.version_id, engine_version=ENGINE_VERSION, report=report
        )

    def refuse(self, session: Session, work: Work | None, error: Mapping[str, str]) -> None:
        """Leave the build as it is."""
