"""Every kind of drill in a browser: right and wrong by keys, and by touch on a phone."""

from collections.abc import Iterator

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Browser, Page, expect

from rigid_bench.core.practice.registry import KINDS
from tests.support import school as people
from tests.support.school import sign_in
from tests.support.windows import window
from tests.web.practice.drills import SEED, answer_by_keys, keys, shown


@pytest.fixture(scope="module")
def student(browser: Browser, address: str) -> Iterator[Page]:
    """One window for all kinds: each test goes to its own page."""
    with window(browser) as page:
        sign_in(page, address, people.STUDENT)
        yield page


@pytest.fixture(scope="module")
def phone(browser: Browser, address: str) -> Iterator[Page]:
    with window(browser, viewport={"width": 390, "height": 844}, has_touch=True) as page:
        sign_in(page, address, people.CLASSMATE)
        yield page


@pytest.mark.parametrize("kind", KINDS)
def test_each_kind_is_answered_right_and_wrong_by_keys(student: Page, address: str, kind: str) -> None:
    for seed, right in ((SEED, True), (SEED + 1, False)):
        drill = shown(student, address, kind, seed=seed)
        expect(student.get_by_role("heading", name=drill.question)).to_be_visible()
        assert Axe().run(student).response["violations"] == []
        answer_by_keys(student, drill, right=right)
        said = student.locator(".drill-said")
        expect(said).to_contain_text("Right." if right else "Not yet.")
        if drill.then:
            expect(student.get_by_role("heading", name=drill.then.question)).to_be_visible()
            answer_by_keys(student, drill.then, right=right)
        expect(student.get_by_text(drill.explanation)).to_be_visible()
        expect(student.get_by_role("link", name="Next")).to_be_focused()
        assert Axe().run(student).response["violations"] == []
    student.keyboard.press("a")
    expect(student.get_by_role("heading", name=KINDS[kind].title)).to_be_visible()
    assert student.url.split("?")[0] == f"{address}/practice/{kind}"


@pytest.mark.parametrize("kind", KINDS)
def test_each_kind_is_answered_by_touch_on_a_phone(phone: Page, address: str, kind: str) -> None:
    drill = shown(phone, address, kind, seed=SEED + 2)
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    if drill.form == "number":
        phone.get_by_label("Answer").fill(f"{drill.answer[0]} {drill.unit or ''}")
    else:
        for key in keys(drill, right=True):
            phone.locator("#question label").nth(int(key) - 1).tap()
    phone.get_by_role("button", name="Answer").tap()
    expect(phone.locator(".drill-said")).to_contain_text("Right.")
