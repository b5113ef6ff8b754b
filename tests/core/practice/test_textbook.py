"""Mobility of textbook mechanisms: as printed (sources beside each in `textbook.py`, from memory), by two roads."""

import random

import numpy as np
import pytest

from rigid_bench.core.practice.mechanisms.textbook import EXAMPLES, Example
from rigid_bench.core.practice.registry import drill_of
from rigid_bench.core.practice.solved import freedom_of
from rigid_bench.core.practice.unfit import Unfit
from tests.core.practice.independent import Placed

EVERY = [example for examples in EXAMPLES.values() for example in examples]


@pytest.mark.parametrize("example", EVERY, ids=lambda example: example.name)
def test_the_mobility_is_the_printed_one(example: Example) -> None:
    for seed in range(3):
        try:
            build = example.make(random.Random(seed)).build
        except Unfit:
            continue
        assert len(build["instances"]) == example.links
        assert len(build["mates"]) == len(example.joints)
        placed = Placed(build)
        assert np.abs(placed.residuals(np.zeros(6 * len(placed.moving)))).max() < 1e-6, "it closes"
        assert 6 * len(placed.moving) - placed.rank() == example.mobility
        assert freedom_of(build).mobility == example.mobility


def test_the_count_tells_it_but_where_it_is_said_why_not() -> None:
    """Grübler's and Kutzbach's counts: right for the first two levels, wrong for the famous exceptions."""
    for level, examples in EXAMPLES.items():
        for example in examples:
            assert (example.counted == example.mobility) == (level < 3)
            assert bool(example.why) == (level == 3)
    counts = {example.name: example.counted for example in EVERY}
    assert (counts["four skew hinges"], counts["plates on hinged leaves"], counts["three parallel cranks"]) == (
        -2,
        0,
        0,
    )


def test_a_drill_gives_the_count_as_an_expression_where_it_holds() -> None:
    for level in (1, 2, 3):
        for seed in range(8):
            drill = drill_of("count-the-freedom", seed, level)
            (answer,) = drill.answer
            assert ("expression" in drill.given) == (level < 3)
            if level < 3:
                assert eval(drill.given["expression"], {}, drill.given["values"]) == answer
            else:
                assert drill.near[0].value != answer
            assert all(near.value != answer for near in drill.near)
