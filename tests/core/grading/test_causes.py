"""Planted slips are named; values that no slip explains get no cause."""

import numpy as np
import pytest

from rigid_bench.core.grading.causes import Neighbour, WrongSize, of_dimension, of_gap
from rigid_bench.core.tolerance import Tolerance


@pytest.mark.parametrize(
    ("measure", "nominal", "value", "code"),
    [
        ("diameter", 16.4, 8.2, "radius-for-diameter"),
        ("radius", 5, 10, "diameter-for-radius"),
        ("length", 12, 12 * 25.4, "inch-for-mm"),
        ("length", 50.8, 2, "mm-for-inch"),
        ("length", 12, 120, "decimal-point"),
        ("depth", 12, 1.2, "decimal-point"),
        ("length", 30, 15, "half"),
        ("thickness", 3, 6, "double"),
        ("length", 40, 55, "neighbours-value"),
    ],
)
def test_a_planted_slip_is_named_with_its_sum(measure: str, nominal: float, value: float, code: str) -> None:
    cause = of_dimension(
        measure, nominal, value, [Neighbour(title="Other", nominal=55)], units="mm", tolerance=Tolerance()
    )
    assert cause
    assert cause.code == code
    assert any(sign in cause.text for sign in "×÷") or "Other" in cause.text or code in ("half", "double")


@pytest.mark.parametrize(
    ("measure", "nominal", "value"), [("diameter", 16.4, 8.25), ("angle", 90, 45), ("count", 4, 2)]
)
def test_no_cause_is_better_than_a_wrong_one(measure: str, nominal: float, value: float) -> None:
    assert of_dimension(measure, nominal, value, [], units="mm", tolerance=Tolerance()) is None


def test_random_wrong_values_hardly_ever_get_a_cause() -> None:
    random = np.random.default_rng(1)
    others = [Neighbour(title=f"n{k}", nominal=float(size)) for k, size in enumerate(random.uniform(2, 120, 19))]
    named = sum(
        of_dimension("length", 50, float(value), others, units="mm", tolerance=Tolerance()) is not None
        for value in random.uniform(1, 150, 2000)
    )
    assert named / 2000 <= 0.02


def test_a_gap_names_the_one_wrong_size_that_explains_it() -> None:
    wide = WrongSize(title="Width", required="60 mm", measured="61 mm", off_mm=1.0)
    other = WrongSize(title="Height", required="30 mm", measured="28 mm", off_mm=-2.0)
    for lost in (1.0, 0.5):
        cause = of_gap(lost, [wide], tolerance=Tolerance())
        assert cause
        assert "Width measures 61 mm" in cause.text
    assert of_gap(0.7, [wide], tolerance=Tolerance()) is None
    assert of_gap(1.0, [wide, other], tolerance=Tolerance()) is None, "two sizes could explain it"
