"""A soak: for half an hour students hand in and a teacher marks and returns, while worker and database are restarted.

At the end what was acknowledged is counted against what is kept; memory of web server and worker is read all along.
The reference is the program's own memory after its first minutes. `python -m benchmarks.soak [MINUTES]`.
"""

import os
import random
import re
import signal
import subprocess
import sys
import time
from collections import Counter
from collections.abc import Callable, Mapping
from pathlib import Path

import httpx2
from sqlalchemy import text

from benchmarks.rush import signed_in, token
from benchmarks.school import make_class
from rigid_bench.demo.graded import GradedSample
from rigid_bench.store.cluster import Cluster, free_port
from rigid_bench.store.database import Database, migrate

_STUDENTS, _MINUTES = 12, 30.0
#: So often is something handed in, seconds; worker and database are restarted in turn.
_EACH_S, _RESTART_S = 6.0, 180.0
_DRAIN_S = 300.0


class Program:
    """Web server and worker as processes of their own, and the cluster that they use."""

    def __init__(self, cluster: Cluster, url: str) -> None:
        self.cluster = cluster
        self.environment = {**os.environ, "RIGID_BENCH_DATABASE_URL": url, "RIGID_BENCH_HEARTBEAT_SECONDS": "1"}
        self.port = free_port()
        self.web = self._start("serve", "--port", str(self.port))
        self.worker = self._start("worker")

    def _start(self, *arguments: str) -> "subprocess.Popen[bytes]":
        command = [sys.executable, "-m", "rigid_bench.cli", *arguments]
        return subprocess.Popen(command, env=self.environment, stderr=subprocess.DEVNULL, start_new_session=True)

    def kill_worker(self) -> None:
        """Kill the worker in the middle of what it does, and start another."""
        os.killpg(self.worker.pid, signal.SIGKILL)
        self.worker.wait()
        self.worker = self._start("worker")

    def memory_mb(self, process: "subprocess.Popen[bytes]") -> float:
        """Return the resident memory of a process."""
        match = re.search(r"VmRSS:\s+(\d+)", Path(f"/proc/{process.pid}/status").read_text())
        return int(match[1]) / 1024 if match else 0.0

    def stop(self) -> None:
        """Stop both."""
        for process in (self.web, self.worker):
            process.terminate()
            process.wait()


def until(condition: Callable[[], bool], *, seconds: float) -> bool:
    """Wait for a condition, at most so long; say whether it came true."""
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        try:
            if condition():
                return True
        except httpx2.HTTPError:
            pass
        time.sleep(0.5)
    return False


def acknowledged(send: Callable[[], httpx2.Response]) -> httpx2.Response | None:
    """Return an answer that says that something was done; None for a refusal, or none at all."""
    try:
        answer = send()
    except httpx2.HTTPError:
        return None
    return answer if answer.status_code == 200 else None


def hand_in(student: httpx2.Client, path: str, files: dict[str, bytes]) -> int | None:
    """Choose files and hand them in; return the build's id once that is acknowledged."""
    given = [("files", file) for file in files.items()]
    chosen = acknowledged(lambda: student.post(path, data={"csrf": token(student)}, files=given))
    if chosen is None:
        return None
    build_id = int(chosen.url.path.split("/")[2])
    counted = acknowledged(lambda: student.post(f"/builds/{build_id}/hand-in", data={"csrf": token(student)}))
    return build_id if counted else None


def main() -> None:
    """Print the table."""
    minutes = float(sys.argv[1]) if len(sys.argv) > 1 else _MINUTES
    folder = Path(f"/tmp/rigid-bench-soak-{os.getpid()}")
    folder.mkdir(mode=0o755)
    cluster = Cluster(folder)
    url = cluster.start()
    migrate(url)
    database = Database(url)
    class_id, people, versions, graded = make_class(database, students=_STUDENTS, name="soak")
    program = Program(cluster, url)
    try:
        run(
            program, database, class_id, [person.login for person in people], versions[0].id, graded[0].samples, minutes
        )
    finally:
        program.stop()
        database.close()
        cluster.destroy()


def run(
    program: Program,
    database: Database,
    class_id: int,
    logins: list[str],
    version_id: int,
    samples: Mapping[str, GradedSample],
    minutes: float,
) -> None:
    """Do it, and print what came of it."""
    chosen, done = random.Random(1), Counter[str]()
    address = f"http://127.0.0.1:{program.port}"
    until(lambda: httpx2.get(f"{address}/readyz").status_code == 200, seconds=120)
    students = [signed_in(address, login) for login in logins]
    teacher = signed_in(address, "teacher")
    path = f"/classes/{class_id}/exercises/{version_id}/hand-in"
    kept: list[int] = []
    marked: set[int] = set()
    returned: set[int] = set()
    began = restarted = measured = time.monotonic()
    memory: list[tuple[float, float, float]] = []
    while time.monotonic() - began < 60 * minutes:
        started = time.monotonic()
        sample = chosen.choice(list(samples.values()))
        build_id = hand_in(chosen.choice(students), path, dict(sample.files))
        done["handed in" if build_id else "not acknowledged"] += 1
        kept += [build_id] if build_id else []
        if len(kept) > 4:
            mark(teacher, chosen.choice(kept), chosen, marked, returned)
        if started - restarted > _RESTART_S:
            restarted = started
            done["restarts"] += 1
            program.kill_worker() if done["restarts"] % 2 else program.cluster.restart()
        if started - measured > 60 or not memory:
            measured = started
            memory.append(((started - began) / 60, program.memory_mb(program.web), program.memory_mb(program.worker)))
        time.sleep(max(0.0, _EACH_S - (time.monotonic() - started)))
    waiting = text("select count(*) from builds where counts and state in ('queued', 'measuring', 'looking')")

    def is_drained() -> bool:
        with database.session() as session:
            return bool(session.execute(waiting).scalar_one() == 0)

    drained = until(is_drained, seconds=_DRAIN_S)
    with database.session() as session:
        there = set(session.execute(text("select id from builds where counts")).scalars())
        graded = session.execute(text("select count(*) from builds where counts and state = 'graded'")).scalar_one()
        overrides = set(session.execute(text("select build_id from overrides")).scalars())
        returns = list(session.execute(text("select build_id from returns")).scalars())
    print(f"minutes {minutes:g}, restarts {done['restarts']}, posts without an answer {done['not acknowledged']}")
    kept_of = len(there & set(kept))
    print(f"hand-ins acknowledged {len(kept)}, of them kept {kept_of}, graded {graded}, all done: {drained}")
    print(f"builds marked {len(marked)}, of them kept {len(marked & overrides)}")
    twice = len(returns) - len(set(returns))
    print(f"cards returned {len(returned)}, of them kept {len(returned & set(returns))}, twice {twice}")
    print("minute  web MB  worker MB")
    for minute, web, worker in memory:
        print(f"{minute:6.0f} {web:7.0f} {worker:10.0f}")
    settled = [web for minute, web, _ in memory if minute >= 3] or [memory[-1][1]]
    print(f"web memory at the end / after three minutes: {settled[-1] / settled[0]:.2f}")


def mark(teacher: httpx2.Client, build_id: int, chosen: random.Random, marked: set[int], returned: set[int]) -> None:
    """Give marks for a check of a card, and sometimes return it."""
    page = acknowledged(lambda: teacher.get(f"/builds/{build_id}"))
    check = re.search(rf"/builds/{build_id}/checks/([^/\"]+)\"", page.text) if page else None
    if not check:
        return
    given = {"csrf": token(teacher), "marks": "0", "comment": f"soak {chosen.random():.6f}"}
    if acknowledged(lambda: teacher.post(f"/builds/{build_id}/checks/{check[1]}", data=given)):
        marked.add(build_id)
    if chosen.random() < 0.4:
        sure = {"csrf": token(teacher), "sure": "true"}
        if acknowledged(lambda: teacher.post(f"/builds/{build_id}/return", data=sure)):
            returned.add(build_id)


if __name__ == "__main__":
    main()
