"""What is practised next: never two of a kind in a row, wrong answers soon again, levels up and down."""

import random
from itertools import pairwise

import pytest

from rigid_bench.core.practice.schedule import Answered, due_slip, next_drill

KINDS = {"a": (1, 2, 3), "b": (1, 2, 3), "c": (1, 2)}


def walk(chance: random.Random, length: int, right: float) -> list[Answered]:
    """Answer so many drills, each right by that chance."""
    history: list[Answered] = []
    for _ in range(length):
        kind, level = next_drill(history, KINDS)
        history.append(Answered(kind, level, chance.random() < right))
    return history


@pytest.mark.parametrize("right", [0.0, 0.3, 0.7, 1.0])
@pytest.mark.parametrize("seed", range(5))
def test_any_walk_keeps_the_rule(seed: int, right: float) -> None:
    history = walk(random.Random(seed), 60, right)
    assert all(one.kind != other.kind for one, other in pairwise(history))
    assert all(answered.level in KINDS[answered.kind] for answered in history)
    assert {answered.kind for answered in history[:3]} == set(KINDS)
    for place in range(3, len(history)):
        if not any(answered.is_right for answered in history[place - 3 : place]):
            assert history[place].level == 1


def test_what_was_missed_comes_again_sooner_than_what_was_known() -> None:
    known = [Answered(kind, 1, True) for kind in "abcabcabc"]
    missed = [*known[:7], Answered("b", 1, False), known[8]]
    assert next_drill(known, KINDS)[0] == "a"
    assert next_drill(missed, KINDS)[0] == "b"


def test_two_right_answers_raise_a_level_and_two_wrong_ones_lower_it() -> None:
    def level_after(*answers: tuple[int, bool]) -> int:
        own = [Answered("a", level, is_right) for level, is_right in answers]
        # right answers of another kind between keep the misses from standing in a row
        history = [step for answered in own for step in (answered, Answered("b", 1, True))]
        return next_drill(history, KINDS, wished="a")[1]

    assert level_after((1, True)) == 1
    assert level_after((1, True), (1, True)) == 2
    assert level_after((1, True), (2, True)) == 2
    assert level_after((2, False), (2, False)) == 1
    assert level_after((2, True), (2, False)) == 2
    assert level_after((3, True), (3, True)) == 3
    assert level_after((1, False), (1, False)) == 1


def test_a_wish_is_kept_only_where_there_is_such_a_kind() -> None:
    assert next_drill([Answered("a", 1, True)], KINDS, wished="a")[0] == "a"
    assert next_drill([], KINDS, wished="nothing")[0] == "a"
    assert next_drill([Answered("a", 1, True)], {"a": (1,)})[0] == "a"


def planted(*slips: tuple[str, bool]) -> list[Answered]:
    return [Answered("find-the-fault", 1, is_right, slip) for slip, is_right in slips]


def test_a_slip_that_was_missed_comes_again_soon_and_one_that_is_known_seldom() -> None:
    assert due_slip(planted(("wall", False)), "find-the-fault") == "", "never twice in a row"
    assert due_slip(planted(("wall", False), ("half", True)), "find-the-fault") == "wall"
    known = planted(("wall", True), ("half", True))
    assert due_slip(known, "find-the-fault") == ""
    assert due_slip([*known, *planted(("double", True))], "find-the-fault") == "wall", "after two others"


def test_slips_of_other_kinds_and_drills_without_one_do_not_count() -> None:
    history = [*planted(("wall", False)), Answered("work-it-out", 1, True, "half"), Answered("will-it-fit", 1, True)]
    assert due_slip(history, "find-the-fault") == ""
    assert due_slip(history, "will-it-fit") == ""
