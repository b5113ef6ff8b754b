"""How long until the bench shows the weather mast, twelve parts, beside an empty bench: a ratio of one run."""

import gzip
import statistics
import threading
import time
from pathlib import Path

import uvicorn
from playwright.sync_api import Page, sync_playwright

from benchmarks.school import PASSWORD, make_class, scratch_database
from rigid_bench.core.bench.documents import BenchParts, BenchState, LaidOut
from rigid_bench.core.bench.skins import pack_skins
from rigid_bench.jobs.sandbox import Sandbox
from rigid_bench.settings import Settings
from rigid_bench.store import bench_queries
from rigid_bench.store.cluster import free_port
from rigid_bench.store.database import Database
from rigid_bench.store.tables import Bench
from rigid_bench.web.app import create_app

_RUNS = 7


def kept(database: Database, laid: LaidOut, *, class_id: int, version_id: int, student_id: int) -> int:
    """Keep a bench with these parts, and return its id."""
    parts = laid.parts
    with database.session() as session:
        made = Bench(class_id=class_id, version_id=version_id, student_id=student_id)
        session.add(made)
        session.flush()
        light = parts.model_dump(mode="json", exclude={"parts": {"__all__": {"vertices", "triangles", "faces"}}})
        state = BenchState(placed=parts.placed).model_dump(mode="json") if parts.placed else None
        drawn = gzip.compress(parts.model_dump_json().encode())
        bench_queries.keep_parts(
            session, made.id, parts=light, drawn=drawn, skins=laid.skins, first=state, who="Student"
        )
        return made.id


def picture(page: Page, url: str) -> float:
    """Return seconds from asking for the page to the first picture, the median of several."""
    taken = []
    for _ in range(_RUNS):
        page.goto("about:blank")
        started = time.perf_counter()
        page.goto(url)
        page.wait_for_selector("#bench[data-ready]")
        taken.append(time.perf_counter() - started)
    return statistics.median(taken)


def main() -> None:
    """Print the table."""
    with scratch_database() as database, Sandbox() as sandbox, sync_playwright() as play:
        class_id, people, versions, graded = make_class(database, students=1)
        models = {k: v for k, v in graded[3].samples["mast-right"].files.items() if k.endswith(".step")}
        bundle = dict(graded[3].bundle)
        mast: LaidOut = sandbox.run("lay_out", bundle, models, name="mast")
        mine = {"class_id": class_id, "version_id": versions[3].id, "student_id": people[0].id}
        bare = LaidOut(parts=BenchParts(parts=[]), skins=pack_skins({}))
        full, empty = kept(database, mast, **mine), kept(database, bare, **mine)
        port = free_port()
        config = uvicorn.Config(create_app(Settings(database_url=database.url)), port=port, log_level="error")
        threading.Thread(target=uvicorn.Server(config).run, daemon=True).start()
        time.sleep(2)
        flags = ["--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader"]
        page = play.chromium.launch(executable_path=str(Path("/usr/bin/chromium")), args=flags).new_page()
        page.goto(f"http://127.0.0.1:{port}/sign-in")
        page.fill("input[name=login]", people[0].login)
        page.fill("input[name=password]", PASSWORD)
        page.click("main button")
        nothing = picture(page, f"http://127.0.0.1:{port}/benches/{empty}")
        something = picture(page, f"http://127.0.0.1:{port}/benches/{full}")
        triangles = sum(len(each.faces) for each in mast.parts.parts)
        print(f"{len(mast.parts.placed)} instances, {triangles} triangles of {len(mast.parts.parts)} parts")
        print("empty bench, s   weather mast, s   ratio")
        print(f"{nothing:14.2f} {something:17.2f} {something / nothing:7.2f}")


if __name__ == "__main__":
    main()
