"""The audit with which an edit of a draft is answered, beside the whole look that follows: ratios of one run.

Numerator: reading the equations that are kept of a part from their JSON, and the audit of all its checks, as at an
edit. Denominator: `examine` of the same exercise in the same process, with its models read before, as in a worker
that is warm. Both are medians of processor time.
"""

import json
import statistics
import time
from collections.abc import Callable

from rigid_bench.core.drawing.audit.exercise_audit import exercise_equations
from rigid_bench.core.drawing.audit.kept_equations import KeptEquations, kept
from rigid_bench.core.drawing.audit.report import part_report
from rigid_bench.core.drawing.audit.size_equations import audit_equations
from rigid_bench.core.exercise.bundle import Exercise, read_exercise
from rigid_bench.core.exercise.review.examine import examine
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.demo import drill_jig, pedal_bin, seed_drawer, weather_mast

_EDITS, _LOOKS = 15, 3


def median_s(work: Callable[[], object], times: int) -> float:
    """Return the median processor time of some work, seconds."""
    taken = []
    for _ in range(times):
        started = time.process_time()
        work()
        taken.append(time.process_time() - started)
    return statistics.median(taken)


def at_once(text: str, part: str, exercise: Exercise) -> None:
    """Audit a part as an edit does."""
    equations = KeptEquations.model_validate(json.loads(text)).equations(exercise.mm)
    part_report(audit_equations(equations, part, exercise.model.checks), exercise.mm)


def main() -> None:
    """Print a line for each sample exercise."""
    print("exercise           part     kept, kB   audit at once, ms   whole look, s   share")
    for sample in (seed_drawer, drill_jig, pedal_bin, weather_mast):
        bundle = sample.bundle()
        exercise = read_exercise(bundle)
        equations = exercise_equations(exercise, {}, tolerance=Tolerance())
        look = median_s(lambda: examine(exercise, dict(bundle), tolerance=Tolerance()), _LOOKS)  # noqa: B023
        for part, own in equations.items():
            text = json.dumps(kept(own, exercise.mm).model_dump(mode="json"))
            edit = median_s(lambda: at_once(text, part, exercise), _EDITS)  # noqa: B023
            print(
                f"{exercise.model.id:18} {part:8} {len(text) / 1000:8.1f} {1000 * edit:19.1f} {look:15.2f} "
                f"{edit / look:7.4f}"
            )


if __name__ == "__main__":
    main()
