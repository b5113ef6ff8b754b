"""Puts work in the queue, in the transaction that keeps what it is about. Loads nothing that does the work."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any

import procrastinate
from sqlalchemy.orm import Session

from rigid_bench.store.queries import bench_queries, build_queries
from rigid_bench.store.tables import Bench, Build

#: Names of the jobs, as the queue keeps them.
GRADE, LOOK, TRY, DRAFT, BENCH = "grade_build", "look_at_build", "try_version", "examine_draft", "prepare_bench"
CHANGE = "follow_change"
APART, WAYS, STEP, PRINT = "draw_apart", "find_ways", "write_step", "print_cards"


def open_queue(connector: Any) -> procrastinate.App:
    """Return the queue on a connector, for putting work in."""
    return procrastinate.App(connector=connector)


def hand_in(
    session: Session,
    app: procrastinate.App,
    *,
    class_id: int,
    version_id: int,
    student_id: int,
    files: Mapping[str, bytes],
) -> int:
    """Keep a student's files and queue their measuring, both or neither.

    Parameters
    ----------
    session
        The job is put in the session's own transaction.
    app
        The queue.
    class_id, version_id, student_id
        Whose build for what.
    files
        By name, checked already.

    Returns
    -------
    int
        The id of the build.
    """
    build = build_queries.add_build(
        session, class_id=class_id, version_id=version_id, student_id=student_id, files=files
    )
    _defer(session, app, GRADE, build_id=build.id)
    return build.id


def look_at(
    session: Session,
    app: procrastinate.App,
    *,
    class_id: int,
    version_id: int,
    student_id: int,
    files: Mapping[str, bytes],
    evidence: Mapping[str, bytes] = MappingProxyType({}),
) -> int:
    """Keep the files that a student chose and queue a look at them; they do not count yet.

    Parameters and result are those of `hand_in`.
    """
    build = build_queries.add_build(
        session,
        class_id=class_id,
        version_id=version_id,
        student_id=student_id,
        files=files,
        state="looking",
        evidence=evidence,
    )
    _defer(session, app, LOOK, build_id=build.id)
    return build.id


def hand_in_chosen(session: Session, app: procrastinate.App, build: Build) -> None:
    """Let a build that was looked at count, and queue its measuring; a second time changes nothing."""
    if build_queries.count_build(session, build):
        _defer(session, app, GRADE, build_id=build.id)


def add_confirmed(session: Session, app: procrastinate.App, build: Build, build_file: bytes) -> None:
    """Put a build file with confirmed mates to a build that was looked at, and queue another look."""
    if build_queries.add_confirmed(session, build, build_file):
        _defer(session, app, LOOK, build_id=build.id)


def check_chosen(session: Session, app: procrastinate.App, build: Build) -> None:
    """Let a build that was looked at be measured without counting; a second time changes nothing."""
    if build_queries.check_build(session, build):
        _defer(session, app, GRADE, build_id=build.id)


def try_version(session: Session, app: procrastinate.App, *, build_id: int, version_id: int) -> None:
    """Queue a trial: measure a build by another version of its exercise, beside what counts."""
    _defer(session, app, TRY, build_id=build_id, version_id=version_id)


def examine_draft(session: Session, app: procrastinate.App, draft_id: int) -> None:
    """Queue a look at a draft of an exercise."""
    _defer(session, app, DRAFT, draft_id=draft_id)


def follow_change(session: Session, app: procrastinate.App, change_id: int) -> None:
    """Queue a look at what a change of sizes touches."""
    _defer(session, app, CHANGE, change_id=change_id)


def prepare_bench(session: Session, app: procrastinate.App, bench_id: int) -> None:
    """Queue the laying out of a bench."""
    _defer(session, app, BENCH, bench_id=bench_id)


def draw_apart(session: Session, app: procrastinate.App, bench: Bench, *, percent: int = 100) -> None:
    """Queue the drawing of a bench apart, as it stands, each part so much of its way out."""
    bench_queries.ask_apart(session, bench)
    _defer(session, app, APART, bench_id=bench.id, at=bench.at, percent=percent)


def find_ways(session: Session, app: procrastinate.App, bench: Bench) -> None:
    """Queue the search for how a bench comes apart, as it stands."""
    bench_queries.ask_ways(session, bench)
    _defer(session, app, WAYS, bench_id=bench.id, at=bench.at)


def write_step(session: Session, app: procrastinate.App, bench: Bench) -> None:
    """Queue the writing of a bench as a STEP file, as it stands."""
    bench_queries.ask_step_file(session, bench)
    _defer(session, app, STEP, bench_id=bench.id, at=bench.at)


def print_cards(session: Session, app: procrastinate.App, printout_id: int) -> None:
    """Queue the drawing of all cards of an exercise."""
    # builds that wait are measured before
    _defer(session, app, PRINT, priority=-1, printout_id=printout_id)


def _defer(session: Session, app: procrastinate.App, task: str, *, priority: int = 0, **what: int) -> None:
    connection = session.connection().connection.driver_connection
    app.configure_task(task, connection=connection, priority=priority).defer(**what)
