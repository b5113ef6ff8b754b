"""Planted slips are named; values that no slip explains get no cause."""

import numpy as np
import pytest

from rigid_bench.core.grading.diagnosis.causes import Neighbour, Surroundings, WrongSize, of_dimension, of_gap, of_scale
from rigid_bench.core.grading.report.models import Cause
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.phrases import amount
from rigid_bench.core.wording.saying import say

LENGTH = Neighbour(title="Length", nominal=80, meets=True)
WALL = Neighbour(title="Wall", nominal=3, measure="thickness", meets=True)
SLOPE = Neighbour(title="Slope", nominal=30, measure="angle", meets=True)
STEP = Neighbour(title="Step", nominal=12, meets=True)
AROUND = Surroundings(others=[LENGTH, WALL, SLOPE, STEP], radii=[4], chains=[(LENGTH, STEP)])


def cause(measure: str, nominal: float, value: float, around: Surroundings = AROUND) -> Cause | None:
    return of_dimension(measure, nominal, value, around, units="mm", tolerance=Tolerance())


@pytest.mark.parametrize(
    ("measure", "nominal", "value", "code", "says"),
    [
        ("diameter", 16.4, 8.2, "radius-for-diameter", "8.2 × 2 = 16.4"),
        ("radius", 5, 10, "diameter-for-radius", "10 ÷ 2 = 5"),
        ("length", 12, 12 * 25.4, "inch-for-mm", "304.8 ÷ 25.4 = 12"),
        ("length", 50.8, 2, "mm-for-inch", "2 × 25.4 = 50.8"),
        ("length", 12, 120, "decimal-point", "120 ÷ 10 = 12"),
        ("depth", 12, 1.2, "decimal-point", "1.2 × 10 = 12"),
        ("length", 31, 15.5, "half", "15.5 × 2 = 31"),
        ("thickness", 3.5, 7, "double", "7 ÷ 2 = 3.5"),
        ("length", 47, 80, "neighbours-value", "Length"),
        ("position", 25, 21, "edge-for-centre", "25 − 4 = 21"),
        ("position", 25, 29, "edge-for-centre", "25 + 4 = 29"),
        ("position", 25, 55, "from-other-side", "80 − 25 = 55"),
        ("length", 47, 44, "wall", "47 − 3 = 44"),
        ("length", 47, 53, "wall", "47 + 2 × 3 = 53"),
        ("length", 47, 47 * np.cos(np.pi / 6), "along-the-slant", "47 × cos 30°"),
        ("length", 47, 47 / np.cos(np.pi / 6), "along-the-slant", "47 ÷ cos 30°"),
        ("position", 55, 15, "from-mid-plane", "55 − 80 ÷ 2 = 15"),
        ("position", 33, 45, "wrong-side", "Step was built to the wrong side: 33 + 12 = 45"),
        ("diameter", 50, 80, "misread-digit", "50 seems to have been read as 80"),
        ("length", 47, 92, "chain", "80 + 12 = 92"),
        ("length", 47, 68, "chain", "80 − 12 = 68"),
    ],
)
def test_a_planted_slip_is_named_with_its_sum(measure: str, nominal: float, value: float, code: str, says: str) -> None:
    named = cause(measure, nominal, value)
    assert named
    assert (named.code, says in say(named.message)) == (code, True), say(named.message)


@pytest.mark.parametrize(
    ("measure", "nominal", "value"),
    [("diameter", 16.4, 8.25), ("angle", 90, 45), ("count", 4, 2), ("length", 47, 52.9)],
)
def test_no_cause_is_better_than_a_wrong_one(measure: str, nominal: float, value: float) -> None:
    assert cause(measure, nominal, value) is None


@pytest.mark.thorough
def test_random_wrong_values_hardly_ever_get_a_cause() -> None:
    """On a part of twenty dimensions at least 98 of 100 random wrong values get none."""
    random = np.random.default_rng(1)
    others = [
        Neighbour(title=f"n{k}", nominal=float(size), meets=k < 6, measure="thickness" if k in (7, 8) else "length")
        for k, size in enumerate(random.uniform(2, 120, 18))
    ]
    around = Surroundings(others=[*others, SLOPE], radii=[4], chains=[(others[k], others[k + 1]) for k in range(6)])
    values = [value for value in random.uniform(1, 150, 4000) if abs(value - 50) > 0.3]
    named = sum(cause("position", 50, float(value), around) is not None for value in values)
    assert named / len(values) <= 0.02


def test_a_part_of_another_unit_is_told_as_a_whole() -> None:
    assert of_scale(1.0) is None
    for scale in (25.4, 1 / 25.4, 10.0, 0.1):
        cause = of_scale(scale)
        assert cause
        assert f"{max(scale, 1 / scale):g} times" in say(cause.message)


def test_a_gap_names_the_one_wrong_size_that_explains_it() -> None:
    wide = WrongSize(
        id="w", title="Width", required=amount(60, "length", "mm"), measured=amount(61, "length", "mm"), off_mm=1.0
    )
    other = WrongSize(
        id="h", title="Height", required=amount(30, "length", "mm"), measured=amount(28, "length", "mm"), off_mm=-2.0
    )
    for lost in (1.0, 0.5):
        cause = of_gap(lost, [wide], tolerance=Tolerance())
        assert cause
        assert "Width measures 61 mm" in say(cause.message)
    assert of_gap(0.7, [wide], tolerance=Tolerance()) is None
    assert of_gap(1.0, [wide, other], tolerance=Tolerance()) is None, "two sizes could explain it"
