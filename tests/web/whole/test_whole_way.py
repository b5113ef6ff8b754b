"""The whole way in a real browser: hand in, wait, read, override, return; a wrong file; by keyboard; narrow."""

import csv
import io
import itertools
import re
import subprocess
from pathlib import Path
from typing import Literal

import pytest
from axe_playwright_python.base import AXE_SCRIPT
from playwright.sync_api import Page, expect

from rigid_bench.demo.seed_drawer import SAMPLES
from rigid_bench.store.database import Database
from tests.support import school as people
from tests.support.graded_builds import hand_in_sample
from tests.support.samples import files_of
from tests.support.school import School, sign_in

BUILDS = {sample.name: sample for sample in SAMPLES}


@pytest.fixture(scope="module")
def worker(worker_process: "subprocess.Popen[bytes]") -> "subprocess.Popen[bytes]":
    return worker_process


def save(folder: Path, name: str) -> list[Path]:
    paths = []
    for file, content in files_of(BUILDS[name]).items():
        (folder / file).write_bytes(content)
        paths.append(folder / file)
    return paths


@pytest.mark.usefixtures("worker", "school")
def test_a_build_goes_in_and_a_graded_card_comes_back(page: Page, teacher: Page, address: str, files: Path) -> None:
    sign_in(page, address, people.STUDENT)
    page.get_by_role("link", name="Sheet").click()
    expect(page.get_by_role("heading", name="Seed drawer")).to_be_visible()
    assert page.locator("svg.drawing-sheet").count() == 5  # three parts, the assembly together and apart
    page.get_by_role("link", name="Hand in").click()
    page.get_by_label("Choose files").set_input_files(save(files, "radius-for-diameter"))
    expect(page.locator(".chosen li")).to_have_count(2)
    page.get_by_role("button", name="See what is in them").click()
    expect(page.get_by_role("row", name="Drawer")).to_contain_text("90 × 60 × 30")
    expect(page.get_by_role("row", name="Knob")).to_contain_text("hole Ø2, 8 deep")
    expect(page.get_by_text("millimetre")).to_be_visible()
    to_class(teacher, address)
    expect(teacher.get_by_role("row", name=people.STUDENT.name)).to_contain_text("not handed in")
    # each part as it was handed in, beside the one that it was taken for
    expect(page.locator(".look-pictures li")).to_have_count(3)
    expect(page.locator("#viewer[data-drawn]")).to_be_visible()
    expect(page.locator("#show-part option")).to_have_count(4)  # all of it, and three
    expect(page.locator(".look-pictures svg")).to_have_count(6)
    expect(page.get_by_role("button", name="Hand in")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("status")).to_contain_text(re.compile("waiting|being measured|measured"))
    expect(page.locator(".total-marks")).to_have_text("37 / 39")
    assert page.locator(".row").count() == 25
    row = page.get_by_role("region", name="Pilot hole", exact=True)
    expect(row).to_be_in_viewport()  # what is to be put right comes first
    for folded in page.locator(".met-fold summary").all():
        folded.click()
    expect(row).to_contain_text("It looks as if the radius was typed where the diameter was asked: 2 × 2 = 4.")
    expect(row).to_contain_text("Change it to 4 mm and hand in again.")
    expect(row.locator(".stamp")).to_have_text("missed")
    expect(row.get_by_role("img", name="measured 2 mm, allowed 3.9 to 4.1 mm")).to_be_visible()
    expect(row.get_by_role("img", name="Pilot hole: where it is")).to_be_visible()
    expect(page.get_by_role("img", name="guided: slide along X open")).to_be_visible()
    expect(page.get_by_text("No stage reached yet")).to_be_visible()

    marked_and_returned(teacher, address)
    page.reload()
    expect(page.get_by_role("status")).to_contain_text("returned")
    expect(page.get_by_role("region", name="Pilot hole", exact=True)).to_contain_text("mind the diameter sign")
    expect(page.locator(".total-marks")).to_have_text("38.5 / 39")

    to_class(teacher, address)
    with teacher.expect_download() as download:
        teacher.get_by_role("link", name="CSV", exact=True).click()
    rows = list(csv.DictReader(io.StringIO(download.value.path().read_text("utf-8-sig"))))
    assert [row["awarded"] for row in rows if row["student"] == people.STUDENT.name] == ["38.5"]


def to_class(teacher: Page, address: str) -> None:
    """From the start page to the class's table."""
    teacher.goto(address)
    teacher.get_by_role("region", name="Classes").get_by_role("link").first.click()


def marked_and_returned(teacher: Page, address: str) -> None:
    """The teacher changes the marks of one row, with a reason, and returns the card."""
    to_class(teacher, address)
    teacher.get_by_role("row", name=people.STUDENT.name).get_by_role("link").click()
    row = teacher.get_by_role("region", name="Pilot hole", exact=True)
    row.get_by_text("Change marks").click()
    row.get_by_label("Marks").fill("1.5")
    row.get_by_label("Reason").fill("Right place, right depth; mind the diameter sign.")
    row.get_by_role("button", name="Save").click()
    expect(teacher.locator(".total-marks")).to_have_text("38.5 / 39")
    teacher.get_by_role("button", name="Return the card").click()
    expect(teacher.get_by_role("status")).to_contain_text("returned")


@pytest.mark.usefixtures("worker", "school")
def test_a_step_file_alone_says_what_it_cannot_show(page: Page, address: str, files: Path) -> None:
    sign_in(page, address, people.CLASSMATE)
    page.get_by_role("link", name="Hand in").click()
    page.get_by_label("Choose files").set_input_files(save(files, "step-only"))
    page.get_by_role("button", name="See what is in them").click()
    page.get_by_role("button", name="Hand in").click()  # in a hurry, also without waiting
    expect(page.locator(".total-marks")).to_have_text("33 / 39")
    row = page.get_by_role("region", name="Drawer slides")
    expect(row).to_contain_text("Hand in the build file too")
    expect(row.locator(".stamp")).to_have_text("unchecked")
    expect(page.get_by_text("Stage reached: Parts right")).to_be_visible()


@pytest.mark.usefixtures("school")
def test_a_text_file_named_step_gets_a_message_and_leaves_nothing(page: Page, address: str, files: Path) -> None:
    sign_in(page, address, people.CLASSMATE)
    before = page.get_by_role("main").inner_text()
    wrong = files / "drawer.step"
    wrong.write_text("this is my homework")
    page.get_by_role("link", name=re.compile("Hand in")).click()
    page.get_by_label("Choose files").set_input_files(wrong)
    page.get_by_role("button", name="See what is in them").click()
    expect(page.get_by_role("alert")).to_contain_text("not a STEP file")
    expect(page.get_by_text("Nothing was kept")).to_be_visible()
    page.get_by_role("link", name="Rigid Bench").click()
    assert page.get_by_role("main").inner_text() == before


@pytest.mark.usefixtures("school")
def test_signing_in_and_reaching_the_form_takes_no_mouse(page: Page, address: str) -> None:
    page.goto(f"{address}/sign-in")
    page.keyboard.type(people.STUDENT.login)
    page.keyboard.press("Tab")
    page.keyboard.type(people.STUDENT.password)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Your exercises")).to_be_visible()
    page.keyboard.press("Tab")
    expect(page.get_by_text("Skip to the content")).to_be_focused()
    for _ in range(12):
        page.keyboard.press("Tab")
        if page.evaluate("document.activeElement.textContent.trim()").startswith("Hand in"):
            break
    page.keyboard.press("Enter")
    expect(page.get_by_label("Choose files")).to_be_visible()


#: What axe finds in a page, each with the first place where it does.
_VIOLATIONS = """axe.run({resultTypes: ["violations"]})
    .then(({violations}) => violations.map(({id, nodes}) => `${id}: ${nodes[0].html}`))"""
Scheme = Literal["light", "dark"]
#: Widths of windows by light and dark.
WINDOWS: dict[Scheme, tuple[int, ...]] = {"light": (1280, 390, 768), "dark": (390, 1920)}


@pytest.mark.usefixtures("worker")
def test_no_page_is_wider_than_the_window_and_axe_finds_nothing(
    page: Page, address: str, files: Path, school: School, database: Database
) -> None:
    with database.session() as session:
        hand_in_sample(session, school, "radius-for-diameter")
    page.goto(f"{address}/sign-in")
    looker = _Looker(page)
    looker.look()
    sign_in(page, address, people.TEACHER)
    looker.look()
    for link in ("Seed drawer", people.STUDENT.name):
        page.goto(f"{address}/classes/{school.class_id}")
        page.get_by_role("link", name=link).first.click()
        looker.look()
    mark = page.url.split("/builds/")[1]
    table = f"classes/{school.class_id}"
    paths = ("people", "room", "log", f"exercises/{school.version_id}", f"insight?version_id={school.version_id}",
             "insight/teach", "insight/likeness", "plan", "practice")  # fmt: skip
    for path in ("", "exercises", "practice", "practice/what-is-free?seed=3", "tables/fits",
                 "patterns", "nowhere", "classes", "help", "help/teachers", "help/mates-as-a-table", "join", "password",
                 "allowances", f"builds/{mark}/mark", *(f"{table}/{path}" for path in paths)):  # fmt: skip
        page.goto(f"{address}/{path}")
        looker.look()
    page.get_by_role("button", name="Sign out").click()
    expect(page.get_by_role("button", name="Sign in")).to_be_visible()
    sign_in(page, address, people.STUDENT)
    looker.look()
    page.get_by_role("link", name=re.compile("Hand in")).click()
    looker.look()
    page.get_by_label("Choose files").set_input_files(save(files, "right"))
    page.get_by_role("button", name="See what is in them").click()
    expect(page.get_by_role("row", name="Drawer")).to_be_visible()
    looker.look()
    assert looker.problems == []


class _Looker:
    """Looks at each page in all windows: whether it is wide enough, and with axe in a light and a dark one in turn."""

    def __init__(self, page: Page) -> None:
        self._page = page
        self._with_axe = zip(itertools.cycle(WINDOWS["light"]), itertools.cycle(WINDOWS["dark"]), strict=True)
        self.problems = list[str]()

    def look(self) -> None:
        """Take down what is wrong with the page that is open."""
        self._page.wait_for_load_state("networkidle")
        self._page.evaluate(AXE_SCRIPT)
        light, dark = next(self._with_axe)
        for scheme, widths in WINDOWS.items():
            self._page.emulate_media(color_scheme=scheme)
            for width in widths:
                self._page.set_viewport_size({"width": width, "height": 800})
                window = f"{self._page.url} in {scheme} of {width}"
                overhang = self._page.evaluate("document.documentElement.scrollWidth - window.innerWidth")
                self.problems += [f"{window}: {overhang} px too wide"] if overhang > 0 else []
                if width == (light if scheme == "light" else dark):
                    self.problems += [f"{window}: {violation}" for violation in self._page.evaluate(_VIOLATIONS)]


def test_the_worker_is_alive_at_the_end(worker: "subprocess.Popen[bytes]") -> None:
    assert worker.poll() is None
