"""Slips that cap a build's mark, as the exercise says: a wrong unit, a part that is missing, nothing mated."""

from collections.abc import Mapping, Sequence
from typing import Final

from rigid_bench.core.exercise.bundle import Cap
from rigid_bench.core.grading.report.models import CheckResult

#: By what an exercise calls it, the codes of the causes that bring it about.
_CODES: Final[Mapping[Cap, frozenset[str]]] = {
    "wrong unit": frozenset({"unit-of-part"}),
    "missing part": frozenset({"part-missing", "merged"}),
    "nothing mated": frozenset({"placed-not-held"}),
}


def with_caps(results: Sequence[CheckResult], caps: Mapping[Cap, float]) -> list[CheckResult]:
    """Say at each check whose slip caps the mark how many percent of all marks are left at most.

    A check that only follows from another's slip says nothing: with that one put right the cap is gone.

    Parameters
    ----------
    results
        One per check.
    caps
        The exercise's own, in percent.
    """
    limits = {code: percent for cap, percent in caps.items() for code in _CODES[cap]}
    return [
        result.model_copy(update={"caps_at": limits[result.cause.code]})
        if result.cause and not result.follows and result.cause.code in limits
        else result
        for result in results
    ]
