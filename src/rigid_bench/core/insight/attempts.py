"""Handing-ins of a class, as far as what went wrong is told from them."""

from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenCheck:
    """A check that is not met."""

    id: str
    title: str
    verdict: str
    #: Cause code; "" where none was named.
    cause: str
    #: The check whose slip is the reason for this one; "" where it is one of its own.
    follows: str

    @property
    def slip(self) -> str:
        """The slip that was made here; "" where none was named, or it was made elsewhere."""
        return "" if self.follows or self.cause == "follows" else self.cause


@dataclass(frozen=True, slots=True, kw_only=True)
class Attempt:
    """One handing-in of a student; or a look before it, which counts for nothing."""

    build_id: int
    student_id: int
    version_id: int
    #: The exercise's own id: its versions share it.
    exercise: str
    title: str
    at: datetime
    counts: bool
    #: None before it was measured.
    open: tuple[OpenCheck, ...] | None

    @property
    def is_all_met(self) -> bool:
        """Everything is met."""
        return self.open is not None and not self.open


def by_work(attempts: Iterable[Attempt]) -> dict[tuple[int, str], list[Attempt]]:
    """Return each student's attempts at each exercise, oldest first; looks come with them."""
    attempts_by_work: dict[tuple[int, str], list[Attempt]] = defaultdict(list)
    for attempt in attempts:
        attempts_by_work[attempt.student_id, attempt.exercise].append(attempt)
    return {
        key: sorted(own, key=lambda attempt: (attempt.at, attempt.build_id)) for key, own in attempts_by_work.items()
    }


def measured(attempts: Sequence[Attempt]) -> list[Attempt]:
    """Return those that count and were measured."""
    return [attempt for attempt in attempts if attempt.counts and attempt.open is not None]


def reached_by(
    attempts: Iterable[Attempt], stages: Mapping[tuple[str, str], Collection[str]]
) -> dict[tuple[str, str], set[int]]:
    """Return who had all checks of each stage met at once, in a hand-in or in a look before it.

    Parameters
    ----------
    attempts
        Of the class.
    stages
        (exercise, stage) -> ids of its checks; "*" among them for all.
    """
    reached: dict[tuple[str, str], set[int]] = {work: set() for work in stages}
    for attempt in attempts:
        for work, checks in stages.items():
            if attempt.open is None or work[0] != attempt.exercise:
                continue
            if not any("*" in checks or own.id in checks for own in attempt.open):
                reached[work].add(attempt.student_id)
    return reached
