"""The worker's process: takes builds from the queue, one at a time, and measures them in the sandbox.

Where the database goes away it stays, and connects again after waits that grow.
"""

import asyncio
import contextlib
import signal
import sys
import time

import procrastinate
import procrastinate.exceptions
import psycopg
import structlog

from rigid_bench.jobs.job import PrintCards, Tools
from rigid_bench.jobs.sandbox import Limits, Sandbox
from rigid_bench.jobs.work_queue import open_work_queue
from rigid_bench.languages import speak_language
from rigid_bench.logs import set_up_logs
from rigid_bench.settings import Settings, settings
from rigid_bench.store.database import Database, check_database, is_migrated
from rigid_bench.store.files import object_store

log = structlog.get_logger()
#: Waits before connecting again grow from the first to the second, seconds; after a minute of work they begin anew.
_FIRST_WAIT_S, _LONGEST_WAIT_S, _SETTLED_S = 1.0, 30.0, 60.0
#: So often is looked whether a server has brought the database up to date, seconds.
_LOOK_EVERY_S = 1.0
#: So often whether a newer program has upgraded it since, seconds.
_LOOK_FOR_UPGRADE_S = 5.0


def run_worker(*, print_cards: PrintCards) -> None:
    """Work until told to stop; a build that is being measured then is finished first.

    Parameters
    ----------
    print_cards
        Draws cards as PDF: the pages stand above this floor.

    Raises
    ------
    DatabaseUnreachable
        There is no database to take work from when it starts.
    """
    set_up_logs(as_json=settings().log_format == "json")
    speak_language(settings().language)
    check_database(settings().database_url)
    # until the loop listens to signals, a stop must still end the measuring process
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    given = settings()
    limits = Limits(seconds=given.measure_seconds, memory_bytes=given.measure_bytes)
    database = Database(given.database_url, objects=object_store(given))
    with Sandbox(limits) as sandbox:
        walls = sandbox.wake()
        (log.info if all(walls.facts.values()) else log.warning)("measuring process is confined", **walls.facts)
        asyncio.run(_work_until_signalled(given, Tools(database, sandbox, print_cards)))
    database.close()


async def _work_until_signalled(given: Settings, tools: Tools) -> None:
    stopping = asyncio.Event()
    for number in (signal.SIGTERM, signal.SIGINT):
        asyncio.get_running_loop().add_signal_handler(number, stopping.set)
    await work(given, tools, stopping)


async def work(given: Settings, tools: Tools, stopping: asyncio.Event) -> None:
    """Take jobs until `stopping` is set; connect again where the database goes away.

    Parameters
    ----------
    given
        Names the database, and how often is looked for jobs.
    tools
        What jobs work with.
    stopping
        The job that is being done then is finished first.
    """
    wait_s = _FIRST_WAIT_S
    while not stopping.is_set():
        began = time.monotonic()
        try:
            await _until_migrated(given, stopping)
            await _take_jobs(given, tools, stopping)
            reason = "the queue ended"
        except (psycopg.Error, procrastinate.exceptions.ConnectorException, OSError) as exc:
            reason = type(exc).__name__
        if stopping.is_set():
            return
        wait_s = _FIRST_WAIT_S if time.monotonic() - began > _SETTLED_S else wait_s
        log.warning("connecting again", reason=reason, wait_s=wait_s)
        await _pause(wait_s, stopping)
        wait_s = min(2 * wait_s, _LONGEST_WAIT_S)


async def _until_migrated(given: Settings, stopping: asyncio.Event) -> None:
    """Wait until a server has brought the database to what this program knows."""
    is_told = False
    while not stopping.is_set() and not await asyncio.to_thread(is_migrated, given.database_url):
        if not is_told:
            log.info("waiting until a server brings the database up to date")
            is_told = True
        await _pause(_LOOK_EVERY_S, stopping)


async def _take_jobs(given: Settings, tools: Tools, stopping: asyncio.Event) -> None:
    """Take jobs until told to stop, or until the database goes away."""
    if stopping.is_set():
        return
    silent_s = 4 * given.heartbeat_seconds
    app = open_work_queue(procrastinate.PsycopgConnector(conninfo=given.database_url), chores_cron=given.chores_cron)
    async with app.open_async():
        log.info("worker started")
        run = asyncio.create_task(
            app.run_worker_async(
                concurrency=1,
                fetch_job_polling_interval=given.poll_seconds,
                update_heartbeat_interval=given.heartbeat_seconds,
                stalled_worker_timeout=silent_s,
                shutdown_graceful_timeout=given.measure_seconds,
                delete_jobs="successful",
                install_signal_handlers=False,
                additional_context={"tools": tools, "silent_seconds": silent_s},
            )
        )
        stop = asyncio.create_task(stopping.wait())
        upgraded = asyncio.create_task(_until_upgraded(given))
        await asyncio.wait([run, stop, upgraded], return_when=asyncio.FIRST_COMPLETED)
        if stopping.is_set() or upgraded.done():
            # what it is at is finished, and nothing new begun
            run.cancel()
        stop.cancel()
        upgraded.cancel()
        with contextlib.suppress(asyncio.CancelledError):
            await run


async def _until_upgraded(given: Settings) -> None:
    """Wait until the database is at another revision than this program knows: a newer one has begun its work."""
    while True:
        await asyncio.sleep(_LOOK_FOR_UPGRADE_S)
        with contextlib.suppress(psycopg.Error):  # that it went away is seen elsewhere
            if not await asyncio.to_thread(is_migrated, given.database_url):
                log.warning("the database was upgraded; taking no more jobs")
                return


async def _pause(seconds: float, stopping: asyncio.Event) -> None:
    """Wait, but not past a stop."""
    with contextlib.suppress(TimeoutError):
        await asyncio.wait_for(stopping.wait(), seconds)
