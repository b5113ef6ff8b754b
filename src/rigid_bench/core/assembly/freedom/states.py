"""How an instance stands, in a word: loose, guided, held, over-held or clashing."""

from typing import Literal

from rigid_bench.core.assembly.freedom.analysis import Freedom

State = Literal["loose", "guided", "held", "over-held", "clashing"]
#: With more motions than this, a part is loose and no longer guided.
_GUIDED = 2


def state_of(freedom: Freedom, index: int, degrees: int, *, allowed: int = 0) -> State:
    """Say how an instance stands.

    Parameters
    ----------
    freedom
        What the mates leave free.
    index
        The instance's place in the build.
    degrees
        Its freedom, relative to what is asked.
    allowed
        How many mates of its own may be redundant before it counts as over-held.
    """
    own = freedom.system.mates_of(index)
    if any(conflict.mate in own for conflict in freedom.conflicts):
        return "clashing"
    if len(own & set(freedom.redundant_mates)) > allowed and degrees <= _GUIDED:
        return "over-held"
    if degrees == 0:
        return "held"
    return "guided" if degrees <= _GUIDED else "loose"
