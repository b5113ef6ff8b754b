"""A teacher goes from a STEP file to a released exercise that a class works on, in a real browser."""

import re
from pathlib import Path

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Locator, Page, expect

from rigid_bench.demo import seed_drawer
from rigid_bench.web.security.access import COOKIE
from rigid_bench.web.security.passwords import form_token
from tests import school as people
from tests.school import School, Visitor


@pytest.mark.usefixtures("worker")
def test_from_a_step_file_to_a_class(teacher: Page, address: str, school: School, files: Path) -> None:
    model = files / "solved.step"
    model.write_bytes(seed_drawer.SAMPLES[0].files()["drawer.step"])
    teacher.get_by_role("link", name="Exercises").click()
    teacher.get_by_label("Title").fill("Tool tray")
    teacher.get_by_label("The solved model").set_input_files(model)
    teacher.get_by_role("button", name="Make a draft").click()
    expect(teacher.get_by_text("drawer: rigid")).to_be_visible(timeout=90_000)
    expect(teacher.get_by_text("The model itself earns 46 of 46.")).to_be_visible()
    # a size dropped: what is loose is said, and comes back
    teacher.get_by_label("Keep Bore Ø8.4").uncheck()
    with teacher.expect_navigation():
        teacher.get_by_role("button", name="Keep the changes").click()
    expect(teacher.get_by_text("No diameter is given for the Ø8.4 wall")).to_be_visible(timeout=60_000)
    expect(teacher.get_by_role("button", name="Release all the same")).to_be_visible()
    teacher.get_by_role("button", name="Undo").click()
    expect(teacher.get_by_text("drawer: rigid")).to_be_visible(timeout=60_000)
    part = teacher.locator("#part-drawer")
    point_at_it(teacher, part)
    # a size dropped is lit, and one press brings it back
    teacher.get_by_label("Keep Bore Ø8.4").uncheck()
    with teacher.expect_navigation():
        teacher.get_by_role("button", name="Keep the changes").click()
    part.get_by_role("button", name="Add Bore Ø8.4").click(timeout=60_000)
    expect(part.get_by_role("heading")).to_have_text(re.compile("rigid"), timeout=60_000)
    ask_of_the_assembly(teacher)
    # a sum, a tolerance, a hint; and one that cannot be meant
    row = teacher.get_by_role("row", name="Width").nth(1)
    row.get_by_label("Nominal of Width").fill("66.8 - 2*3 - 2*0.4")
    row.get_by_label("Tolerance of Width").fill("±0.1")
    row.get_by_label("Hint for Width").fill("The housing, less its walls and the gaps.")
    with teacher.expect_navigation():
        teacher.get_by_role("button", name="Keep the changes").click()
    expect(teacher.get_by_role("button", name="Release", exact=True)).to_be_visible(timeout=60_000)
    assert Axe().run(teacher).response["violations"] == []
    by_way_of_a_table(teacher, files / "values.csv")
    teacher.get_by_label("Nominal of Length").first.fill("twice the knob")
    with teacher.expect_navigation():
        teacher.get_by_role("button", name="Keep the changes").click()
    expect(teacher.get_by_role("alert")).to_contain_text("length", timeout=60_000)
    teacher.get_by_role("button", name="Undo").click()
    expect(teacher.get_by_role("button", name="Release", exact=True)).to_be_visible(timeout=60_000)
    teacher.get_by_role("button", name="Release", exact=True).click()
    teacher.get_by_role("button", name=re.compile("Class One.*Tool tray v1")).click()
    expect(teacher.get_by_role("heading", name="Tool tray v1")).to_be_visible()
    read_by_a_student(address)


def point_at_it(teacher: Page, part: Locator) -> None:
    """Pointing at a hole and a face offers what is between them; it says again what is there."""
    part.get_by_label("Point at").select_option(label="Ø8.4 hole, y = 30, z = 15")
    expect(part.get_by_role("button", name="Ask Ø8.4 8.4")).to_be_visible()
    part.locator(".view-side .point").filter(has_text="bottom face, z = 0").click(force=True)
    part.get_by_role("button", name="Ask Ø8.4 from the bottom").click()
    expect(part.get_by_text("dimensioned twice")).to_be_visible(timeout=60_000)
    teacher.get_by_role("button", name="Undo").click()
    expect(part.get_by_role("heading")).to_have_text(re.compile("rigid"), timeout=60_000)
    teacher.get_by_role("button", name="Redo").click()
    expect(part.get_by_text("dimensioned twice")).to_be_visible(timeout=60_000)
    teacher.get_by_role("button", name="Undo").click()
    expect(part.get_by_role("heading")).to_have_text(re.compile("rigid"), timeout=60_000)


def by_way_of_a_table(teacher: Page, table: Path) -> None:
    """The values go out as a table, are worked on there, and come in again."""
    with teacher.expect_download() as download:
        teacher.get_by_role("link", name="Take them out as CSV").click()
    text = download.value.path().read_text("utf-8-sig")
    assert "66.8 - 2*3 - 2*0.4" in text
    table.write_text(text.replace("66.8 - 2*3 - 2*0.4", "66.8 - 2*(3 + 0.4)"))
    teacher.get_by_label("Bring it in again").set_input_files(table)
    teacher.get_by_role("button", name="Bring in").click()
    expect(teacher.get_by_label("Nominal of Width").nth(1)).to_have_value("66.8 - 2*(3 + 0.4)")
    expect(teacher.get_by_role("button", name="Release", exact=True)).to_be_visible(timeout=60_000)


def read_by_a_student(address: str) -> None:
    """The exercise stands in the class, its sheet with the sum and the hint."""
    student = Visitor(address, people.STUDENT)
    home = student.get("/").text
    assert "Tool tray" in home
    sheet = re.search(r'href="[^"]*(/classes/\d+/exercises/\d+/sheet)"', home.split("Tool tray")[1])
    assert sheet
    text = student.get(sheet[1]).text
    assert "60 ±0.1 mm (66.8 − 2 × (3 + 0.4))" in text
    assert "The housing, less its walls and the gaps." in text


def ask_of_the_assembly(teacher: Page) -> None:
    """A relation, a freedom, a gap and a change test, each by its form; a wrong one is refused with words."""
    assembly = teacher.locator("#assembly")
    earns = teacher.get_by_text(re.compile("The model itself earns"))
    for words, fill, title in (
        ("Ask for a relation", {"First face": "housing-1:2", "Second face": "drawer-1:0"}, "Drawer and Housing: faces"),
        ("Ask for a freedom", {"Part": "drawer-1", "relative to": "housing-1"}, "Drawer slides along X"),
        ("Ask for a gap", {"Between": "housing-1", "and": "drawer-1"}, "Gap of Drawer to Housing"),
        ("Ask for a change test", {"Students set": "drawer.length"}, "Follows a change of Length"),
    ):
        box = assembly.locator("details").filter(has_text=words)
        box.locator("summary").click()
        for label, value in fill.items():
            box.get_by_label(re.compile(f"^{label}")).select_option(value)
        if "freedom" in words:
            box.get_by_label("slide along X").check()
        if "gap" in words:
            box.get_by_label("At most").fill("0.6")
        if "change" in words:
            box.get_by_label("to", exact=True).fill("80")
        box.get_by_role("button", name="Ask for it").click()
        titles = assembly.locator("input[name=check_title]")
        expect(titles.last).to_have_value(re.compile(title), timeout=60_000)
        expect(earns).to_be_visible(timeout=60_000)
        expect(teacher.get_by_text("being read and measured")).to_have_count(0, timeout=60_000)
    teacher.get_by_role("link", name="Sheet", exact=True).click()
    line = teacher.locator("#drawings [data-check='drawer.length']")
    before = line.bounding_box()
    teacher.get_by_label("Dimension").select_option("drawer.length")
    teacher.get_by_label("Up, mm", exact=True).fill("-5")
    teacher.get_by_role("button", name="Move it").click()
    expect(teacher.get_by_label("Up, mm", exact=True)).to_have_value("0")
    after = line.bounding_box()
    assert before
    assert after
    assert abs(after["height"] - before["height"]) > 5
    assert Axe().run(teacher).response["violations"] == []
    teacher.get_by_role("link", name="Back to the draft").click()


def test_what_is_no_model_is_refused_at_once(address: str, school: School) -> None:
    teacher = Visitor(address, people.TEACHER)
    token = form_token(teacher.http.cookies.get(COOKIE) or "")
    for sent, says in (([("source", ("note.txt", b"hello"))], "neither a STEP file"), ([], "no file was chosen")):
        answer = teacher.http.post("/exercises", data={"csrf": token, "title": "X"}, files=sent or None)
        assert (answer.status_code, says in answer.text) == (422, True)


@pytest.mark.usefixtures("worker")
def test_a_table_of_values_makes_an_exercise_without_a_model(teacher: Page, school: School, files: Path) -> None:
    table = files / "pins.csv"
    table.write_text(
        "part;title;measure;nominal;tolerance;axis\nPin;Length;extent;30,5;0,2;z\nPin;Across;diameter;6;h6;\n"
    )
    teacher.get_by_role("link", name="Exercises").click()
    teacher.get_by_label("Title").fill("Pins")
    teacher.get_by_label("The solved model").set_input_files(table)
    teacher.get_by_role("button", name="Make a draft").click()
    expect(teacher.get_by_label("Nominal of Length")).to_have_value("30.5", timeout=60_000)
    expect(teacher.get_by_label("Tolerance of Length")).to_have_value("±0.2")
    expect(teacher.get_by_label("Tolerance of Across")).to_have_value("h6")
    # the way of marking of another exercise is taken over, and undone
    teacher.get_by_label(re.compile("Marks by kind")).select_option(label="Seed drawer v1")
    teacher.get_by_role("button", name="Take them").click()
    expect(teacher.get_by_label("Marks of Across")).to_have_value("2", timeout=60_000)
    teacher.get_by_role("button", name="Undo").click()
    expect(teacher.get_by_label("Marks of Across")).to_have_value("1", timeout=60_000)
    table.write_text("part,size\nPin,3\n")
    teacher.get_by_role("link", name="Exercises").click()
    teacher.get_by_label("The solved model").set_input_files(table)
    teacher.get_by_role("button", name="Make a draft").click()
    expect(teacher.get_by_role("alert")).to_contain_text("it lacks a column", timeout=60_000)
