"""Is it the sheet? A faulty sheet planted among slips of a class: just it is suspected."""

import random

import pytest

from rigid_bench.core.insight.sheet_suspects import MeasuredCheck, suspects

STUDENTS, CHECKS = 24, 12


def row(student: int, check: int, *, value: float, verdict: str = "met", cause: str = "") -> MeasuredCheck:
    return MeasuredCheck(
        student_id=student, check=f"c{check}", title=f"Check {check}", strip="parts", verdict=verdict, cause=cause,
        value=value, low=9.9, high=10.1,
    )  # fmt: skip


def right_class(seed: int, slips: float = 0.08) -> list[MeasuredCheck]:
    """A class whose sheet is right: each check is missed by a few, by their own slips, to values of their own."""
    chance = random.Random(seed)
    rows = []
    for student in range(STUDENTS):
        for check in range(CHECKS):
            if chance.random() >= slips:
                rows.append(row(student, check, value=10.0))
                continue
            cause, value = chance.choice(
                [("radius-for-diameter", 5.0), ("", round(chance.uniform(2, 30), 1)), ("decimal-point", 1.0)]
            )
            rows.append(row(student, check, value=value, verdict="missed", cause=cause))
    return rows


def planted(
    rows: list[MeasuredCheck], check: int, students: int, *, value: float, cause: str = ""
) -> list[MeasuredCheck]:
    kept = [own for own in rows if own.check != f"c{check}" or own.student_id >= students]
    return [*kept, *(row(k, check, value=value, verdict="missed", cause=cause) for k in range(students))]


@pytest.mark.parametrize("seed", range(40))
def test_a_sheet_that_is_right_is_not_suspected(seed: int) -> None:
    assert suspects(right_class(seed)) == []


@pytest.mark.parametrize("seed", range(20))
def test_a_number_that_the_sheet_has_wrong_is_found_alone(seed: int) -> None:
    (suspect,) = suspects(planted(right_class(seed), 3, 15, value=12.0))
    assert (suspect.check, suspect.why, suspect.value, suspect.alike >= 15) == ("c3", "same value", 12.0, True)
    assert (suspect.low, suspect.high, suspect.handed_in) == (9.9, 10.1, STUDENTS)


@pytest.mark.parametrize("seed", range(20))
def test_a_slip_that_the_whole_class_made_is_no_fault_of_the_sheet(seed: int) -> None:
    assert suspects(planted(right_class(seed), 5, 15, value=5.0, cause="radius-for-diameter")) == []


def test_a_check_that_cannot_be_read_is_missed_far_more_than_its_neighbours() -> None:
    rows = right_class(1)
    chance = random.Random(4)
    for student in range(18):
        rows = [own for own in rows if (own.check, own.student_id) != ("c7", student)]
        rows.append(row(student, 7, value=round(chance.uniform(3, 40), 2), verdict="missed"))
    (suspect,) = suspects(rows)
    assert (suspect.check, suspect.why, suspect.value) == ("c7", "missed far more", None)


def test_few_students_say_nothing() -> None:
    assert suspects([row(k, 1, value=12.0, verdict="missed") for k in range(2)]) == []
