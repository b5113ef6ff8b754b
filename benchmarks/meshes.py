"""Sample builds handed in as meshes: how many verdicts and first causes are those of the STEP file.

Numerator: one grading of a build as 3MF, of three finenesses. Denominator: one grading of the same build as STEP.
"""

import statistics
import time
from collections import Counter
from collections.abc import Mapping
from types import ModuleType

from rigid_bench.core.exercise.bundle import Exercise, read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import Report
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.demo import drill_jig, pedal_bin, seed_drawer, weather_mast
from tests.core.kernel.meshes.as_mesh import FINENESSES, as_meshes

_MODULES: tuple[ModuleType, ...] = (drill_jig, seed_drawer, pedal_bin, weather_mast)


def main() -> None:
    """Go through all sample builds and print the counts and ratios."""
    counts: Counter[str] = Counter()
    ratios: dict[str, list[float]] = {fineness: [] for fineness in FINENESSES}
    for module in _MODULES:
        exercise = read_exercise(module.bundle())
        for sample in module.SAMPLES:
            files = sample.files()
            as_step, step_seconds = _graded(exercise, files)
            for fineness, within_mm in FINENESSES.items():
                as_mesh, mesh_seconds = _graded(exercise, as_meshes(files, within_mm))
                ratios[fineness].append(mesh_seconds / step_seconds)
                _count(as_step, as_mesh, counts, f"{sample.name}, {fineness}")
    answered = counts["same"] + counts["other"]
    named = counts["same cause"] + counts["other cause"]
    print(f"verdicts as from STEP: {counts['same']} of {answered} ({counts['same'] / answered:.2%})")
    print(f"not answered by a mesh: {counts['unchecked']}")
    print(f"first causes as from STEP: {counts['same cause']} of {named} ({counts['same cause'] / named:.1%})")
    for fineness, ratio in ratios.items():
        print(f"{fineness} mesh: {statistics.median(ratio):.2f} x the time of STEP (median of {len(ratio)} builds)")


def _graded(exercise: Exercise, files: Mapping[str, bytes]) -> tuple[Report, float]:
    start = time.perf_counter()
    report = grade(exercise, files, tolerance=Tolerance())
    return report, time.perf_counter() - start


def _count(as_step: Report, as_mesh: Report, counts: Counter[str], build: str) -> None:
    by_mesh = {check.id: check for check in as_mesh.checks}
    for check in as_step.checks:
        other = by_mesh[check.id]
        if check.verdict == "unchecked":
            continue
        if other.verdict == "unchecked":
            counts["unchecked"] += 1
        elif other.verdict != check.verdict:
            counts["other"] += 1
            print(f"{build}: {check.id} is {check.verdict} as STEP, {other.verdict} as a mesh")
        else:
            counts["same"] += 1
            if check.cause and not check.follows:
                is_same = other.cause is not None and other.cause.code == check.cause.code
                counts["same cause" if is_same else "other cause"] += 1


if __name__ == "__main__":
    main()
