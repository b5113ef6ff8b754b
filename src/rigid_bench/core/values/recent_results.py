"""Results of the last few calls, kept in memory by a digest of all that they depend on."""

import hashlib
from collections import OrderedDict
from collections.abc import Callable
from typing import Generic, TypeVar

_Result = TypeVar("_Result")


def digest_of(*parts: bytes | str) -> str:
    """Return a digest of some parts; where one ends and the next begins counts, too.

    Examples
    --------
    >>> digest_of("ab", "c") == digest_of("a", "bc")
    False
    """
    digest = hashlib.sha256()
    for part in parts:
        data = part.encode() if isinstance(part, str) else part
        digest.update(b"%d:" % len(data))
        digest.update(data)
    return digest.hexdigest()


class RecentResults(Generic[_Result]):
    """The results that were asked for last; only of plain values, which nobody changes.

    Examples
    --------
    >>> recent = RecentResults[int](most=1)
    >>> [recent.of("a", lambda: 1), recent.of("a", lambda: 2), recent.of("b", lambda: 3), recent.of("a", lambda: 4)]
    [1, 1, 3, 4]
    """

    def __init__(self, *, most: int) -> None:
        self._most = most
        self._results: OrderedDict[str, _Result] = OrderedDict()

    def of(self, key: str, make: Callable[[], _Result]) -> _Result:
        """Return the result of a key; it is made where it is not among the last ones."""
        if key not in self._results:
            self._results[key] = make()
        self._results.move_to_end(key)
        while len(self._results) > self._most:
            self._results.popitem(last=False)
        return self._results[key]
