"""A worker outlives its database, waits for a server to bring it up to date, and is told of as long as it lives."""

import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import psycopg
import pytest

from rigid_bench.processes import ending_with_parent
from rigid_bench.settings import Settings
from rigid_bench.store.cluster import Cluster
from rigid_bench.store.database import Database, is_migrated, migrate
from rigid_bench.store.queries import work_queries
from tests.support.leave_nothing import destroyed_after
from tests.support.patience import PATIENCE_S, wait_until
from tests.support.program import serving
from tests.support.school import Visitor


@pytest.fixture
def own_cluster(tmp_path: Path) -> Iterator[Cluster]:
    with destroyed_after(Cluster(tmp_path)) as cluster:
        cluster.start()
        yield cluster


@pytest.fixture
def url(own_cluster: Cluster) -> str:
    return own_cluster.start()


class Worker:
    """A worker's process, with what it wrote."""

    def __init__(self, url: str, folder: Path) -> None:
        self.log = folder / "worker.log"
        given = {"RIGID_BENCH_DATABASE_URL": url, "RIGID_BENCH_HEARTBEAT_SECONDS": "0.5"}
        with self.log.open("w") as written:
            self.process = subprocess.Popen(
                [sys.executable, "-m", "rigid_bench.cli", "worker"],
                env={**os.environ, **given},
                stderr=written,
                start_new_session=True,
                preexec_fn=ending_with_parent(),
            )

    def stop(self) -> int:
        self.process.send_signal(signal.SIGTERM)
        return self.process.wait(timeout=PATIENCE_S)

    @property
    def words(self) -> str:
        return self.log.read_text()


@pytest.fixture
def worker(url: str, tmp_path: Path) -> Iterator[Worker]:
    worker = Worker(url, tmp_path)
    yield worker
    if worker.process.poll() is None:
        os.killpg(worker.process.pid, signal.SIGKILL)
        worker.process.wait()


def test_a_worker_of_an_older_version_takes_no_more_jobs_once_the_database_was_upgraded(
    url: str, worker: Worker
) -> None:
    migrate(url)
    wait_until(lambda: "worker started" in worker.words)
    newest = set_revision(url, "9999")
    wait_until(lambda: "taking no more jobs" in worker.words)
    wait_until(lambda: "waiting until a server brings" in worker.words)
    assert worker.process.poll() is None, "it waits, and says so"
    set_revision(url, newest)
    wait_until(lambda: worker.words.count("worker started") == 2)
    assert worker.stop() == 0


def set_revision(url: str, revision: str) -> str:
    """Say that the database is at a revision; return at which it was."""
    with psycopg.connect(url) as connection:
        row = connection.execute("select version_num from alembic_version").fetchone()
        assert row
        connection.execute("update alembic_version set version_num = %s", (revision,))
        return str(row[0])


def live(url: str) -> int:
    database = Database(url)
    try:
        with database.session() as session:
            return work_queries.live_workers(session, silent_s=3)
    except Exception:
        return 0
    finally:
        database.close()


def test_servers_and_a_worker_at_once_on_an_empty_database(url: str, worker: Worker) -> None:
    wait_until(lambda: "waiting until a server" in worker.words)
    assert not is_migrated(url)
    with ThreadPoolExecutor(4) as pool:
        list(pool.map(lambda _: migrate(url), range(4)))
    assert is_migrated(url)
    wait_until(lambda: live(url) == 1)
    assert worker.stop() == 0
    assert "Traceback" not in worker.words
    assert 'File "' not in worker.words


def test_a_worker_stays_when_the_database_restarts_and_takes_jobs_again(
    url: str, worker: Worker, own_cluster: Cluster
) -> None:
    migrate(url)
    wait_until(lambda: live(url) == 1)
    for _ in range(2):
        own_cluster.restart()
        wait_until(lambda: "connecting again" in worker.words)
        wait_until(lambda: live(url) >= 1)
        assert worker.process.poll() is None
    # a job that every worker can do: cards whose set time has come
    with psycopg.connect(url, autocommit=True) as connection:
        before = connection.execute("select coalesce(max(id), 0) from procrastinate_jobs").fetchone()
    assert before
    wait_until(lambda: done_after(url, before[0]))
    assert worker.stop() == 0
    assert "password" not in worker.words


def done_after(url: str, job_id: int) -> bool:
    """Say whether a job that came after another was taken up: those that are done are forgotten."""
    with psycopg.connect(url, autocommit=True) as connection:
        asked = "select last_value > %s from procrastinate_jobs_id_seq"
        waiting = "select count(*) = 0 from procrastinate_jobs where id > %s and status in ('todo', 'doing')"
        rows = [connection.execute(query, (job_id,)).fetchone() for query in (asked, waiting)]
    return all(row and row[0] for row in rows)


def test_readyz_tells_of_workers_and_waiting_jobs_and_healthz_of_the_web_alone(url: str) -> None:
    migrate(url)
    with serving(Settings(database_url=url, late_seconds=0.2)) as address:
        watcher = Visitor(address)
        assert watcher.get("/healthz").json() == {"status": "ok"}
        empty = watcher.get("/readyz")
        assert (empty.status_code, empty.json()["status"], empty.json()["live_workers"]) == (503, "no worker lives", 0)
        assert empty.json()["free_disk_bytes"] > 0
        with psycopg.connect(url, autocommit=True) as connection:
            connection.execute("insert into procrastinate_workers (last_heartbeat) values (now())")
            assert watcher.get("/readyz").status_code == 200
            connection.execute(
                "insert into procrastinate_jobs (task_name, queue_name, args) values ('grade_build', 'default', '{}')"
            )
            time.sleep(0.4)
            late = watcher.get("/readyz")
            assert (late.status_code, late.json()["status"]) == (503, "measuring is late")
            assert late.json()["oldest_job_seconds"] >= 0.3
        assert watcher.get("/healthz").status_code == 200
