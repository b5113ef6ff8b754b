"""The bench as the rest of the work meets it: what comes onto it, what goes out, who may do what."""

import re
from pathlib import Path

import numpy as np
import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Browser, Page, expect

from rigid_bench.core.kernel.step_file import read_step
from rigid_bench.demo import seed_drawer
from rigid_bench.store.database import Database
from rigid_bench.store.tables import Bench, Classroom
from rigid_bench.web import app
from tests.support import school as people
from tests.support.graded_builds import hand_in_sample
from tests.support.patience import patient_context, wait_until
from tests.support.samples import files_of
from tests.support.school import School, Visitor, sign_in
from tests.web.bench.bench_pages import NO_WEBGL, bring_in, drawn_poses, go_to, lay_out, opened


@pytest.mark.usefixtures("worker")
def test_a_positioned_model_becomes_a_declared_build_and_is_handed_in(
    student: Page, files: Path, school: School
) -> None:
    model = files / "drawer.step"
    model.write_bytes(files_of(seed_drawer.SAMPLES[0])["drawer.step"])
    page = student
    task = page.locator("li.task").filter(has_text="Seed drawer")
    task.get_by_role("link", name="Hand in").click()
    page.locator("input[type=file]").first.set_input_files(model)
    page.get_by_role("button", name="See what is in them").click()
    page.get_by_role("button", name="Hand in", exact=True).click()
    expect(page).to_have_url(re.compile(r"/builds/\d+$"))
    page.goto(page.url.split("/builds")[0])
    page.locator("li.task").filter(has_text="Seed drawer").get_by_role("link", name="Bench").click()
    page.get_by_role("button", name="your own parts").click()
    expect(page.locator("#bench[data-ready]")).to_be_attached()
    before = drawn_poses(page)
    page.get_by_role("button", name="ground", exact=False).first.click()
    page.get_by_role("button", name="Keep all").click()
    expect(page.locator("#mates ~ ol li").first).to_be_visible()
    assert drawn_poses(page) == {name: pytest.approx(at, abs=1e-6) for name, at in before.items()}
    expect(page.get_by_text("clashes")).to_have_count(0)
    page.get_by_text("Save as").click()
    page.get_by_role("button", name="Draw it apart, to print").click()
    expect(page.get_by_role("link", name="Drawn apart, as PDF")).to_be_visible()
    assert page.get_by_text("does not come apart").count() == 0
    page.get_by_role("button", name="Hand it in").click()
    expect(page.get_by_role("button", name="Hand in", exact=True)).to_be_visible()
    page.get_by_role("button", name="Hand in", exact=True).click()
    expect(page.get_by_text("drawn-apart.pdf")).to_be_visible()


@pytest.mark.usefixtures("worker")
def test_without_webgl_the_lists_and_a_picture_of_lines_do(browser: Browser, address: str) -> None:
    context = patient_context(browser, viewport={"width": 420, "height": 800})
    page = context.new_page()
    page.add_init_script(NO_WEBGL)
    sign_in(page, address, people.STUDENT)
    opened(page, "Seed drawer")
    bring_in(page, "Housing")
    expect(page.locator("#bench-canvas[data-drawn=lines] canvas")).to_be_visible()
    page.get_by_role("button", name="ground Housing").click()
    expect(page.get_by_text("0 DOF in all")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 420
    context.close()


def test_axe_finds_nothing_on_the_other_screens_of_the_bench(student: Page, database: Database, school: School) -> None:
    page = student
    page.locator("li.task").filter(has_text="Seed drawer").get_by_role("link", name="Bench").click()
    assert Axe().run(page).response["violations"] == []
    page.set_viewport_size({"width": 420, "height": 820})
    go_to(page, lay_out(database, school, files_of(seed_drawer.SAMPLES[0])))
    page.get_by_text("Every step, 1").click()
    page.get_by_text("Save as").click()
    assert Axe().run(page).response["violations"] == []
    page.goto(f"{page.url}/build.step")
    expect(page.get_by_text("The bench has gone on since it was written")).to_be_visible()
    assert Axe().run(page).response["violations"] == []


def test_all_scripts_together_stay_below_a_megabyte() -> None:
    scripts = list((Path(app.__file__).parent / "static").rglob("*.js"))
    assert len(scripts) > 6
    assert sum(script.stat().st_size for script in scripts) < 1_000_000


@pytest.mark.usefixtures("worker")
def test_what_cannot_be_meant_is_refused_with_words_and_changes_nothing(
    address: str, database: Database, school: School
) -> None:
    student = Visitor(address, people.STUDENT)
    started = student.post(f"/classes/{school.class_id}/exercises/{school.version_id}/bench")
    path = started.url.path
    wait_until(lambda: student.get(f"{path}/state").status_code == 200)
    for part in ("housing", "drawer"):
        at = student.get(f"{path}/state").json()["at"]
        assert student.post(f"{path}/steps", data={"action": "place", "a": part, "base": str(at)}).status_code == 200
    at = student.get(f"{path}/state").json()["at"]
    pair = {"a": "housing-1:0", "b": "drawer-1:0", "doing": "keep-a-gap"}
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


@pytest.mark.usefixtures("worker")
def test_it_goes_out_as_a_step_file_as_it_stands(student: Page, database: Database, school: School) -> None:
    page = go_to(student, lay_out(database, school, files_of(seed_drawer.SAMPLES[0])))
    page.get_by_text("Save as").click()
    with page.expect_download() as waited:
        page.get_by_role("button", name="STEP, each part where it stands").click()
    model = read_step(waited.value.path().read_bytes(), name="bench.step")
    assert {part.name for part in model.parts} == {"Housing", "Drawer", "Knob"}
    state = page.request.get(f"{page.url.split('/build.step')[0]}/state").json()
    for instance in model.instances:
        assert instance.pose.position == pytest.approx(np.array(state["poses"][instance.name][12:15]), abs=1e-6)


@pytest.mark.usefixtures("worker")
def test_a_student_goes_back_to_any_step_and_on(student: Page) -> None:
    page = opened(student, "Seed drawer")
    bring_in(page, "Housing", "Drawer")
    page.get_by_text("Every step, 2").click()
    page.get_by_role("button", name="go there step 1").click()
    expect(page.locator("#placed ~ ul li")).to_have_count(1)
    bring_in(page, "Knob")
    page.get_by_text("Every step, 3").click()
    page.get_by_role("button", name="go there step 2").click()
    expect(page.get_by_role("button", name="take off Drawer", exact=True)).to_be_visible()
    expect(page.get_by_role("button", name="take off Knob", exact=True)).to_have_count(0)


@pytest.mark.usefixtures("worker")
def test_a_teacher_opens_a_build_on_the_bench_writes_on_a_mate_and_the_student_reads_it(
    browser: Browser, address: str, database: Database, school: School
) -> None:
    sam = Visitor(address, people.STUDENT)
    with database.session() as session:
        card = f"/builds/{hand_in_sample(session, school, 'right').id}"
    context = patient_context(browser)
    page = context.new_page()
    sign_in(page, address, people.TEACHER)
    page.goto(f"{address}{card}/mark")
    page.get_by_role("button", name="On the bench").click()
    expect(page.locator("#bench[data-ready]")).to_be_attached()
    assert page.get_by_role("button", name="Keep it").count() == 0
    page.get_by_role("button", name="Drawer", exact=True).click()
    page.get_by_role("button", name="Nudge").first.click()
    page.get_by_label("write").fill("Which face guides it?")
    page.get_by_role("button", name="Write it").click()
    expect(page.locator(".bench-note").first).to_have_text("Tara Thorn: Which face guides it?")
    page.get_by_role("button", name="Play it").click()
    page.goto(f"{address}{card}/mark")
    page.get_by_role("button", name="On the bench").click()
    expect(page.locator(".bench-note").first).to_be_visible()  # the same bench again
    assert sam.get(f"/benches/{page.url.rsplit('/', 1)[-1]}").status_code == 404  # and the teacher's alone
    assert "Which face guides it?" not in sam.get(card).text  # before the card is returned
    context.close()
    tara = Visitor(address, people.TEACHER)
    tara.post(f"{card}/return")
    assert re.search(r"On mate [^:<{]+: Which face guides it\?", sam.get(card).text)
    # and the student's own bench is not that one
    door = sam.get(f"/classes/{school.class_id}/exercises/{school.version_id}/bench").text
    assert f"/benches/{page.url.rsplit('/', 1)[-1]}" not in door


def test_an_exercise_may_forbid_suggestions(student: Page, database: Database, school: School) -> None:
    number = lay_out(database, school, {"drawer.step": files_of(seed_drawer.SAMPLES[0])["drawer.step"]})
    page = go_to(student, number)
    expect(page.get_by_role("button", name="Keep all")).to_be_visible()
    with database.session() as session:
        bench = session.get_one(Bench, number)
        bench.parts = {**(bench.parts or {}), "may_suggest": False}
    page.reload()
    expect(page.locator("#bench[data-ready]")).to_be_attached()
    expect(page.get_by_role("button", name="Keep all")).to_have_count(0)


def test_the_bench_says_mate_as_the_class_does(student: Page, database: Database, school: School) -> None:
    page = go_to(student, lay_out(database, school, files_of(seed_drawer.SAMPLES[0])))
    expect(page.locator("#mates")).to_have_text("Mates, as they were made")

    def call_it(word: str) -> None:
        with database.session() as session:
            room = session.get_one(Classroom, school.class_id)
            room.settings = {**room.settings, "mate_word": word}

    call_it("constraint")
    page.reload()
    expect(page.locator("#mates")).to_have_text("Constraints, as they were made")
    expect(page.locator("#bench-lists summary")).to_contain_text("Constraint by lists")
    call_it("mate")
