"""Tasks for the sandbox that do what the kernel does on bad files, and the real one for comparison."""

import os
import signal
import socket
import subprocess
import tempfile
import time
from pathlib import Path

import numpy as np

from rigid_bench.core.wording.language import _
from rigid_bench.jobs.geometry.measuring import measure_step

__all__ = ["attempt", "crash", "forever", "greedy", "measure_step", "said", "slow"]


def crash(note: str) -> None:
    os.kill(os.getpid(), signal.SIGSEGV)


def forever(note: str) -> None:
    while True:
        pass


def greedy(note: str) -> int:
    held = [np.empty(200_000_000, dtype=np.uint8) for _ in range(1000)]
    return len(held)


def slow(seconds: float, note: str) -> str:
    Path(note).write_text("still at it")
    time.sleep(seconds)
    return "done"


def said(note: str) -> str:
    return _("Hand in again.")


def attempt(what: str, about: str, note: str) -> str:
    """Try what a taken-over measuring process would try; say what came of it."""
    try:
        if what == "read":
            return Path(about).read_text()[:20]
        if what == "write":
            Path(about).write_text("taken over")
            return "written"
        if what == "connect":
            socket.create_connection(("127.0.0.1", int(about)), timeout=2).close()
            return "connected"
        if what == "run":
            return str(subprocess.run(["/bin/true"], check=False).returncode)
        if what == "environment":
            return " ".join(f"{name}={value}" for name, value in os.environ.items())
        if what == "environment of a process":
            return Path(f"/proc/{about}/environ").read_text()
        with tempfile.NamedTemporaryFile("w", suffix=about) as file:
            file.write("scratch")
            return "written"
    except OSError as exc:
        return f"refused: {exc.strerror}"
