"""The start command: comes up with the sample school, stops on Ctrl-C, starts again over the same data."""

import os
import re
import signal
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest

from rigid_bench.demo.people import STUDENTS, TEACHER
from rigid_bench.processes import ending_with_parent
from rigid_bench.store.cluster import Cluster
from tests.support.patience import PATIENCE_S
from tests.support.school import Visitor


def start(folder: Path, *options: str) -> "subprocess.Popen[str]":
    # a shell lets what runs in its background ignore Ctrl-C, and so would the program that is started from there
    command = ["env", "--default-signal=INT", sys.executable, "-m", "rigid_bench.cli", "demo", *options]
    return subprocess.Popen(
        command, cwd=folder, stdout=subprocess.PIPE, text=True, start_new_session=True, preexec_fn=ending_with_parent()
    )


def wait_for_address(process: "subprocess.Popen[str]") -> tuple[str, str]:
    """Return the address and all that was printed with it."""
    printed = ""
    assert process.stdout
    for line in process.stdout:
        printed += line
        if "Ctrl-C" in line:
            break
    match = re.search(r"http://127\.0\.0\.1:\d+", printed)
    assert match, printed
    return match[0], printed


def interrupt(process: "subprocess.Popen[str]") -> int:
    os.killpg(process.pid, signal.SIGINT)
    return finished(process)


def finished(process: "subprocess.Popen[str]") -> int:
    process.communicate(timeout=PATIENCE_S)
    return process.returncode


@pytest.fixture
def folder() -> Iterator[Path]:
    """A folder of its own, not within pytest's: the database server's user has to be able to enter it."""
    with tempfile.TemporaryDirectory() as made:
        path = Path(made)
        path.chmod(0o711)
        yield path


def test_it_comes_up_stops_and_comes_up_again_over_the_same_data(folder: Path) -> None:
    try:
        process = start(folder)
        address, printed = wait_for_address(process)
        for person in (TEACHER, STUDENTS[1]):
            assert f"sign-in name {person.login}, password {person.password}" in printed
        teacher = Visitor(address, TEACHER)
        assert teacher.get("/healthz").json() == {"status": "ok"}
        table = teacher.get("/classes/1").text
        assert all(word in table for word in ("33", "returned", "not handed in", "to return", "excused"))
        second = start(folder)
        assert finished(second) == 2, "two at once would spoil each other's data"
        assert interrupt(process) == 0

        process = start(folder)
        address, _ = wait_for_address(process)
        assert Visitor(address, TEACHER).get("/classes/1").text.count("returned") == table.count("returned")
        assert interrupt(process) == 0
    finally:
        Cluster(folder / "var").destroy()
