"""Passwords and codes cannot be tried without end: so many tries by account and by address, then a wait."""

import hashlib
import math
from dataclasses import dataclass
from datetime import timedelta

from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import TooManyTries
from rigid_bench.core.wording.language import N_, _
from rigid_bench.store import tries
from rigid_bench.store.database import Database

_SPAN = timedelta(minutes=10)


@dataclass(frozen=True, slots=True, kw_only=True)
class Limit:
    """How often something may be tried, and what is said then."""

    name: str
    #: So many tries within so long.
    most: int
    within: timedelta
    next_step: str


_ASK = N_("Wait, then try again; your teacher can give you a new password")
#: Common practice, no source: ten tries are enough for a slip of the finger, and too few for guessing.
ACCOUNT = Limit(name="account", most=10, within=_SPAN, next_step=_ASK)
#: A whole class sits behind one address, so only wrong tries count, and many are let by.
ADDRESS = Limit(name="address", most=150, within=_SPAN, next_step=_ASK)
CODES = Limit(
    name="codes",
    most=60,
    within=_SPAN,
    next_step=N_("Check the code with your teacher, wait, then try again"),
)
START = Limit(
    name="start", most=20, within=_SPAN, next_step=N_("Read the code that the server printed, then try again")
)


class Throttle:
    """Counts tries in the database, so that all web processes, on however many machines, count together.

    Each count is a transaction of its own: it stays though the request that made it is refused. In a coroutine it is
    called off the event loop.
    """

    def __init__(self, database: Database) -> None:
        self._database = database

    def check(self, limit: Limit, who: str) -> None:
        """Refuse a try where too many went before.

        Raises
        ------
        TooManyTries
            With the time to wait.
        """
        with self._database.session() as session:
            self._refuse_too_many(session, limit, who)

    def take(self, limit: Limit, who: str) -> None:
        """Count a try before it is made, so that many at once are not all let by.

        Raises
        ------
        TooManyTries
            Too many went before.
        """
        with self._database.session() as session:
            tries.lock_tries(session, limit.name, _hidden(who))
            self._refuse_too_many(session, limit, who)
            tries.add_try(session, limit.name, _hidden(who))

    def note(self, limit: Limit, who: str) -> None:
        """Count a try that failed."""
        with self._database.session() as session:
            tries.add_try(session, limit.name, _hidden(who))

    def forget(self, limit: Limit, who: str) -> None:
        """Begin to count anew: the right password was given."""
        with self._database.session() as session:
            tries.forget_tries(session, limit.name, _hidden(who))

    @staticmethod
    def _refuse_too_many(session: Session, limit: Limit, who: str) -> None:
        wait_s = tries.wait_after_tries_s(session, limit.name, _hidden(who), most=limit.most, within=limit.within)
        if wait_s is None:
            return
        words = (
            _("{count} seconds", count=wait_s) if wait_s < 100 else _("{count} minutes", count=math.ceil(wait_s / 60))
        )
        raise TooManyTries(
            _("sign-in"), _("too many wrong tries; the next is in {words}", words=words), limit.next_step, wait_s
        )


def _hidden(who: str) -> str:
    """Return what is kept of who tried: the same for the same, and no name or address."""
    return hashlib.sha256(who.encode(errors="replace")).hexdigest()
