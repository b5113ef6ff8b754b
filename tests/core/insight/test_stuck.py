"""Who is stuck is told by the last builds in a row, whatever came before."""

from datetime import UTC, datetime, timedelta

import pytest

from rigid_bench.core.insight.attempts import Attempt, OpenCheck
from rigid_bench.core.insight.stuck import stuck


def attempt(number: int, *missed: str, verdict: str = "missed", follows: str = "") -> Attempt:
    return Attempt(
        build_id=number, student_id=1, version_id=1, exercise="drawer", title="Drawer", counts=number % 2 == 0,
        at=datetime(2026, 3, 2, tzinfo=UTC) + timedelta(hours=number),
        open=tuple(OpenCheck(id=own, title=own.title(), verdict=verdict, cause="", follows=follows) for own in missed),
    )  # fmt: skip


def test_the_same_check_three_times_in_a_row() -> None:
    checks = stuck([attempt(1, "width"), attempt(2, "width", "bore"), attempt(3, "bore", "width"), attempt(4, "width")])
    assert [(own.check, own.times, own.build_id) for own in checks] == [("Width", 4, 4)]


@pytest.mark.parametrize(
    "work",
    [
        [attempt(1, "width"), attempt(2, "width")],
        [attempt(1, "width"), attempt(2), attempt(3, "width"), attempt(4, "width")],
        [attempt(1, "width"), attempt(2, "width"), attempt(3, "width"), attempt(4)],
        [attempt(number, "width", follows="depth") for number in range(3)],
        [attempt(number, "width", verdict="near") for number in range(3)],
        [],
    ],
)
def test_who_is_not_stuck(work: list[Attempt]) -> None:
    assert stuck(work) == []
