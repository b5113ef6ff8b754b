"""The bench in a real browser: by mouse and by keyboard, undone and done again, reloaded, offline, in two windows."""

import math
import re

import numpy as np
import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Browser, Page, Route, expect

from rigid_bench.core.assembly.freedom.freedom_report import freedom_report
from rigid_bench.core.formats.archive import read_zip
from rigid_bench.core.formats.build import read_build
from rigid_bench.core.values.tolerance import Tolerance
from tests.support import school as people
from tests.support.patience import patient_context
from tests.support.school import sign_in
from tests.web.bench.bench_pages import bring_in, drag, drawn_poses, keep, mates, opened, press_step
from tests.web.bench.mast_steps import STEPS
from tests.web.bench.pointing import point_at, poses


def begun(page: Page) -> Page:
    """Begin with the base of the mast, grounded."""
    page = opened(page)
    bring_in(page, "Base")
    page.get_by_role("button", name="ground Base").click()
    expect(page.get_by_role("button", name="unground Base")).to_be_visible()
    return page


def build_file(page: Page) -> bytes:
    """What the bench holds, as a build file."""
    return read_zip(page.request.get(f"{page.url}/build.zip").body(), name="build")["bench.build.json"]


def check_freedom(page: Page) -> None:
    """What the page says is free is what the core finds in the build file that it gives."""
    report = freedom_report(read_build(build_file(page), name="bench"), tolerance=Tolerance())
    assert report.satisfied
    assert page.locator("#placed").inner_text() == f"On the bench {report.mobility} DOF in all"


def check_mast(page: Page) -> None:
    """All twelve parts stand where they belong, and what may move is free."""
    check_freedom(page)
    where = {name: [float(coordinate) for coordinate in pose[:3, 3]] for name, pose in poses(page).items()}
    x = 15.556349
    assert where == {
        "base-1": pytest.approx([0, 0, 0], abs=1e-5),
        "mast-1": pytest.approx([0, 0, 12], abs=1e-5),
        "bearing-1": pytest.approx([0, 0, 213], abs=1e-5),
        "rotor-1": pytest.approx([0, 0, 213], abs=1e-5),
        "collar-1": pytest.approx([0, 0, where["collar-1"][2]], abs=1e-5),
        "vane-1": pytest.approx([0, 0, where["collar-1"][2] + 20], abs=1e-5),
        **{f"screw-{k}": pytest.approx([u, v, 20], abs=1e-5)
           for k, (u, v) in enumerate([(-x, -x), (x, -x), (-x, x), (x, x)], 1)},
        "dowel-1": pytest.approx([22, 0, 4], abs=1e-5),
        "dowel-2": pytest.approx([-22, 0, 4], abs=1e-5),
    }  # fmt: skip
    # the collar slides and turns, the vane turns on it; the rotor, the bearing, each screw and each dowel turn
    expect(page.locator("#placed")).to_have_text("On the bench 11 DOF in all")


@pytest.mark.usefixtures("worker", "with_mast")
def test_the_mast_is_put_together_by_mouse(student: Page) -> None:
    page = begun(student)
    for step in STEPS:
        if step.brings:
            bring_in(page, step.brings)
        if step.brings == "Collar":
            lift(page, "collar-1", 60)
        point_at(page, step.a, "First")
        point_at(page, step.b, "Second")
        keep(page, step.doing)
        check_freedom(page)
    check_mast(page)
    turn_the_rotor(page)


def lift(page: Page, name: str, mm: float) -> None:
    """Drag a loose part up, in the view from the front."""
    page.get_by_role("button", name="Front", exact=True).click()
    before = poses(page)
    start = before[name][:3, :3] @ [0, -18, 3] + before[name][:3, 3]
    drag(page, start, start + np.array([0, 0, mm]))
    expect(page.locator("#bench-said")).to_be_visible()
    after = poses(page)
    assert after[name][2, 3] - before[name][2, 3] == pytest.approx(mm, abs=3)
    assert all(np.array_equal(after[instance], before[instance]) for instance in after if instance != name)


def turn_the_rotor(page: Page) -> None:
    """A drag turns the rotor and nothing else."""
    page.get_by_role("button", name="Isometric").click()
    done = poses(page)
    rotor = done["rotor-1"]
    start = rotor[:3, :3] @ [60, 0, 10] + rotor[:3, 3]
    drag(page, start, rotor[:3, :3] @ [42, 42, 10] + rotor[:3, 3])
    now = poses(page)
    assert {name for name in now if not np.array_equal(now[name], done[name])} == {"rotor-1"}
    turned = done["rotor-1"][:3, :3].T @ now["rotor-1"][:3, :3]
    assert turned[2, 2] == pytest.approx(1)
    assert 15 < abs(math.degrees(math.atan2(turned[1, 0], turned[0, 0]))) < 75


def type_choice(page: Page, name: str, words: str) -> None:
    """Type the beginning of what is meant, and go on to it with the arrow keys."""
    chosen = page.locator(f"#bench-mate select[name={name}]")
    options = [text.strip() for text in chosen.locator("option").all_inner_texts()]
    wanted = next(k for k, option in enumerate(options) if f"{option}, ".startswith((f"{words}, ", f"{words} (")))
    chosen.focus()
    page.keyboard.type(words.split("Ø")[0])  # no keyboard of a test has that sign: the rest goes by arrow keys
    by = wanted - int(chosen.evaluate("list => list.selectedIndex"))
    for _ in range(abs(by)):
        page.keyboard.press("ArrowDown" if by > 0 else "ArrowUp")
    expect(chosen.locator("option:checked")).to_have_text(options[wanted])


def press_button(page: Page, name: str) -> None:
    page.get_by_role("button", name=re.compile(f"^{re.escape(name)}( ×|$)")).focus()
    page.keyboard.press("Enter")


def put_together(page: Page) -> list[str]:
    """Put the weather mast together by keyboard, and return what was said of each mate."""
    press_button(page, "Add Base")
    press_button(page, "ground Base")
    expect(page.get_by_role("button", name="unground Base")).to_be_attached()
    said = []
    for step in STEPS:
        if step.brings:
            press_button(page, f"Add {step.brings}")
            expect(page.locator(f"#bench-mate optgroup[label='{step.b.split(':')[0]}']").first).to_be_attached()
        type_choice(page, "a", step.a)
        type_choice(page, "b", step.b)
        expect(page.locator("#bench-mate select[name=doing] option").first).to_be_attached()
        type_choice(page, "doing", step.doing.replace("-", " "))
        count = mates(page)
        press_button(page, "Keep it")
        expect(page.locator("#mates ~ ol li")).to_have_count(count + 1)
        said.append(page.locator("#bench-said").inner_text())
    return said


@pytest.mark.usefixtures("worker", "with_mast")
def test_it_is_put_together_by_keyboard_undone_and_done_again(student: Page, browser: Browser, address: str) -> None:
    page = opened(student)
    said = put_together(page)
    words = dict(zip([step.b for step in STEPS], said, strict=True))
    assert words["Rotor: Ø22 hole, x = 0, y = 0"] == (
        "Rotor: it could turn about Z, slide along X and slide along Y; now it can turn about Z."
    )
    assert words["Mast: Ø4 hole, x = -22, y = 0"].endswith("now nothing can move.")
    assert Axe().run(page).response["violations"] == []
    # the collar came in at the level of the base: by the keys it stays there
    where = poses(page)["collar-1"]
    assert where[2, 3] == pytest.approx(0, abs=1e-6)
    check_mast(page)
    done = drawn_poses(page)
    # a reload loses nothing
    page.reload()
    expect(page.locator("#bench[data-ready]")).to_be_attached()
    assert drawn_poses(page) == done
    all_the_way_back_and_again(page, done)
    two_windows(page)
    no_connection(page)
    a_slow_answer(page)
    watched_by_the_teacher(page.url, browser, address)


def all_the_way_back_and_again(page: Page, done: dict[str, list[float]]) -> None:
    """Undo to the beginning, and do all again: the same build file comes out."""
    before = build_file(page)
    steps = 0
    while not page.get_by_role("button", name="Undo").is_disabled():
        press_step(page, "Undo")
        steps += 1
        assert steps < 60
    assert drawn_poses(page) == {}
    for _ in range(steps):
        press_step(page, "Redo")
    assert drawn_poses(page) == done
    assert build_file(page) == before


def two_windows(page: Page) -> None:
    """A second window that was left behind is told so, and shows the bench as it is."""
    other = page.context.new_page()
    other.goto(page.url)
    expect(other.locator("#bench[data-ready]")).to_be_attached()
    page.get_by_role("button", name="take off Vane", exact=True).click()
    expect(page.get_by_role("button", name="Add Vane")).to_be_visible()
    other.get_by_role("button", name="take off Rotor", exact=True).click()
    expect(other.locator("#bench-said")).to_contain_text("it was changed in another window")
    expect(other.get_by_role("button", name="Add Vane")).to_be_visible()
    bring_in(other, "Vane")
    other.close()
    page.reload()
    expect(page.locator("#bench[data-ready]")).to_be_attached()
    expect(page.get_by_role("button", name="take off Vane", exact=True)).to_be_visible()


def no_connection(page: Page) -> None:
    """A step without a connection is kept in the browser, and taken when there is one again."""
    page.context.set_offline(True)
    page.get_by_role("button", name="take off Collar").click()
    expect(page.locator("#bench-said")).to_contain_text("No connection")
    page.context.set_offline(False)
    expect(page.get_by_role("button", name="Add Collar")).to_be_visible()
    expect(page.locator("#bench-said")).to_contain_text("your steps are taken")


def a_slow_answer(page: Page) -> None:
    """An answer that is long on its way, to a part that was chosen before a step, does not undo what the step shows."""

    def come_late(route: Route) -> None:
        answer = route.fetch()
        page.wait_for_timeout(400)
        route.fulfill(response=answer)

    page.route("**/state?chosen=*", come_late)
    page.locator("button[data-choose=base-1]").click()
    bring_in(page, "Collar")
    expect(page.locator("button[data-choose=collar-1]")).to_be_visible()
    page.unroute("**/state?chosen=*")
    page.wait_for_timeout(600)
    assert page.locator("#bench").get_attribute("data-at") == str(page.request.get(f"{page.url}/state").json()["at"])
    press_step(page, "Undo")
    # an answer that cannot be read does not hold up the steps after it; while the server starts anew they wait
    page.route("**/steps", lambda route: route.fulfill(status=500, body="<h1>no answer</h1>"))
    page.get_by_role("button", name="take off Vane", exact=True).click()
    expect(page.locator("#bench-said")).to_contain_text("the server's answer could not be read")
    page.unroute("**/steps")
    page.route("**/steps", lambda route: route.fulfill(status=502, body="<h1>no answer</h1>"))
    page.get_by_role("button", name="take off Vane", exact=True).click()
    expect(page.locator("#bench-said")).to_contain_text("Your step is kept here")
    page.unroute("**/steps")
    expect(page.get_by_role("button", name="Add Vane")).to_be_visible()
    press_step(page, "Undo")


def released(page: Page, held_back: list[Route]) -> None:
    """Lets the request go on that was held back, once it has come: a busy machine brings it late."""
    for _ in range(600):
        if held_back:
            return held_back.pop().continue_()
        page.wait_for_timeout(50)
    raise AssertionError("no request came that could be held back")


def watched_by_the_teacher(url: str, browser: Browser, address: str) -> None:
    """A teacher looks on, and replays how it came together."""
    context = patient_context(browser)
    page = context.new_page()
    sign_in(page, address, people.TEACHER)
    page.goto(url)
    expect(page.locator("#bench[data-ready]")).to_be_attached()
    expect(page.locator("#mates ~ ol").get_by_text("share an axis: Mast").first).to_be_visible()
    assert page.get_by_role("button", name="Keep it").count() == 0
    page.get_by_label("On mate").select_option("m2")
    page.get_by_label("write").fill("Is one dowel not enough here?")
    page.get_by_role("button", name="Write it").click()
    expect(page.locator(".bench-note")).to_have_text("Tara Thorn: Is one dowel not enough here?")
    assert Axe().run(page).response["violations"] == []
    # the slider is moved while the page still opens, and the answer to an earlier move comes last
    held_back: list[Route] = []
    page.route("**/parts.json", lambda route: held_back.append(route))
    page.route("**/state?step=3", lambda route: held_back.append(route))
    page.reload()
    page.locator("#bench-replay input").fill("1")
    released(page, held_back)
    expect(page.locator("#bench[data-ready]")).to_be_attached()
    expect(page.locator("#placed ~ ul li")).to_have_count(1)
    page.locator("#bench-replay input").fill("3")
    page.locator("#bench-replay input").fill("1")
    expect(page.locator("#placed ~ ul li")).to_have_count(1)
    with page.expect_response("**/state?step=3"):
        released(page, held_back)
    page.wait_for_timeout(300)
    expect(page.locator("#placed ~ ul li")).to_have_count(1)
    context.close()
