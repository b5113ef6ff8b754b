"""Slips of a class, ranked: how many made each, how many put it right by themselves, and how long that took."""

import statistics
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime

from rigid_bench.core.insight.attempts import Attempt, by_work, measured


@dataclass(frozen=True, slots=True, kw_only=True)
class Episode:
    """One slip of one student at one check, from when it was first measured until it was put right."""

    code: str
    student_id: int
    exercise: str
    check: str
    began: datetime
    #: The build that showed it first.
    build_id: int
    #: None while it stands.
    ended: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SlipRank:
    """One slip in the class."""

    code: str
    #: Who made it, and whose still stands.
    students: frozenset[int]
    standing: frozenset[int]
    #: Times it was made, and put right in a later handing-in.
    made: int
    put_right: int
    exercises: frozenset[str]
    #: Median of hours until it was put right; None where nobody did.
    hours: float | None
    #: Builds that showed it, the newest first.
    builds: tuple[int, ...]


def episodes(attempts: Iterable[Attempt]) -> Iterator[Episode]:
    """Yield every slip that was made: it is put right once its check is no longer open."""
    for (student_id, exercise), work in by_work(attempts).items():
        begun: dict[tuple[str, str], Attempt] = {}
        for attempt in measured(work):
            here = {(own.id, own.slip) for own in attempt.open or () if own.slip}
            still_open = {own.id for own in attempt.open or ()}
            for check, code in [key for key in begun if key[0] not in still_open]:
                yield _episode(begun.pop((check, code)), student_id, exercise, check, code, attempt.at)
            for key in here:
                begun.setdefault(key, attempt)
        for (check, code), attempt in begun.items():
            yield _episode(attempt, student_id, exercise, check, code, None)


def _episode(first: Attempt, student_id: int, exercise: str, check: str, code: str, ended: datetime | None) -> Episode:
    return Episode(
        code=code, student_id=student_id, exercise=exercise, check=check, began=first.at, build_id=first.build_id,
        ended=ended,
    )  # fmt: skip


def ranked(attempts: Iterable[Attempt]) -> list[SlipRank]:
    """Rank the slips of a class: what most students made comes first.

    Examples
    --------
    >>> ranked([])
    []
    """
    by_code: dict[str, list[Episode]] = defaultdict(list)
    for episode in episodes(attempts):
        by_code[episode.code].append(episode)
    slip_ranks = [_rank(code, own) for code, own in by_code.items()]
    return sorted(slip_ranks, key=lambda rank: (-len(rank.students), -rank.made, rank.code))


def _rank(code: str, own: Sequence[Episode]) -> SlipRank:
    ended = [episode for episode in own if episode.ended is not None]
    hours = [(episode.ended - episode.began).total_seconds() / 3600 for episode in ended if episode.ended]
    return SlipRank(
        code=code,
        students=frozenset(episode.student_id for episode in own),
        standing=frozenset(episode.student_id for episode in own if episode.ended is None),
        made=len(own),
        put_right=len(ended),
        exercises=frozenset(episode.exercise for episode in own),
        hours=statistics.median(hours) if hours else None,
        builds=tuple(sorted({episode.build_id for episode in own}, reverse=True)),
    )


def came_back(attempts: Iterable[Attempt]) -> dict[int, list[str]]:
    """Return by student the slips that they made in more than one exercise."""
    exercises: dict[tuple[int, str], set[str]] = defaultdict(set)
    for episode in episodes(attempts):
        exercises[episode.student_id, episode.code].add(episode.exercise)
    back: dict[int, list[str]] = defaultdict(list)
    for (student_id, code), own in sorted(exercises.items()):
        if len(own) > 1:
            back[student_id].append(code)
    return dict(back)
