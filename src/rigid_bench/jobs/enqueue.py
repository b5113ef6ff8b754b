"""Puts work in the queue, in the transaction that keeps what it is about. Loads nothing that does the work."""

from typing import Any

import procrastinate
from sqlalchemy.orm import Session

#: Names of the jobs, as the queue keeps them.
GRADE, LOOK, TRY, DRAFT, BENCH = "grade_build", "look_at_build", "try_version", "examine_draft", "prepare_bench"
CHANGE = "follow_change"
APART, WAYS, STEP, PRINT = "draw_apart", "find_ways", "write_step", "print_cards"
#: Of work that waits until builds are measured.
_AFTER_BUILDS = {PRINT: -1}


def open_queue(connector: Any) -> procrastinate.App:
    """Return the queue on a connector, for putting work in."""
    return procrastinate.App(connector=connector)


def enqueue(session: Session, queue: procrastinate.App, job: str, **numbers: int) -> None:
    """Put a job in the queue, by its name, with the numbers of what it is about.

    Parameters
    ----------
    session
        The job is put in the session's own transaction: it is there once that is kept, and not otherwise.
    queue
        As `open_queue` gives it.
    """
    connection = session.connection().connection.driver_connection
    queue.configure_task(job, connection=connection, priority=_AFTER_BUILDS.get(job, 0)).defer(**numbers)
