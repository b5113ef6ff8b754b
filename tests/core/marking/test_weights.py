"""Parts are weighed by scaling the marks of their checks: shares stay, sums are just what is wanted."""

from collections.abc import Mapping
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rigid_bench.core.marking.weights import ASSEMBLY, marks_by, part_of, weighted

CHECKS: list[dict[str, Any]] = [
    {"id": "a", "part": "box", "marks": 2}, {"id": "b", "part": "box", "marks": 1},
    {"id": "c", "part": "box", "marks": 0}, {"id": "d", "part": "lid", "marks": 3}, {"id": "e", "marks": 4},
]  # fmt: skip


def test_a_part_is_given_more_and_the_others_stay() -> None:
    weights = weighted(CHECKS, {"box": 6})
    assert [check["marks"] for check in weights] == [4, 2, 0, 3, 4]
    assert CHECKS[0]["marks"] == 2, "what was handed in is not changed"
    assert marks_by(part_of, weights) == {"box": 6, "lid": 3, ASSEMBLY: 4}


def test_nothing_is_left_of_a_part_that_weighs_nothing() -> None:
    assert marks_by(part_of, weighted(CHECKS, {"box": 0, ASSEMBLY: 1})) == {"box": 0, "lid": 3, ASSEMBLY: 1}


def test_a_strip_of_the_card_is_given_more_over_all_parts() -> None:
    strips = {"a": "parts", "b": "fit", "c": "parts", "d": "parts", "e": "assembly"}

    def strip_of(check: Mapping[str, Any]) -> str:
        return strips[check["id"]]

    weights = weighted(CHECKS, {"parts": 10, "fit": 3}, strip_of)
    assert [check["marks"] for check in weights] == [4, 3, 0, 6, 4]
    assert marks_by(strip_of, weights) == {"parts": 10, "fit": 3, "assembly": 4}


def test_where_no_check_has_marks_there_is_nothing_to_scale() -> None:
    with pytest.raises(ZeroDivisionError):
        weighted([{"id": "c", "part": "box", "marks": 0}], {"box": 5})
    assert weighted([{"id": "c", "part": "box", "marks": 0}], {"box": 0})[0]["marks"] == 0


@given(st.lists(st.integers(1, 400), min_size=1, max_size=30), st.integers(1, 10_000))
def test_the_sum_is_what_was_wanted_and_the_order_of_marks_stays(marks: list[int], wanted: int) -> None:
    checks = [{"id": str(number), "part": "box", "marks": own / 4} for number, own in enumerate(marks)]
    weights = [check["marks"] for check in weighted(checks, {"box": wanted / 10})]
    assert sum(weights) == pytest.approx(wanted / 10, abs=1e-6)
    for before, after in zip(marks, weights, strict=True):
        assert after == pytest.approx(wanted / 10 * before / sum(marks), abs=0.01 * len(marks))
