"""The bench in a real browser: by mouse and by keyboard, undone and done again, reloaded, offline, in two windows."""

import json
import math
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Browser, Page, expect

from rigid_bench.demo import seed_drawer
from rigid_bench.demo.graded import read_graded
from rigid_bench.store import queries
from rigid_bench.store.database import Database
from rigid_bench.store.releasing import keep_version
from rigid_bench.web import app
from tests import school as people
from tests.school import School, Visitor, sign_in

MAST = "Weather mast"


@pytest.fixture(scope="module")
def with_mast(database: Database, school: School) -> School:
    """The class works on the weather mast, too."""
    graded = read_graded()[3]
    with database.session() as session:
        version = keep_version(session, graded.bundle, graded.prepared)
        queries.assign(session, class_id=school.class_id, version_id=version.id)
    return school


@pytest.fixture
def student(browser: Browser, address: str) -> Iterator[Page]:
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    page = context.new_page()
    page.set_default_timeout(15_000)
    sign_in(page, address, people.STUDENT)
    yield page
    context.close()


def opened(page: Page, title: str = MAST) -> Page:
    """Begin a bench with the exercise's loose parts."""
    page.locator("li.task").filter(has_text=title).get_by_role("link", name="Bench").click()
    page.get_by_role("button", name="the exercise's parts, loose").click()
    expect(page.locator("#bench[data-ready]")).to_be_attached(timeout=60_000)
    return page


def bring_in(page: Page, *names: str) -> None:
    for name in names:
        before = page.locator("#placed ~ ul li").count()
        page.get_by_role("button", name=f"Bring in {name}", exact=True).click()
        expect(page.locator("#placed ~ ul li")).to_have_count(before + 1)


def mates(page: Page) -> int:
    return page.locator("#mates ~ ol li").count()


def poses(page: Page) -> dict[str, list[float]]:
    found: dict[str, list[float]] = json.loads(page.locator("#bench-canvas").get_attribute("data-poses") or "{}")
    return found


def spot(page: Page, world: tuple[float, float, float]) -> tuple[float, float]:
    """Return where a place of the world is on the screen."""
    page.wait_for_timeout(150)
    look: dict[str, Any] = json.loads(page.locator("#bench-canvas").get_attribute("data-look") or "{}")
    box = page.locator("#bench-canvas").bounding_box()
    assert box
    turn, lift = look["turn"], look["lift"]
    right = (-math.sin(turn), math.cos(turn), 0.0)
    up = (-math.cos(turn) * math.sin(lift), -math.sin(turn) * math.sin(lift), math.cos(lift))
    apart = [a - b for a, b in zip(world, look["middle"], strict=True)]
    x, y = (sum(a * b for a, b in zip(apart, way, strict=True)) for way in (right, up))
    scale = box["height"] / (2 * look["half"])
    return box["x"] + box["width"] / 2 + x * scale, box["y"] + box["height"] / 2 - y * scale


def press(page: Page, world: tuple[float, float, float]) -> None:
    page.mouse.click(*spot(page, world))


def keep(page: Page, doing: str) -> None:
    before = mates(page)
    page.locator("#bench-mate select[name=doing]:not([disabled])").select_option(doing)
    page.get_by_role("button", name="Keep it").click()
    expect(page.locator("#mates ~ ol li")).to_have_count(before + 1)


@pytest.mark.usefixtures("worker", "with_mast")
def test_the_mast_is_put_together_by_mouse(student: Page) -> None:
    page = opened(student)
    bring_in(page, "Base")
    page.get_by_role("button", name="ground base-1").click()
    expect(page.get_by_role("button", name="let go base-1")).to_be_visible()
    bring_in(page, "Mast")
    mast_x = poses(page)["mast-1"][0]
    page.get_by_role("button", name="Slantwise").click()
    press(page, (-40, -30, 12))
    expect(page.locator("#bench-said")).to_have_text("First: top face, z = 12, in base-1")
    for _ in range(10):  # from below
        page.locator("#bench-canvas").press("ArrowDown")
    press(page, (mast_x + 10, 12, 0))
    expect(page.locator("#bench-said")).to_have_text("Second: bottom face, z = 0, in mast-1")
    keep(page, "faces meet")
    expect(page.locator("#bench-said")).to_contain_text("Mast: it could move in all six ways; now it can")
    # the round wall of the mast, and the bore of the collar, seen from above
    bring_in(page, "Collar")
    page.get_by_role("button", name="Slantwise").click()
    mast = poses(page)["mast-1"]
    press(page, (mast[0] + 10 * math.cos(-0.9), mast[1] + 10 * math.sin(-0.9), mast[2] + 90))
    expect(page.locator("#bench-said")).to_have_text("First: Ø20 round, x = 0, y = 0, in mast-1")
    for _ in range(4):
        page.locator("#bench-canvas").press("ArrowUp")
    collar = poses(page)["collar-1"]
    press(page, (collar[0] - 10.2 * math.cos(-0.9), collar[1] - 10.2 * math.sin(-0.9), collar[2] + 17))
    expect(page.locator("#bench-said")).to_have_text("Second: Ø20.4 hole, x = 0, y = 0, in collar-1")
    keep(page, "share an axis")
    after = poses(page)
    assert after["collar-1"][:2] == pytest.approx(after["mast-1"][:2], abs=1e-6)
    # a drag slides the mast on the base, the collar with it, and nothing lifts off
    before = after
    page.get_by_role("button", name="Slantwise").click()
    start = spot(page, (before["mast-1"][0] + 25 * math.cos(-0.9), before["mast-1"][1] + 25 * math.sin(-0.9), 20))
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move(start[0] - 40, start[1] - 5, steps=5)
    page.mouse.up()
    page.wait_for_timeout(800)
    after = poses(page)
    assert after["base-1"] == before["base-1"]
    assert abs(after["mast-1"][0] - before["mast-1"][0]) + abs(after["mast-1"][1] - before["mast-1"][1]) > 3
    assert after["mast-1"][2] == pytest.approx(12, abs=1e-6)
    assert after["collar-1"][:2] == pytest.approx(after["mast-1"][:2], abs=1e-6)


def type_choice(page: Page, name: str, words: str) -> None:
    """Go down a list with the arrow key to what is meant."""
    page.locator(f"#bench-mate select[name={name}]").focus()
    chosen = page.locator(f"#bench-mate select[name={name}] option:checked")
    for _ in range(120):
        if chosen.inner_text().strip() == words:
            return
        page.keyboard.press("ArrowDown")
    raise AssertionError(words)


def press_button(page: Page, name: str) -> None:
    page.get_by_role("button", name=name, exact=True).focus()
    page.keyboard.press("Enter")


#: What is brought in, the two features as the lists name them, and what they do.
BY_KEYS = (
    ("Mast", "base-1: Ø4 hole, x = 22, y = 0", "mast-1: Ø4 hole, x = 22, y = 0", "share an axis"),
    ("", "base-1: Ø4 hole, x = -22, y = 0", "mast-1: Ø4 hole, x = -22, y = 0", "share an axis"),
    ("", "base-1: top face, z = 12", "mast-1: bottom face, z = 0", "faces meet"),
    ("Bearing 608", "mast-1: Ø8 round, x = 0, y = 0", "bearing-1: Ø8 hole, x = 0, y = 0", "share an axis"),
    ("", "mast-1: top face, z = 201", "bearing-1: bottom face, z = 0", "faces meet"),
    ("Rotor", "bearing-1: Ø22 round, x = 0, y = 0", "rotor-1: Ø22 hole, x = 0, y = 0", "share an axis"),
    ("", "bearing-1: bottom face, z = 0", "rotor-1: bottom face, z = 0", "faces level"),
)


def put_together(page: Page) -> list[str]:
    """Put the weather mast together by keyboard, and return what was said of each mate."""
    press_button(page, "Bring in Base")
    press_button(page, "ground base-1")
    expect(page.get_by_role("button", name="let go base-1")).to_be_attached()
    said = []
    for part, a, b, doing in BY_KEYS:
        if part:
            press_button(page, f"Bring in {part}")
            expect(page.locator(f"#bench-mate optgroup[label='{b.split(':')[0]}']").first).to_be_attached()
        type_choice(page, "a", a)
        type_choice(page, "b", b)
        expect(page.locator("#bench-mate select[name=doing] option").first).to_be_attached()
        type_choice(page, "doing", doing)
        count = mates(page)
        press_button(page, "Keep it")
        expect(page.locator("#mates ~ ol li")).to_have_count(count + 1)
        said.append(page.locator("#bench-said").inner_text())
    return said


@pytest.mark.usefixtures("worker", "with_mast")
def test_it_is_put_together_by_keyboard_undone_and_done_again(student: Page, browser: Browser, address: str) -> None:
    page = opened(student)
    said = put_together(page)
    assert said[2] == "Mast: it could slide along Z; now nothing can move."
    assert said[-1] == "Rotor: it could turn about Z and slide along Z; now it can turn about Z."
    assert Axe().run(page).response["violations"] == []
    done = poses(page)
    # a drag turns the rotor and nothing else
    rotor = done["rotor-1"]
    start = spot(page, (rotor[0] + 60, rotor[1], rotor[2] + 10))
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move(start[0] + 10, start[1] + 45, steps=6)
    page.mouse.up()
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    page.wait_for_timeout(800)
    now = poses(page)
    assert {k: now[k] for k in now if k != "rotor-1"} == {k: done[k] for k in done if k != "rotor-1"}
    page.get_by_role("button", name="Undo").click()
    page.wait_for_timeout(400)
    # a reload loses nothing
    page.reload()
    expect(page.locator("#bench[data-ready]")).to_be_attached()
    assert poses(page) == done
    all_the_way_back_and_again(page, done)
    two_windows(page)
    no_connection(page)
    watched_by_the_teacher(page.url, browser, address)


def all_the_way_back_and_again(page: Page, done: dict[str, list[float]]) -> None:
    """Undo to the beginning, and do all again."""
    steps = 0
    while not page.get_by_role("button", name="Undo").is_disabled():
        page.get_by_role("button", name="Undo").click()
        page.wait_for_timeout(250)
        steps += 1
        assert steps < 40
    assert poses(page) == {}
    for _ in range(steps):
        page.get_by_role("button", name="Redo").click()
        page.wait_for_timeout(250)
    again = poses(page)
    assert {k: again[k] for k in again if k != "rotor-1"} == {k: done[k] for k in done if k != "rotor-1"}


def two_windows(page: Page) -> None:
    """A second window that was left behind is told so, and shows the bench as it is."""
    other = page.context.new_page()
    other.goto(page.url)
    expect(other.locator("#bench[data-ready]")).to_be_attached()
    bring_in(page, "Vane")
    other.get_by_role("button", name="Bring in Collar", exact=True).click()
    expect(other.locator("#bench-said")).to_contain_text("it was changed in another window")
    expect(other.get_by_role("button", name="put back vane-1")).to_be_visible()
    bring_in(other, "Collar")
    other.close()
    page.reload()
    expect(page.locator("#bench[data-ready]")).to_be_attached()
    expect(page.get_by_role("button", name="put back collar-1")).to_be_visible()


def no_connection(page: Page) -> None:
    """A step without a connection is kept in the browser, and taken when there is one again."""
    page.context.set_offline(True)
    page.get_by_role("button", name="put back collar-1").click()
    expect(page.locator("#bench-said")).to_contain_text("No connection")
    page.context.set_offline(False)
    expect(page.get_by_role("button", name="Bring in Collar", exact=True)).to_be_visible(timeout=15_000)
    expect(page.locator("#bench-said")).to_contain_text("your steps are taken")


def watched_by_the_teacher(url: str, browser: Browser, address: str) -> None:
    """A teacher looks on, and replays how it came together."""
    context = browser.new_context()
    page = context.new_page()
    sign_in(page, address, people.TEACHER)
    page.goto(url)
    expect(page.locator("#bench[data-ready]")).to_be_attached()
    expect(page.locator("#mates ~ ol").get_by_text("share an axis: mast-1").first).to_be_visible()
    assert page.get_by_role("button", name="Keep it").count() == 0
    page.get_by_label("On mate").select_option("m2")
    page.get_by_label("write").fill("Is one dowel not enough here?")
    page.get_by_role("button", name="Write it").click()
    expect(page.locator(".bench-note")).to_have_text("Tara Thorn: Is one dowel not enough here?")
    assert Axe().run(page).response["violations"] == []
    page.locator("#bench-replay input").fill("1")
    expect(page.locator("#placed ~ ul li")).to_have_count(1)
    context.close()


@pytest.mark.usefixtures("worker")
def test_a_positioned_model_becomes_a_declared_build_and_is_handed_in(
    student: Page, files: Path, school: School
) -> None:
    model = files / "drawer.step"
    model.write_bytes(seed_drawer.SAMPLES[0].files()["drawer.step"])
    page = student
    task = page.locator("li.task").filter(has_text="Seed drawer")
    task.get_by_role("link", name="Hand in").click()
    page.locator("input[type=file]").first.set_input_files(model)
    page.get_by_role("button", name="See what is in them").click()
    page.get_by_role("button", name="Hand in", exact=True).click(timeout=60_000)
    page.goto(page.url.split("/builds")[0])
    page.locator("li.task").filter(has_text="Seed drawer").get_by_role("link", name="Bench").click()
    page.get_by_role("button", name="your own parts").click()
    expect(page.locator("#bench[data-ready]")).to_be_attached(timeout=60_000)
    before = poses(page)
    page.get_by_role("button", name="ground", exact=False).first.click()
    page.get_by_role("button", name="Keep all").click()
    expect(page.locator("#mates ~ ol li").first).to_be_visible()
    assert poses(page) == {name: pytest.approx(at, abs=1e-6) for name, at in before.items()}
    expect(page.get_by_text("clashes")).to_have_count(0)
    page.get_by_role("button", name="Draw it apart, to print").click()
    expect(page.get_by_role("link", name="Drawn apart, as PDF")).to_be_visible(timeout=60_000)
    assert page.get_by_text("does not come apart").count() == 0
    page.get_by_role("button", name="Hand it in").click()
    expect(page.get_by_role("button", name="Hand in", exact=True)).to_be_visible(timeout=60_000)
    page.get_by_role("button", name="Hand in", exact=True).click()
    expect(page.get_by_text("drawn-apart.pdf")).to_be_visible(timeout=60_000)


@pytest.mark.usefixtures("worker")
def test_without_webgl_the_lists_and_a_picture_of_lines_do(browser: Browser, address: str) -> None:
    context = browser.new_context(viewport={"width": 420, "height": 800})
    page = context.new_page()
    page.add_init_script(
        "const real = HTMLCanvasElement.prototype.getContext;"
        "HTMLCanvasElement.prototype.getContext = function (kind, ...more) {"
        " return kind.startsWith('webgl') ? null : real.call(this, kind, ...more); };"
    )
    sign_in(page, address, people.STUDENT)
    opened(page, "Seed drawer")
    bring_in(page, "Housing")
    expect(page.locator("#bench-canvas[data-drawn=lines] canvas")).to_be_visible()
    page.get_by_role("button", name="ground housing-1").click()
    expect(page.get_by_text("0 motions in all")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 420
    context.close()


def test_all_scripts_together_stay_below_a_megabyte() -> None:
    scripts = list((Path(app.__file__).parent / "static").rglob("*.js"))
    assert len(scripts) > 6
    assert sum(each.stat().st_size for each in scripts) < 1_000_000


@pytest.mark.usefixtures("worker")
def test_what_cannot_be_meant_is_refused_with_words_and_changes_nothing(
    address: str, database: Database, school: School
) -> None:
    student = Visitor(address, people.STUDENT)
    started = student.post(f"/classes/{school.class_id}/exercises/{school.version_id}/bench")
    path = started.url.path
    for _ in range(60):
        if student.get(f"{path}/state").status_code == 200:
            break
        time.sleep(0.5)
    for part in ("housing", "drawer"):
        at = student.get(f"{path}/state").json()["at"]
        assert student.post(f"{path}/steps", data={"action": "place", "a": part, "base": str(at)}).status_code == 200
    at = student.get(f"{path}/state").json()["at"]
    pair = {"a": "housing-1:0", "b": "drawer-1:0", "doing": "keep a gap"}
    for sent, status in (
        ({"action": "mate", **pair, "value": "nan"}, 422),
        ({"action": "mate", **pair, "value": "1e300"}, 422),
        ({"action": "mate", **pair, "doing": "dance"}, 422),
        ({"action": "mate", **pair, "b": "drawer-1:999"}, 422),
        ({"action": "mate", **pair, "b": "nobody-1:0"}, 422),
        ({"action": "place", "a": "housing"}, 422),
        ({"action": "unmate", "a": "m9"}, 422),
        ({"action": "explode"}, 422),
        ({"action": "undo", "base": str(at - 1)}, 409),
    ):
        answer = student.post(f"{path}/steps", data={"base": str(at), **sent})
        assert answer.status_code == status, (sent, answer.text[:200])
    assert student.post(f"{path}/drag", data={"name": "drawer-1", "start": "0,0", "end": "1,2,3"}).status_code == 422
    assert student.post(f"{path}/nudge", data={"name": "housing-1", "motion": "5"}).status_code in (200, 422)
    assert student.get(f"{path}/state").json()["at"] == at
