"""Passwords and codes cannot be tried without end: so many tries by account and by address, then a wait."""

import math
import time
from dataclasses import dataclass

from limits import RateLimitItem, RateLimitItemPerMinute
from limits.storage import MemoryStorage
from limits.strategies import MovingWindowRateLimiter

from rigid_bench.core.values.errors import TooManyTries


@dataclass(frozen=True, slots=True, kw_only=True)
class Limit:
    """How often something may be tried, and what is said then."""

    name: str
    rate: RateLimitItem
    next_step: str


_ASK = "Wait, then try again; your teacher can give you a new password"
#: Common practice, no source: ten tries are enough for a slip of the finger, and too few for guessing.
ACCOUNT = Limit(name="account", rate=RateLimitItemPerMinute(10, 10), next_step=_ASK)
#: A whole class sits behind one address, so only wrong tries count, and many are let by.
ADDRESS = Limit(name="address", rate=RateLimitItemPerMinute(150, 10), next_step=_ASK)
CODES = Limit(
    name="codes",
    rate=RateLimitItemPerMinute(60, 10),
    next_step="Check the code with your teacher, wait, then try again",
)
START = Limit(
    name="start", rate=RateLimitItemPerMinute(20, 10), next_step="Read the code that the server printed, then try again"
)


class Throttle:
    """Counts tries in the memory of one process."""

    def __init__(self) -> None:
        self._limiter = MovingWindowRateLimiter(MemoryStorage())

    def check(self, limit: Limit, who: str) -> None:
        """Refuse a try where too many went before.

        Raises
        ------
        TooManyTries
            With the time to wait.
        """
        if not self._limiter.test(limit.rate, limit.name, who):
            raise self._refusal(limit, who)

    def take(self, limit: Limit, who: str) -> None:
        """Count a try before it is made, so that many at once are not all let by.

        Raises
        ------
        TooManyTries
            Too many went before.
        """
        if not self._limiter.hit(limit.rate, limit.name, who):
            raise self._refusal(limit, who)

    def note(self, limit: Limit, who: str) -> None:
        """Count a try that failed."""
        self._limiter.hit(limit.rate, limit.name, who)

    def forget(self, limit: Limit, who: str) -> None:
        """Begin to count anew: the right password was given."""
        self._limiter.clear(limit.rate, limit.name, who)

    def _refusal(self, limit: Limit, who: str) -> TooManyTries:
        stats = self._limiter.get_window_stats(limit.rate, limit.name, who)
        wait_s = max(1, math.ceil(stats.reset_time - time.time()))
        words = f"{wait_s} seconds" if wait_s < 100 else f"{math.ceil(wait_s / 60)} minutes"
        return TooManyTries("sign-in", f"too many wrong tries; the next is in {words}", limit.next_step, wait_s)
