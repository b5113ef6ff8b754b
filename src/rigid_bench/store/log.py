"""The log of who saw and changed what: codes with parameters and people by id, so that erasing one is just that."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import delete, func, or_, select
from sqlalchemy.orm import Session, joinedload

from rigid_bench.store.tables import LogEntry


def log(
    session: Session,
    action: str,
    *,
    who_id: int | None,
    class_id: int | None,
    person_id: int | None = None,
    **params: Any,
) -> None:
    """Note who saw or changed what.

    Parameters
    ----------
    action
        A code; `web/words/log_words.py` has its words.
    who_id
        Who did it; None for the program itself.
    class_id
        The class in whose log it stands; None for none.
    person_id
        Whom it was done to.
    params
        What else its words need; never a person's name.
    """
    session.add(
        LogEntry(
            action=action, who_id=who_id, is_by_program=who_id is None, class_id=class_id, person_id=person_id,
            params=params,
        )
    )  # fmt: skip


def search_log(
    session: Session,
    *,
    action: str = "",
    person_id: int | None = None,
    since: datetime | None = None,
    until: datetime | None = None,
    offset: int = 0,
    limit: int = 100,
) -> tuple[Sequence[LogEntry], int]:
    """List the whole log, newest first, and count it: of one action, by or about one person, from when until when."""
    query = select(LogEntry)
    if action:
        query = query.where(LogEntry.action == action)
    if person_id is not None:
        query = query.where(or_(LogEntry.who_id == person_id, LogEntry.person_id == person_id))
    if since is not None:
        query = query.where(LogEntry.made_at >= since)
    if until is not None:
        query = query.where(LogEntry.made_at < until)
    count = session.scalar(select(func.count()).select_from(query.subquery())) or 0
    people = (joinedload(LogEntry.who), joinedload(LogEntry.person))
    listed = query.order_by(LogEntry.id.desc()).offset(offset).limit(limit).options(*people)
    return session.scalars(listed).all(), count


def erase_log(session: Session, before: datetime) -> int:
    """Erase the entries from before a time; return how many they were."""
    return len(session.scalars(delete(LogEntry).where(LogEntry.made_at < before).returning(LogEntry.id)).all())


def log_of_class(session: Session, class_id: int, *, limit: int = 500) -> Sequence[LogEntry]:
    """List a class's log, newest first."""
    people = (joinedload(LogEntry.who), joinedload(LogEntry.person))
    query = select(LogEntry).where(LogEntry.class_id == class_id).order_by(LogEntry.id.desc()).options(*people)
    return session.scalars(query.limit(limit)).all()
