"""Rows and columns are paired at least cost; what stands just where it should is never broken up."""

import itertools

import numpy as np
import pytest

from rigid_bench.core.registration.assign import EXACT, assign


def test_what_stands_where_it_should_is_paired_before_a_cheaper_sum() -> None:
    # together 0 + 9 is dearer than 4 + 4; yet row 0 stands where column 0 does
    assert assign(np.array([[0.0, 4.0], [4.0, 9.0]]), 20.0) == {0: 0, 1: 1}
    assert assign(np.array([[EXACT, 4.0], [4.0, 9.0]]), 20.0) == {0: 1, 1: 0}, "near is not where it should be"


def test_pairs_beyond_reach_are_left_out() -> None:
    assert assign(np.array([[1.0, 50.0], [50.0, 60.0]]), 10.0) == {0: 0}
    assert assign(np.array([[1.0, 50.0], [50.0, 60.0]]), np.array([[10.0, 10.0], [10.0, 70.0]])) == {0: 0, 1: 1}
    assert assign(np.array([[50.0]]), 10.0) == {}


@pytest.mark.parametrize("seed", range(8))
def test_no_other_pairing_costs_less(seed: int) -> None:
    """Against all pairings, one by one."""
    cost = np.random.default_rng(seed).uniform(1, 9, (4, 5))
    pairs = assign(cost, 100.0)
    least = min(
        sum(cost[row, column] for row, column in enumerate(columns)) for columns in itertools.permutations(range(5), 4)
    )
    assert sum(cost[row, column] for row, column in pairs.items()) == pytest.approx(least)
