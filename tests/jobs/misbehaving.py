"""Tasks for the sandbox that do what the kernel does on bad files, and the real one for comparison."""

import os
import signal
import time
from pathlib import Path

import numpy as np

from rigid_bench.jobs.geometry.measuring import measure_step

__all__ = ["crash", "forever", "greedy", "measure_step", "slow"]


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
