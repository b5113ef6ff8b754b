"""A teacher goes from a STEP file to a released exercise that a class works on, in a real browser."""

import re
from pathlib import Path

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Locator, Page, expect

from rigid_bench.demo import seed_drawer
from rigid_bench.web.security.access import COOKIE
from rigid_bench.web.security.passwords import form_token
from tests.support import school as people
from tests.support.samples import files_of
from tests.support.school import School, Visitor


@pytest.mark.usefixtures("worker")
def test_from_a_step_file_to_a_class(teacher: Page, address: str, school: School, files: Path) -> None:
    model = files / "solved.step"
    model.write_bytes(files_of(seed_drawer.SAMPLES[0])["drawer.step"])
    teacher.get_by_role("link", name="Exercises").click()
    teacher.get_by_label("Title").fill("Tool tray")
    teacher.get_by_label("The solved model").set_input_files(model)
    teacher.get_by_role("button", name="Make a draft").click()
    expect(teacher.get_by_text("The model itself earns 46 of 46.")).to_be_visible()
    open_card(teacher, "Drawer")
    expect(card(teacher, "Drawer")).to_contain_text("fully dimensioned")
    drop_and_take_again(teacher)
    point_at_it(teacher)
    ask_of_the_assembly(teacher)
    open_card(teacher, "Drawer")
    # a sum, a tolerance, a hint: each saves itself
    row = open_row(teacher, "Width")
    row.get_by_label("Nominal").fill("66.8 - 2*3 - 2*0.4")
    row.get_by_label("Tolerance").fill("±0.1")
    row.get_by_label("Hint").fill("The housing, less its walls and the gaps.")
    row.get_by_label("Marks").focus()
    expect(row.locator("summary")).to_contain_text("66.8 - 2*3 - 2*0.4 ±0.1")
    settled(teacher)
    expect(row.get_by_label("Marks")).to_be_focused()
    assert Axe().run(teacher).response["violations"] == []
    by_way_of_a_table(teacher, files / "values.csv")
    # what cannot be meant
    open_card(teacher, "Drawer")
    open_row(teacher, "Length").get_by_label("Nominal").fill("twice the knob")
    teacher.keyboard.press("Tab")
    expect(teacher.get_by_role("alert")).to_contain_text("length")
    teacher.get_by_role("button", name="Undo").click()
    teacher.get_by_role("button", name="Release", exact=True).click()
    teacher.get_by_role("button", name=re.compile("Class One.*Tool tray v1")).click()
    expect(teacher.get_by_role("heading", name="Tool tray v1")).to_be_visible()
    read_by_a_student(address)


def card(teacher: Page, name: str) -> Locator:
    return teacher.get_by_role("navigation", name="Parts of the draft").get_by_role("link", name=name)


def open_card(teacher: Page, name: str) -> None:
    with teacher.expect_navigation():
        card(teacher, name).click()


def open_row(teacher: Page, title: str) -> Locator:
    row = teacher.locator(".desk-row").filter(has=teacher.get_by_text(title, exact=True)).first
    if row.get_attribute("open") is None:
        row.locator("summary").click()
    return row


def settled(teacher: Page) -> None:
    """Wait until the draft has been looked at as it is now."""
    expect(teacher.locator("#desk-foot[data-state=ready]")).to_be_visible()


def drop_and_take_again(teacher: Page) -> None:
    """A size that is dropped is drawn as missing; a key takes it again, and another takes that back."""
    open_row(teacher, "Bore Ø8.4").get_by_role("button", name="Drop Bore").click()
    expect(teacher.get_by_role("heading", name="1 missing")).to_be_visible()
    expect(teacher.locator("#drawings .audit-missing")).to_be_visible()
    expect(teacher.get_by_role("button", name="Release all the same")).to_be_visible()
    teacher.keyboard.press("Control+z")
    expect(card(teacher, "Drawer")).to_contain_text("fully dimensioned")
    settled(teacher)
    open_row(teacher, "Bore Ø8.4").get_by_role("button", name="Drop Bore").click()
    expect(teacher.get_by_role("heading", name="1 missing")).to_be_visible()
    teacher.locator("main").focus()
    teacher.keyboard.press("t")
    expect(teacher.locator(".desk-row[open]")).to_contain_text("Bore Ø8.4")
    settled(teacher)
    # missing again, it is taken by a press on the drawing
    teacher.keyboard.press("Control+z")
    ghost = teacher.locator("#drawings .audit-missing text").first
    ghost.click()
    expect(teacher.locator(".desk-row[open]")).to_contain_text("Bore Ø8.4")
    expect(card(teacher, "Drawer")).to_contain_text("fully dimensioned")


def point_at_it(teacher: Page) -> None:
    """A dimension on the drawing opens its row; a hole and a face offer what is between them, which is there twice."""
    teacher.locator("#drawings [data-check='drawer.height'] text").first.click()
    expect(teacher.locator(".desk-row[open]")).to_contain_text("Height")
    expect(teacher.locator("#drawings .dimension.lit")).to_have_count(1)
    teacher.get_by_label("Point at").select_option(label="Ø8.4 hole, y = 30, z = 15")
    expect(teacher.get_by_role("button", name="Ask Ø8.4 8.4")).to_be_visible()
    teacher.locator("#drawings .point").filter(has_text="bottom face, z = 0").first.click(force=True)
    teacher.get_by_role("button", name="Ask Ø8.4 from the bottom").click()
    expect(card(teacher, "Drawer")).to_contain_text("given twice")
    with teacher.expect_navigation():
        teacher.get_by_role("button", name="Undo").click()
    expect(card(teacher, "Drawer")).to_contain_text("fully dimensioned")
    with teacher.expect_navigation():
        teacher.get_by_role("button", name="Redo").click()
    expect(card(teacher, "Drawer")).to_contain_text("given twice")
    # a rival stands in brackets, and is asked no more
    rival = teacher.locator(".desk-row-twice").first
    rival.locator("summary").click()
    rival.get_by_role("button", name="Put it in brackets").click()
    expect(card(teacher, "Drawer")).to_contain_text("fully dimensioned")


def point_at_two(teacher: Page) -> None:
    """Two features of the scene become the two sides of a relation; petals of the rose open a freedom."""
    scene = teacher.locator("#desk-scene[data-ready]")
    expect(scene).to_be_visible()
    box = scene.bounding_box()
    assert box
    teacher.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    first = teacher.locator("#assembly select[name=a]").first
    expect(first).not_to_have_value("")
    expect(teacher.locator("#pointed")).to_contain_text(":")
    for k in range(1, 30):  # until another part is met
        teacher.mouse.click(box["x"] + box["width"] * (0.5 + 0.013 * k * (-1) ** k), box["y"] + box["height"] * 0.55)
        second = teacher.locator("#assembly select[name=b]").first
        if second.input_value():
            break
    assert ":" in second.input_value()
    freedom = teacher.locator("#assembly details").filter(has_text="Ask for a freedom")
    freedom.locator("summary").click()
    freedom.locator("[data-choice=ty]").click()
    expect(freedom.get_by_label("slide along Y")).to_be_checked()
    freedom.locator("[data-choice=ty]").click()
    expect(freedom.get_by_label("slide along Y")).not_to_be_checked()
    freedom.locator("summary").click()


def by_way_of_a_table(teacher: Page, table: Path) -> None:
    """The values go out as a table, are worked on there, and come in again."""
    open_card(teacher, "The exercise")
    with teacher.expect_download() as download:
        teacher.get_by_role("link", name="Take them out as CSV").click()
    text = download.value.path().read_text("utf-8-sig")
    assert "66.8 - 2*3 - 2*0.4" in text
    table.write_text(text.replace("66.8 - 2*3 - 2*0.4", "66.8 - 2*(3 + 0.4)"))
    teacher.get_by_label("Bring it in again").set_input_files(table)
    with teacher.expect_navigation():
        teacher.get_by_role("button", name="Bring in").click()
    open_card(teacher, "Drawer")
    expect(open_row(teacher, "Width").locator("summary")).to_contain_text("66.8 - 2*(3 + 0.4)")
    settled(teacher)


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
    """A relation, a freedom, a gap and a change test, each by its form; the first by pointing at two parts."""
    open_card(teacher, "Assembly")
    assembly = teacher.locator("#assembly")
    point_at_two(teacher)
    for words, fill, title in (
        ("Ask for a relation", {"First face": "housing-1:2", "Second face": "drawer-1:0"}, "Drawer and Housing: faces"),
        ("Ask for a freedom", {"Part": "drawer-1", "relative to": "housing-1"}, "Drawer slides along X"),
        ("Ask for a gap", {"Between": "housing-1", "and": "drawer-1"}, "Gap of Drawer to Housing"),
        ("Ask for a change test", {"Students set": "drawer.length"}, "Follows a change of Length"),
    ):
        box = assembly.locator("details").filter(has_text=words)
        if box.get_attribute("open") is None:
            box.locator("summary").click()
        for label, value in fill.items():
            box.get_by_label(re.compile(f"^{label}")).select_option(value)
        if "freedom" in words:
            box.get_by_label("slide along X").check()
        if "gap" in words:
            box.get_by_label("At most").fill("0.6")
        if "change" in words:
            box.get_by_label("to", exact=True).fill("80")
        with teacher.expect_navigation():
            box.get_by_role("button", name="Ask for it").click()
        expect(teacher.locator(".desk-row").last).to_contain_text(re.compile(title))
        settled(teacher)
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
    row = teacher.locator(".desk-row")
    expect(row.filter(has_text="Length").locator("summary")).to_contain_text("30.5 ±0.2")
    across = row.filter(has_text="Across").locator("summary")
    expect(across).to_contain_text("6 h6")
    # the way of marking of another exercise is taken over, and undone
    open_card(teacher, "The exercise")
    teacher.get_by_label(re.compile("Marks by kind")).select_option(label="Seed drawer v1")
    with teacher.expect_navigation():
        teacher.get_by_role("button", name="Take them").click()
    open_card(teacher, "Pin")
    expect(open_row(teacher, "Across").get_by_label("Marks")).to_have_value("2")
    teacher.get_by_role("button", name="Undo").click()
    expect(open_row(teacher, "Across").get_by_label("Marks")).to_have_value("1")
    table.write_text("part,size\nPin,3\n")
    teacher.get_by_role("link", name="Exercises").click()
    teacher.get_by_label("The solved model").set_input_files(table)
    teacher.get_by_role("button", name="Make a draft").click()
    expect(teacher.get_by_role("alert")).to_contain_text("it lacks a column")


def test_an_exercise_is_archived_and_taken_back(address: str, school: School) -> None:
    teacher = Visitor(address, people.TEACHER)
    path = f"/exercises/versions/{school.version_id}/archive"
    for _ in range(2):  # pressed twice is pressed once
        teacher.post(path)
    text = teacher.get("/exercises").text
    assert "Archive, 1" in text
    assert "Give it to" not in text
    assert teacher.get(f"/classes/{school.class_id}").text.count("Seed drawer") >= 1, "the class goes on with it"
    teacher.post(path, data={"back": "true"})
    assert "Archive, 1" not in teacher.get("/exercises").text
    assert Visitor(address, people.STUDENT).post(path).status_code in (403, 404)
