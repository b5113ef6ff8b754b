"""Returning cards: all that are ready, by hand or at a set time."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from rigid_bench.core.marking.state import tally
from rigid_bench.store.log import log
from rigid_bench.store.queries import build_queries, class_queries, exercise_queries, marking_queries, notice_queries
from rigid_bench.store.rules import ClassRules, rules_of_class
from rigid_bench.store.standing import standing
from rigid_bench.store.tables import Assignment, Build


def ready_to_return(session: Session, class_id: int, version_id: int) -> Sequence[Build]:
    """List the newest builds of an exercise whose cards are ready and not returned."""
    return [build for build in build_queries.builds_of_exercise(session, class_id, version_id) if is_ready(build)]


def is_ready(build: Build) -> bool:
    """Tell whether a build's card is ready and not returned."""
    return build.state in ("graded", "failed") and not build.returns


@dataclass(frozen=True, slots=True, kw_only=True)
class Unfinished:
    """What of a card still waits for a person."""

    build: Build
    #: Titles of checks with a question that is not answered.
    questions: Sequence[str]
    #: Titles of rows that nobody has judged.
    unjudged: Sequence[str]


def unfinished(builds: Sequence[Build], rules: ClassRules) -> list[Unfinished]:
    """List the builds that are not done with: a question has no answer, or a row has no judgement."""
    unfinished_cards = []
    for build in builds:
        own, withdrawn = standing(build), rules.of(build.version, build.student_id).withdrawn
        counted = [check for check in own.checks or () if check.id not in withdrawn]
        questions = [check.title for check in counted if check.id in own.questions]
        unjudged = [check.title for check in counted if check.by_person and check.id not in own.marks]
        if questions or unjudged:
            unfinished_cards.append(Unfinished(build=build, questions=questions, unjudged=unjudged))
    return unfinished_cards


def return_builds(session: Session, builds: Sequence[Build], rules: ClassRules, *, teacher_id: int, batch: str) -> int:
    """Return cards at once, and say how many were returned now."""
    marking_queries.lock_builds(session, [build.id for build in builds])
    count = 0
    for build in builds:
        total = tally(standing(build), rules.of(build.version, build.student_id))[0]
        count += marking_queries.return_build(session, build, teacher_id=teacher_id, total=total, batch=batch)
    return count


@dataclass(frozen=True, slots=True, kw_only=True)
class ReturnedTotal:
    """The marks that a student has, on a card that was returned."""

    build_id: int
    awarded: float
    available: float
    is_late: bool

    @property
    def words(self) -> str:
        """The marks in words."""
        return f"{self.awarded:g} of {self.available:g}{', late' if self.is_late else ''}"


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


def return_due(session: Session) -> None:
    """Return what is ready where the set time has come; each set time counts once.

    A card on which a question or a row to be judged still waits is held back: nobody is there to be asked.
    """
    due = select(Assignment).where(Assignment.return_at <= func.now()).with_for_update(skip_locked=True)
    for assignment in session.scalars(due):
        owner_id = class_queries.owner_of_class(session, assignment.class_id)
        if owner_id is not None:
            _return_at_set_time(session, assignment, owner_id)
        assignment.return_at = None


def _return_at_set_time(session: Session, assignment: Assignment, owner_id: int) -> None:
    rules = rules_of_class(session, assignment.class_id)
    builds = ready_to_return(session, assignment.class_id, assignment.version_id)
    held_back = {unfinished_card.build.id for unfinished_card in unfinished(builds, rules)}
    ready = [build for build in builds if build.id not in held_back]
    # one letter tells of all
    for build in [build for build in builds if build.id in held_back][:1]:
        notice_queries.tell_teachers(session, build, kind="held back")
    count = return_builds(session, ready, rules, teacher_id=owner_id, batch=uuid.uuid4().hex)
    title = exercise_queries.version(session, assignment.version_id).title
    for action, number in (("cards-returned", count), ("cards-held-back", len(held_back))):
        if number:
            log(session, action, who_id=None, class_id=assignment.class_id, title=title, count=number)
