"""The queue as a worker sees it: every job by name, tried again when the program fails, and the chores."""

from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Any

import procrastinate
import structlog
from procrastinate import JobContext

from rigid_bench.app.builds.return_cards import return_due
from rigid_bench.core.wording.language import N_, translated
from rigid_bench.jobs.bench_jobs import DrawApart, FindWays, PrepareBench, WriteStep
from rigid_bench.jobs.build_jobs import GradeBuild, LookAtBuild, TryVersion
from rigid_bench.jobs.change_jobs import FollowChange
from rigid_bench.jobs.course_marks import send_marks
from rigid_bench.jobs.draft_jobs import ExamineDraft
from rigid_bench.jobs.job import Job, Tools, perform
from rigid_bench.jobs.mail import send_letters
from rigid_bench.jobs.print_jobs import PrintCards
from rigid_bench.settings import settings
from rigid_bench.store.files import sweep_files
from rigid_bench.store.log import erase_log
from rigid_bench.store.queries import plan_queries

log = structlog.get_logger()

#: Every kind of job.
JOBS: tuple[type[Job[Any, Any]], ...] = (
    GradeBuild, LookAtBuild, TryVersion, ExamineDraft, FollowChange, PrepareBench, DrawApart, FindWays, WriteStep,
    PrintCards,
)  # fmt: skip
RETURN, RESCUE, MAIL, ERASE, MARKS = "return_cards", "rescue_jobs", "mail_notices", "erase_archived", "send_marks"
#: Tried again this often when the program or the database fails, not when the build is at fault.
_ATTEMPTS = 4
_RETRY = procrastinate.RetryStrategy(max_attempts=_ATTEMPTS, exponential_wait=2)
_GAVE_UP = {
    "where": N_("measuring"),
    "problem": N_("the program failed on this several times; this is no fault of yours"),
    "next_step": N_("Tell your teacher, or whoever runs the program; the files are kept, and can be tried again"),
}


def open_work_queue(connector: Any, *, chores_cron: str) -> procrastinate.App:
    """Return the queue on a connector, with all jobs known.

    Parameters
    ----------
    chores_cron
        When a worker does what comes again and again.
    """
    app = procrastinate.App(connector=connector)
    for kind in JOBS:
        app.task(name=kind.NAME, retry=_RETRY, pass_context=True)(_task(kind))
    chores = {
        RETURN: return_cards, RESCUE: rescue_jobs, MAIL: mail_notices, ERASE: erase_archived, MARKS: send_to_platforms,
    }  # fmt: skip
    for name, chore in chores.items():
        app.periodic(cron=chores_cron)(app.task(name=name, queueing_lock=name, pass_context=True)(chore))
    return app


def _task(kind: type[Job[Any, Any]]) -> Callable[..., None]:
    def do(context: JobContext, **numbers: int) -> None:
        perform_or_give_up(context, kind(**numbers))

    return do


def perform_or_give_up(context: JobContext, job: Job[Any, Any]) -> None:
    """Do a job; when it failed too often by no fault of the files', say so in the build, draft or bench."""
    tools: Tools = context.additional_context["tools"]
    try:
        perform(job, tools)
    except Exception:
        log.exception("job failed", job=repr(job), attempt=context.job.attempts)
        if context.job.attempts + 1 >= _ATTEMPTS:
            with tools.database.session() as session:
                job.refuse(session, None, {field: translated(text) for field, text in _GAVE_UP.items()})
        raise


def return_cards(context: JobContext, timestamp: int) -> None:
    """Return all cards whose set time has come."""
    tools: Tools = context.additional_context["tools"]
    with tools.database.session() as session:
        return_due(session)


def send_to_platforms(context: JobContext, timestamp: int) -> None:
    """Send course platforms the marks that they do not know yet."""
    tools: Tools = context.additional_context["tools"]
    send_marks(tools.database)


def mail_notices(context: JobContext, timestamp: int) -> None:
    """Send the notices that people want by e-mail."""
    tools: Tools = context.additional_context["tools"]
    send_letters(tools.database, settings())


def erase_archived(context: JobContext, timestamp: int) -> None:
    """Erase classes and entries of the log that were kept for as long as the school keeps them, and unused contents."""
    tools: Tools = context.additional_context["tools"]
    with tools.database.session() as session:
        sweep_files(session)
    now = datetime.now(UTC)
    if days := settings().erase_archived_days:
        with tools.database.session() as session:
            for _ in plan_queries.erase_archived(session, now - timedelta(days=days)):
                log.info("class erased after its time in the archive")
    if days := settings().log_days:
        with tools.database.session() as session:
            if count := erase_log(session, now - timedelta(days=days)):
                log.info("entries of the log erased after their time", count=count)


async def rescue_jobs(context: JobContext, timestamp: int) -> None:
    """Give jobs whose worker was killed to another worker."""
    silent_for: float = context.additional_context["silent_seconds"]
    for job in await context.app.job_manager.get_stalled_jobs(seconds_since_heartbeat=silent_for):
        log.warning("job taken up again", job=job.id, task=job.task_name)
        await context.app.job_manager.retry_job(job)
