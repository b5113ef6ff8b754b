"""The sheet of a draft: how it is drawn, what it lacks or says twice, sizes moved by mouse and keys."""

from typing import Any

import pytest
from playwright.sync_api import Page, expect

from rigid_bench.core.formats.archive import read_zip
from rigid_bench.store.database import Database
from rigid_bench.store.queries import draft_queries, exercise_queries
from rigid_bench.store.tables import Draft
from tests.support import school as people
from tests.support.school import School, Visitor


@pytest.fixture
def draft_id(database: Database, school: School, examined: dict[str, Any]) -> int:
    with database.session() as session:
        version = exercise_queries.version(session, school.version_id)
        given: dict[str, Any] = {"title": "Drawer", "source_name": "a.zip", "source": version.bundle}
        draft = draft_queries.add_draft(session, teacher_id=school.teacher_id, **given)
        draft_queries.keep_bundle(session, draft, read_zip(version.bundle, name="exercise"))
        draft.examined, draft.state = examined, "ready"
        return draft.id


def document(database: Database, draft_id: int) -> dict[str, Any]:
    with database.session() as session:
        document: dict[str, Any] | None = session.get_one(Draft, draft_id).document
        assert document is not None
        return document


CHOSEN: dict[str, str | list[str]] = {
    "angle": "first", "paper": "A3", "upright": "on", "arrangement": "running", "drawer:chosen": "on",
    "drawer:view": ["front", "left side"], "drawer:left side:turn": "90", "drawer:left side:right": "2,5",
}  # fmt: skip


def test_how_the_sheets_are_drawn_is_kept_and_drawn_so(address: str, database: Database, draft_id: int) -> None:
    teacher = Visitor(address, people.TEACHER)
    answer = teacher.post(f"/drafts/{draft_id}/drawing", data=CHOSEN)
    assert answer.status_code == 200
    kept = document(database, draft_id)["drawing"]
    assert (kept["angle"], kept["paper"], kept["upright"], kept["arrangement"]) == ("first", "A3", True, "running")
    assert kept["views"] == {
        "drawer": [
            {"view": "front", "turn": 0, "moved": [0.0, 0.0], "cut": False},
            {"view": "left side", "turn": 90, "moved": [2.5, 0.0], "cut": False},
        ]
    }
    assert "turned 90°" in teacher.get(f"/drafts/{draft_id}/sheet").text


@pytest.mark.parametrize(("wrong", "says"), [
    ({"drawer:view": []}, "no view of &#39;drawer&#39; is left"),
    ({"drawer:left side:turn": "45"}, "drawing"),
    ({"drawer:left side:right": "4000"}, "left side view"),
    ({"paper": "A9"}, "drawing"),
])  # fmt: skip
def test_what_cannot_be_drawn_is_refused_and_nothing_kept(
    address: str, database: Database, draft_id: int, wrong: dict[str, Any], says: str
) -> None:
    answer = Visitor(address, people.TEACHER).post(f"/drafts/{draft_id}/drawing", data={**CHOSEN, **wrong})
    assert answer.status_code == 422
    assert says in answer.text
    assert "drawing" not in document(database, draft_id)


def test_what_the_audit_says_stands_on_the_drawing(
    address: str, database: Database, draft_id: int, examined: dict[str, Any]
) -> None:
    lacking = next(own for own in document(database, draft_id)["checks"] if own.get("measure") == "extent")
    twice = next(own for own in document(database, draft_id)["checks"] if own.get("measure") == "position")
    with database.session() as session:
        draft = session.get_one(Draft, draft_id)
        assert draft.document is not None
        left = [own for own in draft.document["checks"] if own["id"] != lacking["id"]]
        draft_queries.move_on_sheet(session, draft, {**draft.document, "checks": left})
        audit = examined["audit"]["parts"]["drawer"]
        draft.examined = {
            **examined,
            "offered": {"drawer": [lacking]},
            "audit": {
                "parts": {**examined["audit"]["parts"], "drawer": {**audit, "redundant": [{"check": twice["id"]}]}}
            },
        }
    text = Visitor(address, people.TEACHER).get(f"/drafts/{draft_id}/sheet").text
    assert "1 missing: drawn with ?" in text
    assert f"said twice: {twice['title']}" in text
    assert 'class="dimension audit-missing"' in text
    assert 'class="dimension audit-twice"' in text


def test_sizes_are_put_in_a_chain_and_the_draft_is_looked_at_again(
    address: str, database: Database, draft_id: int
) -> None:
    before = {own["id"]: own for own in document(database, draft_id)["checks"]}
    Visitor(address, people.TEACHER).post(f"/drafts/{draft_id}/order", data={"part": "drawer", "order": "chain"})
    after = {own["id"]: own for own in document(database, draft_id)["checks"]}
    assert set(before) == set(after)


def test_a_size_is_moved_with_the_arrow_keys_and_keeps_the_focus(
    teacher: Page, address: str, database: Database, draft_id: int
) -> None:
    teacher.goto(f"{address}/drafts/{draft_id}/sheet")
    group = teacher.locator("#drawings [data-check][tabindex]").first
    name = str(group.get_attribute("data-check")).split()[0]
    group.focus()
    with teacher.expect_response(lambda answer: answer.url.endswith("/shifts")):
        teacher.keyboard.press("ArrowUp")
    expect(teacher.locator(f"#drawings [data-check^='{name}']")).to_be_focused()
    assert document(database, draft_id)["shifts"][name] in ([0.0, 7.5], [0.0, 2.0])


def test_a_view_is_moved_with_the_arrow_keys_and_by_mouse_and_the_form_says_so(
    teacher: Page, address: str, database: Database, draft_id: int
) -> None:
    teacher.goto(f"{address}/drafts/{draft_id}/sheet")
    handle = teacher.locator("#drawings [data-part='drawer'][data-view]").first
    name = str(handle.get_attribute("data-view"))
    before = handle.bounding_box()
    handle.focus()
    with teacher.expect_response(lambda answer: answer.url.endswith("/view-moved")):
        teacher.keyboard.press("ArrowRight")
    again = teacher.locator(f"#drawings [data-part='drawer'][data-view='{name}']")
    expect(again).to_be_focused()
    expect(teacher.locator(f"[name='drawer:{name}:right']")).to_have_value("5")
    now = again.bounding_box()
    assert before
    assert now
    assert now["x"] > before["x"] + 5
    with teacher.expect_response(lambda answer: answer.url.endswith("/view-moved")):
        teacher.mouse.move(now["x"] + 3, now["y"] + 3)
        teacher.mouse.down()
        teacher.mouse.move(now["x"] + 3, now["y"] + 43, steps=4)
        teacher.mouse.up()
    expect(teacher.locator(f"[name='drawer:{name}:up']")).not_to_have_value("0")
    views = {own["view"]: own for own in document(database, draft_id)["drawing"]["views"]["drawer"]}
    assert views[name]["moved"][0] == 5
    assert views[name]["moved"][1] < -5
    assert all(own["moved"] == [0, 0] for other, own in views.items() if other != name)


@pytest.mark.parametrize("wrong", [{"view": "pictorial"}, {"view": "front", "x": "4000"}, {"view": "front", "y": "x"}])
def test_a_view_that_cannot_be_moved_so_is_refused(
    address: str, database: Database, draft_id: int, wrong: dict[str, str]
) -> None:
    answer = Visitor(address, people.TEACHER).post(f"/drafts/{draft_id}/view-moved", data={"part": "drawer", **wrong})
    assert answer.status_code == 422
    assert "drawing" not in document(database, draft_id)


def test_a_view_of_a_part_that_is_not_there_moves_nothing(address: str, database: Database, draft_id: int) -> None:
    answer = Visitor(address, people.TEACHER).post(
        f"/drafts/{draft_id}/view-moved", data={"part": "lid", "view": "front", "x": "5"}
    )
    assert answer.status_code == 200
    assert "drawing" not in document(database, draft_id)
