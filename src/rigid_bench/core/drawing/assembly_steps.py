"""How a build goes together, part by part, and what each can still do once it is in its place."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.assembly.motion.removal import Way
from rigid_bench.core.formats.build import Build
from rigid_bench.core.formats.pictures import AssemblyStep, FreeMotion
from rigid_bench.core.values.tolerance import Tolerance


def assembly_steps(build: Build, ways: Sequence[Way], *, base: int, tolerance: Tolerance) -> list[AssemblyStep]:
    """Return the steps in which a build goes together: the order in which it comes apart, backwards.

    Parameters
    ----------
    build
        The whole.
    ways
        How parts leave it, the first to leave first.
    base
        The instance that stands first.
    tolerance
        For what the mates leave free.
    """
    ways_in = {way.instance: -way.direction for way in ways}
    first = [base, *(k for k in range(len(build.instances)) if k not in ways_in and k != base)]
    steps = []
    there: list[int] = []
    for k in (*first, *(way.instance for way in ways[::-1])):
        there.append(k)
        motions = freedom(_with(build, there), tolerance=tolerance).motions(len(there) - 1)
        onto = {mate.a if mate.b == k else mate.b for mate in build.mates if k in (mate.a, mate.b)}
        steps.append(
            AssemblyStep(
                instance=build.instances[k].id,
                part=build.instances[k].part,
                onto=list(dict.fromkeys(build.instances[other].part for other in there[:-1] if other in onto)),
                way=None if k not in ways_in else np.round(ways_in[k], 9).tolist(),
                motions=[
                    FreeMotion(kind=motion.kind, direction=motion.direction.tolist(), point=motion.point.tolist())
                    for motion in motions
                ],
            )
        )
    return steps


def _with(build: Build, there: Sequence[int]) -> Build:
    """Return a build of some instances, in this order, with the mates among them."""
    places = {k: number for number, k in enumerate(there)}
    mates = [
        replace(mate, a=places[mate.a], b=places[mate.b])
        for mate in build.mates
        if mate.a in places and mate.b in places
    ]
    return replace(build, instances=tuple(build.instances[k] for k in there), mates=tuple(mates))
