"""Returning cards: all that are ready, by hand or at a set time."""

from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from rigid_bench.store import class_queries, marking_queries, queries
from rigid_bench.store.rules import rules_of_class
from rigid_bench.store.standing import standing, tally
from rigid_bench.store.tables import Assignment, Build


def ready_to_return(session: Session, class_id: int, version_id: int) -> Sequence[Build]:
    """List the newest builds of an exercise whose cards are ready and not returned."""
    builds = queries.builds_of_exercise(session, class_id, version_id)
    return [each for each in builds if each.state in ("graded", "failed") and not each.returns]


def return_ready(session: Session, assignment: Assignment, *, teacher_id: int) -> int:
    """Return all cards of an exercise that are ready, and say how many."""
    rules = rules_of_class(session, assignment.class_id)
    builds = ready_to_return(session, assignment.class_id, assignment.version_id)
    for build in builds:
        total = tally(standing(build), rules.of(build.version, build.student_id))[0]
        marking_queries.return_build(session, build, teacher_id=teacher_id, total=total)
    return len(builds)


def return_due(session: Session) -> None:
    """Return what is ready where the set time has come; each set time counts once."""
    due = select(Assignment).where(Assignment.return_at <= func.now()).with_for_update(skip_locked=True)
    for assignment in session.scalars(due):
        teachers = class_queries.teachers_of_class(session, assignment.class_id)
        if teachers:
            count = return_ready(session, assignment, teacher_id=teachers[0].id)
            title = queries.version(session, assignment.version_id).title
            class_queries.log(
                session,
                who="set time",
                action=f"returned {count} cards of",
                subject=title,
                class_id=assignment.class_id,
            )
        assignment.return_at = None
