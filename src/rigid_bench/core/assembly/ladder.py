"""Which mate took which freedom: rung by rung, in the file's order, from six to what is left."""

from dataclasses import dataclass, replace

from rigid_bench.core.assembly.freedom import Freedom, narrowing


@dataclass(frozen=True, slots=True, kw_only=True)
class Rung:
    """What one mate did to one of its two instances."""

    mate: str
    #: Place of the instance in the build.
    instance: int
    #: Degrees of freedom relative to ground, without and with the mate; those before it hold already.
    before: int
    after: int


def ladder(found: Freedom) -> list[Rung]:
    """Say what each mate took away, when the mates are put in one after the other.

    Parameters
    ----------
    found
        What the mates leave free in the end.

    Returns
    -------
    list of Rung
        Two for each mate, one for an instance that is grounded on the other side.
    """
    held = set(found.system.held)
    rungs = []
    for mate, before, after in narrowing(found.system, found.poses):
        stages = [replace(found, velocities=space) for space in (before, after)]
        for index in (mate.a, mate.b):
            if index not in held:
                degrees = [stage.relative_twists(index).shape[1] for stage in stages]
                rungs.append(Rung(mate=mate.id, instance=index, before=degrees[0], after=degrees[1]))
    return rungs
