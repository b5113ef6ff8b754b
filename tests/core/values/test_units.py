"""Expressions with units."""

import pytest

from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.units import evaluate


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("12 - 2 * 0.4", 11.2),
        ("(86 - 24)/2", 31.0),
        ("3/4 in", 19.05),
        ("1 3/4 in", 44.45),
        ("2 * 3/4 in", 38.1),
        ('1"', 25.4),
        ("2 cm + 1", 21.0),
        ("-(2 - 5)", 3.0),
        ("wall*2 + 0.5 mm", 6.5),
        ("3 × 4 − 2 ÷ 2", 11.0),
        ("30 deg", 30.0),
        (".5", 0.5),
    ],
)
def test_a_sum_is_worked_out(text: str, value: float) -> None:
    assert evaluate(text, names={"wall": 3.0}) == pytest.approx(value)


def test_a_bare_number_is_in_the_unit_asked_for() -> None:
    """One inch is 25.4 mm exactly (ISO 80000-3)."""
    assert evaluate("1 + 1", unit="in") == 50.8


@pytest.mark.parametrize(
    "text",
    [
        "",
        "1 +",
        "1/0",
        "2 ** 3",
        "width",
        "1 mm * 1 mm",
        "(1",
        "1)",
        "1 2",
        "import os",
        "9" * 300,
        "(" * 30 + "1",
        "1 mm + 1 mm * 1 mm",
    ],
)
def test_what_is_no_sum_is_refused_in_one_line(text: str) -> None:
    with pytest.raises(InvalidDocument) as caught:
        evaluate(text)
    assert "\n" not in str(caught.value)
