"""The worker's process: takes builds from the queue, one at a time, and measures them in the sandbox."""

import asyncio
import signal
import sys

import procrastinate
import structlog

from rigid_bench.jobs.sandbox import Limits, Sandbox
from rigid_bench.jobs.tasks import Grader, queue
from rigid_bench.logs import set_up_logs
from rigid_bench.settings import Settings, settings
from rigid_bench.store.database import Database, check_database

log = structlog.get_logger()


def run_worker() -> None:
    """Work until told to stop; a build that is being measured then is finished first.

    Raises
    ------
    DatabaseUnreachable
        There is no database to take work from.
    """
    set_up_logs()
    check_database(settings().database_url)
    asyncio.run(_work(settings()))


async def _work(given: Settings) -> None:
    database = Database(given.database_url)
    limits = Limits(seconds=given.measure_seconds, memory_bytes=given.measure_bytes)
    app = queue(procrastinate.PsycopgConnector(conninfo=given.database_url))
    silent = 4 * given.heartbeat_seconds
    # until the queue listens to signals itself, a stop must still end the measuring process
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    with Sandbox(limits) as sandbox:
        sandbox.run("wake", name="the measuring process")
        async with app.open_async():
            log.info("worker started")
            await app.run_worker_async(
                concurrency=1,
                fetch_job_polling_interval=2.0,
                update_heartbeat_interval=given.heartbeat_seconds,
                stalled_worker_timeout=silent,
                shutdown_graceful_timeout=given.measure_seconds,
                delete_jobs="successful",
                additional_context={"grader": Grader(database, sandbox), "silent_seconds": silent},
            )
    database.close()
