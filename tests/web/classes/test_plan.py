"""A term is planned, a lesson moved, the calendar read by another library; a year is closed and the next begun."""

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
import vobject  # type: ignore[import-untyped]  # it ships no types
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect
from sqlalchemy import select

from rigid_bench.core.planning.lessons import moved_by
from rigid_bench.store.database import Database
from rigid_bench.store.queries import class_queries, plan_queries
from rigid_bench.store.tables import Assignment, Classroom
from rigid_bench.web.pages.classes.plan import read_plan
from tests.support import school as people
from tests.support.school import School, Visitor

ZONE = ZoneInfo("UTC")
#: A Tuesday.
FIRST = datetime(2027, 1, 12, 9, 15, tzinfo=ZONE)


@pytest.fixture(scope="module")
def planned(database: Database, school: School) -> School:
    """Ten weekly lessons; the exercise is worked on in the third and due two days after it."""
    with database.session() as session:
        starts = [moved_by(FIRST, 7 * week, ZONE) for week in range(10)]
        plan_queries.add_lessons(session, school.class_id, starts, minutes=50, room="W2", title="")
        session.flush()
        third = plan_queries.lessons_of_class(session, school.class_id)[2]
        assignment = class_queries.assignment_of(session, school.class_id, school.version_id)
        assignment.due_at = third.starts_at + timedelta(days=2)
        plan_queries.plan_exercise(session, assignment, lesson_id=third.id, opens_at=None, after="")
    return school


def due_at(database: Database, school: School) -> datetime:
    with database.session() as session:
        due_at = class_queries.assignment_of(session, school.class_id, school.version_id).due_at
    assert due_at
    return due_at


def test_a_term_is_planned_and_a_lesson_moved_by_keys(
    teacher: Page, address: str, database: Database, planned: School
) -> None:
    teacher.goto(f"{address}/classes/{planned.class_id}")
    teacher.get_by_role("link", name="Plan", exact=True).click()
    expect(teacher.locator(".plan-week")).to_have_count(10)
    lesson = teacher.locator(".plan-lesson").nth(2)
    expect(lesson).to_contain_text("Seed drawer")
    assert Axe().run(teacher).response["violations"] == []
    before = due_at(database, planned)
    lesson.focus()
    with teacher.expect_navigation():
        teacher.keyboard.press("Shift+ArrowRight")
    expect(teacher.locator(".plan-week")).to_have_count(11)
    expect(teacher.locator(".plan-week").nth(2)).to_contain_text("no lesson")
    expect(teacher.locator(".plan-lesson").nth(2)).to_be_focused()
    assert due_at(database, planned) == before + timedelta(days=7)
    with teacher.expect_navigation():
        teacher.keyboard.press("Shift+ArrowLeft")
    assert due_at(database, planned) == before


def test_a_stage_has_a_lesson_of_its_own_and_who_has_not_reached_it_is_behind(
    teacher: Page, address: str, database: Database, planned: School
) -> None:
    path = f"{address}/classes/{planned.class_id}/plan"
    teacher.goto(path)
    exercises = teacher.get_by_role("region", name="Exercises")
    exercises.get_by_text("Plan it").click()
    stage = exercises.get_by_label("“Parts right”")
    with database.session() as session:
        lessons = plan_queries.lessons_of_class(session, planned.class_id)
    stage.select_option(str(lessons[0].id))
    with teacher.expect_navigation():
        exercises.get_by_role("button", name="Save").click()
    expect(teacher.locator(".plan-lesson").first).to_contain_text("Seed drawer: Parts right")
    with database.session() as session:
        assert plan_queries.lessons_of_class(session, planned.class_id)[0].stages == (("seed-drawer", "Parts right"),)
        room = session.get_one(Classroom, planned.class_id)
        members = len(class_queries.students_of_class(session, planned.class_id))
        plan = read_plan(session, room, FIRST + timedelta(hours=1))
        first = next(view for _, views in plan.weeks for view in views)
        assert (len(first.behind), first.behind[0][1]) == (members, ["Seed drawer: Parts right"])
    wrong = Visitor(address, people.TEACHER).post(
        f"/classes/{planned.class_id}/plan/exercises/{planned.version_id}",
        data={"stages": "No such", "stage_lessons": str(lessons[0].id)},
    )
    assert (wrong.status_code, "no such stages" in wrong.text) == (422, True)


def test_lessons_are_added_changed_and_taken_out(teacher: Page, address: str, planned: School) -> None:
    teacher.goto(f"{address}/classes/{planned.other_class_id}/plan")
    expect(teacher.get_by_text("There is no such class among yours", exact=False)).to_be_visible()
    teacher.goto(f"{address}/classes/{planned.class_id}/plan")
    form = teacher.get_by_role("region", name="Add lessons")
    form.get_by_label("Day and time").fill("2027-06-01T10:00")
    form.get_by_label("About").fill("Open workshop")
    form.get_by_label("Minutes").fill("0")
    form.get_by_role("button", name="Add").click()
    expect(form.get_by_role("alert")).to_contain_text("'0' is not from 1 to 600")
    form.get_by_label("Minutes").fill("90")
    with teacher.expect_navigation():
        form.get_by_role("button", name="Add").click()
    added = teacher.locator(".plan-lesson").filter(has_text="Open workshop")
    expect(added).to_contain_text("90 min")
    added.get_by_text("Change").click()
    with teacher.expect_navigation():
        added.get_by_role("button", name="Take it out").click()
    expect(added).to_have_count(0)


def test_the_calendar_is_read_by_another_library_until_its_address_is_taken_away(
    address: str, database: Database, planned: School
) -> None:
    teacher, anybody = Visitor(address, people.TEACHER), Visitor(address, None)
    teacher.post(f"/classes/{planned.class_id}/calendar", data={"do": "make"})
    with database.session() as session:
        key = session.get_one(Classroom, planned.class_id).calendar_key
    answer = anybody.get(f"/calendar/{key}.ics")
    assert answer.headers["content-type"].startswith("text/calendar")
    calendar = vobject.readOne(answer.text)
    events = {event.uid.value: event for event in calendar.vevent_list}
    lessons = [event for uid, event in events.items() if uid.startswith("lesson-")]
    assert sorted(event.dtstart.value for event in lessons) == [FIRST + timedelta(weeks=week) for week in range(10)]
    assert {event.location.value for event in lessons} == {"W2"}
    due = events[f"due-{planned.class_id}-{planned.version_id}@rigid-bench"]
    assert due.dtstart.value == FIRST + timedelta(weeks=2, days=2)
    assert "Seed drawer" in due.summary.value
    assert people.STUDENT.name not in answer.text
    teacher.post(f"/classes/{planned.class_id}/calendar", data={"do": "make"})
    assert anybody.get(f"/calendar/{key}.ics").status_code == 404


def test_what_opens_later_is_not_seen_before(address: str, database: Database, planned: School) -> None:
    student = Visitor(address, people.STUDENT)
    sheet = f"/classes/{planned.class_id}/exercises/{planned.version_id}/sheet"
    assert "Seed drawer" in student.get("/").text
    assert student.get(sheet).status_code == 200
    for opens_at, is_seen in ((datetime.now(UTC) + timedelta(days=1), False), (None, True)):
        with database.session() as session:
            class_queries.assignment_of(session, planned.class_id, planned.version_id).opens_at = opens_at
        assert ("Seed drawer" in student.get("/").text) is is_seen
        assert (student.get(sheet).status_code == 200) is is_seen


def test_a_year_is_closed_and_the_next_begun(teacher: Page, address: str, database: Database, planned: School) -> None:
    teacher.goto(f"{address}/classes/{planned.class_id}/people")
    year = teacher.get_by_role("region", name="The year’s end")
    year.get_by_label("Its name").fill("Class One, next year")
    year.get_by_role("button", name="Begin the next year").click()
    expect(teacher.get_by_role("heading", level=1)).to_have_text("Class One, next year")
    expect(teacher.locator(".plan-lesson").nth(2)).to_contain_text("Seed drawer")
    with database.session() as session:
        following = session.scalars(select(Classroom).where(Classroom.name == "Class One, next year")).one()
        own = session.scalars(select(Assignment).where(Assignment.class_id == following.id)).one()
        assert own.due_at == FIRST + timedelta(weeks=54, days=2)
        starts = [lesson.starts_at for lesson in plan_queries.lessons_of_class(session, following.id)]
        assert starts == [FIRST + timedelta(weeks=52 + week) for week in range(10)]
        assert class_queries.students_of_class(session, following.id) == []
    teacher.goto(f"{address}/classes")
    teacher.get_by_text("1 in the archive").click()
    teacher.get_by_role("link", name="Class One", exact=True).click()
    expect(teacher.get_by_text("In the archive since")).to_be_visible()
    student = Visitor(address, people.STUDENT)
    assert "Seed drawer" not in student.get("/").text
    path = f"/classes/{planned.class_id}/exercises/{planned.version_id}/hand-in"
    assert "this class is over" in student.get(path).text
    teacher.goto(f"{address}/classes/{planned.class_id}/people")
    teacher.get_by_role("button", name="Take it out of the archive").click()
    expect(teacher.get_by_role("link", name="Class One", exact=True)).to_be_visible()
    assert "Seed drawer" in student.get("/").text
