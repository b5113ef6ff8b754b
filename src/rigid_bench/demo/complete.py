"""A sample exercise whose sheet lacks nothing: what its own checks leave open is shown, and not checked."""

import json
from collections.abc import Mapping

from rigid_bench.core.exercise.authoring.propose_sizes import missing_dimensions
from rigid_bench.core.exercise.bundle import FILE, read_exercise
from rigid_bench.core.exercise.references import read_reference
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.demo.modelling import json_bytes


def complete(files: Mapping[str, bytes]) -> dict[str, bytes]:
    """Return the bundle with the dimensions that the audit offers for its made parts."""
    exercise, tolerance = read_exercise(files), Tolerance()
    document = json.loads(files[FILE])
    for part in exercise.model.parts:
        if part.origin != "made" or not part.file:
            continue
        reference = read_reference(exercise, part, tolerance=tolerance)
        lacking = missing_dimensions(part, reference, exercise.model.checks, mm=exercise.mm, tolerance=tolerance)
        document["checks"] += [{**missing_check, "marks": 0, "value": "shown"} for missing_check in lacking]
    return {**files, FILE: json_bytes(document)}
