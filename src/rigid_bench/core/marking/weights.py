"""How much each part of an exercise or each strip of its card weighs: marks are scaled to what is wanted in all."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

#: What checks of no single part are counted under.
ASSEMBLY = "assembly"
#: Marks are kept to so many digits.
_DIGITS = 2


Check = Mapping[str, Any]


def part_of(check: Check) -> str:
    """Return the part that a check is of, or `ASSEMBLY`."""
    part: str = check.get("part", ASSEMBLY)
    return part


def marks_by(group_of: Callable[[Check], str], checks: Sequence[Check]) -> dict[str, float]:
    """Return the marks of each group of checks, as an exercise's document gives them.

    Examples
    --------
    >>> marks_by(part_of, [{"part": "box", "marks": 2}, {"part": "box", "marks": 1}, {"marks": 4}])
    {'box': 3, 'assembly': 4}
    """
    marks: dict[str, float] = {}
    for check in checks:
        group = group_of(check)
        marks[group] = marks.get(group, 0) + check.get("marks", 0)
    return marks


def weighted(
    checks: Sequence[Check], wanted: Mapping[str, float], group_of: Callable[[Check], str] = part_of
) -> list[dict[str, Any]]:
    """Return the checks with their marks scaled, group by group; within a group they keep their shares.

    What rounding leaves over goes to the check with most marks, so that the sum is just what is wanted.

    Parameters
    ----------
    checks
        As an exercise's document has them.
    wanted
        Group -> marks; groups that it does not name stay as they are.
    group_of
        To which part, or strip of the card, a check belongs.

    Raises
    ------
    ZeroDivisionError
        Marks are wanted where no check has any: there is nothing to scale.
    """
    now = marks_by(group_of, checks)
    changed = [dict(check) for check in checks]
    for group, marks in wanted.items():
        own = [check for check in changed if group_of(check) == group and check.get("marks", 0) > 0]
        if not own and marks == 0:
            continue
        factor = marks / now.get(group, 0.0)
        for check in own:
            check["marks"] = round(factor * check["marks"], _DIGITS)
        most = max(own, key=lambda check: check["marks"])
        rest = marks - sum(check["marks"] for check in own)
        most["marks"] = round(most["marks"] + rest, _DIGITS)
    return changed
