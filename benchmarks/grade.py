"""How long a grading takes beside the bare reading of the same files: ratios of one run, both from the files' bytes.

Numerator: reading the exercise, its references and the build, matching, checks, causes, report. Denominator: the
kernel's reading of the same STEP files and the naming of their faces. Neither keeps anything from run to run.
"""

import time
from collections.abc import Callable

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.kernel.read_model import read_part
from rigid_bench.core.kernel.step_file import read_step
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.demo.seed_drawer import SAMPLES, bundle

_RUNS = 5


def fastest(run: Callable[[], object]) -> float:
    """Return the least of a few times, s: what the machine can do when nothing else disturbs it."""
    times = []
    for _ in range(_RUNS):
        started = time.perf_counter()
        run()
        times.append(time.perf_counter() - started)
    return min(times)


def main() -> None:
    """Print the table."""
    exercise = read_exercise(bundle())
    tolerance = Tolerance()
    print(f"{'build':22} {'grade s':>8} {'read s':>8} {'ratio':>7}")
    for sample in SAMPLES:
        files = sample.files()
        steps = [*(data for name, data in files.items() if name.endswith(".step")), *exercise.part_files.values()]

        def read(steps: list[bytes] = steps) -> None:
            for data in steps:
                for part in read_step(data, name="file").parts:
                    read_part(part.shape, tolerance=tolerance)

        def whole(files: dict[str, bytes] = files) -> None:
            grade(read_exercise(bundle()), files, tolerance=tolerance)

        graded, reading = fastest(whole), fastest(read)
        print(f"{sample.name:22} {graded:8.3f} {reading:8.3f} {graded / reading:7.1f}")


if __name__ == "__main__":
    main()
