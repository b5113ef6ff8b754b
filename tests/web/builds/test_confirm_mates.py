"""Proposed mates: one picture after the other by keys, handed in with the files, and said so on the card."""

import json

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect
from sqlalchemy import select, text

from rigid_bench.demo.seed_drawer import SAMPLES
from rigid_bench.store.database import Database
from rigid_bench.store.tables import BuildFile
from tests.support import school as people
from tests.support.samples import files_of
from tests.support.school import School, Visitor
from tests.web.builds.test_look import chosen, looked_at

FILES = files_of(next(sample for sample in SAMPLES if sample.name == "step-only"))
#: The base, and the mates that the drawer's places show.
PROPOSALS = 5


@pytest.fixture
def visitor(address: str) -> Visitor:
    return Visitor(address, people.STUDENT)


def looked(visitor: Visitor, school: School) -> str:
    """Choose positions alone, and return the path of the build once it was looked at."""
    path = chosen(visitor, school, FILES)
    assert "No mates came with it" in looked_at(visitor, path)
    return path.removesuffix("/look")


@pytest.mark.usefixtures("worker")
def test_each_is_confirmed_by_a_key_and_the_card_says_so(
    visitor: Visitor, school: School, student: Page, address: str
) -> None:
    path = looked(visitor, school)
    student.goto(f"{address}{path}/look")
    student.get_by_role("link", name="Confirm mates").click()
    state = student.get_by_role("status")
    expect(state).to_have_text(f"1 of {PROPOSALS}")
    expect(student.get_by_role("heading", name="Stands still")).to_be_visible()
    assert Axe().run(student).response["violations"] == []
    for key in ("y", "n"):
        student.keyboard.press(key)
    # what was refused has another in its place, which goes when it is said to be so after all
    expect(state).to_have_text(f"3 of {PROPOSALS + 1}")
    expect(student.get_by_role("heading", name="Keep a gap of 0.8 mm")).to_be_visible()
    expect(student.get_by_text("Instead of the one that you refused").first).to_be_visible()
    assert Axe().run(student).response["violations"] == []
    for key in ("y", "ArrowLeft", "ArrowLeft", "y", "y", "y"):
        student.keyboard.press(key)
    expect(state).to_have_text(f"{PROPOSALS} of {PROPOSALS}")
    student.get_by_role("button", name="No").click()
    expect(state).to_contain_text(f"{PROPOSALS - 1} of {PROPOSALS} are so")
    assert Axe().run(student).response["violations"] == []
    student.get_by_label("It is so").last.check()  # what was said is still changed
    expect(state).to_contain_text(f"{PROPOSALS} of {PROPOSALS} are so")
    send = student.get_by_role("button", name="Hand in with these mates")
    send.focus()
    student.keyboard.press("Enter")
    expect(student.get_by_text("not handed in yet")).to_be_visible()
    expect(student.get_by_text("confirmed.build.json")).to_be_visible()
    assert "No mates came with it" not in student.content()
    student.get_by_role("button", name="Hand in", exact=True).click()
    student.wait_for_url(f"**{path}")
    expect(student.get_by_text("4 of 4 mates were proposed")).to_be_visible()
    assert "4 of 4 mates were proposed" in Visitor(address, people.TEACHER).get(f"{path}/mark").text


@pytest.mark.usefixtures("worker")
def test_a_second_press_nothing_chosen_and_other_numbers(visitor: Visitor, school: School, database: Database) -> None:
    path = looked(visitor, school)
    assert visitor.get(f"{path}/mates").text.count('name="yes"') == PROPOSALS
    assert visitor.post(f"{path}/mates", data={"yes": ["0", "99"]}).status_code == 404
    none = visitor.post(f"{path}/mates")
    assert none.status_code == 422
    assert "none of them was confirmed" in none.text
    assert visitor.post(f"{path}/mates", data={"instead": ["99"]}).status_code == 404
    for _ in range(2):
        given = {"yes": ["0"], "instead": ["1"]}
        assert visitor.post(f"{path}/mates", data=given).url.path == f"{path}/look"
    assert "Confirm mates" not in looked_at(visitor, f"{path}/look")
    assert visitor.get(f"{path}/mates").url.path == f"{path}/look"
    assert kept_names(database, path) == ["confirmed.build.json", "drawer.step"]
    with database.session() as session:
        own = BuildFile.build_id == int(path.split("/")[2])
        file = session.scalars(select(BuildFile).where(own, BuildFile.name == "confirmed.build.json")).one()
        kept = json.loads(file.stored.read())
    assert [mate["id"] for mate in kept["mates"]] == ["mate-1-instead"]


def kept_names(database: Database, path: str) -> list[str]:
    with database.session() as session:
        rows = session.execute(
            text("select name from build_files where build_id = :b order by name"), {"b": int(path.split("/")[2])}
        )
        return [row[0] for row in rows]


@pytest.mark.usefixtures("worker")
def test_what_was_proposed_is_not_kept_with_a_build_that_counts(
    visitor: Visitor, school: School, database: Database
) -> None:
    path = looked(visitor, school)
    visitor.post(f"{path}/hand-in")
    with database.session() as session:
        query = text("select understood ? 'proposed', understood ? 'parts' from builds where id = :b")
        assert tuple(session.execute(query, {"b": int(path.split("/")[2])}).one()) == (False, True)
    assert visitor.post(f"{path}/mates", data={"yes": ["0"]}).url.path == path  # it is handed in: the card
    assert kept_names(database, path) == ["drawer.step"]
