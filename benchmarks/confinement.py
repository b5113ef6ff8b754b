"""What the walls round the measuring process cost: the same builds graded within them and without, a ratio of one run.

The numerator is the time of a warm, confined child; the denominator that of a child with limits of memory alone.
"""

import resource
import statistics
import time

from rigid_bench.demo.graded import read_graded
from rigid_bench.jobs import sandbox
from rigid_bench.jobs.confinement import Walls
from rigid_bench.jobs.sandbox import Sandbox

_BUILDS = ((0, "jig-right"), (1, "too-wide"), (2, "bin-joint-short"), (3, "mast-right"))
_ROUNDS = 5


def limited(memory_bytes: int, scratch: str, language: str) -> None:
    """Limit a child as it was before there were walls."""
    resource.setrlimit(resource.RLIMIT_AS, (memory_bytes, memory_bytes))


def _times(running: Sandbox) -> list[float]:
    """Return the median time of each build, seconds."""
    graded = read_graded()
    times = []
    for place, name in _BUILDS:
        bundle, files = dict(graded[place].bundle), dict(graded[place].samples[name].files)
        rounds = []
        for _ in range(_ROUNDS):
            began = time.perf_counter()
            running.run("grading.grade_files", bundle, files, name=name)
            rounds.append(time.perf_counter() - began)
        times.append(statistics.median(rounds))
    return times


def main() -> None:
    """Print the ratios."""
    with Sandbox() as confined:
        walls: Walls = confined.wake()
        within = _times(confined)
    make_ready = sandbox._make_ready
    sandbox._make_ready = limited
    try:
        with Sandbox() as free:
            free.wake()
            without = _times(free)
    finally:
        sandbox._make_ready = make_ready
    print(f"walls: {walls.facts}")
    print("build             within s  without s  ratio")
    for (_, name), a, b in zip(_BUILDS, within, without, strict=True):
        print(f"{name:<16} {a:9.3f}  {b:9.3f}  {a / b:5.2f}")
    print(f"all              {sum(within):9.3f}  {sum(without):9.3f}  {sum(within) / sum(without):5.2f}")


if __name__ == "__main__":
    main()
