"""What the tests of the bench do on its page."""

import json
from typing import Any

from playwright.sync_api import Page, expect

from tests.web.pointing import spot

MAST = "Weather mast"


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


def drawn_poses(page: Page) -> dict[str, list[float]]:
    """Where the view has drawn the parts."""
    found: dict[str, list[float]] = json.loads(page.locator("#bench-canvas").get_attribute("data-poses") or "{}")
    return found


def keep(page: Page, doing: str) -> None:
    before = mates(page)
    page.locator("#bench-mate select[name=doing]:not([disabled])").select_option(doing)
    page.get_by_role("button", name="Keep it").click()
    expect(page.locator("#mates ~ ol li")).to_have_count(before + 1)


def drag(page: Page, start: Any, end: Any) -> None:
    """Take hold of a place of the world, and let go of it at another."""
    at = int(page.request.get(f"{page.url}/state").json()["at"])
    page.mouse.move(*spot(page, start))
    page.mouse.down()
    page.mouse.move(*spot(page, end), steps=8)
    page.wait_for_timeout(300)
    page.mouse.up()
    for _ in range(40):
        if page.request.get(f"{page.url}/state").json()["at"] > at:
            return
        page.wait_for_timeout(100)
    raise AssertionError("the drag was not kept")
