"""All families of mechanisms, by level: one part that moves, several, linkages."""

import random
from collections.abc import Callable

from rigid_bench.core.practice.mechanisms import linkages, locating, sliding_parts, turning
from rigid_bench.core.practice.mechanisms.maker import Mechanism

Family = Callable[[random.Random], Mechanism]
ALL: tuple[Family, ...] = (*turning.FAMILIES, *sliding_parts.FAMILIES, *locating.FAMILIES, *linkages.FAMILIES)
#: More than one part moves.
_CHAINS = {
    turning.universal_joint, turning.turntable_with_arm, turning.wheel_with_idler, sliding_parts.crossed_table,
    sliding_parts.telescope, sliding_parts.gantry, sliding_parts.post_on_foot, locating.stacked_plates,
}  # fmt: skip


def of_level(level: int) -> list[Family]:
    """Return the families of a level: 1 has one part that moves, 2 also chains of parts, 3 linkages."""
    if level >= 3:
        return list(linkages.FAMILIES)
    simple = [family for family in ALL if family not in linkages.FAMILIES and family not in _CHAINS]
    return simple if level == 1 else [*simple, *(family for family in ALL if family in _CHAINS)]
