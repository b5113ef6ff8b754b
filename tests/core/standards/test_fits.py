"""Limits and fits against the standard's formula for grades and published limits (ISO 286-1 and -2, from memory)."""

import math

import pytest

from rigid_bench.core.standards.fits import grade, limits
from rigid_bench.core.values.errors import InvalidDocument

#: Grade -> how many tolerance units i wide it is (ISO 286-1, table 4).
UNITS = {6: 10, 7: 16, 8: 25, 9: 40, 10: 64, 11: 100, 12: 160}
RANGES = [(3, 6), (6, 10), (10, 18), (18, 30), (30, 50), (50, 80), (80, 120), (120, 180), (180, 250), (250, 315)]


@pytest.mark.parametrize("number", UNITS)
@pytest.mark.parametrize(("low", "high"), RANGES)
def test_grades_follow_the_standards_formula(number: int, low: float, high: float) -> None:
    """i = 0.45 D^(1/3) + 0.001 D micrometres at the geometric mean D of the range, rounded by the standard."""
    mean = math.sqrt(low * high)
    unit = 0.45 * mean ** (1 / 3) + 0.001 * mean
    assert grade(number, high) == pytest.approx(UNITS[number] * unit, rel=0.045, abs=0.7)


@pytest.mark.parametrize(
    ("fit", "size", "lower", "upper"),
    [
        ("H7", 8, 0, 15), ("H8", 25, 0, 33), ("H11", 50, 0, 160), ("g6", 25, -20, -7), ("f7", 40, -50, -25),
        ("h6", 10, -9, 0), ("h9", 60, -74, 0), ("js6", 20, -6.5, 6.5), ("k6", 20, 2, 15), ("m6", 30, 8, 21),
        ("n6", 50, 17, 33), ("p6", 20, 22, 35), ("r6", 60, 41, 60), ("s6", 45, 43, 59), ("d9", 20, -117, -65),
        ("e8", 30, -73, -40), ("c11", 35, -280, -120), ("F8", 20, 20, 53), ("G7", 20, 7, 28), ("D10", 15, 50, 120),
        ("JS7", 25, -10.5, 10.5), ("K7", 25, -15, 6), ("M7", 25, -21, 0), ("N7", 25, -28, -7), ("P7", 25, -35, -14),
        ("N9", 20, -52, 0), ("K7", 2, -10, 0), ("N7", 2, -14, -4), ("M6", 300, -41, -9), ("S7", 20, -48, -27),
    ],
)  # fmt: skip
def test_limits_are_those_of_the_tables(fit: str, size: float, lower: float, upper: float) -> None:
    deviations = limits(fit, size)
    assert (1000 * deviations.lower, 1000 * deviations.upper) == (pytest.approx(lower), pytest.approx(upper))


@pytest.mark.parametrize(
    ("fit", "size"), [("H7", 0), ("H7", 501), ("Z7", 10), ("H4", 10), ("H", 10), ("Js6", 9), ("", 9)]
)
def test_what_is_not_in_the_tables_is_refused(fit: str, size: float) -> None:
    with pytest.raises(InvalidDocument):
        limits(fit, size)
