"""Printing: all cards of an exercise as one PDF, drawn by a worker."""

import procrastinate
from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.jobs.enqueue import PRINT, enqueue
from rigid_bench.store.queries import build_queries, printout_queries
from rigid_bench.store.tables import Assignment, Printout


def print_cards(session: Session, queue: procrastinate.App, assignment: Assignment, *, maker_id: int) -> Printout:
    """Let a worker draw all cards of an exercise that are measured.

    Raises
    ------
    NotFound
        None is measured yet.
    """
    builds = build_queries.builds_of_exercise(session, assignment.class_id, assignment.version_id)
    count = sum(bool(build.runs) for build in builds)
    if not count:
        raise NotFound(_("cards"), _("no build of this exercise is measured yet"), _("Wait for the first one"))
    printout = printout_queries.start_printout(
        session, class_id=assignment.class_id, version_id=assignment.version_id, maker_id=maker_id, total=count
    )
    enqueue(session, queue, PRINT, printout_id=printout.id)
    return printout
