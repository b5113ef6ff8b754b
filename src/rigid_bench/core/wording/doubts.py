"""What is said first of files that are about to be handed in, in one sentence."""

from rigid_bench.core.formats.preview import Doubt
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.quantities import number

_NEAR = 0.05


def doubt_words(doubt: Doubt) -> str:
    """Say a doubt, with what to do.

    Examples
    --------
    >>> doubt_words(Doubt(code="lone-part", number=3))
    'This is one part; an assembly of 3 is asked. Hand in the whole assembly, or its parts in one zip.'
    """
    match doubt.code:
        case "other-exercise":
            return _(
                "Nothing in it looks like a part of this exercise. Is it another exercise's? Choose its files again."
            )
        case "lone-part":
            return _(
                "This is one part; an assembly of {count} is asked. "
                "Hand in the whole assembly, or its parts in one zip.",
                count=round(doubt.number),
            )
        case _:
            times = number(doubt.number, 2) if doubt.number >= 1 else f"1/{number(1 / doubt.number, 2)}"
            if min(abs(doubt.number - 25.4), abs(1 / doubt.number - 25.4)) < _NEAR:
                return _(
                    "Everything is {times} times as large as asked: it looks like inches. "
                    "Set the unit and export it again.",
                    times=times,
                )
            return _(
                "Everything is {times} times as large as asked: it looks like another unit. "
                "Set the unit and export it again.",
                times=times,
            )
