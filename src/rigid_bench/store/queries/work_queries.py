"""What the workers ask of the database, by name: builds to look at and to measure, and what was found."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import func, select, text, update
from sqlalchemy.orm import Session, selectinload

from rigid_bench.core.wording.language import _
from rigid_bench.store.queries.exercise_queries import version
from rigid_bench.store.tables import Build, BuildFile, Classroom, Run, Scene, StoredFile


@dataclass(frozen=True, slots=True, kw_only=True)
class Work:
    """What the worker needs to measure one build."""

    bundle: bytes
    version_id: int
    files: dict[str, bytes]


def start_looking(session: Session, build_id: int) -> Work | None:
    """Return the files of a build that is to be looked at; None if it is gone, or handed in already."""
    build = _with_files(session, build_id)
    if build is None or build.state != "looking":
        return None
    build.progress = _("Starting")
    return _work(build)


def finish_looking(session: Session, build_id: int, *, understood: dict[str, Any], scene: bytes | None) -> None:
    """Keep what was understood of a build that is not handed in yet, and how it looks."""
    values = {"state": "looked", "progress": "", "understood": understood}
    is_looking = (Build.id == build_id, Build.state == "looking")
    kept = session.execute(update(Build).where(*is_looking).values(**values).returning(Build.id)).scalar()
    if kept and scene:
        session.merge(Scene(build_id=build_id, content=scene))


def refuse_build(session: Session, build_id: int, error: dict[str, str]) -> None:
    """Keep why a build that was chosen cannot be used."""
    values = {"state": "refused", "progress": "", "error": error}
    session.execute(update(Build).where(Build.id == build_id, Build.state == "looking").values(**values))


def start_measuring(session: Session, build_id: int) -> Work | None:
    """Mark a build as being measured and return its files; None if it is gone, or graded already.

    A worker that is killed between keeping a report and telling the queue leaves a job that is taken up again.
    """
    build = _with_files(session, build_id)
    if build is None or build.state == "graded":
        return None
    build.state, build.progress, build.error = "measuring", _("Starting"), None
    return _work(build)


def _with_files(session: Session, build_id: int) -> Build | None:
    contents = selectinload(Build.files).joinedload(BuildFile.stored).undefer(StoredFile.content)
    query = select(Build).where(Build.id == build_id).options(contents)
    return session.scalar(query)


def _work(build: Build) -> Work:
    files = {file.name: file.content for file in build.files if not file.is_evidence}
    return Work(bundle=build.version.bundle, version_id=build.version_id, files=files)


@dataclass(frozen=True, slots=True, kw_only=True)
class ClassStorage:
    """What a class's hand-ins take."""

    class_id: int
    name: str
    builds: int
    #: Of the files that were handed in.
    size: int


def storage_by_class(session: Session) -> list[ClassStorage]:
    """List what each class's hand-ins take, the largest first."""
    builds, size = func.count(Build.id.distinct()), func.coalesce(func.sum(BuildFile.size), 0)
    query = (
        select(Classroom.id, Classroom.name, builds, size)
        .outerjoin(Build, Build.class_id == Classroom.id)
        .outerjoin(BuildFile, BuildFile.build_id == Build.id)
        .group_by(Classroom.id)
        .order_by(size.desc(), Classroom.name)
    )
    return [
        ClassStorage(class_id=class_id, name=name, builds=count, size=int(total))
        for class_id, name, count, total in session.execute(query)
    ]


def database_size(session: Session) -> int:
    """Return how many bytes the database takes on its disk."""
    return int(session.scalar(text("select pg_database_size(current_database())")) or 0)


def note_progress(session: Session, build_id: int, progress: str) -> None:
    """Keep what is being done with a build just now, while it is not done."""
    is_open = (Build.id == build_id, Build.state.in_(["looking", "measuring"]))
    session.execute(update(Build).where(*is_open).values(progress=progress))


def finish_measuring(
    session: Session,
    build_id: int,
    *,
    version_id: int,
    engine_version: str,
    report: dict[str, Any],
    scene: bytes | None = None,
) -> None:
    """Keep a run of the grader, and what the comparison in 3D shows; of two workers at one build, the first's."""
    values = {"state": "graded", "progress": "", "error": None}
    is_open = (Build.id == build_id, Build.state != "graded")
    if session.execute(update(Build).where(*is_open).values(**values).returning(Build.id)).scalar() is None:
        return
    run = Run(
        build_id=build_id, version_id=version_id, engine_version=engine_version, report=report,
        open_checks=open_checks(report),
    )  # fmt: skip
    session.add(run)
    if scene:
        session.merge(Scene(build_id=build_id, content=scene))


def open_checks(report: Mapping[str, Any]) -> list[list[Any]]:
    """Return what a report has open, in short: the migration that added it says the same in SQL."""
    return [
        [check["id"], check["title"], check["verdict"], (check.get("cause") or {}).get("code"), check.get("follows")]
        for check in report["checks"]
        if check["verdict"] != "met"
    ]


def trial_work(session: Session, build_id: int, version_id: int) -> Work | None:
    """Return the files of a build, with another version of its exercise; None if it is gone."""
    build = _with_files(session, build_id)
    if build is None:
        return None
    files = {file.name: file.content for file in build.files if not file.is_evidence}
    return Work(bundle=version(session, version_id).bundle, version_id=version_id, files=files)


def add_trial(session: Session, build_id: int, *, version_id: int, engine_version: str, report: dict[str, Any]) -> None:
    """Keep a run by another version of the exercise, which does not count yet."""
    run = Run(
        build_id=build_id, version_id=version_id, engine_version=engine_version, report=report, is_trial=True,
        open_checks=open_checks(report),
    )  # fmt: skip
    session.add(run)


def fail_measuring(session: Session, build_id: int, error: dict[str, str]) -> None:
    """Keep why a build could not be measured, unless another worker graded it meanwhile."""
    values = {"state": "failed", "progress": "", "error": error}
    session.execute(update(Build).where(Build.id == build_id, Build.state != "graded").values(**values))


def oldest_waiting_s(session: Session) -> float:
    """Return how long the oldest job that nobody has taken has waited, seconds; 0 where none waits."""
    query = text("""
        select coalesce(extract(epoch from now() - min(deferred.at)), 0) from procrastinate_jobs as job
        join procrastinate_events as deferred on deferred.job_id = job.id and deferred.type = 'deferred'
        where job.status = 'todo' and coalesce(job.scheduled_at, now()) <= now()
    """)
    return float(session.scalar(query) or 0.0)


def count_waiting(session: Session, task: str, build_ids: Collection[int]) -> int:
    """Count the jobs of a kind that wait, or are being done, for some builds."""
    query = text("""
        select count(*) from procrastinate_jobs
        where task_name = :task and status in ('todo', 'doing') and (args->>'build_id')::int = any(:build_ids)
    """)
    return int(session.scalar(query, {"task": task, "build_ids": list(build_ids)}) or 0)


def count_jobs(session: Session) -> dict[tuple[str, str], int]:
    """Count the jobs in the queue by what they do and how they stand: todo, doing, failed, ..."""
    query = text("select task_name, status::text, count(*) from procrastinate_jobs group by 1, 2 order by 1, 2")
    return {(task, status): count for task, status, count in session.execute(query)}


@dataclass(frozen=True, slots=True, kw_only=True)
class FailedJob:
    """A job that was given up."""

    id: int
    task: str
    attempts: int
    #: What it was to work on: names of numbers, and these.
    about: dict[str, Any]
    at: datetime | None


def failed_jobs(session: Session, *, limit: int = 50) -> list[FailedJob]:
    """List the jobs that were given up, the newest first."""
    query = text("""
        select job.id, job.task_name, job.attempts, job.args, max(event.at) as at from procrastinate_jobs as job
        left join procrastinate_events as event on event.job_id = job.id
        where job.status = 'failed' group by job.id order by job.id desc limit :limit
    """)
    return [
        FailedJob(id=row.id, task=row.task_name, attempts=row.attempts, about=row.args, at=row.at)
        for row in session.execute(query, {"limit": limit})
    ]


def retry_job(session: Session, job_id: int) -> bool:
    """Let a job that was given up be tried again, as often as a new one; False where there is none."""
    again = text("""
        update procrastinate_jobs set status = 'todo', attempts = 0, scheduled_at = null
        where id = :job_id and status = 'failed' returning id
    """)
    return session.scalar(again, {"job_id": job_id}) is not None


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkerView:
    """A worker that has said that it lives."""

    id: int
    last_heartbeat: datetime
    #: The task that it does just now; "" for none.
    doing: str


def workers(session: Session) -> list[WorkerView]:
    """List the workers that were heard of, with what each does."""
    query = text("""
        select worker.id, worker.last_heartbeat, coalesce(max(job.task_name), '') as doing
        from procrastinate_workers as worker
        left join procrastinate_jobs as job on job.worker_id = worker.id and job.status = 'doing'
        group by worker.id order by worker.id
    """)
    return [WorkerView(id=row.id, last_heartbeat=row.last_heartbeat, doing=row.doing) for row in session.execute(query)]


def live_workers(session: Session, *, silent_s: float) -> int:
    """Count the workers that have said that they live within so many seconds."""
    query = text("""
        select count(*) from procrastinate_workers where last_heartbeat > now() - make_interval(secs => :silent_s)
    """)
    return int(session.scalar(query, {"silent_s": silent_s}) or 0)
