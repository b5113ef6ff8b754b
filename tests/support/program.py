"""A program for tests: its database, its settings, its web server and its worker, each in this process."""

import asyncio
import threading
import time
import uuid
from collections.abc import Iterator
from contextlib import AbstractContextManager, closing, contextmanager

import psycopg
import uvicorn
from fastapi import FastAPI

from rigid_bench.jobs.job import Tools
from rigid_bench.jobs.sandbox import Sandbox
from rigid_bench.jobs.worker import work
from rigid_bench.settings import Settings
from rigid_bench.store.cluster import free_port
from rigid_bench.store.database import Database
from rigid_bench.web.app import create_app
from rigid_bench.web.print.cards import cards_of_exercise
from tests.support.patience import PATIENCE_S

#: Every two seconds.
CHORES_CRON = "* * * * * */2"


def beside(cluster_url: str, name: str) -> str:
    """Return the address of another database of the cluster."""
    return f"{cluster_url.rsplit('/', 1)[0]}/{name}"


def new_database(cluster_url: str, *, template: str = "template1") -> str:
    """Make a database, empty unless a template is named, and return its address."""
    name = f"test_{uuid.uuid4().hex[:12]}"
    with psycopg.connect(cluster_url, autocommit=True) as connection:
        connection.execute(f'create database "{name}" template "{template}"')
    return beside(cluster_url, name)


@contextmanager
def migrated_database(cluster_url: str, template: str) -> Iterator[Database]:
    """Give a database of one's own, as a new program has it."""
    with closing(Database(new_database(cluster_url, template=template))) as database:
        yield database


def usual_settings(database: Database) -> Settings:
    """Return what a program of the tests is told."""
    return Settings(database_url=database.url, upload_bytes=2_000_000, heartbeat_seconds=1.0)


def serving(settings: Settings) -> AbstractContextManager[str]:
    """Run the web server in this process, and give its address."""
    return serving_app(create_app(settings))


@contextmanager
def serving_app(app: FastAPI) -> Iterator[str]:
    """Run an application in this process, and give its address."""
    port = free_port()
    # a connection that is closed just as it is used again is no fault of a page
    config = uvicorn.Config(app, port=port, log_level="error", log_config=None, timeout_keep_alive=PATIENCE_S)
    server = uvicorn.Server(config)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    yield f"http://127.0.0.1:{port}"
    server.should_exit = True
    thread.join()


@contextmanager
def working(settings: Settings, database: Database, sandbox: Sandbox) -> Iterator[None]:
    """Run a worker beside the tests, whose measuring process is theirs: one of its own would load the kernel anew."""
    given = settings.model_copy(update={"chores_cron": CHORES_CRON})
    loop, stopping = asyncio.new_event_loop(), asyncio.Event()
    worker = work(given, Tools(database, sandbox, cards_of_exercise), stopping)
    thread = threading.Thread(target=loop.run_until_complete, args=(worker,), daemon=True)
    thread.start()
    yield
    loop.call_soon_threadsafe(stopping.set)
    thread.join(PATIENCE_S)
    loop.close()
