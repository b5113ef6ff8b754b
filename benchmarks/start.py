"""CPU of each command on a small file, beside what it truly needs: the kernel's own import and read; a warm worker.

Numerator: all processes of one command, from start to end. Denominators: a fresh `python -c` that imports the parts
of the kernel which reading STEP needs and reads the same file; and the same work in a process that has done it before.
"""

import ctypes
import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from rigid_bench.core.assembly.freedom.freedom_report import freedom_report
from rigid_bench.core.assembly.solve.solution import solve
from rigid_bench.core.formats.build import read_build
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.demo import seed_drawer
from rigid_bench.jobs.geometry.auditing import audit_files
from rigid_bench.jobs.geometry.clearances import measure_clearances
from rigid_bench.jobs.geometry.grading import grade_report
from rigid_bench.jobs.geometry.measuring import measure_step

_RUNS = 5
#: The number of prctl's PR_SET_CHILD_SUBREAPER (linux/prctl.h): processes that outlive a command are counted, too.
_ADOPT_ORPHANS = 36
_READ = """
from OCP.Message import Message
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDocStd import TDocStd_Document
Message.DefaultMessenger_s().ChangePrinters().Clear()
reader = STEPCAFControl_Reader()
reader.ReadFile(FILE)
reader.Transfer(TDocStd_Document(TCollection_ExtendedString("x")))
"""


def spent() -> float:
    """CPU of all children that have ended, seconds."""
    used = resource.getrusage(resource.RUSAGE_CHILDREN)
    return used.ru_utime + used.ru_stime


def of_command(*command: str) -> float:
    """Median CPU of a command with all its processes, seconds."""
    times = []
    for _ in range(_RUNS):
        before = spent()
        subprocess.run(command, stdout=subprocess.DEVNULL, check=True)
        while True:
            try:
                os.wait()
            except ChildProcessError:
                break
        times.append(spent() - before)
    return statistics.median(times)


def warm(work: Callable[[], object]) -> float:
    """Median CPU of work that has been done before in this process, seconds."""
    work()
    times = []
    for _ in range(_RUNS):
        before = time.process_time()
        work()
        times.append(time.process_time() - before)
    return statistics.median(times)


def main() -> None:
    """Print one line a command."""
    ctypes.CDLL(None).prctl(_ADOPT_ORPHANS, 1)
    with tempfile.TemporaryDirectory() as folder:
        exercise = Path(folder) / "exercise"
        exercise.mkdir()
        bundle = seed_drawer.bundle()
        for name, data in bundle.items():
            (exercise / name).write_bytes(data)
        knob, build = exercise / "knob.step", exercise / "reference.build.json"
        note, models = str(Path(folder) / "note"), {name: bundle[name] for name in bundle if name != "exercise.json"}
        read = of_command(sys.executable, "-c", _READ.replace("FILE", repr(str(knob))))
        print(f"reference: python that imports the kernel's STEP reader and reads knob.step: {read:.2f} s of CPU")
        command = (sys.executable, "-m", "rigid_bench.cli")
        parsed, tolerance = read_build(build.read_bytes(), name="b"), Tolerance()
        works: dict[str, tuple[list[str], Callable[[], object]]] = {
            "measure": ([str(knob)], lambda: measure_step(knob.read_bytes(), knob.name, None, note)),
            "clearance": ([str(build)], lambda: measure_clearances(models, False, note)),
            "audit": ([str(exercise)], lambda: audit_files(bundle, note)),
            "grade": ([str(exercise), str(build)], lambda: grade_report(bundle, models, note)),
            "freedom": ([str(build)], lambda: freedom_report(parsed, tolerance=tolerance)),
            "solve": ([str(build)], lambda: solve(parsed, tolerance=tolerance)),
        }
        for name, (arguments, work) in works.items():
            cpu, again = of_command(*command, name, *arguments, "--json"), warm(work)
            print(f"{name:10} {cpu:5.2f} s of CPU, {cpu / read:4.1f} x the reference; warm {again:6.3f} s")


if __name__ == "__main__":
    main()
