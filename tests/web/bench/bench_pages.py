"""What the tests of the bench do on its page."""

import gzip
import json
import re
from collections.abc import Mapping
from typing import Any

from playwright.sync_api import Page, expect

from rigid_bench.core.bench.documents import BenchState
from rigid_bench.core.bench.parts import handed_parts
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.store.database import Database
from rigid_bench.store.queries import bench_queries
from tests.support.patience import wait_until
from tests.support.school import School
from tests.web.bench.pointing import spot

MAST = "Weather mast"
#: A browser that cannot draw in three dimensions.
NO_WEBGL = """
const real = HTMLCanvasElement.prototype.getContext;
HTMLCanvasElement.prototype.getContext = function (kind, ...more) {
  return kind.startsWith("webgl") ? null : real.call(this, kind, ...more);
};"""


def opened(page: Page, title: str = MAST) -> Page:
    """Begin a bench with the exercise's loose parts."""
    page.locator("li.task").filter(has_text=title).get_by_role("link", name="Bench").click()
    page.get_by_role("button", name="the exercise's parts, loose").click()
    return ready(page)


def bring_in(page: Page, *names: str) -> None:
    for name in names:
        before = page.locator("#placed ~ ul li").count()
        page.get_by_role("button", name=re.compile(f"^Add {re.escape(name)}( ×|$)")).click()
        expect(page.locator("#placed ~ ul li")).to_have_count(before + 1)


def press_step(page: Page, name: str) -> None:
    """Press a button that makes a step, and wait until the bench stands at another step."""
    before = page.locator("#bench").get_attribute("data-at") or ""
    page.get_by_role("button", name=name, exact=True).click()
    expect(page.locator("#bench")).not_to_have_attribute("data-at", before)


def mates(page: Page) -> int:
    return page.locator("#mates ~ ol li").count()


def drawn_poses(page: Page) -> dict[str, list[float]]:
    """Where the view has drawn the parts."""
    document: dict[str, list[float]] = json.loads(page.locator("#bench-canvas").get_attribute("data-poses") or "{}")
    return document


def keep(page: Page, doing: str) -> None:
    before = mates(page)
    page.locator("#bench-mate select[name=doing]:not([disabled])").select_option(doing)
    page.get_by_role("button", name="Keep it").click()
    expect(page.locator("#mates ~ ol li")).to_have_count(before + 1)


def drag(page: Page, start: Any, end: Any) -> None:
    """Take hold of a place of the world, and let go of it at another."""
    at = int(page.request.get(f"{page.url}/state").json()["at"])
    page.locator("#bench-canvas").scroll_into_view_if_needed()
    page.mouse.move(*spot(page, start))
    page.mouse.down()
    goal = spot(page, end)
    with page.expect_response("**/drag"):  # how far it comes is asked while it moves
        page.mouse.move(*goal, steps=8)
    page.mouse.up()
    wait_until(lambda: page.request.get(f"{page.url}/state").json()["at"] > at)


def lay_out(database: Database, school: School, files: Mapping[str, bytes], *, version_id: int | None = None) -> int:
    """Lay a student's build on a bench at once, as the worker would."""
    laid_out = handed_parts(files, tolerance=Tolerance())
    first = BenchState(placed=laid_out.parts.placed, mates=laid_out.parts.mates).model_dump(mode="json")
    light = laid_out.parts.model_dump(mode="json", exclude={"parts": {"__all__": {"vertices", "triangles", "faces"}}})
    with database.session() as session:
        made = bench_queries.start_bench(
            session, class_id=school.class_id, version_id=version_id or school.version_id,
            student_id=school.student_id, files=files,
        )  # fmt: skip
        bench_queries.keep_parts(
            session, made.id, parts=light, drawn=gzip.compress(laid_out.parts.model_dump_json().encode()),
            collision_meshes=laid_out.collision_meshes, first=first, who="Sam Sill",
        )  # fmt: skip
        return made.id


def go_to(page: Page, number: int) -> Page:
    """Open a bench."""
    page.goto(f"{page.url.split('/classes')[0].rstrip('/')}/benches/{number}")
    return ready(page)


def ready(page: Page) -> Page:
    """Wait for a bench, and open the lists of its owner."""
    expect(page.locator("#bench[data-ready]")).to_be_attached()
    lists = page.locator("#bench-lists summary")
    if lists.count():
        lists.click()
    return page
