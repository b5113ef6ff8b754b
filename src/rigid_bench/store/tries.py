"""What is asked of the database about tries of passwords and codes: how many were made, and how long to wait."""

import math
from datetime import timedelta

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from rigid_bench.store.tables import Try

#: No limit looks further back.
_LONGEST = timedelta(hours=1)


def lock_tries(session: Session, limit: str, who: str) -> None:
    """Let nobody else count tries of the same until this transaction ends."""
    session.execute(select(func.pg_advisory_xact_lock(func.hashtextextended(f"{limit}:{who}", 0))))


def add_try(session: Session, limit: str, who: str) -> None:
    """Count a try; those that count no more are forgotten."""
    session.execute(delete(Try).where(Try.made_at < func.now() - _LONGEST))
    session.add(Try(limit=limit, who=who))


def forget_tries(session: Session, limit: str, who: str) -> None:
    """Begin to count anew."""
    session.execute(delete(Try).where(Try.limit == limit, Try.who == who))


def wait_after_tries_s(session: Session, limit: str, who: str, *, most: int, within: timedelta) -> int | None:
    """Return how long to wait before another try, seconds; None where one may be made now.

    Parameters
    ----------
    most, within
        So many tries may be made within so long: the oldest of them has to be as long ago.
    """
    own = (Try.limit == limit, Try.who == who, Try.made_at > func.now() - within)
    oldest = select(Try.made_at).where(*own).order_by(Try.made_at.desc()).offset(most - 1).limit(1).scalar_subquery()
    wait = session.scalar(select(oldest + within - func.now()))
    return None if wait is None else max(1, math.ceil(wait.total_seconds()))
