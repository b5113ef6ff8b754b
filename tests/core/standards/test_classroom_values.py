"""Classroom values: gaps by process and stock; common practice, no source. They have an order that must hold."""

import itertools

import pytest

from rigid_bench.core.standards.allowances import ALLOWANCES
from rigid_bench.core.standards.stock import BARS, SHEETS


@pytest.mark.parametrize("process", ALLOWANCES)
def test_a_looser_fit_has_the_larger_gap(process: str) -> None:
    """From a press fit, which overlaps at most, to what turns."""
    fits = [ALLOWANCES[process][does] for does in ("press", "push", "slide") if does in ALLOWANCES[process]]
    assert all(least <= greatest for least, greatest in ALLOWANCES[process].values())
    for tighter, looser in itertools.pairwise(fits):
        assert tighter[0] <= looser[0]
        assert tighter[1] <= looser[1]
    assert ALLOWANCES[process]["slide"][0] > 0 or process != "printed"


def test_what_is_machined_is_closer_than_what_is_printed() -> None:
    for does in set(ALLOWANCES["machined"]) & set(ALLOWANCES["printed"]):
        assert ALLOWANCES["machined"][does][1] <= ALLOWANCES["printed"][does][1]


@pytest.mark.parametrize(("name", "sizes"), [*SHEETS.items(), *BARS.items()])
def test_stock_is_listed_once_from_the_smallest(name: str, sizes: tuple[float, ...]) -> None:
    assert list(sizes) == sorted(set(sizes)), name
    assert sizes[0] > 0


def test_a_hexagon_bar_is_as_wide_as_the_nuts_that_are_made_of_it() -> None:
    """Widths across flats of ISO 272, from memory: 8 for M5, 10 for M6, 13 for M8."""
    assert {8.0, 10.0, 13.0} <= set(BARS["hexagon bar"])
