"""What was typed is not lost: errors stand beside it, with scripts and without; a draft keeps it before all else."""

import re

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Browser, Page, expect
from sqlalchemy import select

from rigid_bench.core.formats.archive import read_zip
from rigid_bench.store.database import Database
from rigid_bench.store.queries import draft_queries, exercise_queries
from rigid_bench.store.tables import Classroom, Draft
from rigid_bench.web.pages.exercises.desk_view import seen_digest
from tests.support import school as people
from tests.support.patience import patient_context
from tests.support.school import School, Visitor, sign_in


def test_without_scripts_the_answer_shows_what_was_typed_and_the_field_at_fault(address: str, school: School) -> None:
    teacher = Visitor(address, people.TEACHER)
    path = f"/classes/{school.class_id}/exercises/{school.version_id}/terms"
    answer = teacher.post(path, data={"attempts": "0", "due_at": "2026-12-01T12:00", "late": "minus"})
    assert answer.status_code == 422
    assert re.search(r'<input name="attempts" value="0" aria-invalid="true"', answer.text)
    assert '<input name="due_at" value="2026-12-01T12:00"' in answer.text
    assert f'action="{path}"' in answer.text
    long = "A sentence that says a good deal.\nAnd one more."
    many = teacher.post(f"/classes/{school.class_id}/settings", data={"name": "", "grades": long})
    assert long in many.text
    answer = teacher.post("/password", data={"old": "three plain words", "new": "short"})
    assert "three plain words" not in answer.text, "passwords are not shown again"


def test_each_form_says_which_field_is_wrong(address: str, school: School) -> None:
    teacher = Visitor(address, people.TEACHER)
    of_class, exercise = f"/classes/{school.class_id}", f"/classes/{school.class_id}/exercises/{school.version_id}"
    for path, form, field in (
        ("/classes", {"name": " "}, "name"),
        (f"{of_class}/settings", {"name": "A", "time_zone": "Mars/Base"}, "time_zone"),
        (f"{of_class}/settings", {"name": "A", "grades": "A eighty"}, "grades"),
        (f"{of_class}/settings", {"name": "A", "language": "xx"}, "language"),
        (f"{of_class}/teachers", {"login": "nobody"}, "login"),
        (f"{exercise}/terms", {"late_percent": "101"}, "late_percent"),
        (f"{exercise}/terms", {"attempts": "1.5"}, "attempts"),
        (f"{exercise}/terms", {"late": "never"}, "late"),
        (f"{exercise}/groups", {"students": str(school.student_id)}, "students"),
        (f"{exercise}/students/{school.student_id}", {"due_at": "soon"}, "due_at"),
        ("/allowances/printed/turn", {"least": "wide", "most": "1"}, "least"),
    ):
        token = teacher.post(path, data=form)
        assert token.status_code == 422, path
        assert re.search(rf'name="{field}"[^>]*aria-invalid="true"', token.text), (path, form)


def test_an_error_stands_below_the_form_which_keeps_what_was_typed(page: Page, address: str, school: School) -> None:
    sign_in(page, address, people.TEACHER)
    page.goto(f"{address}/classes/{school.class_id}/exercises/{school.version_id}")
    form = page.locator("section", has=page.get_by_role("heading", name="Due date and rules"))
    form.get_by_label("Percent off when late").fill("150")
    form.get_by_label("Hand-ins at most").fill("3")
    form.get_by_role("button", name="Save").click()
    expect(page.get_by_role("alert")).to_contain_text("'150' is not from 0 to 100")
    expect(form.get_by_label("Percent off when late")).to_be_focused()
    expect(form.get_by_label("Percent off when late")).to_have_attribute("aria-invalid", "true")
    expect(form.get_by_label("Hand-ins at most")).to_have_value("3")
    form.get_by_label("Percent off when late").fill("50")
    with page.expect_navigation():
        form.get_by_role("button", name="Save").click()
    expect(form.get_by_label("Percent off when late")).to_have_value("50")
    expect(page.get_by_role("alert")).to_have_count(0)
    form.get_by_label("Percent off when late").fill("0")
    form.get_by_label("Hand-ins at most").fill("")
    with page.expect_navigation():
        form.get_by_role("button", name="Save").click()


def test_what_a_button_cannot_do_is_said_in_a_dialog_and_the_page_stays(
    page: Page, address: str, school: School
) -> None:
    sign_in(page, address, people.TEACHER)
    page.goto(f"{address}/exercises")
    page.evaluate("document.querySelectorAll('main [name=csrf]').forEach((field) => { field.value = 'other'; })")
    button = page.get_by_role("button", name="Archive").first
    button.click()
    expect(page.get_by_role("dialog")).to_contain_text("this form is out of date")
    assert Axe().run(page).response["violations"] == []
    page.keyboard.press("Enter")  # the way out has the focus
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(button).to_be_visible()
    assert page.url == f"{address}/exercises"


def test_without_an_answer_of_the_server_the_form_stays(browser: Browser, address: str, school: School) -> None:
    context = patient_context(browser)
    page = context.new_page()
    sign_in(page, address, people.TEACHER)
    page.goto(f"{address}/classes")
    page.get_by_label("Name").fill("Not lost")
    page.route("**/classes", lambda route: route.abort())
    page.get_by_role("button", name="Make it").click()
    expect(page.get_by_role("alert")).to_contain_text("does not answer just now")
    expect(page.get_by_label("Name")).to_have_value("Not lost")
    page.unroute("**/classes")
    with page.expect_navigation():
        page.get_by_role("button", name="Make it").click()
    expect(page.get_by_role("heading", name="Not lost")).to_be_visible()
    context.close()


def test_two_presses_make_one_class_in_the_zone_of_the_browser(
    browser: Browser, address: str, school: School, database: Database
) -> None:
    context = patient_context(browser, timezone_id="Asia/Kolkata")
    page = context.new_page()
    sign_in(page, address, people.TEACHER)
    page.goto(f"{address}/classes")
    page.get_by_label("Name").fill("Pressed twice")
    with page.expect_navigation():
        page.get_by_role("button", name="Make it").dblclick()
    expect(page.get_by_role("heading", name="Pressed twice")).to_be_visible()
    context.close()
    with database.session() as session:
        made = session.scalars(select(Classroom).where(Classroom.name == "Pressed twice")).one()
        assert made.settings["time_zone"] in ("Asia/Kolkata", "Asia/Calcutta")


@pytest.fixture
def draft_id(school: School, database: Database) -> int:
    with database.session() as session:
        version = exercise_queries.version(session, school.version_id)
        given = {"title": "Kept", "source_name": "a.zip", "source": version.bundle}
        draft = draft_queries.add_draft(session, teacher_id=school.teacher_id, **given)  # type: ignore[arg-type]
        draft_queries.keep_bundle(session, draft, read_zip(version.bundle, name="exercise"))
        draft.state = "ready"
        return draft.id


def test_fields_of_a_draft_are_kept_before_anything_else_is_done(
    page: Page, address: str, database: Database, draft_id: int
) -> None:
    sign_in(page, address, people.TEACHER)
    page.goto(f"{address}/drafts/{draft_id}?at=exercise")
    page.get_by_label("What students read first").fill("Typed and left.")
    page.get_by_role("link", name="The whole").click()
    right = '{"id": "held", "title": "Nothing else moves", "kind": "mobility", "count": 1, "marks": 2}'
    page.get_by_text("Any check as JSON").click()
    box = page.locator("form", has=page.get_by_label("A check; one with the id"))
    box.get_by_label("A check; one with the id").fill(right)
    with page.expect_navigation():
        box.get_by_role("button", name="Ask for it").click()
    expect(page.locator("[id='check-held']")).to_have_attribute("open", "")
    with database.session() as session:
        document = session.get_one(Draft, draft_id).document or {}
        assert document["intro"] == "Typed and left."
        assert document["checks"][-1]["id"] == "held"


def test_what_cannot_be_kept_of_a_draft_is_said_at_its_field_and_nothing_else_is_done(
    page: Page, address: str, database: Database, draft_id: int
) -> None:
    with database.session() as session:
        first = (session.get_one(Draft, draft_id).document or {})["checks"][0]
    sign_in(page, address, people.TEACHER)
    page.goto(f"{address}/drafts/{draft_id}?at={first['part']}")
    row = page.locator(f"[id='check-{first['id']}']")
    row.locator("summary").click()
    tolerance = row.get_by_label("Tolerance")
    tolerance.fill("±0.1.2")
    page.get_by_role("link", name="Help").click()
    expect(page.get_by_role("alert")).to_contain_text("'0.1.2' is no number")
    expect(tolerance).to_have_attribute("aria-invalid", "true")
    expect(page.get_by_role("status").first).to_have_text("not saved")
    tolerance.fill("±0.3")
    with page.expect_navigation():
        page.get_by_role("link", name="Help").click()
    page.goto(f"{address}/drafts/{draft_id}?at={first['part']}")
    expect(row.locator("summary")).to_contain_text("±0.3")


def test_two_windows_do_not_write_over_each_other(address: str, database: Database, draft_id: int) -> None:
    with database.session() as session:
        first = (session.get_one(Draft, draft_id).document or {})["checks"][0]
    teacher = Visitor(address, people.TEACHER)
    seen = seen_digest(first)
    typed = {"title": "Earlier", "nominal": "7", "marks": "2", "seen": seen}
    assert teacher.post(f"/drafts/{draft_id}/checks/{first['id']}", data=typed).status_code == 200
    late = teacher.post(f"/drafts/{draft_id}/checks/{first['id']}", data={**typed, "title": "Later"})
    assert (late.status_code, "changed in another window" in late.text) == (422, True)
    with database.session() as session:
        kept = (session.get_one(Draft, draft_id).document or {})["checks"][0]
        assert (kept["title"], kept["nominal"]) == ("Earlier", 7)
    for path in ("checks/nobody", "checks/nobody/drop", "checks/nobody/bracket", "parts/nobody"):
        assert teacher.post(f"/drafts/{draft_id}/{path}", data={"marks": "1"}).status_code == 404


def test_the_desk_has_no_page_to_scroll(page: Page, address: str, draft_id: int) -> None:
    sign_in(page, address, people.TEACHER)
    for wide, high in ((1280, 800), (1920, 1080)):
        page.set_viewport_size({"width": wide, "height": high})
        for at in ("exercise", "assembly", "drawer"):
            page.goto(f"{address}/drafts/{draft_id}?at={at}")
            assert page.evaluate("document.documentElement.scrollHeight") <= high
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{address}/drafts/{draft_id}")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


def test_what_is_to_be_confirmed_is_asked_in_its_place(page: Page, address: str, school: School) -> None:
    path = f"/classes/{school.class_id}/exercises/{school.version_id}/return"
    answer = Visitor(address, people.TEACHER).http.post(path, data={"csrf": "x"}, headers={"HX-Request": "true"})
    assert answer.status_code == 403
    assert "<html" not in answer.text, "a script gets the words alone"
