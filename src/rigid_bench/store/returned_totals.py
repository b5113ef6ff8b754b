"""Reads the marks that students see on returned cards."""

from dataclasses import dataclass

from sqlalchemy.orm import Session

from rigid_bench.core.marking.state import tally
from rigid_bench.store.queries import build_queries, class_queries
from rigid_bench.store.rules import rules_of_class
from rigid_bench.store.standing import standing


@dataclass(frozen=True, slots=True, kw_only=True)
class ReturnedTotal:
    """The marks that a student has, on a card that was returned."""

    build_id: int
    awarded: float
    available: float
    is_late: bool


def returned_totals(session: Session, class_id: int, version_id: int) -> dict[int, ReturnedTotal]:
    """Return the marks that each student of a class sees on a returned card of an exercise, by student.

    All who work together have those of the build that was handed in last; none where that is not returned.
    """
    rules = rules_of_class(session, class_id)
    newest = {build.student_id: build for build in build_queries.builds_of_exercise(session, class_id, version_id)}
    totals = {}
    for student in class_queries.students_of_class(session, class_id):
        owners = [student.id, *rules.groups.get((student.id, version_id), ())]
        builds = [newest[owner] for owner in owners if owner in newest]
        build = max(builds, key=lambda build: build.id, default=None)
        if build is None or not build.returns:
            continue
        own = rules.of(build.version, student.id)
        awarded, available = tally(standing(build), own)
        totals[student.id] = ReturnedTotal(
            build_id=build.id, awarded=awarded, available=available, is_late=own.is_late(build.handed_in_at)
        )
    return totals
