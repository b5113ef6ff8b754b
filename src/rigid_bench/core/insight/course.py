"""How work on an exercise went: from the first look to all met, attempts, what was left open."""

import statistics
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass

from rigid_bench.core.insight.attempts import Attempt, by_work, measured

#: So many checks that were left open are named.
_NAMED = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Course:
    """How a class's work on one exercise went."""

    exercise: str
    title: str
    #: Students who handed in, and those who met everything.
    handed_in: int
    all_met: int
    #: Medians; None where nobody came so far.
    attempts: float | None
    hours_to_met: float | None
    #: Titles of what most left open, with how many did.
    left_open: tuple[tuple[str, int], ...]


def courses(attempts: Iterable[Attempt]) -> list[Course]:
    """Return how the work went, exercise by exercise, in the order of the attempts."""
    works: dict[str, list[list[Attempt]]] = {}
    for (_, exercise), work in by_work(attempts).items():
        if measured(work):
            works.setdefault(exercise, []).append(work)
    return [_course(exercise, own) for exercise, own in works.items()]


def _course(exercise: str, works: list[list[Attempt]]) -> Course:
    hours, counts = [], []
    left_open: Counter[str] = Counter()
    for work in works:
        counted = measured(work)
        counts.append(len(counted))
        done = next((attempt for attempt in counted if attempt.is_all_met), None)
        if done is not None:
            hours.append((done.at - work[0].at).total_seconds() / 3600)
        left_open.update({own.title for own in counted[-1].open or () if not own.follows})
    return Course(
        exercise=exercise,
        title=works[0][-1].title,
        handed_in=len(works),
        all_met=len(hours),
        attempts=statistics.median(counts) if counts else None,
        hours_to_met=statistics.median(hours) if hours else None,
        left_open=tuple(left_open.most_common(_NAMED)),
    )
