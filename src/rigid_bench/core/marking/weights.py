"""How much each part of an exercise weighs: marks of its checks are scaled so that they add up to what is wanted."""

from collections.abc import Mapping, Sequence
from typing import Any

#: What checks of no single part are counted under.
ASSEMBLY = "assembly"
#: Marks are kept to so many digits.
_DIGITS = 2


def marks_by_part(checks: Sequence[Mapping[str, Any]]) -> dict[str, float]:
    """Return the marks of each part's checks, and of those of the assembly, as an exercise's checks give them."""
    found: dict[str, float] = {}
    for check in checks:
        part = check.get("part", ASSEMBLY)
        found[part] = found.get(part, 0.0) + check.get("marks", 0)
    return found


def weighted(checks: Sequence[Mapping[str, Any]], wanted: Mapping[str, float]) -> list[dict[str, Any]]:
    """Return the checks with their marks scaled, part by part; within a part they keep their shares.

    What rounding leaves over goes to the check with most marks, so that the sum is just what is wanted.

    Parameters
    ----------
    checks
        As an exercise's document has them.
    wanted
        Part, or `ASSEMBLY` -> marks; parts that it does not name stay as they are.

    Raises
    ------
    ZeroDivisionError
        Marks are wanted where no check has any: there is nothing to scale.
    """
    now = marks_by_part(checks)
    changed = [dict(check) for check in checks]
    for part, marks in wanted.items():
        own = [check for check in changed if check.get("part", ASSEMBLY) == part and check.get("marks", 0) > 0]
        if not own and marks == 0:
            continue
        factor = marks / now.get(part, 0.0)
        for check in own:
            check["marks"] = round(factor * check["marks"], _DIGITS)
        most = max(own, key=lambda check: check["marks"])
        rest = marks - sum(check["marks"] for check in own)
        most["marks"] = round(most["marks"] + rest, _DIGITS)
    return changed
