"""Is it the sheet? Checks that many missed alike, or far more than their neighbours, with no slip that explains it."""

import statistics
from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

#: So many students at least, and such a share of those who handed in, are no accident.
_FEW, _SHARE = 3, 0.4
#: A check that such a share missed, and so many times as many as its neighbours at the median.
_MOST, _TIMES = 0.6, 3.0
#: Where such a share of the misses has one named slip, it is that slip and not the sheet.
_EXPLAINED = 0.5
#: Values that lie nearer than this share of the band, or of themselves, are one value.
_ALIKE = 0.1, 1e-4


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasuredCheck:
    """One check of one student's newest build."""

    student_id: int
    check: str
    title: str
    #: The strip of the card; checks of one strip are neighbours.
    strip: str
    verdict: str
    #: Cause code, or "".
    cause: str
    #: In the exercise's unit; None where no number is measured.
    value: float | None
    low: float | None
    high: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Suspect:
    """A check whose sheet is suspected."""

    check: str
    title: str
    why: Literal["same value", "missed far more"]
    missed: int
    handed_in: int
    #: The wrong value that most share; None where it is the share alone.
    value: float | None
    #: How many share it.
    alike: int
    low: float | None
    high: float | None
    #: All values that were measured.
    values: tuple[float, ...]
    #: What its neighbours' share is at the median.
    usual_share: float


def suspects(rows: Sequence[MeasuredCheck]) -> list[Suspect]:
    """Return the checks whose sheet is suspected, those that most missed first.

    Examples
    --------
    >>> rows = [MeasuredCheck(student_id=k, check="w", title="Width", strip="parts", verdict="missed", cause="",
    ...         value=41.0, low=39.9, high=40.1) for k in range(6)]
    >>> [(own.why, own.value, own.alike) for own in suspects(rows)]
    [('same value', 41.0, 6)]
    """
    by_check: dict[str, list[MeasuredCheck]] = defaultdict(list)
    for row in rows:
        by_check[row.check].append(row)
    shares = {check: _missed_share(own) for check, own in by_check.items()}
    suspected = []
    for check, own in by_check.items():
        strip = own[0].strip
        neighbours = [share for other, share in shares.items() if other != check and by_check[other][0].strip == strip]
        suspect = _suspect(own, statistics.median(neighbours) if neighbours else 0.0)
        if suspect is not None:
            suspected.append(suspect)
    return sorted(suspected, key=lambda own: -own.missed)


def _missed_share(rows: Sequence[MeasuredCheck]) -> float:
    return sum(row.verdict in ("missed", "near") for row in rows) / len(rows)


def _suspect(rows: Sequence[MeasuredCheck], usual: float) -> Suspect | None:
    missed = [row for row in rows if row.verdict in ("missed", "near")]
    if len(missed) < _FEW:
        return None
    causes = Counter(row.cause for row in missed if row.cause)
    if causes and causes.most_common(1)[0][1] >= _EXPLAINED * len(missed):
        return None
    value, alike = _commonest(missed)
    share = len(missed) / len(rows)
    is_same = alike >= _FEW and alike >= _SHARE * len(rows)
    if not is_same and not (share >= _MOST and share >= _TIMES * usual):
        return None
    return Suspect(
        check=rows[0].check, title=rows[0].title, why="same value" if is_same else "missed far more",
        missed=len(missed), handed_in=len(rows), value=value if is_same else None, alike=alike if is_same else 0,
        low=rows[0].low, high=rows[0].high, values=tuple(row.value for row in rows if row.value is not None),
        usual_share=usual,
    )  # fmt: skip


def _commonest(rows: Sequence[MeasuredCheck]) -> tuple[float | None, int]:
    """Return the value that most share, and how many do."""
    values = [row.value for row in rows if row.value is not None]
    if not values:
        return None, 0
    low, high = rows[0].low, rows[0].high
    band = high - low if low is not None and high is not None else 0.0
    near = [
        sum(abs(value - other) <= max(_ALIKE[0] * band, _ALIKE[1] * abs(value)) for other in values) for value in values
    ]
    most = max(range(len(values)), key=lambda k: near[k])
    return values[most], near[most]
