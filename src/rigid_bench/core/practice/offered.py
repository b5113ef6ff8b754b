"""The answers that a drill offers: in an order by lot, with letters for ids."""

import random
from collections.abc import Sequence

from rigid_bench.core.practice.drill import Choice
from rigid_bench.core.practice.unfit import Unfit

_LETTERS = "abcdefgh"


def offered(chance: random.Random, right: Sequence[Choice], wrong: Sequence[Choice]) -> tuple[list[Choice], list[str]]:
    """Return choices under letters, in an order by lot, and the letters of those that are right.

    Raises
    ------
    Unfit
        Two say the same, or there is nothing to choose between.
    """
    every = [*right, *wrong]
    if len({choice.text for choice in every}) < len(every) or not right or not wrong:
        raise Unfit
    order = list(range(len(every)))
    chance.shuffle(order)
    choices = [every[number].model_copy(update={"id": _LETTERS[place]}) for place, number in enumerate(order)]
    answer = [_LETTERS[place] for place, number in enumerate(order) if number < len(right)]
    return choices, answer
