"""Handing in: files are kept and looked at, then count once the student says so, or are checked without counting."""

from collections.abc import Mapping
from datetime import datetime
from types import MappingProxyType

import procrastinate
from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _
from rigid_bench.jobs.enqueue import GRADE, LOOK, enqueue
from rigid_bench.store.queries import build_queries, class_queries
from rigid_bench.store.rules import rules_of_class
from rigid_bench.store.tables import Build, Classroom, ExerciseVersion


def check_room(session: Session, class_id: int, *, size: int, most: int) -> None:
    """Refuse files for which a class has no room left.

    Parameters
    ----------
    size
        Of the files, bytes.
    most
        What a class may take in all, bytes; 0 for any amount.

    Raises
    ------
    FormRejected
        There is no room for them.
    """
    if most and build_queries.size_of_class(session, class_id) + size > most:
        problem = _("the class has used up its {most:g} GB", most=most / 1000000000.0)
        raise FormRejected(_("files"), problem, _("Tell your teacher: work that is not needed any more can be erased"))


def check_may_hand_in(
    session: Session, *, class_id: int, version: ExerciseVersion, student_id: int, now: datetime
) -> None:
    """Refuse a build of somebody who left the class, that comes too late or once too often.

    From here to the end of the transaction nobody else hands in for this student, so that two windows at once do not
    both take the last attempt.

    Raises
    ------
    NotFound
        The student is not in the class any more.
    FormRejected
        It was due already, or all attempts are used, where the exercise says so.
    """
    class_queries.lock_membership(session, class_id, student_id)
    if session.get_one(Classroom, class_id).archived_at is not None:
        raise FormRejected(_("hand-in"), _("this class is over, and takes no builds any more"), _("Ask your teacher"))
    decided = rules_of_class(session, class_id)
    rules, terms = decided.of(version, student_id), decided.assignments.get(version.id)
    if terms is None:
        return
    if terms.late == "refused" and rules.due_at and rules.due_at < now:
        raise FormRejected(
            _("hand-in"), _("it was due already, and late builds are not taken"), _("Ask your teacher for time")
        )
    used = build_queries.count_attempts(session, class_id=class_id, version_id=version.id, student_id=student_id)
    if terms.attempts and used >= terms.attempts:
        raise FormRejected(
            _("hand-in"),
            _("all {attempts} hand-ins are used", attempts=terms.attempts),
            _("Ask your teacher for one more"),
        )


def choose_files(
    session: Session,
    queue: procrastinate.App,
    *,
    class_id: int,
    version_id: int,
    student_id: int,
    files: Mapping[str, bytes],
    evidence: Mapping[str, bytes] = MappingProxyType({}),
    class_bytes: int = 0,
) -> int:
    """Keep the files that a student chose and queue a look at them, both or neither; they do not count yet.

    Parameters
    ----------
    class_id, version_id, student_id
        Whose build for what.
    files
        By name, checked already.
    evidence
        What is handed in beside the model, by name.
    class_bytes
        What a class may take in all, bytes; 0 for any amount.

    Returns
    -------
    int
        The id of the build.

    Raises
    ------
    FormRejected
        The class has no room for them.
    """
    size = sum(map(len, (*files.values(), *evidence.values())))
    check_room(session, class_id, size=size, most=class_bytes)
    build = build_queries.add_build(
        session,
        class_id=class_id,
        version_id=version_id,
        student_id=student_id,
        files=files,
        state="looking",
        evidence=evidence,
    )
    enqueue(session, queue, LOOK, build_id=build.id)
    return build.id


def count_build(session: Session, queue: procrastinate.App, build: Build, *, now: datetime) -> None:
    """Let a build that was looked at count, and queue its measuring; a second time changes nothing.

    Raises
    ------
    NotFound, FormRejected
        As `check_may_hand_in`.
    """
    check_may_hand_in(session, class_id=build.class_id, version=build.version, student_id=build.student_id, now=now)
    if build_queries.count_build(session, build):
        enqueue(session, queue, GRADE, build_id=build.id)


def check_build(session: Session, queue: procrastinate.App, build: Build) -> None:
    """Let a build that was looked at be measured without counting; a second time changes nothing.

    Raises
    ------
    FormRejected
        The exercise shows nothing before a card is returned.
    """
    terms = class_queries.assignment_of(session, build.class_id, build.version_id)
    if terms.shows == "nothing":
        raise FormRejected(_("check"), _("this exercise shows nothing before it is returned"), _("Hand in instead"))
    if build_queries.check_build(session, build):
        enqueue(session, queue, GRADE, build_id=build.id)


def confirm_mates(session: Session, queue: procrastinate.App, build: Build, build_file: bytes) -> None:
    """Put a build file with confirmed mates to a build that was looked at, and queue another look."""
    if build_queries.add_confirmed(session, build, build_file):
        enqueue(session, queue, LOOK, build_id=build.id)
