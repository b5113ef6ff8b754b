"""The start command: own database cluster, sample school, web server and worker; stops what it started."""

import fcntl
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from types import FrameType

from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.core.wording.language import _
from rigid_bench.demo.people import OLDER_STUDENTS, SECOND_TEACHER, STUDENTS, TEACHER
from rigid_bench.demo.school import fill
from rigid_bench.demo.stand_in.server import register, settings_for
from rigid_bench.processes import ending_with_parent
from rigid_bench.store.cluster import Cluster, free_port
from rigid_bench.store.database import Database, migrate
from rigid_bench.store.queries import people_queries

_VAR = Path("var")
_READY_S, _STOP_S = 60.0, 15.0


class DemoFailed(RigidBenchError):
    """The sample program could not be started."""


def run_demo(*, port: int, fresh: bool) -> None:
    """Run until Ctrl-C.

    Parameters
    ----------
    port
        Where to listen on loopback; 0 picks a free one.
    fresh
        Start anew instead of over the data of last time.

    Raises
    ------
    DemoFailed
        It runs already, or the port is taken.
    ClusterFailed
        The database does not start.
    """
    for number in (signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _interrupt)
    _VAR.mkdir(exist_ok=True)
    with _alone(), _cluster(fresh=fresh) as url:
        try:
            _run(url, port or free_port())
        except KeyboardInterrupt:
            _say("Stopping.")


def _run(url: str, port: int) -> None:
    _check_port(port)
    os.environ["RIGID_BENCH_DATABASE_URL"] = url
    migrate(url)
    _fill_if_empty(url)
    address, outside = f"http://127.0.0.1:{port}", free_port()
    database = Database(url)
    register(database, f"http://127.0.0.1:{outside}", program=address)
    database.close()
    os.environ.update(settings_for(f"http://127.0.0.1:{outside}"))
    programs = {
        "stand-in for the school": ["stand-in", "--port", str(outside), "--program", address],
        "web server": ["serve", "--port", str(port)],
        "worker": ["worker"],
    }
    running = {name: _start(arguments) for name, arguments in programs.items()}
    try:
        _wait_until_ready(address, running["web server"])
        _greet(address, outside)
        while True:
            time.sleep(1)
            for name, process in running.items():
                if process.poll() is not None:
                    _say(f"The {name} ended with {process.returncode}; starting it again.")
                    running[name] = _start(programs[name])
    finally:
        _stop(list(running.values()))


def _interrupt(number: int, frame: FrameType | None) -> None:
    raise KeyboardInterrupt


def _say(text: str) -> None:
    print(text, flush=True)


@contextmanager
def _alone() -> Iterator[None]:
    """Let only one run at a time use the folder."""
    with (_VAR / "demo.lock").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as exc:
            raise DemoFailed(
                _("demo"), _("it runs already from this folder"), _("Stop that one first, with Ctrl-C")
            ) from exc
        yield


@contextmanager
def _cluster(*, fresh: bool) -> Iterator[str]:
    cluster = Cluster(_VAR)
    if fresh:
        cluster.destroy()
    try:
        yield cluster.start()
    finally:
        cluster.stop()


def _fill_if_empty(url: str) -> None:
    database = Database(url)
    with database.session() as session:
        has_people = people_queries.people_exist(session)
    if not has_people:
        _say("Making the sample school.")
        try:
            fill(database, progress=_say if sys.stdout.isatty() else _quiet)
        except BaseException:  # Ctrl-C too: half a school would be taken for a whole one next time
            migrate(url, revision="base")
            raise
    database.close()


def _quiet(text: str) -> None:
    """Show progress on a terminal only."""


def _start(arguments: list[str]) -> "subprocess.Popen[bytes]":
    """Start one of our programs in a group of its own: Ctrl-C reaches only us, and we stop them in order."""
    return subprocess.Popen(
        [sys.executable, "-m", "rigid_bench.cli", *arguments],
        start_new_session=True,
        preexec_fn=ending_with_parent(signal.SIGTERM),
    )


def _stop(processes: "list[subprocess.Popen[bytes]]") -> None:
    for process in processes:
        if process.poll() is None:
            process.terminate()
    deadline = time.monotonic() + _STOP_S
    for process in processes:
        try:
            process.wait(max(0.1, deadline - time.monotonic()))
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()


def _check_port(port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as exc:
            raise DemoFailed(
                _("demo"), _("port {port} is taken", port=port), _("Pick another: make demo PORT=8081")
            ) from exc


def _wait_until_ready(address: str, process: "subprocess.Popen[bytes]") -> None:
    deadline = time.monotonic() + _READY_S
    while time.monotonic() < deadline and process.poll() is None:
        try:
            with urllib.request.urlopen(f"{address}/healthz", timeout=2):
                return
        except (urllib.error.URLError, OSError):
            time.sleep(0.1)
    raise DemoFailed(_("demo"), _("the web server does not answer"), _("See what it printed above"))


def _greet(address: str, outside: int) -> None:
    _say(f"\nRigid Bench runs at {address}\n")
    people = (
        ("teacher", TEACHER),
        ("teacher", SECOND_TEACHER),
        ("student", STUDENTS[1]),
        ("student", OLDER_STUDENTS[0]),
    )
    for role, person in people:
        _say(f"  {role}: sign-in name {person.login}, password {person.password}")
    _say(
        f"\nThe school's course pages are simulated at http://127.0.0.1:{outside}/course, and its accounts beside them."
    )
    _say("\nAll people and builds are made up. Ctrl-C stops it; the data stays for next time.")
