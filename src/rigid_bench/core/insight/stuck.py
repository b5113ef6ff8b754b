"""Who is stuck: the same check missed in several builds in a row, without asking."""

from collections.abc import Iterable
from dataclasses import dataclass

from rigid_bench.core.insight.attempts import Attempt, OpenCheck, by_work

#: So often in a row.
_IN_A_ROW = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Stuck:
    """A check that a student keeps missing."""

    student_id: int
    check: str
    #: Of the exercise.
    title: str
    build_id: int
    times: int


def stuck(attempts: Iterable[Attempt]) -> list[Stuck]:
    """Return who misses the same check in the last builds that were measured, handed in or not; the deepest first."""
    keeping = []
    for (student, _), work in by_work(attempts).items():
        last = [attempt for attempt in work if attempt.open is not None]
        for check in last[-1].open or () if last else ():
            times = _times_in_a_row(last, check)
            if times >= _IN_A_ROW and not check.follows:
                keeping.append(
                    Stuck(
                        student_id=student,
                        check=check.title,
                        title=last[-1].title,
                        build_id=last[-1].build_id,
                        times=times,
                    )
                )
    return sorted(keeping, key=lambda own: -own.times)


def _times_in_a_row(work: Iterable[Attempt], check: OpenCheck) -> int:
    """Count the last attempts that all miss a check."""
    times = 0
    for attempt in reversed(list(work)):
        if not any(own.id == check.id and own.verdict == "missed" for own in attempt.open or ()):
            break
        times += 1
    return times
