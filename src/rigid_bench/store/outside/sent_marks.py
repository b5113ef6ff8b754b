"""Which marks a course platform is still to be told, and what it was told."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy import Select, func, or_, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from rigid_bench.store.outside.courses import version_for
from rigid_bench.store.returned_totals import returned_totals
from rigid_bench.store.tables import Course, CourseLink, CoursePlatform, LogEntry, OutsideAccount, SentMark

#: Whatever changes a mark stands in the class's log, by which is seen that there is something to send; as entries of
#: transactions side by side may appear in another order than they are numbered in, all is looked through this often.
_LOOK_ANYWAY = timedelta(hours=1)
#: Waits before a mark is sent again grow from the first to the second.
_FIRST_WAIT, _LONGEST_WAIT = timedelta(minutes=1), timedelta(hours=2)


@dataclass(frozen=True, slots=True, kw_only=True)
class MarkToSend:
    """A mark that a platform does not know yet."""

    course_id: int
    exercise: str
    student_id: int
    platform_id: int
    #: What the platform calls the student.
    subject: str
    line_item: str
    #: None for a card that was taken back: the platform is told that there is no mark.
    awarded: float | None
    available: float | None


def marks_to_send(session: Session, *, at_most: int) -> list[MarkToSend]:
    """List marks that were returned, changed or taken back since the platform was told.

    A course with more of them than are asked for is looked through again next time.
    """
    now = datetime.now(UTC)
    waiting: list[MarkToSend] = []
    for course, newest in session.execute(_courses_to_look_at(now)):
        own = list(_of_course(session, course, now))
        waiting += own
        if len(waiting) > at_most:
            break
        if not own:
            course.looked_to_entry, course.looked_at = newest or 0, now
    return waiting[:at_most]


def _courses_to_look_at(now: datetime) -> Select[Course, int | None]:
    newest = select(func.max(LogEntry.id)).where(LogEntry.class_id == Course.class_id).scalar_subquery()
    again = select(SentMark.course_id).where(SentMark.try_again_at <= now)
    is_due = or_(
        newest > Course.looked_to_entry,
        Course.looked_at.is_(None),
        Course.looked_at < now - _LOOK_ANYWAY,
        Course.id.in_(again),
    )
    has_columns = Course.id.in_(select(CourseLink.course_id).where(CourseLink.line_item != ""))
    return select(Course, newest).where(is_due, has_columns).order_by(Course.looked_at.nulls_first())


def _of_course(session: Session, course: Course, now: datetime) -> Iterator[MarkToSend]:
    subjects = _subjects(session, course)
    query = select(CourseLink).where(CourseLink.course_id == course.id, CourseLink.line_item != "")
    for link in session.scalars(query).all():
        version = version_for(session, course.class_id, link.exercise)
        totals = returned_totals(session, course.class_id, version.id) if version else {}
        told = {
            sent.student_id: sent
            for sent in session.scalars(
                select(SentMark).where(SentMark.course_id == course.id, SentMark.exercise == link.exercise)
            )
        }
        for student_id, subject in subjects.items():
            total, sent = totals.get(student_id), told.get(student_id)
            mark = (total.awarded, total.available) if total else (None, None)
            if sent is None and total is None:
                continue
            if sent is not None and (sent.awarded, sent.available) == mark and not _is_due(sent, now):
                continue
            yield MarkToSend(
                course_id=course.id, exercise=link.exercise, student_id=student_id, platform_id=course.platform_id,
                subject=subject, line_item=link.line_item, awarded=mark[0], available=mark[1],
            )  # fmt: skip


def _is_due(sent: SentMark, now: datetime) -> bool:
    """Say whether a mark was not taken, and is to be sent again by now."""
    return sent.sent_at is None and (sent.try_again_at is None or sent.try_again_at <= now)


def _subjects(session: Session, course: Course) -> dict[int, str]:
    """Return what a course's platform calls people of ours, by our ids."""
    query = (
        select(OutsideAccount.user_id, OutsideAccount.subject)
        .join(CoursePlatform, CoursePlatform.issuer == OutsideAccount.issuer)
        .where(CoursePlatform.id == course.platform_id)
    )
    return dict(session.execute(query).all())


def note_sent(session: Session, mark: MarkToSend, *, refused_with: int | None = None) -> None:
    """Note that a platform took a mark, or with what it refused it: it is sent again then, after a wait that grows.

    Parameters
    ----------
    refused_with
        The HTTP status, 0 where nobody answered; None for a mark that was taken.
    """
    is_taken = refused_with is None
    now = datetime.now(UTC)
    key = {"course_id": mark.course_id, "exercise": mark.exercise, "student_id": mark.student_id}
    known = session.get(SentMark, tuple(key.values()))
    tries = 0 if known is None or is_taken else known.tries
    wait = min(_FIRST_WAIT * 2**tries, _LONGEST_WAIT)
    values = {
        "awarded": mark.awarded,
        "available": mark.available,
        "sent_at": now if is_taken else None,
        "tries": 0 if is_taken else tries + 1,
        "refused_with": refused_with,
        "try_again_at": None if is_taken else now + wait,
    }
    row = insert(SentMark).values(**key, **values)
    session.execute(row.on_conflict_do_update(index_elements=list(key), set_=values))


def sent_marks(session: Session, course_id: int) -> Sequence[SentMark]:
    """List what a course's platform was told, or is to be told again: what it did not take first, then newest."""
    query = select(SentMark).where(SentMark.course_id == course_id)
    return session.scalars(query.order_by(SentMark.sent_at.desc().nulls_first(), SentMark.student_id)).all()


def try_again_now(session: Session, course_id: int) -> None:
    """Let what a platform did not take be sent again at once."""
    own = (SentMark.course_id == course_id, SentMark.sent_at.is_(None))
    session.execute(update(SentMark).where(*own).values(try_again_at=func.now()))
