"""Fixtures of a running program: a database cluster, a warm sandbox, a server, a worker, a browser.

A plugin of its own, which tests of the core alone do not load.
"""

import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest
from argon2 import PasswordHasher
from playwright.sync_api import Browser, Page, expect, sync_playwright

from rigid_bench.jobs.sandbox import Sandbox
from rigid_bench.processes import ending_with_parent
from rigid_bench.settings import Settings
from rigid_bench.store.cluster import Cluster
from rigid_bench.store.database import Database, migrate
from rigid_bench.web.security import passwords
from tests.support.leave_nothing import destroyed_after
from tests.support.patience import PATIENCE_S
from tests.support.program import CHORES_CRON, beside, migrated_database, serving, usual_settings, working
from tests.support.school import School, make_school
from tests.support.windows import window

# what a real hash costs, a benchmark measures; its parameters have a test
passwords._HASHER = PasswordHasher(memory_cost=8, time_cost=1, parallelism=1)
expect.set_options(timeout=PATIENCE_S * 1000)

#: The same browser without the parts of a desktop takes a third less work; set-up installs it where it can.
_BROWSERS = (Path("/usr/bin/chromium-headless-shell"), Path("/usr/bin/chromium"))
_CHROMIUM_FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@pytest.fixture(scope="session")
def cluster_url(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    with destroyed_after(Cluster(tmp_path_factory.mktemp("cluster"), is_lasting=False)) as cluster:
        yield cluster.start()


@pytest.fixture(scope="session")
def template(cluster_url: str) -> str:
    """The name of a migrated database from which those of the modules are copied."""
    with psycopg.connect(cluster_url, autocommit=True) as connection:
        connection.execute("create database migrated")
    migrate(beside(cluster_url, "migrated"))
    return "migrated"


@pytest.fixture(scope="module")
def database(cluster_url: str, template: str) -> Iterator[Database]:
    """A migrated database of the module's own."""
    with migrated_database(cluster_url, template) as own:
        yield own


@pytest.fixture(scope="session")
def sandbox() -> Iterator[Sandbox]:
    with Sandbox() as started:
        yield started


@pytest.fixture(scope="module")
def school(database: Database) -> School:
    """Two teachers with a class each, and the seed drawer set in both."""
    return make_school(database)


@pytest.fixture(scope="module")
def settings(database: Database) -> Settings:
    return usual_settings(database)


@pytest.fixture(scope="module")
def address(settings: Settings, school: School) -> Iterator[str]:
    """The web server's address, while it runs."""
    with serving(settings) as address:
        yield address


def start_worker(settings: Settings) -> "subprocess.Popen[bytes]":
    """Start a worker as its own process, as in real life."""
    given = {
        "RIGID_BENCH_DATABASE_URL": settings.database_url,
        "RIGID_BENCH_HEARTBEAT_SECONDS": str(settings.heartbeat_seconds),
        "RIGID_BENCH_MEASURE_SECONDS": str(settings.measure_seconds),
        "RIGID_BENCH_CHORES_CRON": CHORES_CRON,
    }
    command = [sys.executable, "-m", "rigid_bench.cli", "worker"]
    return subprocess.Popen(
        command, env={**os.environ, **given}, start_new_session=True, preexec_fn=ending_with_parent()
    )


@pytest.fixture(scope="module")
def worker_process(settings: Settings) -> Iterator["subprocess.Popen[bytes]"]:
    """A worker in a process of its own, as in real life."""
    process = start_worker(settings)
    yield process
    process.terminate()
    process.wait(timeout=PATIENCE_S)


@pytest.fixture(scope="module")
def worker(settings: Settings, database: Database, sandbox: Sandbox) -> Iterator[None]:
    with working(settings, database, sandbox):
        yield


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as play:
        executable = next((path for path in _BROWSERS if path.exists()), _BROWSERS[-1])
        chromium = play.chromium.launch(executable_path=executable, args=_CHROMIUM_FLAGS)
        yield chromium
        chromium.close()


@pytest.fixture
def page(browser: Browser) -> Iterator[Page]:
    """A page that fails the test on anything the security policy stops, and on any script error."""
    faults: list[str] = []
    with window(browser) as shown:
        shown.on("console", lambda message: faults.append(message.text) if message.type == "error" else None)
        shown.on("pageerror", lambda error: faults.append(str(error)))
        yield shown
    # the browser notes each answer that refuses something; that is no fault of the page
    faults = [text for text in faults if "the server responded with a status of 4" not in text]
    assert faults == []


@pytest.fixture
def files(tmp_path: Path) -> Path:
    """A folder for files that are handed in."""
    return tmp_path
