"""Moving parts on the bench in a real browser: what follows, what stops it, by mouse, by touch, without WebGL."""

import json

import numpy as np
import pytest
from playwright.sync_api import Browser, Page, Response, expect

from rigid_bench.core.assembly.freedom.freedom_report import freedom_report
from rigid_bench.core.formats.archive import read_zip
from rigid_bench.core.formats.build import read_build
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.demo import pedal_bin, weather_mast
from rigid_bench.store.database import Database
from tests.support import school as people
from tests.support.patience import patient_context, wait_until
from tests.support.samples import files_of
from tests.support.school import School, sign_in
from tests.web.bench.bench_pages import NO_WEBGL, bring_in, drag, drawn_poses, go_to, lay_out, opened, press_step
from tests.web.bench.pointing import look, poses, spot


@pytest.fixture
def mast_bench(database: Database, school: School) -> int:
    """The whole weather mast with its mates."""
    return lay_out(database, school, files_of(weather_mast.SAMPLES[0]))


def held(page: Page, frames: list[dict[str, list[float]]]) -> list[bool]:
    """Say of each picture whether all mates of the bench hold in it."""
    build = json.loads(read_zip(page.request.get(f"{page.url}/build.zip").body(), name="build")["bench.build.json"])
    places = []
    for frame in frames:
        for instance in build["instances"]:
            matrix = np.array(frame[instance["id"]]).reshape(4, 4).T
            instance["pose"]["position"] = matrix[:3, 3].tolist()
            instance["pose"]["quaternion"] = Pose(matrix[:3, :3], matrix[:3, 3]).quaternion()
        read = read_build(json.dumps(build).encode(), name="picture")
        places.append(freedom_report(read, tolerance=Tolerance()).satisfied)
    return places


def test_driving_the_linkage_moves_all_its_links_and_every_picture_holds(
    student: Page, database: Database, school: School
) -> None:
    page = go_to(student, lay_out(database, school, files_of(pedal_bin.SAMPLES[0])))
    frames: list[dict[str, list[float]]] = []

    def note(response: Response) -> None:
        if response.url.endswith("/drag") and response.ok:
            frames.extend(response.json().get("frames", []))

    page.on("response", note)
    before = poses(page)
    pedal = next(name for name in before if name.startswith("pedal"))
    page.get_by_role("button", name="Top", exact=True).click()
    tip = before[pedal][:3, :3] @ [64, 0, 14] + before[pedal][:3, 3]
    drag(page, tip, tip + before[pedal][:3, :3] @ [-3, -18, 0])
    after = poses(page)
    moved = {name for name in after if not np.allclose(after[name], before[name], atol=1e-4)}
    base = {name for name in after if name not in moved}
    assert len(base) == 1
    assert len(moved) == len(after) - 1 >= 3
    assert frames
    assert all(held(page, frames[:: max(1, len(frames) // 12)]))


def test_other_parts_stop_the_collar_and_the_faces_that_touch_light_up(student: Page, mast_bench: int) -> None:
    page = go_to(student, mast_bench)
    page.get_by_label("other parts stop it").check()
    page.get_by_role("button", name="Front", exact=True).click()
    before = poses(page)["collar-1"]
    start = before[:3, 3] + [0, -18, 10]
    drag(page, start, start + np.array([0, 0, -90]))
    expect(page.locator("#bench-said")).to_contain_text("Stopped: bottom face, z = 0 of Collar meets")
    assert poses(page)["collar-1"][2, 3] == pytest.approx(12 + 8 + 5, abs=0.15)  # on the screws' heads
    lit = (page.locator("#bench-canvas").get_attribute("data-lit") or "").split()
    assert {key.rsplit(":", 1)[0] for key in lit} == {"collar-1", *(f"screw-{k}" for k in range(1, 5))}
    # what is not switched on stops nothing
    press_step(page, "Undo")
    page.get_by_label("other parts stop it").uncheck()
    drag(page, start, start + np.array([0, 0, -90]))
    assert poses(page)["collar-1"][2, 3] < 0


def test_a_nudge_shows_a_motion_and_comes_back_and_hiding_hides(student: Page, mast_bench: int) -> None:
    page = go_to(student, mast_bench)
    page.get_by_role("button", name="Rotor", exact=True).click()
    wait_until(lambda: drawn_poses(page) != {})
    before, canvas = drawn_poses(page), page.locator("#bench-canvas")
    drawn = int(canvas.get_attribute("data-pictures") or 0)
    with page.expect_response("**/nudge"):
        page.get_by_role("button", name="Nudge: turn about Z").click()
    wait_until(lambda: int(canvas.get_attribute("data-pictures") or 0) > drawn + 3)
    wait_until(lambda: drawn_poses(page) == before)
    assert page.request.get(f"{page.url}/state").json()["at"] >= 1
    page.get_by_role("button", name="hide Rotor", exact=True).click()
    expect(page.get_by_role("button", name="show Rotor", exact=True)).to_be_visible()
    page.get_by_role("button", name="Vane", exact=True).click()
    expect(page.get_by_role("button", name="show Rotor", exact=True)).to_be_visible()
    page.get_by_role("button", name="show Rotor", exact=True).click()


@pytest.mark.usefixtures("worker", "with_mast")
def test_a_joint_is_given_limits_and_stops_there(student: Page) -> None:
    page = opened(student)
    bring_in(page, "Base", "Collar")
    page.get_by_role("button", name="ground Base").click()
    form = page.locator("#bench-mate")
    form.locator("select[name=a]").select_option(label="Base: Ø4 hole, x = 22, y = 0, 8 deep")
    form.locator("select[name=b]").select_option(label="Collar: Ø20.4 hole, x = 0, y = 0, through")
    form.locator("select[name=doing]:not([disabled])").select_option("share-an-axis")
    expect(form.get_by_label("Limits, from")).to_be_hidden()
    form.locator("select[name=doing]").select_option("turn-about")
    form.get_by_label("Limits, from").fill("20")
    form.get_by_label("to", exact=True).fill("-20")
    page.get_by_role("button", name="Keep it").click()
    expect(page.locator("#bench-said")).to_contain_text("they need a least and a greater most")
    form.get_by_label("Limits, from").fill("-20")
    form.get_by_label("to", exact=True).fill("20")
    page.get_by_role("button", name="Keep it").click()
    expect(page.locator("#bench-said")).to_contain_text("now it can turn about Z")
    page.get_by_role("button", name="Nudge: turn about Z").click()
    expect(page.locator("#bench-said")).to_have_text("Mate m1 is at its limit.")
    page.get_by_label("limits stop a part").uncheck()
    with page.expect_response("**/nudge") as answered:
        page.get_by_role("button", name="Nudge: turn about Z").click()
    assert answered.value.json()["said"] == ""


def test_the_view_draws_only_when_something_moves(student: Page, mast_bench: int) -> None:
    page = go_to(student, mast_bench)
    canvas = page.locator("#bench-canvas")

    def pictures() -> str:
        return canvas.get_attribute("data-pictures") or "0"

    def draws_no_more() -> bool:
        before = pictures()
        page.wait_for_timeout(700)
        return pictures() == before

    wait_until(draws_no_more)
    before = pictures()
    canvas.press("ArrowLeft")
    expect(canvas).not_to_have_attribute("data-pictures", before)


@pytest.mark.usefixtures("worker")
def test_the_parts_go_apart_along_their_ways_out_each_with_a_trail(student: Page, mast_bench: int) -> None:
    page = go_to(student, mast_bench)
    page.locator("#bench-apart").fill("100")
    expect(page.locator("#bench-said")).to_contain_text("In this order: Base")
    ways = page.request.get(f"{page.url}/ways").json()["ways"]
    assert ways["stuck"] == []
    assert len(ways["order"]) == 12
    assert ways["shifts"]["base-1"] == [0, 0, 0]
    # the collar and the vane leave over the mast's end, the vane first
    assert ways["order"].index("collar-1") < ways["order"].index("vane-1") < ways["order"].index("rotor-1")
    assert all(abs(x) + abs(y) < 1e-6 < z for x, y, z in (ways["shifts"][name] for name in ("collar-1", "rotor-1")))
    page.get_by_text("Save as").click()
    page.get_by_role("button", name="Draw it apart, to print").click()
    expect(page.get_by_role("link", name="Drawn apart, as PDF")).to_be_visible()
    assert "mm)" in page.locator("#bench-drawn-apart").inner_text()


def test_a_finger_points_and_two_come_nearer(browser: Browser, address: str, mast_bench: int) -> None:
    context = patient_context(browser, viewport={"width": 420, "height": 820}, has_touch=True)
    page = context.new_page()
    sign_in(page, address, people.STUDENT)
    go_to(page, mast_bench)
    page.locator("#bench-canvas").scroll_into_view_if_needed()
    page.get_by_role("button", name="Top", exact=True).click()
    page.locator("#bench-canvas").scroll_into_view_if_needed()
    page.touchscreen.tap(*spot(page, (-50, -40, 12)))
    expect(page.locator("#bench-said")).to_have_text("First: top face, z = 12, in Base")
    half = look(page)["half"]
    box = page.locator("#bench-canvas").bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    touch = context.new_cdp_session(page)

    def fingers(kind: str, *apart: float) -> None:
        points = [{"x": x + sign * far, "y": y, "id": k} for far in apart for k, sign in enumerate((-1, 1))]
        touch.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})

    fingers("touchStart", 30)
    fingers("touchMove", 60)
    fingers("touchEnd")
    assert look(page)["half"] == pytest.approx(half / 2, rel=0.1)
    assert page.evaluate("document.documentElement.scrollWidth") <= 420
    context.close()


def test_without_webgl_near_parts_cover_what_lies_behind(browser: Browser, address: str, mast_bench: int) -> None:
    context = patient_context(browser, viewport={"width": 1280, "height": 800})
    page = context.new_page()
    page.add_init_script(NO_WEBGL)
    sign_in(page, address, people.STUDENT)
    go_to(page, mast_bench)
    page.get_by_role("button", name="Front", exact=True).click()
    # the lower end of a screw stands within the base, seen from the front
    x = 15.556349
    where = [spot(page, (x + at, -x, 4)) for at in np.linspace(-2, 2, 9)]

    def ink() -> int:
        box = page.locator("#bench-canvas canvas").bounding_box()
        assert box
        pixels = [
            page.evaluate(
                "([x, y]) => document.querySelector('#bench-canvas canvas').getContext('2d')"
                ".getImageData(Math.round(x) - 1, Math.round(y) - 2, 3, 5).data"
                ".filter((v, k) => k % 4 === 0 && v < 120).length",
                [px - box["x"], py - box["y"]],
            )
            for px, py in where
        ]
        return sum(pixels)

    look(page)  # once it has been drawn
    assert page.locator("#bench-canvas").get_attribute("data-drawn") == "lines"
    assert ink() == 0
    for name in ("Base", "Mast"):
        page.get_by_role("button", name=f"hide {name}", exact=True).click()
    wait_until(lambda: ink() > 0)
    context.close()
