"""Returning cards: one, all that are ready, by hand or at a set time; taking them back; changing returned marks."""

import uuid
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from rigid_bench.core.marking.state import tally
from rigid_bench.core.values.errors import FormRejected, ToBeConfirmed
from rigid_bench.core.wording.language import NN_, _, translated_number
from rigid_bench.store.log import log
from rigid_bench.store.queries import build_queries, class_queries, exercise_queries, marking_queries, notice_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.returned_totals import ReturnedTotal, returned_totals
from rigid_bench.store.rules import ClassRules, rules_of_class
from rigid_bench.store.standing import standing
from rigid_bench.store.tables import Assignment, Build, User


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


def return_card(session: Session, build: Build, *, teacher: Person, again: bool, is_sure: bool) -> None:
    """Return one card to its student; a second time only if that is meant and its marks have changed.

    Raises
    ------
    FormRejected
        The build is still being measured.
    ToBeConfirmed
        Something of it still waits for a person, and it is not returned all the same on purpose.
    """
    if build.state in ("queued", "measuring"):
        raise FormRejected(_("card"), _("the build is still being measured"), _("Wait until its card is there"))
    rules = rules_of_class(session, build.class_id)
    if not is_sure:
        _ask_if_unfinished([build], rules)
    total = tally(standing(build), rules.of(build.version, build.student_id))[0]
    if marking_queries.return_build(session, build, teacher_id=teacher.id, total=total, again=again):
        who = {"who_id": teacher.id, "person_id": build.student_id}
        log(session, "card-returned", class_id=build.class_id, build=build.id, **who)


def return_all(session: Session, assignment: Assignment, *, teacher: Person, is_sure: bool) -> str:
    """Return all cards of an exercise that are ready, and give by what they can be taken back at once.

    Raises
    ------
    ToBeConfirmed
        Something of them still waits for a person, and they are not returned all the same on purpose.
    """
    builds = ready_to_return(session, assignment.class_id, assignment.version_id)
    rules, batch = rules_of_class(session, assignment.class_id), uuid.uuid4().hex
    if not is_sure:
        _ask_if_unfinished(builds, rules)
    if count := return_builds(session, builds, rules, teacher_id=teacher.id, batch=batch):
        title = exercise_queries.version(session, assignment.version_id).title
        log(session, "cards-returned", who_id=teacher.id, class_id=assignment.class_id, title=title, count=count)
    return batch


def _ask_if_unfinished(builds: Sequence[Build], rules: ClassRules) -> None:
    """Name what still waits for a person on cards that are to be returned."""
    lines = []
    for card in unfinished(builds, rules):
        waiting = [_("a question about {title}", title=title) for title in card.questions]
        waiting += [_("{title} to be judged", title=title) for title in card.unjudged]
        lines.append(f"{card.build.student.name}: {', '.join(waiting)}")
    if lines:
        problem = translated_number(
            *NN_("{count} card is not done with", "{count} cards are not done with"), len(lines)
        ).format(count=len(lines))
        raise ToBeConfirmed(_("return"), problem, _("Return all the same, or look at them first"), tuple(lines))


def return_builds(session: Session, builds: Sequence[Build], rules: ClassRules, *, teacher_id: int, batch: str) -> int:
    """Return cards at once, and say how many were returned now."""
    marking_queries.lock_builds(session, [build.id for build in builds])
    count = 0
    for build in builds:
        total = tally(standing(build), rules.of(build.version, build.student_id))[0]
        count += marking_queries.return_build(session, build, teacher_id=teacher_id, total=total, batch=batch)
    return count


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


def take_back(session: Session, build: Build, *, teacher: Person, note: str, now: datetime) -> None:
    """Take a returned card back: at once without trace, later with a note to the student.

    Raises
    ------
    FormRejected
        It needs a note, and there is none.
    """
    if marking_queries.take_back(session, build, note=note.strip(), now=now):
        who = {"who_id": teacher.id, "person_id": build.student_id}
        log(session, "card-taken-back", class_id=build.class_id, build=build.id, **who)


def take_batch_back(session: Session, class_id: int, batch: str, *, teacher: Person, note: str, now: datetime) -> None:
    """Take cards back that were returned at once: without trace where nobody has seen them, else with a note.

    Raises
    ------
    FormRejected
        They need a note, and there is none.
    """
    builds = marking_queries.builds_of_batch(session, class_id, batch)
    marking_queries.lock_builds(session, [build.id for build in builds])
    for build in builds:
        marking_queries.take_back(session, build, note=note.strip(), now=now)
    if builds:
        title, count = builds[0].version.title, len(builds)
        log(session, "cards-taken-back", who_id=teacher.id, class_id=class_id, title=title, count=count)


@contextmanager
def returned_marks_guarded(session: Session, assignment: Assignment, *, is_sure: bool) -> Iterator[None]:
    """Guard marks that were returned: what an act within changes of them is shown first, and told once it is meant.

    Raises
    ------
    ToBeConfirmed
        It would change marks that students have; nothing is kept.
    """
    before = returned_totals(session, assignment.class_id, assignment.version_id)
    yield
    session.flush()
    session.expire_all()
    after = returned_totals(session, assignment.class_id, assignment.version_id)
    changed = [
        (student_id, was, after.get(student_id)) for student_id, was in before.items() if after.get(student_id) != was
    ]
    if not changed:
        return
    title = exercise_queries.version(session, assignment.version_id).title
    if not is_sure:
        names = {student_id: session.get_one(User, student_id).name for student_id, _was, _is in changed}
        lines = tuple(
            _("{name}: {was} would become {now}", name=names[student_id], was=_in_words(was), now=_in_words(now))
            if now
            else _(
                "{name}: {was} would become another build, not returned yet",
                name=names[student_id],
                was=_in_words(was),
            )
            for student_id, was, now in changed
        )
        problem = _("this changes marks of {title} that were returned", title=title)
        raise ToBeConfirmed(_("returned marks"), problem, _("Change them and tell the students, or leave it"), lines)
    for student_id, was, now in changed:
        became = _in_words(now) if now else _("those of a build that is not returned yet")
        text = _(
            "Your marks for {title} have changed: they were {was}, and are {became}.",
            title=title,
            was=_in_words(was),
            became=became,
        )
        build_id = now.build_id if now else was.build_id
        notice_queries.notify(session, [student_id], text, kind="changed", build_id=build_id)


def _in_words(total: ReturnedTotal) -> str:
    marks = {"awarded": total.awarded, "available": total.available}
    if total.is_late:
        return _("{awarded:g} of {available:g}, late", **marks)
    return _("{awarded:g} of {available:g}", **marks)
