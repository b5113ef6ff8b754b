"""Take the pictures of docs/screenshots from the running sample school: `scripts/screenshots.py ADDRESS [FOLDER]`.

Those that the help pages show are made smaller of them.
"""

import re
import sys
from pathlib import Path

from PIL import Image
from playwright.sync_api import FilePayload, Page, ViewportSize, sync_playwright

from rigid_bench.demo.people import STUDENTS, TEACHER, Person
from rigid_bench.demo.seed_drawer import SAMPLES

CHROMIUM = "/usr/bin/chromium"
_FLAGS = ["--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader"]
#: What is brought in, the two features as the lists name them, and what they do.
_MATES = (
    ("Mast", "Base: Ø4 hole, x = 22, y = 0, 8 deep", "Mast: Ø4 hole, x = 22, y = 0, through", "share-an-axis"),
    ("", "Base: Ø4 hole, x = -22, y = 0, 8 deep", "Mast: Ø4 hole, x = -22, y = 0, through", "share-an-axis"),
    ("", "Base: top face, z = 12", "Mast: bottom face, z = 0", "faces-meet"),
    ("Bearing 608", "Mast: top face, z = 201", "Bearing 608: bottom face, z = 0", "faces-meet"),
    ("", "Mast: Ø8 round, x = 0, y = 0", "Bearing 608: Ø8 hole, x = 0, y = 0, through", "share-an-axis"),
    ("Rotor", "Bearing 608: bottom face, z = 0", "Rotor: bottom face, z = 0", "faces-level"),
    ("", "Bearing 608: Ø22 round, x = 0, y = 0", "Rotor: Ø22 hole, x = 0, y = 0", "share-an-axis"),
)
#: Of the help pages, and their size in pixels.
_HELP = (
    "look", "bench", "card", "draft", "drawing", "assignment", "marking", "what-went-wrong", "people", "plan",
)  # fmt: skip
_HELP_FOLDER, _HELP_SIZE = Path("src/rigid_bench/web/static/help"), (800, 500)
_SIZE: ViewportSize = {"width": 1280, "height": 800}


def main(address: str, folder: Path) -> None:
    """Walk through the main views as a student and as a teacher."""
    folder.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=CHROMIUM, args=_FLAGS)
        _as_student(browser.new_page(viewport=_SIZE), address, folder)
        _as_teacher(browser.new_page(viewport=_SIZE), address, folder)
        browser.close()
    _HELP_FOLDER.mkdir(exist_ok=True)
    for name in _HELP:
        smaller = Image.open(folder / f"{name}.png").convert("RGB").resize(_HELP_SIZE, Image.Resampling.LANCZOS)
        smaller.save(_HELP_FOLDER / f"{name}.webp", quality=70, method=6)


def _as_student(page: Page, address: str, folder: Path) -> None:
    """Hand in a build, read a card, put a mast together, look into the tables."""
    page.goto(f"{address}/sign-in")
    _sign_in(page, STUDENTS[1])
    _take(page, folder, "home")
    drawer = page.get_by_role("listitem").filter(has_text="Seed drawer")
    drawer.get_by_role("link", name="Sheet").click()
    _take(page, folder, "sheet")
    page.click("text=Hand in")
    _take(page, folder, "hand-in")
    _choose(page)
    _take(page, folder, "look")
    page.goto(address)
    drawer.get_by_role("link", name="Card").click()
    _take(page, folder, "card")
    _assemble(page, address)
    _take(page, folder, "bench")
    page.goto(f"{address}/practice/what-is-free?seed=7&level=2")
    page.keyboard.press("1")
    page.keyboard.press("Enter")
    _take(page, folder, "practice")
    page.click("text=Tables")
    page.wait_for_load_state("networkidle")
    page.keyboard.type("M6")
    page.wait_for_timeout(600)
    _take(page, folder, "tables")


def _as_teacher(page: Page, address: str, folder: Path) -> None:
    """Look at the class, mark a build, write an exercise."""
    page.goto(f"{address}/sign-in")
    _sign_in(page, TEACHER)
    _take(page, folder, "day")
    page.get_by_role("region", name="Classes").get_by_role("link", name="Workshop 9B", exact=True).click()
    _take(page, folder, "class-table")
    page.get_by_role("link", name="Bram Tolliver, Seed drawer").click()
    page.wait_for_selector("#viewer[data-drawn]")
    page.select_option("#show-part", "Knob")
    page.select_option("#section-axis", "y")
    _take(page, folder, "marking")
    for link, name in (("Room", "room"), ("People", "people"), ("Plan", "plan")):
        page.goto(f"{address}/classes/1")
        page.get_by_role("link", name=link, exact=True).click()
        _take(page, folder, name)
    page.goto(f"{address}/classes/1/insight")
    page.get_by_label("Exercise").get_by_role("link", name="Seed drawer").click()
    _take(page, folder, "what-went-wrong")
    page.goto(f"{address}/school")
    page.get_by_text("More for Mr Tobin Reyes").click()
    _take(page, folder, "school")
    page.goto(f"{address}/classes/1")
    page.get_by_role("columnheader", name="Seed drawer").get_by_role("link").click()
    _take(page, folder, "assignment")
    _set(page, address)
    _take(page, folder, "draft")
    page.get_by_role("link", name="Sheet", exact=True).click()
    page.locator("summary").first.click()
    _take(page, folder, "drawing")


def _set(page: Page, address: str) -> None:
    """Make a draft of an exercise from a solved model and wait for what is found of it."""
    files = next(sample for sample in SAMPLES if sample.name == "right").files()
    page.goto(f"{address}/exercises")
    page.get_by_label("Title").fill("Tool tray")
    model = FilePayload(name="tool-tray.step", mimeType="", buffer=files["drawer.step"])
    page.get_by_label("The solved model").set_input_files(model)
    page.get_by_role("button", name="Make a draft").click()
    page.wait_for_selector("#desk-foot[data-state=ready]", timeout=90_000)
    page.get_by_role("navigation", name="Parts of the draft").get_by_role("link", name="Drawer").click()
    page.locator(".desk-row summary").nth(2).click()


def _assemble(page: Page, address: str) -> None:
    """Put the weather mast together on the bench, as far as its rotor."""
    page.goto(address)
    page.get_by_role("listitem").filter(has_text="Weather mast").get_by_role("link", name="Bench").click()
    page.get_by_role("button", name="the exercise's parts, loose").click()
    page.wait_for_selector("#bench[data-ready]", timeout=90_000)
    _bring_in(page, "Base")
    page.get_by_role("button", name="ground Base").click()
    page.keyboard.press("l")
    for part, a, b, doing in _MATES:
        if part:
            _bring_in(page, part)
        page.locator("#bench-mate select[name=a]").select_option(label=a)
        page.locator("#bench-mate select[name=b]").select_option(label=b)
        page.locator("#bench-mate select[name=doing]:not([disabled])").select_option(doing)
        page.get_by_role("button", name="Keep it").click()
        page.wait_for_timeout(900)
    page.get_by_role("button", name="All parts").click()
    page.evaluate("window.scrollTo(0, 0)")
    page.wait_for_timeout(400)


def _bring_in(page: Page, part: str) -> None:
    page.get_by_role("button", name=re.compile(f"^Add {re.escape(part)}( ×|$)")).click()
    page.wait_for_timeout(800)


def _choose(page: Page) -> None:
    """Choose a sample build and wait for what was understood of it."""
    files = next(sample for sample in SAMPLES if sample.name == "no-knob").files()
    page.locator("#files").set_input_files(
        [FilePayload(name=name, mimeType="", buffer=content) for name, content in files.items()]
    )
    page.click("main form button")
    page.wait_for_selector("#viewer[data-drawn]", timeout=60_000)


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
