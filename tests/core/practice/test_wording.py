"""No drill is solved from its wording or from the order of what it offers."""

import math
import os
from collections import defaultdict
from functools import cache

import pytest

from rigid_bench.core.practice.drill import Choice, Step
from rigid_bench.core.practice.registry import KINDS, drill_of

pytestmark = pytest.mark.thorough

SEEDS = max(60, int(os.environ.get("PRACTICE_SEEDS", "0")))
#: Kinds whose drills take so long to make that fewer are tried.
SLOW = ("one-too-many", "missing-number", "match-the-views")


@cache
def steps(kind: str) -> list[Step]:
    asked: list[Step] = []
    for level in KINDS[kind].levels:
        for seed in range(SEEDS // 3 if kind in SLOW else SEEDS):
            drill = drill_of(kind, seed, level)
            asked += [
                step for step in (drill, drill.then) if step and step.form in ("choice", "point") and not step.many
            ]
    return asked


def guesses(choices: list[Choice]) -> dict[str, Choice]:
    """What somebody takes who does not read the question."""
    return {
        "the first": choices[0],
        "the last": choices[-1],
        "the longest": max(choices, key=lambda choice: len(choice.text)),
        "the shortest": min(choices, key=lambda choice: len(choice.text)),
    }


@pytest.mark.parametrize("kind", KINDS)
def test_who_does_not_read_the_question_is_hardly_better_than_chance(kind: str) -> None:
    right: dict[str, int] = defaultdict(int)
    chance = variance = 0.0
    asked = steps(kind)
    for step in asked:
        share = len(step.answer) / len(step.choices)
        chance, variance = chance + share, variance + share * (1 - share)
        for rule, choice in guesses(step.choices).items():
            right[rule] += choice.id in step.answer
    if not asked:
        pytest.skip("its answers are typed or on the rose")
    for rule in ("the first", "the last"):
        assert right[rule] <= chance + 4 * math.sqrt(variance), rule
    for rule in ("the longest", "the shortest"):
        assert right[rule] <= 0.7 * len(asked), rule


@pytest.mark.parametrize("kind", KINDS)
def test_who_knows_the_texts_of_other_drills_does_not_know_the_answer(kind: str) -> None:
    """Of half of the drills it is learned how often each text is right; in the other half that tells too little."""
    asked = steps(kind)
    if not asked:
        pytest.skip("its answers are typed or on the rose")
    learned: dict[str, list[bool]] = defaultdict(list)
    for step in asked[::2]:
        for choice in step.choices:
            learned[choice.text].append(choice.id in step.answer)

    def rate(choice: Choice) -> float:
        verdicts = learned[choice.text]
        return (sum(verdicts) + 0.5) / (len(verdicts) + 2)

    unseen = asked[1::2]
    right = sum(max(step.choices, key=rate).id in step.answer for step in unseen)
    assert right <= 0.7 * len(unseen) + 3
