"""What the workers ask of the database, by name: builds to look at and to measure, and what was found."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select, text, update
from sqlalchemy.orm import Session, selectinload

from rigid_bench.store.queries.exercise_queries import version
from rigid_bench.store.tables import Build, BuildFile, Run, Scene


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
    build.progress = "Starting"
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
    """Mark a build as being measured and return its files; None if it is gone."""
    build = _with_files(session, build_id)
    if build is None:
        return None
    build.state, build.progress, build.error = "measuring", "Starting", None
    return _work(build)


def _with_files(session: Session, build_id: int) -> Build | None:
    query = select(Build).where(Build.id == build_id).options(selectinload(Build.files).undefer(BuildFile.content))
    return session.scalar(query)


def _work(build: Build) -> Work:
    files = {each.name: each.content for each in build.files if not each.is_evidence}
    return Work(bundle=build.version.bundle, version_id=build.version_id, files=files)


def note_progress(session: Session, build_id: int, progress: str) -> None:
    """Keep what is being done with a build just now."""
    session.execute(update(Build).where(Build.id == build_id).values(progress=progress))


def finish_measuring(
    session: Session,
    build_id: int,
    *,
    version_id: int,
    engine_version: str,
    report: dict[str, Any],
    scene: bytes | None = None,
) -> None:
    """Keep a run of the grader beside all earlier ones, and what the comparison in 3D shows."""
    run = Run(
        build_id=build_id, version_id=version_id, engine_version=engine_version, report=report,
        open_checks=open_checks(report),
    )  # fmt: skip
    session.add(run)
    if scene:
        session.merge(Scene(build_id=build_id, content=scene))
    session.execute(update(Build).where(Build.id == build_id).values(state="graded", progress="", error=None))


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
    files = {each.name: each.content for each in build.files if not each.is_evidence}
    return Work(bundle=version(session, version_id).bundle, version_id=version_id, files=files)


def add_trial(session: Session, build_id: int, *, version_id: int, engine_version: str, report: dict[str, Any]) -> None:
    """Keep a run by another version of the exercise, which does not count yet."""
    run = Run(
        build_id=build_id, version_id=version_id, engine_version=engine_version, report=report, is_trial=True,
        open_checks=open_checks(report),
    )  # fmt: skip
    session.add(run)


def fail_measuring(session: Session, build_id: int, error: dict[str, str]) -> None:
    """Keep why a build could not be measured."""
    session.execute(update(Build).where(Build.id == build_id).values(state="failed", progress="", error=error))


def oldest_waiting_s(session: Session) -> float:
    """Return how long the oldest job that nobody has taken has waited, seconds; 0 where none waits."""
    query = text("""
        select coalesce(extract(epoch from now() - min(deferred.at)), 0) from procrastinate_jobs as job
        join procrastinate_events as deferred on deferred.job_id = job.id and deferred.type = 'deferred'
        where job.status = 'todo' and coalesce(job.scheduled_at, now()) <= now()
    """)
    return float(session.scalar(query) or 0.0)


def live_workers(session: Session, *, silent_s: float) -> int:
    """Count the workers that have said that they live within so many seconds."""
    query = text("""
        select count(*) from procrastinate_workers where last_heartbeat > now() - make_interval(secs => :silent_s)
    """)
    return int(session.scalar(query, {"silent_s": silent_s}) or 0)
