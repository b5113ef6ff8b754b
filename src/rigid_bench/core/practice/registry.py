"""Every kind of drill, found in `kinds/`, and a drill of any of them from its seed."""

import importlib
import pkgutil
import random

from rigid_bench.core.practice import kinds
from rigid_bench.core.practice.drill import Drill
from rigid_bench.core.practice.exercise_source import ExerciseSource
from rigid_bench.core.practice.kind import DrillKind
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.wording.language import _, series

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
#: The same for a teacher's exercise, which may have nothing for a kind.
_LOTS_OF_EXERCISE = 24


def drill_of(kind: str, seed: int, level: int = 1, source: ExerciseSource | None = None) -> Drill:
    """Make a drill; the same kind, seed, level and source give the same drill.

    Parameters
    ----------
    kind
        One of `KINDS`.
    seed
        From 0 to `LARGEST_SEED`.
    level
        One of the kind's.
    source
        The exercise that it is made of; None for generated parts.

    Returns
    -------
    Drill
        Solved: its answer is right, and every other choice is wrong.

    Raises
    ------
    NotFound
        There is no such kind, level or seed, or the exercise has nothing for it.
    """
    if kind not in KINDS:
        raise NotFound(
            _("practice"),
            _("there is no kind '{kind}'", kind=kind[:40]),
            _("The kinds are: {kinds}", kinds=series(sorted(KINDS))),
        )
    own = KINDS[kind]
    if level not in own.levels:
        levels = series(map(str, own.levels))
        raise NotFound(
            _("practice"),
            _("'{kind}' has no level {level}", kind=kind, level=level),
            _("Its levels are: {levels}", levels=levels),
        )
    if not 0 <= seed <= LARGEST_SEED:
        raise NotFound(
            _("practice"),
            _("{seed} is no seed", seed=seed),
            _("Give one from 0 to {largest_seed}", largest_seed=LARGEST_SEED),
        )
    for lot in range(_LOTS if source is None else _LOTS_OF_EXERCISE):
        chance = random.Random(f"{kind}:{seed}:{level}:{lot}")
        try:
            made = _made(own, chance, level, source)
        except Unfit:
            continue
        return made.model_copy(update={"kind": kind, "seed": seed, "level": level})
    if source is None:
        raise AssertionError(f"{kind}, seed {seed}, level {level}: no lot makes a drill")
    title = source.exercise.model.title
    raise NotFound(
        _("practice"),
        _("'{title}' has nothing for '{title_2}'", title=title, title_2=own.title),
        _("Choose another kind, or generated drills"),
    )


def _made(own: DrillKind, chance: random.Random, level: int, source: ExerciseSource | None) -> Drill:
    if source is None:
        return own.make(chance, level)
    if own.make_from is None:
        raise Unfit
    return own.make_from(chance, level, source)
