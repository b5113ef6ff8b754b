"""How broken lines are cut into dashes, so that they begin, end, meet and cross in dashes (ISO 128-2, from memory)."""

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from rigid_bench.core.drawing.report import LineKind, Point

_CHAIN = (6.0, 0.75, 0.75, 0.75)
#: mm: dash, gap and so on, of narrow lines; what is not named is drawn through.
_PATTERNS: dict[LineKind, tuple[float, ...]] = {
    "hidden": (3.0, 0.75), "centre": _CHAIN, "pitch": _CHAIN, "cutting": _CHAIN, "trail": _CHAIN,
    "phantom": (6.0, 0.75, 0.75, 0.75, 0.75, 0.75),
}  # fmt: skip
#: What is crossed in its middle, or at its quarters once it is closed.
_CROSSED = ("centre", "pitch")
#: mm: less is one dash.
_SHORT = 1.0
#: rad: where a line turns by more, it is cut anew.
_CORNER = math.radians(20)
_CLOSED = 1e-3


@dataclass(frozen=True, slots=True)
class Dashes:
    """How a piece of line is cut: dash, gap and so on, mm, and how far into the first dash it begins."""

    pattern: tuple[float, ...]
    offset: float = 0.0


def dashed(kind: LineKind, points: Sequence[Point]) -> Iterator[tuple[Sequence[Point], Dashes | None]]:
    """Yield a line in pieces from corner to corner, each with its dashes; None where it is drawn through.

    Parameters
    ----------
    kind
        Of line.
    points
        (n, 2) mm.
    """
    if kind not in _PATTERNS:
        yield points, None
        return
    for piece in _pieces(points):
        length = sum(math.dist(a, b) for a, b in itertools.pairwise(piece))
        yield piece, _fitted(kind, length, is_closed=math.dist(piece[0], piece[-1]) < _CLOSED and len(piece) > 2)


def _fitted(kind: LineKind, length: float, *, is_closed: bool) -> Dashes | None:
    """Stretch or shrink a pattern so that a whole number of dashes fits."""
    pattern = _PATTERNS[kind]
    dash, period = pattern[0], sum(pattern)
    if length <= _SHORT:
        return None
    if is_closed:
        count = max(4 * round(length / period / 4), 4) if kind in _CROSSED else max(round(length / period), 2)
        factor = length / (count * period)
        return Dashes(_scaled(pattern, factor), round(dash * factor / 2, 5))
    gaps = (length - dash) / period
    # as many dashes before the middle as after it: a cross is in the middle of one
    count = 2 * round(gaps / 2) if kind in _CROSSED else max(round(gaps), 1)
    return Dashes(_scaled(pattern, length / (count * period + dash))) if count else None


def _scaled(pattern: Sequence[float], factor: float) -> tuple[float, ...]:
    return tuple(round(part * factor, 5) for part in pattern)


def _pieces(points: Sequence[Point]) -> Iterator[Sequence[Point]]:
    """Yield a line cut at its corners."""
    first = 0
    for number, (a, b, c) in enumerate(zip(points, points[1:], points[2:], strict=False), 1):
        turn = math.atan2(c[1] - b[1], c[0] - b[0]) - math.atan2(b[1] - a[1], b[0] - a[0])
        if abs((turn + math.pi) % (2 * math.pi) - math.pi) > _CORNER:
            yield points[first : number + 1]
            first = number
    yield points[first:]
