"""A class is planned: lessons alone and with all that follow, exercises in them, and the calendar's address."""

from datetime import UTC, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import pytest
from sqlalchemy.orm import Session

from rigid_bench.app.classes import plan
from rigid_bench.core.planning.estimate import Rates
from rigid_bench.core.planning.lessons import PlannedLesson
from rigid_bench.core.values.errors import FormRejected, NotFound
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.log import log_of_class
from rigid_bench.store.queries import class_queries, plan_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import Assignment, Classroom
from tests.support.school import School

BERLIN = ZoneInfo("Europe/Berlin")
#: A week before summer time ends there, and the three weeks after.
STARTS = [datetime(2026, 10, 19, 8, tzinfo=BERLIN) + timedelta(weeks=week) for week in range(4)]
FIELDS = plan.LessonFields(minutes=90, room="W1", title="Bench")


@pytest.fixture
def lessons(session: Session, classroom: Classroom, teacher: Person) -> list[PlannedLesson]:
    plan.add_lessons(session, classroom, STARTS, FIELDS, teacher=teacher)
    session.flush()
    return plan_queries.lessons_of_class(session, classroom.id)


@pytest.fixture
def assignment(session: Session, school: School) -> Assignment:
    return class_queries.assignment_of(session, school.class_id, school.version_id)


def starts(session: Session, classroom: Classroom) -> list[datetime]:
    session.flush()
    session.expire_all()
    return [lesson.starts_at.astimezone(BERLIN) for lesson in plan_queries.lessons_of_class(session, classroom.id)]


def test_lessons_that_are_added_are_alike_and_stand_in_the_log(
    session: Session, classroom: Classroom, lessons: list[PlannedLesson]
) -> None:
    assert [(lesson.minutes, lesson.room, lesson.title) for lesson in lessons] == [(90, "W1", "Bench")] * 4
    assert [lesson.starts_at for lesson in lessons] == STARTS
    assert log_of_class(session, classroom.id)[0].action == "plan-changed"


def test_a_lesson_is_changed_alone(
    session: Session, classroom: Classroom, teacher: Person, lessons: list[PlannedLesson]
) -> None:
    other = plan.LessonFields(minutes=45, room="W2", title="Catch up")
    plan.change_lesson(session, classroom, lessons[1].id, STARTS[1] + timedelta(hours=2), other, teacher=teacher)
    assert starts(session, classroom) == [STARTS[0], STARTS[1] + timedelta(hours=2), *STARTS[2:]]


def test_what_follows_a_lesson_moves_with_it_at_the_same_hour_of_the_clock(
    session: Session, classroom: Classroom, teacher: Person, lessons: list[PlannedLesson]
) -> None:
    plan.move_lessons(session, classroom, lessons[0].id, 7, BERLIN, teacher=teacher)
    assert [(own.day, own.hour) for own in starts(session, classroom)] == [(26, 8), (2, 8), (9, 8), (16, 8)]
    plan.move_lessons(session, classroom, lessons[2].id, -7, BERLIN, teacher=teacher)
    assert [own.day for own in starts(session, classroom)] == [26, 2, 2, 9]


def test_a_lesson_that_is_taken_out_leaves_its_exercise(
    session: Session, classroom: Classroom, teacher: Person, lessons: list[PlannedLesson], assignment: Assignment
) -> None:
    given: dict[str, Any] = {"opens_at": None, "after": "", "stages": {}, "teacher": teacher}
    plan.plan_exercise(session, classroom, assignment, lesson_id=lessons[0].id, **given)
    session.flush()
    assert assignment.lesson_id == lessons[0].id
    plan.remove_lesson(session, classroom, lessons[0].id, teacher=teacher)
    session.flush()
    session.expire_all()
    assert (assignment.lesson_id, len(starts(session, classroom))) == (None, 3)


def test_what_the_class_has_not_is_refused_and_nothing_is_planned(
    session: Session, classroom: Classroom, teacher: Person, lessons: list[PlannedLesson], assignment: Assignment
) -> None:
    opens = datetime(2026, 10, 1, tzinfo=UTC)
    with pytest.raises(FormRejected, match="no such other exercise"):
        plan.plan_exercise(
            session, classroom, assignment, lesson_id=0, opens_at=opens, after="nothing", stages={}, teacher=teacher
        )
    with pytest.raises(FormRejected, match="no such stages"):
        plan.plan_exercise(
            session,
            classroom,
            assignment,
            lesson_id=0,
            opens_at=opens,
            after="",
            stages={"Nowhere": 0},
            teacher=teacher,
        )
    with pytest.raises(NotFound):
        plan.plan_exercise(
            session, classroom, assignment, lesson_id=2**30, opens_at=opens, after="", stages={}, teacher=teacher
        )
    with pytest.raises(NotFound):
        plan.change_lesson(session, classroom, 2**30, STARTS[0], FIELDS, teacher=teacher)
    assert (assignment.opens_at, assignment.lesson_id) == (None, None)


def test_a_stage_has_a_lesson_of_its_own(
    session: Session, classroom: Classroom, teacher: Person, lessons: list[PlannedLesson], assignment: Assignment
) -> None:
    stage = next(iter(plan_queries.stages_of_class(session, classroom.id)[assignment.version_id]))
    plan.plan_exercise(
        session, classroom, assignment, lesson_id=lessons[0].id, opens_at=None, after="", stages={stage: lessons[1].id},
        teacher=teacher,
    )  # fmt: skip
    session.flush()
    planned = plan_queries.lessons_of_class(session, classroom.id)
    assert len(planned[0].exercises) == 1
    assert [name for _, name in planned[1].stages] == [stage]


def test_rates_are_kept_with_the_classs_other_settings(session: Session, classroom: Classroom) -> None:
    before = ClassSettings.model_validate(classroom.settings)
    rates = before.rates.model_copy(update=dict.fromkeys(list(Rates.model_fields)[:1], 7.0))
    plan.change_rates(session, classroom, rates)
    after = ClassSettings.model_validate(classroom.settings)
    assert after == before.model_copy(update={"rates": rates})


def test_a_calendar_has_an_address_until_it_is_ended(session: Session, classroom: Classroom, teacher: Person) -> None:
    plan.make_calendar(session, classroom, teacher=teacher)
    session.flush()
    first = classroom.calendar_key
    assert first
    assert plan_queries.class_by_calendar(session, first).id == classroom.id
    plan.make_calendar(session, classroom, teacher=teacher)
    session.flush()
    assert classroom.calendar_key != first
    with pytest.raises(NotFound):
        plan_queries.class_by_calendar(session, first)
    plan.end_calendar(session, classroom, teacher=teacher)
    session.flush()
    assert classroom.calendar_key is None
    actions = [entry.action for entry in log_of_class(session, classroom.id)][:3]
    assert actions == ["calendar-ended", "calendar-made", "calendar-made"]
