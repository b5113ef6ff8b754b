"""Mates of a build that do not hold where its parts stand."""

import math

from rigid_bench.core.formats.message import Message
from rigid_bench.core.grading.context import Context
from rigid_bench.core.wording.quantities import number

#: So many are told; who has more mends these first.
_MOST = 3


def clashing_mates(context: Context) -> list[Message]:
    """Return a notice for each mate that does not hold, where the card's rows worked out what the mates leave free."""
    freedom = vars(context).get("freedom")  # not worked out for this alone
    if freedom is None or context.submission.build is None:
        return []
    own = {mate.id for mate in context.submission.build.mates}
    return [
        Message(
            code="mate-does-not-hold",
            params={
                "mate": conflict.mate,
                "mm": number(conflict.residual.mm),
                "degrees": number(math.degrees(conflict.residual.rad)),
            },
        )
        for conflict in freedom.conflicts[:_MOST]
        if conflict.mate in own
    ]
