"""The bench as the rest of the work meets it: what comes onto it, what goes out, who may do what."""

import time
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from rigid_bench.demo import seed_drawer
from rigid_bench.store.database import Database
from rigid_bench.web import app
from tests import school as people
from tests.school import School, Visitor, sign_in
from tests.web.bench_pages import bring_in, drawn_poses, opened


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
    before = drawn_poses(page)
    page.get_by_role("button", name="ground", exact=False).first.click()
    page.get_by_role("button", name="Keep all").click()
    expect(page.locator("#mates ~ ol li").first).to_be_visible()
    assert drawn_poses(page) == {name: pytest.approx(at, abs=1e-6) for name, at in before.items()}
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
    page.get_by_role("button", name="ground Housing").click()
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
