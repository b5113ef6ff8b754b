"""What is practised next: a small rule of our own after Leitner's boxes, by kind of drill, and within a kind by slip.

A kind waits in a box. A right answer moves it up, and it waits for twice as many other drills; a wrong one moves it
down to the first, and it comes again soon. The slips that a kind plants wait in boxes of their own, by drills of the
kind: one that was missed is planted again soon, one that is known seldom. Levels go up after two right answers in a
row at a level, down after two wrong ones; after three misses in a row, of whatever kind, the next is of the easiest
level. Never two of a kind in a row.
(The boxes are S. Leitner's, So lernt man lernen, 1972, from memory; the numbers are ours.)
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

#: Other drills between two of a kind, by box.
_WAITS = (1, 2, 4, 8, 16)
#: Answers in a row that change a level; misses after which something easy comes.
_IN_A_ROW, _MISSES = 2, 3


@dataclass(frozen=True, slots=True)
class Answered:
    """One drill that was answered."""

    kind: str
    level: int
    is_right: bool
    #: The slip that was planted; "" for none.
    slip: str = ""


def due_slip(history: Sequence[Answered], kind: str) -> str:
    """Return the slip of a kind that is due again, the longest overdue of them; "" where none is.

    Parameters
    ----------
    history
        What the student answered, oldest first.
    kind
        The kind of drill that comes next.

    Examples
    --------
    >>> missed = Answered("a", 1, False, "wall")
    >>> due_slip([missed], "a"), due_slip([missed, Answered("a", 1, True, "half")], "a")
    ('', 'wall')
    """
    own = [answered for answered in history if answered.kind == kind]
    slips = {answered.slip: _overdue(own, answered.slip) for answered in own if answered.slip}
    due = [slip for slip, overdue in slips.items() if overdue >= 1]
    return max(due, key=lambda slip: slips[slip], default="")


def _overdue(own: Sequence[Answered], slip: str) -> float:
    """Return how long a slip has waited, in drills of its kind, as a share of how long it should."""
    box, waited = 0, 0
    for place, answered in enumerate(own):
        if answered.slip == slip:
            box = min(box + 1, len(_WAITS) - 1) if answered.is_right else 0
            waited = len(own) - 1 - place
    return waited / _WAITS[box]


def next_drill(history: Sequence[Answered], kinds: Mapping[str, Sequence[int]], wished: str = "") -> tuple[str, int]:
    """Choose what comes next.

    Parameters
    ----------
    history
        What the student answered, oldest first.
    kinds
        What may come: by kind its levels.
    wished
        A kind that the student chose; its level alone is looked for.

    Returns
    -------
    kind, level

    Examples
    --------
    >>> next_drill([], {"a": (1, 2), "b": (1,)})
    ('a', 1)
    >>> next_drill([Answered("a", 1, True)], {"a": (1, 2), "b": (1,)})
    ('b', 1)
    """
    kind = wished if wished in kinds else _due(history, list(kinds))
    return kind, _level(history, kind, sorted(kinds[kind]))


def _due(history: Sequence[Answered], kinds: list[str]) -> str:
    """Return the kind that has waited longest beyond its turn; those that were never tried come first."""
    last = history[-1].kind if history else ""

    def overdue(kind: str) -> tuple[bool, float]:
        box, waited = 0, None
        for place, answered in enumerate(history):
            if answered.kind == kind:
                box = min(box + 1, len(_WAITS) - 1) if answered.is_right else 0
                waited = len(history) - 1 - place
        return (waited is None, 0.0 if waited is None else waited / _WAITS[box])

    open_kinds = [kind for kind in kinds if kind != last] or kinds
    return max(open_kinds, key=lambda kind: (overdue(kind), -kinds.index(kind)))


def _level(history: Sequence[Answered], kind: str, levels: Sequence[int]) -> int:
    if len(history) >= _MISSES and not any(answered.is_right for answered in history[-_MISSES:]):
        return levels[0]
    own = [answered for answered in history if answered.kind == kind]
    if not own:
        return levels[0]
    level = own[-1].level if own[-1].level in levels else levels[0]
    recent = own[-_IN_A_ROW:]
    if len(recent) == _IN_A_ROW and all(answered.level == level for answered in recent):
        place = levels.index(level)
        if all(answered.is_right for answered in recent):
            return levels[min(place + 1, len(levels) - 1)]
        if not any(answered.is_right for answered in recent):
            return levels[max(place - 1, 0)]
    return level
