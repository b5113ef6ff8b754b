"""The command `rigid-bench`: run within the test's process, or as people run it."""

import contextlib
import io
import os
import subprocess
import sys
from pathlib import Path
from unittest import mock

from rigid_bench import cli
from rigid_bench.languages import speak_language
from rigid_bench.settings import settings
from tests.support.patience import PATIENCE_S


def run_command(*arguments: str | Path, **environment: str) -> "subprocess.CompletedProcess[str]":
    """Run a command here: measuring processes are taken from what is loaded already."""
    said, complained, code = io.StringIO(), io.StringIO(), 0
    settings.cache_clear()
    with (
        mock.patch.object(sys, "argv", ["rigid-bench", *map(str, arguments)]),
        mock.patch.dict(os.environ, environment),
        contextlib.redirect_stdout(said),
        contextlib.redirect_stderr(complained),
    ):
        try:
            cli.main()
        except SystemExit as exc:
            code = int(exc.code or 0)
        finally:
            settings.cache_clear()
            speak_language("en")
    return subprocess.CompletedProcess(sys.argv, code, said.getvalue(), complained.getvalue())


def run_process(*arguments: str | Path, **environment: str) -> "subprocess.CompletedProcess[str]":
    """Run a command in a process of its own."""
    return subprocess.run(
        [sys.executable, "-m", "rigid_bench.cli", *map(str, arguments)],
        env={**os.environ, **environment},
        capture_output=True,
        text=True,
        timeout=PATIENCE_S,
        check=False,
    )
