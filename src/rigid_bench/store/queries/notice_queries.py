"""What is asked of the database about notices: on the start page, and by e-mail."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal, cast

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session, joinedload

from rigid_bench.store.tables import Build, ClassTeacher, ExerciseVersion, Notice, User

#: What a notice is about. To students: a card was returned or taken back, its marks changed, a question was answered.
#: To teachers, who have them on the day's page: a question was asked, cards were held back at the time set.
NoticeKind = Literal["returned", "changed", "answered", "asked", "held back"]
#: An older notice is not sent any more: it waited for a mail server, or for somebody to want it.
_STALE = timedelta(days=1)
#: Letters at once.
_MOST = 100


@dataclass(frozen=True, slots=True, kw_only=True)
class Letter:
    """A notice to be sent."""

    notice_id: int
    email: str
    kind: NoticeKind
    #: Of the exercise; "" where it is about none.
    title: str


def notify(
    session: Session,
    user_ids: Sequence[int],
    text: str,
    *,
    kind: NoticeKind,
    build_id: int | None = None,
    return_id: int | None = None,
) -> None:
    """Tell people something on their start page, and by e-mail where they want that."""
    session.add_all(
        Notice(user_id=user_id, text=text, kind=kind, build_id=build_id, return_id=return_id) for user_id in user_ids
    )


def tell_teachers(session: Session, build: Build, *, kind: NoticeKind) -> None:
    """Tell the teachers of a build's class something about it, by e-mail where they want that."""
    teachers = select(ClassTeacher.teacher_id).where(ClassTeacher.class_id == build.class_id)
    notify(session, session.scalars(teachers).all(), "", kind=kind, build_id=build.id)


def notices_of(session: Session, user_id: int) -> Sequence[Notice]:
    """List what a person has not marked as read, newest first."""
    query = select(Notice).where(Notice.user_id == user_id, Notice.seen_at.is_(None)).options(joinedload(Notice.build))
    return session.scalars(query.order_by(Notice.id.desc()).limit(20)).all()


def see_notices(session: Session, user_id: int) -> None:
    """Mark a person's notices as read."""
    unseen = update(Notice).where(Notice.user_id == user_id, Notice.seen_at.is_(None))
    session.execute(unseen.values(seen_at=func.now()))


def want_mail(session: Session, user_id: int, *, email: str, kinds: Sequence[NoticeKind]) -> None:
    """Keep a person's address, and of what they want to hear by e-mail; "" for none."""
    session.execute(update(User).where(User.id == user_id).values(email=email, mail_of=list(kinds)))


def letters_to_send(session: Session, now: datetime) -> list[Letter]:
    """List the notices that wait to be sent, the oldest first; nobody else sends them until the transaction ends."""
    query = (
        select(Notice, User.email, ExerciseVersion.title)
        .join(User, User.id == Notice.user_id)
        .outerjoin(Build, Build.id == Notice.build_id)
        .outerjoin(ExerciseVersion, ExerciseVersion.id == Build.version_id)
        .where(Notice.mailed_at.is_(None), Notice.seen_at.is_(None), Notice.made_at > now - _STALE)
        .where(User.email != "", User.disabled_at.is_(None), Notice.kind == func.any(User.mail_of))
        .order_by(Notice.id)
        .limit(_MOST)
        .with_for_update(of=Notice, skip_locked=True)
    )
    return [
        Letter(notice_id=notice.id, email=email, kind=cast(NoticeKind, notice.kind), title=title or "")
        for notice, email, title in session.execute(query)
    ]


def note_mailed(session: Session, notice_id: int) -> None:
    """Note that a notice was sent."""
    session.execute(update(Notice).where(Notice.id == notice_id).values(mailed_at=func.now()))
