"""The command, run as people run it: in a process of its own."""

import os
import subprocess
import sys

from tests.patience import PATIENCE_S


def run_command(*arguments: str, **environment: str) -> "subprocess.CompletedProcess[str]":
    """Run `rigid-bench` with arguments and variables of the environment."""
    return subprocess.run(
        [sys.executable, "-m", "rigid_bench.cli", *arguments],
        env={**os.environ, **environment},
        capture_output=True,
        text=True,
        timeout=PATIENCE_S,
        check=False,
    )
