"""Take the pictures of docs/screenshots from the running sample school: `scripts/screenshots.py ADDRESS [FOLDER]`."""

import sys
from pathlib import Path

from playwright.sync_api import FilePayload, Page, ViewportSize, sync_playwright

from rigid_bench.demo.people import STUDENTS, TEACHER, Person
from rigid_bench.demo.seed_drawer import SAMPLES

CHROMIUM = "/usr/bin/chromium"
_FLAGS = ["--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader"]
_SIZE: ViewportSize = {"width": 1280, "height": 800}


def main(address: str, folder: Path) -> None:
    """Walk through the main views as a student and as a teacher."""
    folder.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=CHROMIUM, args=_FLAGS)
        student = browser.new_page(viewport=_SIZE)
        student.goto(f"{address}/sign-in")
        _take(student, folder, "sign-in")
        _sign_in(student, STUDENTS[1])
        _take(student, folder, "home")
        drawer = student.get_by_role("listitem").filter(has_text="Seed drawer")
        drawer.get_by_role("link", name="Sheet").click()
        _take(student, folder, "sheet")
        student.click("text=Hand in")
        _take(student, folder, "hand-in")
        _choose(student)
        _take(student, folder, "look")
        student.goto(address)
        drawer.get_by_role("link", name="Card").click()
        student.locator(".row-missed").first.scroll_into_view_if_needed()
        _take(student, folder, "card")
        student.click("text=Tables")
        student.wait_for_load_state("networkidle")
        student.keyboard.type("M6")
        student.wait_for_timeout(600)
        _take(student, folder, "tables")
        teacher = browser.new_page(viewport=_SIZE)
        teacher.goto(f"{address}/sign-in")
        _sign_in(teacher, TEACHER)
        teacher.get_by_role("link", name="Workshop 9B").first.click()
        _take(teacher, folder, "class-table")
        teacher.get_by_role("link", name="Bram Tolliver, Seed drawer").click()
        teacher.wait_for_selector("#viewer[data-drawn]")
        teacher.select_option("#show-part", "Knob")
        teacher.select_option("#section-axis", "y")
        _take(teacher, folder, "marking")
        for link, name in (("Room", "room"), ("People", "people")):
            teacher.goto(f"{address}/classes/1")
            teacher.get_by_role("link", name=link, exact=True).click()
            _take(teacher, folder, name)
        teacher.goto(f"{address}/classes/1")
        teacher.get_by_role("columnheader", name="Seed drawer").get_by_role("link").click()
        _take(teacher, folder, "assignment")
        _set(teacher, address)
        _take(teacher, folder, "draft")
        teacher.get_by_role("link", name="Help").click()
        _take(teacher, folder, "help")
        browser.close()


def _set(page: Page, address: str) -> None:
    """Make a draft of an exercise from a solved model and wait for what is found of it."""
    files = next(each for each in SAMPLES if each.name == "right").files()
    page.goto(f"{address}/exercises")
    page.get_by_label("Title").fill("Tool tray")
    model = FilePayload(name="tool-tray.step", mimeType="", buffer=files["drawer.step"])
    page.get_by_label("The solved model").set_input_files(model)
    page.get_by_role("button", name="Make a draft").click()
    page.wait_for_selector("text=The model itself earns", timeout=90_000)


def _choose(page: Page) -> None:
    """Choose a sample build and wait for what was understood of it."""
    files = next(each for each in SAMPLES if each.name == "no-knob").files()
    page.locator("#files").set_input_files(
        [FilePayload(name=name, mimeType="", buffer=content) for name, content in files.items()]
    )
    page.click("main form button")
    page.wait_for_selector(".look-parts", timeout=60_000)


def _sign_in(page: Page, person: Person) -> None:
    page.fill("input[name=login]", person.login)
    page.fill("input[name=password]", person.password)
    page.click("main button")
    page.wait_for_load_state("networkidle")


def _take(page: Page, folder: Path, name: str) -> None:
    page.wait_for_load_state("networkidle")
    page.screenshot(path=folder / f"{name}.png")


if __name__ == "__main__":
    main(sys.argv[1].rstrip("/"), Path(sys.argv[2] if len(sys.argv) > 2 else "docs/screenshots"))
