"""How long until the bench shows the weather mast, twelve parts, beside an empty bench: a ratio of one run.

And how long from the pointer on a part of 50,000 triangles to the picture with its face lit, beside one of 500.
"""

import gzip
import statistics
import threading
import time
from pathlib import Path

import numpy as np
import trimesh
import uvicorn
from playwright.sync_api import Page, sync_playwright

from benchmarks.school import PASSWORD, make_class, scratch_database
from rigid_bench.core.bench.documents import BenchFeature, BenchPart, BenchParts, BenchState, LaidOut, Placed
from rigid_bench.core.kernel.meshes.collision_meshes import pack_collision_meshes
from rigid_bench.jobs.sandbox import Sandbox
from rigid_bench.settings import Settings
from rigid_bench.store.cluster import free_port
from rigid_bench.store.database import Database
from rigid_bench.store.queries import bench_queries
from rigid_bench.store.tables import Bench
from rigid_bench.web.app import create_app

_RUNS, _POINTS = 7, 15
#: Moves the pointer onto the part and off again and waits for the next picture; the median, s.
_MOVES = """async (count) => {
  const place = document.getElementById("bench-canvas"), box = place.getBoundingClientRect(), taken = [];
  for (let k = 0; k < count; k += 1) {
    const before = place.dataset.pictures, started = performance.now();
    const at = { clientX: box.left + (k % 2 ? 2 : box.width / 2), clientY: box.top + box.height / 2, bubbles: true };
    place.dispatchEvent(new PointerEvent("pointermove", at));
    while (place.dataset.pictures === before) await new Promise(requestAnimationFrame);
    taken.push(performance.now() - started);
  }
  return taken.sort((a, b) => a - b)[count >> 1] / 1000;
}"""


def kept(database: Database, laid_out: LaidOut, *, class_id: int, version_id: int, student_id: int) -> int:
    """Keep a bench with these parts, and return its id."""
    parts = laid_out.parts
    with database.session() as session:
        made = Bench(class_id=class_id, version_id=version_id, student_id=student_id)
        session.add(made)
        session.flush()
        light = parts.model_dump(mode="json", exclude={"parts": {"__all__": {"vertices", "triangles", "faces"}}})
        state = BenchState(placed=parts.placed).model_dump(mode="json") if parts.placed else None
        drawn = gzip.compress(parts.model_dump_json().encode())
        bench_queries.keep_parts(
            session,
            made.id,
            parts=light,
            drawn=drawn,
            collision_meshes=laid_out.collision_meshes,
            first=state,
            who="Student",
        )
        return made.id


def ball(rings: int) -> LaidOut:
    """A part of about 4 rings squared triangles, half of them one face and half another."""
    mesh = trimesh.creation.uv_sphere(radius=20, count=[rings, rings])
    feature = {"plane": {"point": [0, 0, 20], "normal": [0, 0, 1]}}
    features = [BenchFeature.model_validate({"words": words, "kind": "flat", "feature": feature}) for words in "ab"]
    own = BenchPart(
        id="ball", name="Ball", count=0, features=features, box=mesh.bounds.tolist(),
        vertices=np.round(mesh.vertices.ravel(), 3).tolist(), triangles=mesh.faces.ravel().tolist(),
        faces=[2 * k // len(mesh.faces) for k in range(len(mesh.faces))],
    )  # fmt: skip
    return LaidOut(
        parts=BenchParts(parts=[own], placed=[Placed(id="ball-1", part="ball")]),
        collision_meshes=pack_collision_meshes({}),
    )


def lit(page: Page, url: str) -> float:
    """Return seconds from a move of the pointer on a part to the picture that follows, the median of several."""
    page.goto(url)
    page.wait_for_selector("#bench[data-ready]")
    page.wait_for_timeout(500)
    milliseconds: float = page.evaluate(_MOVES, _POINTS)
    return milliseconds


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
        mast: LaidOut = sandbox.run("benches.lay_out", bundle, models, name="mast")
        mine = {"class_id": class_id, "version_id": versions[3].id, "student_id": people[0].id}
        bare = LaidOut(parts=BenchParts(parts=[]), collision_meshes=pack_collision_meshes({}))
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
        triangles = sum(len(part.faces) for part in mast.parts.parts)
        print(f"{len(mast.parts.placed)} instances, {triangles} triangles of {len(mast.parts.parts)} parts")
        print("empty bench, s   weather mast, s   ratio")
        print(f"{nothing:14.2f} {something:17.2f} {something / nothing:7.2f}")
        few, many = ball(11), ball(112)
        times = [lit(page, f"http://127.0.0.1:{port}/benches/{kept(database, state, **mine)}") for state in (few, many)]
        counts = [len(state.parts.parts[0].faces) for state in (few, many)]
        print("pointer to lit face, ms:")
        for count, taken in zip(counts, times, strict=True):
            print(f"{count:8} triangles {1e3 * taken:6.0f}, ratio {taken / times[0]:.2f}")


if __name__ == "__main__":
    main()
