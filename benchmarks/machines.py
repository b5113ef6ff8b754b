"""Two hundred builds wait, and workers come and go: is each graded once, and how much more do two and four mark?

A machine is a worker with folders of its own, which knows the database's address and nothing else. Of the first two,
one is killed in the middle of a build; a third joins. The reference run is one worker on builds of the same kind.
"""

import argparse
import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from procrastinate import SyncPsycopgConnector
from sqlalchemy import text

from benchmarks.school import hand_in_at_once, make_class, scratch_database
from benchmarks.workers import machine
from rigid_bench.jobs.enqueue import open_queue
from rigid_bench.store.database import Database

#: Until a worker is warm, seconds.
_WARM_S = 12.0


class Machine:
    """A worker in folders of its own."""

    def __init__(self, database: Database) -> None:
        self._home = Path(tempfile.mkdtemp(prefix="machine-"))
        own = {"HOME": str(self._home), "TMPDIR": str(self._home)}
        kept = {name: os.environ[name] for name in ("PATH", "LANG") if name in os.environ}
        settings = {"RIGID_BENCH_DATABASE_URL": database.url, "RIGID_BENCH_HEARTBEAT_SECONDS": "1"}
        self._process = subprocess.Popen(
            [sys.executable, "-m", "rigid_bench.cli", "worker"], env=kept | own | settings, cwd=self._home,
            stderr=subprocess.DEVNULL, start_new_session=True,
        )  # fmt: skip

    def stop(self, *, at_once: bool = False) -> None:
        """Let it finish, or kill it as a power cut would."""
        (self._process.kill if at_once else self._process.terminate)()
        self._process.wait()
        shutil.rmtree(self._home, ignore_errors=True)


def hand_in(database: Database, name: str, count: int) -> int:
    """Hand in so many builds at one moment; return the id of their class."""
    class_id, people, versions, graded = make_class(database, students=count, name=name)
    files = graded[1].samples["right"].files
    app = open_queue(SyncPsycopgConnector(conninfo=database.url))
    with database.session() as session:
        for student in people:
            hand_in_at_once(
                session, app, class_id=class_id, version_id=versions[1].id, student_id=student.id, files=files
            )
    return class_id


def waiting(database: Database, class_id: int) -> int:
    """Count the builds of a class that are not graded yet."""
    query = text("select count(*) from builds where class_id = :room and state in ('queued', 'measuring')")
    with database.session() as session:
        return int(session.execute(query, {"room": class_id}).scalar_one())


def marked_per_minute(database: Database, machines: int, builds: int) -> float:
    """Return how many builds a minute so many machines mark."""
    running = [Machine(database) for _ in range(machines)]
    time.sleep(_WARM_S)
    began = time.perf_counter()
    class_id = hand_in(database, f"rate{machines}", builds)
    while waiting(database, class_id):
        time.sleep(0.2)
    elapsed = time.perf_counter() - began
    for own in running:
        own.stop()
    return 60 * builds / elapsed


def with_a_death(database: Database, builds: int) -> tuple[float, dict[str, int]]:
    """Let machines come and go while builds wait; return seconds, and how many builds were graded how."""
    first, second = Machine(database), Machine(database)
    time.sleep(_WARM_S)
    began = time.perf_counter()
    class_id = hand_in(database, "death", builds)
    while waiting(database, class_id) > 0.75 * builds:
        time.sleep(0.1)
    first.stop(at_once=True)
    third = Machine(database)
    while waiting(database, class_id):
        time.sleep(0.2)
    elapsed = time.perf_counter() - began
    for own in (second, third):
        own.stop()
    query = text(
        "select b.state, count(r.id) runs from builds b left join runs r on r.build_id = b.id and not r.is_trial "
        "where b.class_id = :room group by b.id"
    )
    with database.session() as session:
        rows = session.execute(query, {"room": class_id}).all()
    return elapsed, {
        "graded once": sum((state, runs) == ("graded", 1) for state, runs in rows),
        "graded twice": sum(runs > 1 for _, runs in rows),
        "lost": sum(state != "graded" for state, _ in rows),
    }


def main() -> None:
    """Print both tables."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else "")
    parser.add_argument("--builds", type=int, default=200)
    builds = parser.parse_args().builds
    ceiling = machine()
    with scratch_database() as database:
        elapsed, counts = with_a_death(database, builds)
        rates = {count: marked_per_minute(database, count, builds // 4) for count in (1, 2, 4)}
    print(f"{os.cpu_count()} processors; two loops that only count do {ceiling:.2f} times as much as one")
    print("builds  machines                          s  graded once  twice  lost")
    print(f"{builds:6}  2, one killed, one joins  {elapsed:9.0f} {' '.join(f'{count:9}' for count in counts.values())}")
    print("machines  builds a minute  beside one")
    for count, rate in rates.items():
        print(f"{count:8} {rate:16.1f} {rate / rates[1]:11.2f}")


if __name__ == "__main__":
    main()
