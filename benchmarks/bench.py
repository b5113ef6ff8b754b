"""A mate on a bench of 30 instances and 100 mates: from the press to the answer, with twenty students at work.

Beside it one singular value decomposition of the same rows, and where the time goes: solver and freedom, documents in
JSON, page, database and the rest.
"""

import statistics
import threading
import time
from typing import Any

import numpy as np
import uvicorn
from build123d import Box, Cylinder, Pos
from sqlalchemy import select

from benchmarks.rush import signed_in, token
from benchmarks.school import make_class, scratch_database
from rigid_bench.core.assembly.mates.linearised import linearise
from rigid_bench.core.bench import mating, work
from rigid_bench.core.bench.documents import BenchFeature, BenchPart, BenchParts, BenchState
from rigid_bench.core.bench.suggest import suggest
from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.kernel.meshes.collision_meshes import pack_collision_meshes, unpack_collision_meshes
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.settings import Settings
from rigid_bench.store.cluster import free_port
from rigid_bench.store.database import Database
from rigid_bench.store.queries import bench_queries
from rigid_bench.store.tables import Bench
from rigid_bench.web.app import create_app

_STUDENTS, _EACH, _EVERY_S = 20, 3, 5.0
_FACES = (
    ("top", {"plane": {"point": [20, 15, 5], "normal": [0, 0, 1]}}),
    ("bottom", {"plane": {"point": [20, 15, 0], "normal": [0, 0, -1]}}),
    ("left", {"plane": {"point": [0, 15, 2], "normal": [-1, 0, 0]}}),
    ("front", {"plane": {"point": [20, 0, 2], "normal": [0, -1, 0]}}),
    ("hole", {"cylinder": {"point": [10, 10, 0], "direction": [0, 0, 1], "radius": 3}}),
)


def stack() -> tuple[BenchParts, BenchState]:
    """Thirty plates on each other, a hundred mates, the last of them still to be made."""
    features = [
        BenchFeature.model_validate({"words": words, "kind": "round" if words == "hole" else "flat", "feature": given})
        for words, given in _FACES
    ]
    plate = BenchPart(id="p", name="Plate", count=30, file="p.step", box=[[0, 0, 0], [40, 30, 5]], features=features)
    parts, tolerance = BenchParts(parts=[plate]), Tolerance()
    state = work.ground(work.place(BenchState(), parts, "p"), "p-1")
    for k in range(2, 31):
        state = work.place(state, parts, "p")
        done = [(0, 1, "faces-meet"), (2, 2, "faces-level"), (3, 3, "faces-level")]
        for a, b, doing in [*done, *([(4, 4, "share-an-axis")] if k > 18 else [])]:
            wish = mating.MateRequest(a=f"p-{k - 1}:{a}", b=f"p-{k}:{b}", doing=doing)
            state = mating.mate(state, parts, wish, tolerance=tolerance)
    return parts, state.model_copy(update={"mates": state.mates[:-1]})


def plate_meshes() -> bytes:
    """The plate as contacts see it."""
    shape = Pos(20, 15, 2.5) * Box(40, 30, 5) - Pos(10, 10, 2.5) * Cylinder(3, 10)
    return pack_collision_meshes({"p": (read_features(shape.solid().wrapped, tolerance=Tolerance()), {})})


def timed(call: Any) -> tuple[float, Any]:
    """Return seconds, the median of five runs, and what the last one gave."""
    taken = []
    for _ in range(5):
        started = time.perf_counter()
        result = call()
        taken.append(time.perf_counter() - started)
    return statistics.median(taken), result


def at_work(database: Database, parts: BenchParts, state: BenchState) -> list[float]:
    """Let twenty students make a mate every five seconds, and return how long each answer took."""
    class_id, people, versions, _ = make_class(database, students=_STUDENTS)
    benches = []
    with database.session() as session:
        for person in people:
            made = Bench(class_id=class_id, version_id=versions[3].id, student_id=person.id, state="ready")
            made.parts, made.collision_meshes = parts.model_dump(mode="json"), plate_meshes()
            session.add(made)
            session.flush()
            bench_queries.take_step(
                session, made, base=0, who=person.name, words="begun", document=state.model_dump(mode="json")
            )
            benches.append(made.id)
    taken: list[float] = []

    def student(login: str, bench_id: int, wait: float) -> None:
        client = signed_in(address, login)
        time.sleep(wait)
        for k in range(_EACH):
            mate = {"action": "mate", "a": "p-29:4", "b": "p-30:4", "doing": "share-an-axis"}
            started = time.perf_counter()
            answer = client.post(f"/benches/{bench_id}/steps", data={**mate, "csrf": token(client), "base": 1 + k})
            taken.append(time.perf_counter() - started)
            assert answer.status_code == 200, answer.text
            time.sleep(max(0.0, _EVERY_S - taken[-1]))

    port = free_port()
    server = uvicorn.Server(
        uvicorn.Config(create_app(Settings(database_url=database.url)), port=port, log_level="error")
    )
    threading.Thread(target=server.run, daemon=True).start()
    time.sleep(2)
    address = f"http://127.0.0.1:{port}"
    threads = [
        threading.Thread(target=student, args=(person.login, bench, 3 + k * _EVERY_S / _STUDENTS))
        for k, (person, bench) in enumerate(zip(people, benches, strict=True))
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return taken


def stored(database: Database, state: BenchState) -> None:
    """Read the step at which a bench stands, and take one more."""
    with database.session() as session:
        bench = session.scalars(select(Bench).limit(1)).one()
        assert bench_queries.step_of(session, bench)
        document = state.model_dump(mode="json")
        bench_queries.take_step(session, bench, base=bench.at, who="Student", words="timed", document=document)


def main() -> None:
    """Print the table."""
    parts, state = stack()
    tolerance = Tolerance()
    solving, after = timed(
        lambda: mating.mate(
            state, parts, mating.MateRequest(a="p-29:4", b="p-30:4", doing="share-an-axis"), tolerance=tolerance
        )
    )
    freeing, answer = timed(lambda: work.answer(after, tolerance=tolerance))
    system = answer.freedom.system
    rows = linearise(system, list(answer.freedom.poses)).dense
    svd, _ = timed(lambda: np.linalg.svd(rows))
    writing, text = timed(after.model_dump_json)
    reading, _ = timed(lambda: BenchState.model_validate_json(text))
    collision_meshes = unpack_collision_meshes(plate_meshes())
    suggesting, _ = timed(lambda: suggest(after, parts, collision_meshes, answer, tolerance=tolerance))
    with scratch_database() as database:
        taken = at_work(database, parts, state)
        storing, _ = timed(lambda: stored(database, after))
    median = statistics.median(taken)
    print(f"{len(after.placed)} instances, {len(after.mates)} mates, {rows.shape[0]} x {rows.shape[1]} rows")
    print("alone, ms:   solve  freedom  suggest  to JSON  from JSON  database   one SVD of the rows"
          "   solve and freedom beside it")  # fmt: skip
    whole = solving + freeing
    print(f"{1e3 * solving:18.0f} {1e3 * freeing:8.0f} {1e3 * suggesting:8.0f} {1e3 * writing:8.1f} "
          f"{1e3 * reading:10.1f} {1e3 * storing:9.1f} {1e3 * svd:21.0f} {whole / svd:29.2f}")  # fmt: skip
    shares = {"solver and freedom": whole, "suggestions": suggesting, "JSON": writing + reading, "database": storing}
    print("shares of the median, alone: " + ", ".join(f"{name} {share / median:.0%}" for name, share in shares.items()))
    print(f"{_STUDENTS} students, {len(taken)} mates: median {1e3 * median:.0f} ms, slowest {1e3 * max(taken):.0f} ms")


if __name__ == "__main__":
    main()
