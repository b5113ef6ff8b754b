"""The whole check of an assembly, beside what the kernel alone takes for it: a ratio of one run.

The reference run reads the same STEP file with the kernel and takes `BRepExtrema_DistShapeShape`
of the pairs of solids that stand within 1 mm of each other. Card pictures and motions are apart.
The exercise's own models are read before, as a worker reads them once for a class.
"""

import itertools
import time

import numpy as np

from rigid_bench.core.assembly.contact.clearance import NEAR_MM, place
from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.matched_submission import read_references
from rigid_bench.core.kernel.distance import measure_gap
from rigid_bench.core.kernel.read_model import read_model, read_part
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.demo import weather_mast

_TOLERANCE = Tolerance()
_RUNS = 5


def kernel_alone(data: bytes) -> tuple[float, int]:
    """Return the seconds the kernel takes to read a file and measure its near pairs, and how many these are."""
    model = read_model(data, name="mast.step")
    parts = {part.id: read_part(part.shape, tolerance=_TOLERANCE) for part in model.parts}
    solids = [place(instance.id, parts[instance.part], instance.pose) for instance in model.instances]
    near = [
        (a, b)
        for a, b in itertools.combinations(solids, 2)
        if np.all(a.box[0] - b.box[1] <= NEAR_MM) and np.all(b.box[0] - a.box[1] <= NEAR_MM)
        if measure_gap(a.shape, b.shape).gap_mm <= NEAR_MM
    ]
    started = time.perf_counter()
    read_model(data, name="mast.step")
    for a, b in near:
        measure_gap(a.shape, b.shape)
    return time.perf_counter() - started, len(near)


def main() -> None:
    """Print the table."""
    exercise = read_exercise(weather_mast.bundle())
    read_references(exercise, tolerance=_TOLERANCE)
    files = next(sample for sample in weather_mast.SAMPLES if sample.slip == "none").files()
    print("instances  checks  near pairs  kernel alone s  whole check s  ratio")
    for _ in range(_RUNS):
        started = time.perf_counter()
        report = grade(exercise, files, tolerance=_TOLERANCE)
        ours = time.perf_counter() - started
        alone, near = kernel_alone(files["mast.step"])
        print(f"{len(report.parts):9} {len(report.checks):7} {near:11} {alone:15.2f} {ours:14.2f} {ours / alone:6.2f}")


if __name__ == "__main__":
    main()
