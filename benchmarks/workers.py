"""A class of thirty builds of a dozen instances, marked by one worker and by two: a ratio of one run.

The reference run is a loop that only counts, in one process and in two: what the machine itself gains.
"""

import os
import subprocess
import sys
import time

from procrastinate import SyncPsycopgConnector
from sqlalchemy import text

from benchmarks.school import hand_in_at_once, make_class, scratch_database
from rigid_bench.jobs.enqueue import open_queue
from rigid_bench.store.database import Database

_BUILDS = 30


def marked_per_minute(database: Database, name: str, workers: int) -> float:
    """Hand in thirty masts, start the workers, and return how many builds a minute they mark."""
    class_id, people, versions, graded = make_class(database, students=_BUILDS, name=name)
    samples = list(graded[3].samples.values())
    app = open_queue(SyncPsycopgConnector(conninfo=database.url))
    environment = {**os.environ, "RIGID_BENCH_DATABASE_URL": database.url}
    running = [
        subprocess.Popen(
            [sys.executable, "-m", "rigid_bench.cli", "worker"], env=environment, stderr=subprocess.DEVNULL
        )
        for _ in range(workers)
    ]
    time.sleep(12)  # until they are warm
    with database.session() as session:  # they all wait from one moment on, when this is committed
        for k, student in enumerate(people):
            hand_in_at_once(
                session,
                app,
                class_id=class_id,
                version_id=versions[3].id,
                student_id=student.id,
                files=samples[k % len(samples)].files,
            )
    started = time.perf_counter()
    waiting = text("select count(*) from builds where class_id = :room and state in ('queued', 'measuring')")
    while True:
        time.sleep(0.2)
        with database.session() as session:
            if not session.execute(waiting, {"room": class_id}).scalar_one():
                break
    elapsed = time.perf_counter() - started
    for process in running:
        process.terminate()
    for process in running:
        process.wait()
    return 60 * _BUILDS / elapsed


def machine() -> float:
    """Return how many times as much two processes count as one, in the same time."""
    code = "import time; t = time.perf_counter(); sum(range(10**8)); print(time.perf_counter() - t)"

    def slowest(count: int) -> float:
        running = [
            subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True) for _ in range(count)
        ]
        return max(float(process.communicate()[0]) for process in running)

    alone = slowest(1)
    return 2 * alone / slowest(2)


def main() -> None:
    """Print the table."""
    ceiling = machine()
    with scratch_database() as database:
        one = marked_per_minute(database, "one", 1)
        two = marked_per_minute(database, "two", 2)
    print(f"{os.cpu_count()} processors")
    print("builds  instances  one worker /min  two workers /min  ratio  two loops beside one")
    print(f"{_BUILDS:6} {12:10} {one:16.1f} {two:17.1f} {two / one:6.2f} {ceiling:21.2f}")


if __name__ == "__main__":
    main()
