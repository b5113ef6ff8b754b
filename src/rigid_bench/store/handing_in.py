"""Whether a student may hand in now: asked inside the transaction that counts the build, under the student's lock."""

from datetime import datetime

from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries import build_queries, class_queries
from rigid_bench.store.rules import rules_of_class
from rigid_bench.store.tables import Classroom, ExerciseVersion


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
