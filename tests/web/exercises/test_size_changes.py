"""A teacher changes a size of an exercise, sees what it touches, here and elsewhere, and releases the new versions."""

import json

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect
from sqlalchemy import select

from rigid_bench.demo.graded import read_graded
from rigid_bench.store.database import Database
from rigid_bench.store.queries import class_queries, plan_queries
from rigid_bench.store.tables import Draft, ExerciseVersion
from rigid_bench.store.versions import keep_version
from tests.support import school as people
from tests.support.patience import wait_until
from tests.support.school import School, Visitor
from tests.web.classes.test_plan import FIRST


@pytest.fixture(scope="module")
def other_exercise(database: Database, school: School) -> int:
    """A second exercise with the same parts, and a lesson on the first one."""
    drawer = read_graded()[1]
    document = json.loads(drawer.bundle["exercise.json"])
    document["id"], document["title"] = "drawer-again", "Drawer again"
    with database.session() as session:
        files = {**drawer.bundle, "exercise.json": json.dumps(document).encode()}
        version = keep_version(session, files, drawer.prepared)
        plan_queries.add_lessons(session, school.class_id, [FIRST], minutes=50, room="", title="")
        session.flush()
        lesson = plan_queries.lessons_of_class(session, school.class_id)[0]
        assignment = class_queries.assignment_of(session, school.class_id, school.version_id)
        plan_queries.plan_exercise(session, assignment, lesson_id=lesson.id, opens_at=None, after="")
        return version.id


def released(database: Database) -> list[tuple[str, int]]:
    with database.session() as session:
        query = select(ExerciseVersion.exercise, ExerciseVersion.number).order_by(
            ExerciseVersion.exercise, ExerciseVersion.number
        )
        return [(exercise, number) for exercise, number in session.execute(query)]


@pytest.mark.usefixtures("worker", "other_exercise")
def test_a_size_is_changed_in_two_exercises_at_once(
    teacher: Page, address: str, database: Database, school: School
) -> None:
    before = released(database)
    teacher.goto(f"{address}/exercises")
    card = teacher.locator("article", has=teacher.get_by_role("heading", name="Seed drawer"))
    card.get_by_role("link", name="Change a size").click()
    assert Axe().run(teacher).response["violations"] == []
    teacher.get_by_role("button", name="See what it touches").click()
    expect(teacher.get_by_role("alert").first).to_contain_text("none was given a new value")
    teacher.get_by_label("Knob, Spigot, becomes").fill("0")
    teacher.get_by_role("button", name="See what it touches").click()
    expect(teacher.get_by_role("alert").first).to_contain_text("is not from 0.001")
    teacher.get_by_label("Knob, Spigot, becomes").fill("8,2")
    teacher.get_by_role("button", name="See what it touches").click()
    own = teacher.get_by_role("region", name="Seed drawer v1")
    expect(own).to_be_visible()
    expect(own).to_contain_text("Joined to what changes: Drawer")
    expect(own.get_by_role("row", name="Spigot", exact=False).first).to_contain_text("8.2 mm")
    expect(own).to_contain_text("lesson 12 Jan")
    expect(teacher.get_by_role("region", name="Drawer again v1")).to_contain_text("8.2 mm")
    assert Axe().run(teacher).response["violations"] == []
    with teacher.expect_navigation():
        teacher.get_by_role("button", name="Release the new versions").click()
    assert sorted(set(released(database)) - set(before)) == [("drawer-again", 2), ("seed-drawer", 2)]
    with database.session() as session:
        assert session.scalars(select(Draft)).all() == []


@pytest.mark.usefixtures("worker", "other_exercise")
def test_what_is_not_sound_is_released_only_if_that_is_meant_and_can_be_forgotten(
    address: str, database: Database, school: School
) -> None:
    teacher, other = Visitor(address, people.TEACHER), Visitor(address, people.OTHER_TEACHER)
    sizes = f"/exercises/versions/{school.version_id}/sizes"
    answer = teacher.post(sizes, data={"check": "knob.spigot", "value": "9"})
    path = answer.url.path
    assert "the models are changed" in answer.text
    refused = teacher.post(f"{path}/release")
    assert (refused.status_code, "still being looked at" in refused.text) == (422, True)
    wait_until(lambda: "the models are changed" not in teacher.get(path).text)
    assert "change what it meets, too" in teacher.get(path).text
    before = released(database)
    refused = teacher.post(f"{path}/release")
    assert (refused.status_code, "missed by its own model" in refused.text) == (422, True)
    assert released(database) == before
    assert other.get(path).status_code == 404
    assert teacher.post(f"{path}/drop").status_code == 200
    assert teacher.get(path).status_code == 404
    with database.session() as session:
        assert session.scalars(select(Draft)).all() == [], "its drafts go with it"


@pytest.mark.usefixtures("worker")
def test_a_model_that_the_program_cannot_change_so_says_why(address: str, school: School) -> None:
    teacher = Visitor(address, people.TEACHER)
    sizes = f"/exercises/versions/{school.version_id}/sizes"
    path = teacher.post(sizes, data={"check": "drawer.hole", "value": "80"}).url.path
    wait_until(lambda: "the models are changed" not in teacher.get(path).text)
    text = teacher.get(path).text
    assert "another feature of the part crosses what changes" in text
    assert "Back to the sizes" in text
