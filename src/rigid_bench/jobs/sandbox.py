"""Where geometry runs: one child process with limits of time and memory, thrown away when it meets one.

The kernel ends the process on some files and never returns on others, so it never runs
in the process of the web server, the worker or the command line. Nothing here imports it.
"""

import concurrent.futures
import importlib
import multiprocessing
import multiprocessing.forkserver as forkserver
import os
import resource
import tempfile
from collections.abc import Callable, Sequence
from contextlib import AbstractContextManager
from dataclasses import dataclass
from pathlib import Path
from types import TracebackType
from typing import Any, Self

from pebble import ProcessExpired, ProcessPool

from rigid_bench.core.values.errors import LimitReached, MeasuringStopped
from rigid_bench.core.wording.language import N_, _, spoken_language
from rigid_bench.jobs.confinement import Walls, confine, without_secrets
from rigid_bench.languages import speak_language
from rigid_bench.processes import ending_with_parent

#: The functions that run in the child, plain values in, plain values out: a package, and all its modules.
_TASKS = "rigid_bench.jobs.geometry"
_MODULES = ("measuring", "clearances", "auditing", "grading", "drawing", "authoring", "benches")
_LOOK_EVERY_S = 0.5
_SMALLER = N_("Hand in a simpler model: fewer faces, no threads or text cut into it")


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """What one task may use."""

    seconds: float = 120.0
    #: Address space; the kernel alone maps about one gigabyte.
    memory_bytes: int = 4 * 1024**3


class Sandbox(AbstractContextManager["Sandbox"]):
    """Runs geometry tasks one at a time in a child process that is kept warm.

    Parameters
    ----------
    limits
        What one task may use.
    tasks
        The package of the tasks.
    modules
        Those of its modules that the child loads at once; others are loaded when they are called.
    """

    def __init__(self, limits: Limits | None = None, *, tasks: str = _TASKS, modules: Sequence[str] = _MODULES) -> None:
        self.limits, self.tasks, self.modules = limits or Limits(), tasks, tuple(modules)
        self._pool: ProcessPool | None = None
        self._scratch: tempfile.TemporaryDirectory[str] | None = None

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    def close(self) -> None:
        """End the child process."""
        if self._pool is not None:
            self._pool.stop()  # type: ignore[no-untyped-call]  # pebble leaves it untyped
            self._pool.join()
            self._pool = None
        if self._scratch is not None:
            self._scratch.cleanup()
            self._scratch = None

    def start(self) -> None:
        """Let the child load what it needs, beside whatever else is done meanwhile."""
        self._running().schedule(_nothing)

    def wake(self) -> Walls:
        """Wait until the child has loaded what it needs, so that the first build need not; say what confines it."""
        walls: Walls = self._running().schedule(_nothing).result()
        return walls

    def run(self, task: str, *values: Any, name: str, progress: Callable[[str], None] | None = None) -> Any:
        """Run a task and wait for what it returns.

        Parameters
        ----------
        task
            Module and name of a function of the package, as in "measuring.measure_step"; it is called with `values` and
            the path of a file to which it writes what it is doing.
        values
            Plain values that can be pickled.
        name
            What is being worked on, for messages.
        progress
            Told what the task is doing, while it does it.

        Returns
        -------
        What the task returns.

        Raises
        ------
        LimitReached
            It took too long or too much memory.
        MeasuringStopped
            The child process ended by itself.
        RigidBenchError
            Whatever the task raised.
        """
        pool = self._running()
        assert self._scratch is not None
        with tempfile.TemporaryDirectory(dir=self._scratch.name) as folder:
            note = Path(folder) / "progress"
            future = pool.schedule(
                _call, args=(self.tasks, task, folder, *values, str(note)), timeout=self.limits.seconds
            )
            try:
                self._follow(future, note, progress)
                return future.result()
            except concurrent.futures.TimeoutError as exc:
                raise LimitReached(
                    name, _("measuring took longer than {seconds:g} s", seconds=self.limits.seconds), _SMALLER
                ) from exc
            except MemoryError as exc:
                self.close()  # a process that met its limit stays at it
                raise LimitReached(name, _("measuring took too much memory"), _SMALLER) from exc
            except ProcessExpired as exc:
                raise MeasuringStopped(
                    name,
                    _("measuring this file stopped the measuring program"),
                    _("Export it again in another STEP format"),
                ) from exc

    def _running(self) -> ProcessPool:
        if self._pool is None:
            context = multiprocessing.get_context("forkserver")
            context.set_forkserver_preload([f"{self.tasks}.{module}" for module in self.modules])
            self._scratch = tempfile.TemporaryDirectory(prefix="rigid-bench-", ignore_cleanup_errors=True)
            with without_secrets():
                forkserver.ensure_running()
                self._pool = ProcessPool(
                    max_workers=1,
                    context=context,
                    initializer=_make_ready,
                    initargs=(self.limits.memory_bytes, self._scratch.name, spoken_language()),
                )
        return self._pool

    def _follow(
        self, future: "concurrent.futures.Future[Any]", note: Path, progress: Callable[[str], None] | None
    ) -> None:
        last = ""
        while not concurrent.futures.wait([future], timeout=_LOOK_EVERY_S).done:
            text = note.read_text(encoding="utf-8") if progress and note.exists() else ""
            if progress and text and text != last:
                last = text
                progress(text)


def _call(package: str, task: str, folder: str, *values: Any) -> Any:
    """Find the task in the child, so that the parent never loads the kernel; its temporary files go with it."""
    tempfile.tempdir = folder
    module, _, function = task.rpartition(".")
    return getattr(importlib.import_module(f"{package}.{module}"), function)(*values)


_walls = Walls(files=False, system_calls=False)


def _nothing() -> Walls:
    """Do nothing but say what confines the child: that it runs at all loads what it needs."""
    return _walls


def _make_ready(memory_bytes: int, scratch: str, language: str) -> None:
    """Speak the worker's language, limit memory, be walled off, keep the kernel's prints away, end with the worker."""
    global _walls
    speak_language(language)
    # a worker that is killed leaves nobody to stop its child, which would keep the output open for ever
    ending_with_parent()()
    resource.setrlimit(resource.RLIMIT_AS, (memory_bytes, memory_bytes))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    nowhere = os.open(os.devnull, os.O_WRONLY)
    os.dup2(nowhere, 1)
    os.dup2(nowhere, 2)
    _walls = confine(scratch)
