"""An exercise's solved assembly as a scene: its parts with their faces, where they stand, to be pointed at."""

import gzip
import json

from rigid_bench.core.bench.documents import matrix_of
from rigid_bench.core.bench.parts import drawn_parts
from rigid_bench.core.exercise.bundle import Exercise
from rigid_bench.core.values.tolerance import Tolerance


def scene_of(exercise: Exercise, *, tolerance: Tolerance) -> bytes | None:
    """Return the scene as gzipped JSON; None for an exercise of single parts.

    It has `parts` as a bench's, `placed` (by instance: part, name, whether it is grounded) and `poses` (by instance:
    4 x 4, column by column).
    """
    built = exercise.reference
    if built is None:
        return None
    used = {own.part for own in built.instances}
    parts = [part.model_dump(mode="json") for part in drawn_parts(exercise, tolerance=tolerance) if part.id in used]
    placed = {
        own.id: {"part": own.part, "grounded": own.grounded, "name": exercise.instance_name(own.id)}
        for own in built.instances
    }
    poses = {own.id: matrix_of(own.pose) for own in built.instances}
    return gzip.compress(json.dumps({"parts": parts, "placed": placed, "poses": poses}).encode(), mtime=0)
