"""Lessons move together, keep the time of the clock, stand in their weeks; who is behind, and what comes too early."""

from dataclasses import replace
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from dateutil.rrule import WEEKLY, rrule
from hypothesis import given
from hypothesis import strategies as st

from rigid_bench.core.insight.attempts import Attempt, OpenCheck, reached_by
from rigid_bench.core.planning.estimate import Extent, Rates, estimated_minutes
from rigid_bench.core.planning.lessons import (
    PlannedLesson,
    behind,
    by_week,
    moved,
    moved_by,
    out_of_order,
    repeated,
)

ZONE = ZoneInfo("Europe/Dublin")
FIRST = datetime(2026, 10, 1, 9, 15, tzinfo=ZONE)
LESSONS = [
    PlannedLesson(id=k, starts_at=start, minutes=50, exercises=("jig", "drawer", "bin")[k : k + 1])
    for k, start in enumerate(repeated(FIRST, count=5, every_days=7, zone=ZONE))
]


def test_weekly_lessons_keep_the_clock_over_the_change_to_winter_time() -> None:
    """Against dateutil's recurrence rules (RFC 5545), which count in local time."""
    wanted = list(rrule(WEEKLY, count=5, dtstart=FIRST.replace(tzinfo=None)))
    assert [own.starts_at.replace(tzinfo=None) for own in LESSONS] == wanted
    assert {own.starts_at.utcoffset() for own in LESSONS} == {timedelta(0), timedelta(hours=1)}


def test_what_follows_moves_with_a_lesson() -> None:
    later = moved(LESSONS, 2, 7, ZONE)
    assert [own.id for own in later] == [2, 3, 4]
    assert later[0].starts_at == LESSONS[3].starts_at
    assert later[0].exercises == ("bin",)
    assert moved(LESSONS, 99, 7, ZONE) == []


@given(st.integers(-60, 60), st.integers(0, 400))
def test_moving_there_and_back_changes_nothing(days: int, start: int) -> None:
    moment = moved_by(FIRST, start, ZONE)
    there = moved_by(moment, days, ZONE)
    assert (there.hour, there.minute) == (9, 15)
    assert moved_by(there, -days, ZONE) == moment


def test_weeks_begin_on_monday_and_empty_ones_are_shown() -> None:
    weeks = by_week([LESSONS[0], LESSONS[2]], ZONE)
    assert [monday for monday, _ in weeks] == [date(2026, 9, 28), date(2026, 10, 5), date(2026, 10, 12)]
    assert [[own.id for own in lessons] for _, lessons in weeks] == [[0], [], [2]]
    assert all(monday.isocalendar().weekday == 1 for monday, _ in weeks)
    assert by_week([], ZONE) == []


@pytest.mark.parametrize(
    ("after", "who"),
    [(timedelta(minutes=40), {}), (timedelta(minutes=60), {2: [("jig", ""), ("mast", "Parts right")]})],
)
def test_who_has_nothing_in_for_a_lesson_that_is_over_is_behind(
    after: timedelta, who: dict[int, list[tuple[str, str]]]
) -> None:
    lesson = replace(LESSONS[0], stages=(("mast", "Parts right"),))
    assert behind(lesson, {1, 2}, {("jig", ""): {1}, ("mast", "Parts right"): {1}}, FIRST + after) == who


def test_a_stage_is_reached_when_all_its_checks_are_met_at_once_in_a_look_too() -> None:
    def attempt(student: int, *still_open: str, counts: bool = True, exercise: str = "mast") -> Attempt:
        checks = tuple(OpenCheck(id=own, title="", verdict="missed", cause="", follows="") for own in still_open)
        return Attempt(
            build_id=1, student_id=student, version_id=1, exercise=exercise, title="", at=FIRST, counts=counts,
            open=checks,
        )  # fmt: skip

    parts, whole = ("mast", "Parts right"), ("mast", "Whole build")
    attempts = [
        attempt(1, "gap"), attempt(2, "size", "gap"), attempt(3, counts=False), attempt(4, exercise="jig"),
        replace(attempt(5), open=None),
    ]  # fmt: skip
    assert reached_by(attempts, {parts: ["size"], whole: ["*"]}) == {parts: {1, 3}, whole: {3}}


def test_an_assembly_before_its_parts_is_said() -> None:
    assert out_of_order(LESSONS, {"jig": "drawer", "bin": "jig", "other": "jig"}) == [("jig", "drawer")]


def test_how_long_an_exercise_takes() -> None:
    assert estimated_minutes(Extent(parts=3, sizes=20, relations=2), Rates(part=4, size=2, relation=10)) == 72
    assert estimated_minutes(Extent(parts=0, sizes=0, relations=0), Rates()) == 0
