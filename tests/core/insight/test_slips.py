"""Slips of a class: planted, counted, put right; the heat table; how the work went. Figures by hand."""

from datetime import UTC, datetime, timedelta

from rigid_bench.core.insight.attempts import Attempt, OpenCheck
from rigid_bench.core.insight.course import courses
from rigid_bench.core.insight.heat import heat_table
from rigid_bench.core.insight.slips import came_back, episodes, ranked

NOON = datetime(2026, 11, 2, 12, tzinfo=UTC)
CHECKS = [("bore", "Bore"), ("width", "Width"), ("free", "Free")]


def check(name: str, cause: str = "", *, verdict: str = "missed", follows: str = "") -> OpenCheck:
    return OpenCheck(id=name, title=name.capitalize(), verdict=verdict, cause=cause, follows=follows)


def attempt(
    student: int, hours: float, *open_checks: OpenCheck, exercise: str = "mast", looks: bool = False
) -> Attempt:
    return Attempt(
        build_id=round(100 * hours) + student, student_id=student, version_id=1, exercise=exercise, title=exercise,
        at=NOON + timedelta(hours=hours), counts=not looks, open=tuple(open_checks),
    )  # fmt: skip


RADIUS, SHORT = check("bore", "radius-for-diameter"), check("free", "mate-short")
CLASS = [
    attempt(1, 0, RADIUS), attempt(1, 2), attempt(2, 0, RADIUS, SHORT), attempt(2, 4, SHORT), attempt(3, 1, RADIUS),
    attempt(4, 1, check("width", "follows", follows="bore")), attempt(3, 30, RADIUS, exercise="jig"),
    attempt(4, 0.5, RADIUS, looks=True),
]  # fmt: skip


def test_a_slip_is_counted_once_a_student_and_is_right_when_its_check_is() -> None:
    first, second = ranked(CLASS)
    assert (first.code, first.students, first.standing) == ("radius-for-diameter", {1, 2, 3}, {3})
    assert (first.made, first.put_right, first.hours) == (4, 2, 3.0)
    assert first.exercises == {"mast", "jig"}
    assert (second.code, second.students, second.standing, second.hours) == ("mate-short", {2}, {2}, None)


def test_what_follows_and_what_was_only_looked_at_is_no_slip() -> None:
    assert all(episode.student_id != 4 for episode in episodes(CLASS))


def test_a_slip_that_is_made_again_is_another() -> None:
    again = [attempt(1, 0, RADIUS), attempt(1, 1), attempt(1, 2, RADIUS)]
    (rank,) = ranked(again)
    assert (rank.made, rank.put_right, rank.standing) == (2, 1, {1})


def test_slips_that_came_back_are_those_of_two_exercises() -> None:
    assert came_back(CLASS) == {3: ["radius-for-diameter"]}


def test_the_heat_table_puts_what_and_who_needs_help_first() -> None:
    newest = {1: attempt(1, 2), 2: attempt(2, 4, RADIUS, SHORT), 3: attempt(3, 1, RADIUS)}
    table = heat_table(CHECKS, [1, 2, 3, 4], newest)
    assert [name for name, _ in table.checks] == ["bore", "free", "width"]
    assert (table.students, table.without) == ([2, 3, 1], [4])
    assert [table.missed(name) for name, _ in CHECKS] == [2, 0, 1]
    assert table.cells[3, "bore"].cause == "radius-for-diameter"
    assert (1, "bore") not in table.cells


def test_a_near_miss_counts_less_than_a_miss() -> None:
    newest = {1: attempt(1, 0, check("bore", verdict="near"), check("width", verdict="near")), 2: attempt(2, 0, SHORT)}
    assert heat_table(CHECKS, [1, 2], newest).students == [2, 1]


def test_the_course_of_the_work_is_told_from_the_first_look() -> None:
    looked = [attempt(1, -1, looks=True), *CLASS]
    mast = next(own for own in courses(looked) if own.exercise == "mast")
    assert (mast.handed_in, mast.all_met, mast.attempts, mast.hours_to_met) == (4, 1, 1.5, 3.0)
    assert mast.left_open == (("Free", 1), ("Bore", 1))


def test_nothing_handed_in_is_nothing() -> None:
    assert (ranked([]), courses([]), came_back([])) == ([], [], {})
    assert heat_table(CHECKS, [1], {}).without == [1]
