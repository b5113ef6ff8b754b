"""Which mate took which freedom: step by step, in the file's order, from six to what is left."""

from dataclasses import dataclass
from functools import lru_cache

from rigid_bench.core.assembly.freedom.analysis import Freedom
from rigid_bench.core.assembly.freedom.elimination import Elimination


@dataclass(frozen=True, slots=True, kw_only=True)
class DofStep:
    """What one mate did to one of its two instances."""

    mate: str
    #: Place of the instance in the build.
    instance: int
    #: Degrees of freedom relative to ground, without and with the mate; those before it hold already.
    before: int
    after: int


@lru_cache(maxsize=4)  # every row of a card that asks for a freedom shows it
def ladder(freedom: Freedom) -> tuple[DofStep, ...]:
    """Say what each mate took away, when the mates are put in one after the other.

    Parameters
    ----------
    freedom
        What the mates leave free in the end.

    Returns
    -------
    tuple of DofStep
        Two for each mate, one for an instance that is grounded on the other side.
    """
    system, held = freedom.system, set(freedom.system.held)
    rungs: list[DofStep] = []
    free = Elimination(len(freedom.poses), system.held, rank=system.tolerance.rank)
    rows = system.rows(system.mates, freedom.poses).by_mate()
    for mate, (rows_a, rows_b) in zip(system.mates, rows, strict=True):
        before = {index: free.degrees(index) for index in (mate.a, mate.b) if index not in held}
        free.add(mate.a, mate.b, rows_a, rows_b)
        rungs += [
            DofStep(mate=mate.id, instance=index, before=degrees, after=free.degrees(index))
            for index, degrees in before.items()
        ]
    return tuple(rungs)
