"""Journeys, counted in clicks and keys; the counts are printed (`pytest -s`)."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.support import latch
from tests.support import school as people
from tests.support.school import sign_in
from tests.web.whole.counting import count_from_here, counted
from tests.web.whole.test_whole_way import save

#: What is allowed: a dialog of the machine, in which a file is chosen, is one more.
_LATCH, _HAND_IN = 20, 5


@pytest.mark.usefixtures("worker", "school")
def test_from_the_latch_as_a_file_to_its_release(teacher: Page, files: Path) -> None:
    model = files / "latch.step"
    model.write_bytes(latch.assembly(pins=0))
    count_from_here(teacher)
    teacher.get_by_role("link", name="Exercises").click()
    teacher.get_by_label("The solved model").set_input_files(model)
    teacher.get_by_role("button", name="Make a draft").click()
    expect(teacher.locator("#desk-foot[data-state=ready]")).to_be_visible()
    # what a teacher changes: the width of the bolt is a fit, with a hint; and it may slide
    teacher.get_by_role("navigation", name="Parts of the draft").get_by_role("link", name="Bolt").click()
    row = teacher.locator(".desk-row").filter(has=teacher.get_by_text("Width", exact=True)).first
    row.locator("summary").click()
    row.get_by_label("Tolerance").fill("±0.1")
    row.get_by_label("Hint").fill("It slides in the staples.")
    row.get_by_label("Marks").fill("2")
    teacher.get_by_role("button", name=re.compile("^Release")).click()  # in a hurry: what was typed is saved first
    teacher.get_by_role("button", name=re.compile("Class One")).first.click()
    expect(teacher.get_by_role("heading", level=2, name="latch v1")).to_be_visible()
    link = teacher.get_by_role("link", name=re.compile("^Sheet")).first.get_attribute("href") or ""
    sheet = teacher.request.get(link if link.startswith("http") else f"{teacher.url.split('/classes')[0]}{link}").text()
    assert "It slides in the staples." in sheet, "what was typed last is in it"
    clicks, keys = counted(teacher)
    in_all = clicks + keys + 3 + 1  # three fields were filled, one file was chosen
    print(f"latch to release: {clicks} clicks, {keys} keys, 3 fields, 1 file: {in_all}")
    assert in_all <= _LATCH


@pytest.mark.usefixtures("worker", "school")
def test_from_the_start_page_to_the_card(page: Page, address: str, files: Path) -> None:
    sign_in(page, address, people.STUDENT)
    count_from_here(page)
    page.get_by_role("link", name="Hand in").first.click()
    page.get_by_label("Choose files").set_input_files(save(files, "right"))
    page.get_by_role("button", name="See what is in them").click()
    page.get_by_role("button", name="Hand in").click()
    expect(page.locator(".total-marks")).to_have_text("39 / 39")
    clicks, keys = counted(page)
    print(f"hand-in to card: {clicks} clicks, {keys} keys, 1 file: {clicks + keys + 1}")
    assert clicks + keys + 1 <= _HAND_IN
