"""The answers of a drill stand under letters, in an order by lot."""

import random

import pytest

from rigid_bench.core.practice.drill import Choice
from rigid_bench.core.practice.offered import offered
from rigid_bench.core.practice.unfit import Unfit


def choices(*texts: str) -> list[Choice]:
    return [Choice(id="", text=text) for text in texts]


def test_the_letters_of_the_right_ones_come_back_with_the_choices() -> None:
    places = set()
    for seed in range(20):
        shown, answer = offered(random.Random(seed), choices("a pin", "a bore"), choices("a slot", "a rib"))
        assert [choice.id for choice in shown] == ["a", "b", "c", "d"]
        assert {choice.text for choice in shown if choice.id in answer} == {"a pin", "a bore"}
        places.add(tuple(answer))
    assert len(places) > 3, "the order is by lot"


@pytest.mark.parametrize(
    ("right", "wrong"),
    [(("a", "b"), ("a",)), ((), ("a",)), (("a",), ())],
    ids=["two say the same", "none right", "none wrong"],
)
def test_what_leaves_nothing_to_choose_is_no_drill(right: tuple[str, ...], wrong: tuple[str, ...]) -> None:
    with pytest.raises(Unfit):
        offered(random.Random(1), choices(*right), choices(*wrong))
