"""Every kind of drill, found in `kinds/`, and a drill of any of them from its seed."""

import importlib
import pkgutil
import random

from rigid_bench.core.practice import kinds
from rigid_bench.core.practice.drill import Drill
from rigid_bench.core.practice.kind import DrillKind, Unfit
from rigid_bench.core.values.errors import NotFound

#: By name.
KINDS: dict[str, DrillKind] = {
    kind.name: kind
    for module in pkgutil.iter_modules(kinds.__path__)
    for kind in [importlib.import_module(f"{kinds.__name__}.{module.name}").KIND]
}
#: Cause codes of a card that can be practised.
PRACTISED = frozenset(slip for kind in KINDS.values() for slip in kind.slips)
LARGEST_SEED = 2**31 - 1
#: Lots that are drawn before a seed is given up; the rarest kinds need a dozen.
_LOTS = 400


def drill_of(kind: str, seed: int, level: int = 1) -> Drill:
    """Make a drill; the same kind, seed and level give the same drill.

    Parameters
    ----------
    kind
        One of `KINDS`.
    seed
        From 0 to `LARGEST_SEED`.
    level
        One of the kind's.

    Returns
    -------
    Drill
        Solved: its answer is right, and every other choice is wrong.

    Raises
    ------
    NotFound
        There is no such kind, level or seed.
    """
    if kind not in KINDS:
        raise NotFound("practice", f"there is no kind '{kind[:40]}'", f"The kinds are: {', '.join(sorted(KINDS))}")
    own = KINDS[kind]
    if level not in own.levels:
        levels = ", ".join(map(str, own.levels))
        raise NotFound("practice", f"'{kind}' has no level {level}", f"Its levels are: {levels}")
    if not 0 <= seed <= LARGEST_SEED:
        raise NotFound("practice", f"{seed} is no seed", f"Give one from 0 to {LARGEST_SEED}")
    for lot in range(_LOTS):
        try:
            made = own.make(random.Random(f"{kind}:{seed}:{level}:{lot}"), level)
        except Unfit:
            continue
        return made.model_copy(update={"kind": kind, "seed": seed, "level": level})
    raise AssertionError(f"{kind}, seed {seed}, level {level}: no lot makes a drill")
