"""Marks that count: late builds, withdrawn checks, a teacher's marks, pairs; cards that are returned at a set time."""

from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from sqlalchemy import event
from sqlalchemy.orm import Session

from rigid_bench.app.builds.return_cards import return_due
from rigid_bench.core.grading.report.models import ENGINE_VERSION
from rigid_bench.core.marking.rules import Rules
from rigid_bench.core.marking.standing import CheckMarks, Standing, before_return
from rigid_bench.core.marking.state import TWO_READINGS, build_state, tally
from rigid_bench.demo.graded import read_graded
from rigid_bench.store.class_settings import ClassSettings, Grade
from rigid_bench.store.database import Database
from rigid_bench.store.queries import (
    build_queries,
    class_queries,
    exercise_queries,
    group_queries,
    marking_queries,
    notice_queries,
    people_queries,
    work_queries,
)
from rigid_bench.store.tables import Build, Classroom, ExerciseVersion, User
from rigid_bench.store.versions import keep_version
from rigid_bench.web.pages.classes.class_table import read_table

DUE = datetime(2026, 5, 4, 12, tzinfo=UTC)


def check(name: str, awarded: float, *, verdict: str = "met", **more: Any) -> CheckMarks:
    return CheckMarks(id=name, title=name, verdict=verdict, awarded=awarded, available=2.0, follows=None, **more)


def standing(*checks: CheckMarks, minutes: float = -5, **more: Any) -> Standing:
    handed_in = DUE + timedelta(minutes=minutes)
    return Standing(
        id=1, student_id=1, state="graded", handed_in_at=handed_in, is_returned=False, checks=checks,
        **{"marks": {}, **more},
    )  # fmt: skip


def rules(late: str = "taken", percent: float = 0.0, **withdrawn: str) -> Rules:
    return Rules(withdrawn=withdrawn, due_at=DUE, late_percent=percent if late == "minus" else 0.0)


@pytest.mark.parametrize(
    ("given", "decided", "marks"),
    [
        (standing(check("a", 2), check("b", 1)), rules(), (3.0, 4.0)),
        (standing(check("a", 2), check("b", 1), marks={"b": 2.0}), rules(), (4.0, 4.0)),
        (standing(check("a", 2), check("b", 1)), rules(b="unfair"), (2.0, 2.0)),
        (standing(check("a", 2), check("b", 1), minutes=1), rules("minus", 10), (2.7, 4.0)),
        (standing(check("a", 2), check("b", 1), minutes=-1), rules("minus", 10), (3.0, 4.0)),
        (standing(check("a", 2), check("b", 1), minutes=1), rules("taken", 10), (3.0, 4.0)),
    ],
    ids=["measured", "a teacher's", "withdrawn", "late", "in time", "late and taken"],
)
def test_marks_that_count(given: Standing, decided: Rules, marks: tuple[float, float]) -> None:
    assert tally(given, decided) == marks


@pytest.mark.parametrize(
    ("more", "decided", "marks"),
    [
        ({}, rules(), 2.0),
        ({}, rules("minus", 10), 2.0),
        ({"minutes": 1}, rules("minus", 10), 1.8),
        ({"marks": {"c": 1.0}}, rules(), 2.0),
        ({"marks": {"c": 2.0}}, rules(), 6.0),
        ({}, rules(c="unfair"), 4.0),
    ],
    ids=["open", "in time", "late", "in part", "put right", "withdrawn"],
)
def test_a_slip_caps_the_marks_until_it_is_put_right(more: dict[str, Any], decided: Rules, marks: float) -> None:
    own = standing(check("a", 2), check("b", 2), check("c", 0, verdict="missed", caps_at=100 / 3), **more)
    assert tally(own, decided)[0] == pytest.approx(marks)


def test_what_needs_a_person_is_said() -> None:
    near, judged = check("n", 1, verdict="near"), check("j", 0, verdict="unchecked", by_person=True)
    assert build_state(standing(near, judged)).review_reasons == {"to-judge": 1, "near": 1}
    assert build_state(standing(near, judged, marks={"n": 2.0, "j": 1.0})).review_reasons == {}
    assert build_state(standing(near, questions=frozenset("n"))).review_reasons == {"question": 1}
    assert build_state(standing(near, parts=[(None, None), ("a", 0.4)])).review_reasons == {
        "near": 1,
        "unmatched-part": 1,
        "doubtful-match": 1,
    }
    for code in TWO_READINGS:
        assert build_state(standing(notices=[code])).review_reasons == {"two-readings": 1}
    failed = Standing(id=1, student_id=1, state="failed", handed_in_at=DUE, is_returned=False, marks={})
    assert build_state(failed).review_reasons == {"failed": 1}


def test_a_teachers_marks_are_seen_once_the_card_is_returned() -> None:
    given = standing(check("a", 1), marks={"a": 2.0})
    assert tally(before_return(given), rules()) == (1.0, 2.0)
    assert tally(before_return(replace(given, is_returned=True)), rules()) == (2.0, 2.0)


def test_grades_are_earned_by_percent() -> None:
    settings = ClassSettings(grades=[Grade(name="C", at_least=50), Grade(name="A", at_least=80)])
    assert [settings.grade(share) for share in (80, 79.99, 50, 49)] == ["A", "C", "C", ""]


Made = tuple[Classroom, list[User], ExerciseVersion]


@pytest.fixture
def made(database: Database) -> Iterator[tuple[Session, Made]]:
    """A class of three with the seed drawer, in a session that is taken back."""
    drawer = read_graded()[1]
    with Session(database.engine, expire_on_commit=False) as session:
        teacher = people_queries.add_user(session, login="t", name="T", role="teacher", password_hash="")
        people = [
            people_queries.add_user(session, login=f"p{k}", name=f"P{k}", role="student", password_hash="")
            for k in range(3)
        ]
        room = class_queries.add_class(session, name="Room", teacher=teacher, students=people)
        version = keep_version(session, drawer.bundle, drawer.prepared)
        exercise_queries.assign(session, class_id=room.id, version_id=version.id)
        session.flush()
        yield session, (room, people, version)
        session.rollback()


def hand_in(session: Session, made: Made, who: int, sample: str = "right") -> Build:
    room, people, version = made
    graded_sample = read_graded()[1].samples[sample]
    build = build_queries.add_build(
        session, class_id=room.id, version_id=version.id, student_id=people[who].id, files=graded_sample.files
    )
    work_queries.finish_measuring(
        session, build.id, version_id=version.id, engine_version=ENGINE_VERSION, report=graded_sample.report
    )
    session.refresh(build)
    return build


def test_two_who_work_together_share_the_build_that_came_last(made: tuple[Session, Made]) -> None:
    session, (room, people, version) = made
    group_queries.keep_group(session, room.id, version.id, [people[0].id, people[1].id])
    build = hand_in(session, made[1], 1, "too-wide")
    rows = {student.name: cells[0] for student, cells in read_table(session, room).rows}
    shown = [rows[name].build for name in ("P0", "P1", "P2")]
    assert [standing and standing.id for standing in shown] == [build.id, build.id, None]
    seen = build_queries.build_for(session, build.id, people_queries.Person(id=people[0].id, name="P0", role="student"))
    assert seen.id == build.id
    assert marking_queries.students_of(session, build) == [people[1].id, people[0].id]


def test_cards_are_returned_at_the_set_time_once(made: tuple[Session, Made]) -> None:
    session, (room, people, version) = made
    build = hand_in(session, made[1], 0, "thin-wall")
    assignment = class_queries.assignment_of(session, room.id, version.id)
    for moment, count in ((timedelta(hours=1), 0), (timedelta(hours=-1), 1), (timedelta(hours=-1), 1)):
        assignment.return_at = datetime.now(UTC) + moment
        session.flush()
        return_due(session)
        session.refresh(build)
        assert len(build.returns) == count
    assert build.returns[0].total == 37.0
    assert assignment.return_at is None
    (notice,) = notice_queries.notices_of(session, people[0].id)
    assert notice.text == "Your card for Seed drawer was returned."


def test_a_class_table_asks_few_questions_of_the_database(made: tuple[Session, Made]) -> None:
    session, (room, _, _) = made
    for who in range(3):
        hand_in(session, made[1], who)
    asked: list[str] = []
    event.listen(session.get_bind(), "before_cursor_execute", lambda *given: asked.append(given[2]))
    assert len(read_table(session, room).rows) == 3
    assert len(asked) <= 6


def test_a_checked_build_gives_way_and_does_not_count(made: tuple[Session, Made]) -> None:
    session, (room, people, version) = made
    build = hand_in(session, made[1], 0)
    build.counts = False
    session.flush()
    assert read_table(session, room).rows[0][1][0].build is None
    build_queries.count_build(session, build)
    assert build_queries.newest_build_of(session, room.id, version.id, people[0].id) is not None
