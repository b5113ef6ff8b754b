"""Handing in is one transaction; a build outlives the worker that was measuring it."""

import signal

import pytest
from procrastinate import SyncPsycopgConnector
from procrastinate.testing import InMemoryConnector
from sqlalchemy import text

from benchmarks.school import hand_in_at_once
from rigid_bench.core.grading.report.models import ENGINE_VERSION
from rigid_bench.demo.seed_drawer import SAMPLES
from rigid_bench.jobs import enqueue
from rigid_bench.jobs.build_jobs import GradeBuild, TryVersion
from rigid_bench.jobs.job import Tools, perform
from rigid_bench.jobs.sandbox import Sandbox
from rigid_bench.jobs.work_queue import RESCUE, RETURN, open_work_queue
from rigid_bench.settings import Settings
from rigid_bench.store.database import Database
from rigid_bench.store.queries import work_queries
from rigid_bench.store.tables import Build
from tests.support.patience import PATIENCE_S, wait_until
from tests.support.running import start_worker
from tests.support.samples import files_of
from tests.support.school import School

RIGHT = files_of({sample.name: sample for sample in SAMPLES}["right"])


def hand_in(database: Database, school: School, files: dict[str, bytes] = RIGHT, *, fails: bool = False) -> int:
    app = enqueue.open_queue(SyncPsycopgConnector(conninfo=database.url))
    with database.session() as session:
        build_id = hand_in_at_once(
            session,
            app,
            class_id=school.class_id,
            version_id=school.version_id,
            student_id=school.student_id,
            files=files,
        )
        if fails:
            raise ConnectionError("the request ended here")
    return build_id


def state(database: Database, build_id: int) -> str:
    with database.session() as session:
        build = session.get(Build, build_id)
        return build.state if build else "gone"


def count(database: Database, table: str) -> int:
    with database.session() as session:
        count: int = session.execute(text(f"select count(*) from {table}")).scalar_one()
        return count


def test_files_and_job_are_kept_together_or_not_at_all(database: Database, school: School) -> None:
    before = [count(database, table) for table in ("builds", "build_files", "procrastinate_jobs")]
    with pytest.raises(ConnectionError):
        hand_in(database, school, fails=True)
    assert [count(database, table) for table in ("builds", "build_files", "procrastinate_jobs")] == before


def test_a_run_keeps_versions_and_report_and_is_kept_once(database: Database, school: School, sandbox: Sandbox) -> None:
    """Its worker may be killed before the queue knows; another, taken for dead, may end later than the first."""
    build_id = hand_in(database, school)
    job, tools = GradeBuild(build_id=build_id), Tools(database, sandbox)
    with database.session() as session:
        late_work = job.load(session)
    assert late_work
    perform(job, tools)
    perform(job, tools)
    late_result = job.run(late_work, tools)
    with database.session() as session:
        job.keep(session, late_work, late_result)
        job.refuse(session, late_work, {"where": "", "problem": "", "next_step": ""})
    with database.session() as session:
        build = session.get_one(Build, build_id)
        assert [(run.engine_version, run.version_id) for run in build.runs] == [(ENGINE_VERSION, school.version_id)]
        assert build.runs[0].report["percent"] == 100.0
        assert (build.state, build.error, build.progress) == ("graded", None, "")


def test_a_build_that_is_tried_waits_for_as_long_as_its_job_does(
    database: Database, school: School, sandbox: Sandbox
) -> None:
    build_id = hand_in(database, school)
    tools, trial = Tools(database, sandbox), TryVersion(build_id=build_id, version_id=school.version_id)
    perform(GradeBuild(build_id=build_id), tools)
    queue = enqueue.open_queue(SyncPsycopgConnector(conninfo=database.url))
    with database.session() as session:
        enqueue.enqueue(session, queue, enqueue.TRY, build_id=build_id, version_id=school.version_id)
    perform(trial, tools)
    with database.session() as session:
        assert work_queries.count_waiting(session, enqueue.TRY, [build_id]) == 1  # the queue was not told of its end
        assert session.get_one(Build, build_id).progress == ""
        session.execute(text("update procrastinate_jobs set status = 'succeeded' where task_name = 'try_version'"))
        assert work_queries.count_waiting(session, enqueue.TRY, [build_id]) == 0


def test_a_file_that_cannot_be_measured_leaves_a_message(database: Database, school: School, sandbox: Sandbox) -> None:
    build_id = hand_in(database, school, {"kit.step": b"ISO-10303-21;\nnonsense\nEND-ISO-10303-21;"})
    perform(GradeBuild(build_id=build_id), Tools(database, sandbox))
    with database.session() as session:
        build = session.get_one(Build, build_id)
        assert (build.state, build.runs) == ("failed", [])
        assert build.error
        assert set(build.error) == {"where", "problem", "next_step"}


def test_a_build_that_is_gone_is_passed_over(database: Database, sandbox: Sandbox) -> None:
    perform(GradeBuild(build_id=2**31 - 1), Tools(database, sandbox))


def test_all_tasks_are_known_to_the_queue() -> None:
    app = open_work_queue(InMemoryConnector(), chores_cron="* * * * *")
    assert {enqueue.GRADE, enqueue.PRINT, RESCUE, RETURN} <= set(app.tasks)


def test_a_killed_workers_build_is_taken_up_again(settings: Settings, database: Database, school: School) -> None:
    """SIGKILL in the middle of a measurement; another worker finishes it."""
    first = start_worker(settings)
    build_id = hand_in(database, school)
    wait_until(lambda: state(database, build_id) == "measuring")
    first.send_signal(signal.SIGKILL)
    first.wait()
    assert state(database, build_id) == "measuring"
    second = start_worker(settings)
    try:
        wait_until(lambda: state(database, build_id) == "graded")
    finally:
        second.terminate()
        second.wait(timeout=PATIENCE_S)
