"""Benches laid out, taken apart and written: runs in the sandbox, files in, reports out."""

from collections.abc import Mapping

from rigid_bench.core.bench.documents import BenchState, Exploded, LaidOut, Ways
from rigid_bench.core.bench.exploded import explode, find_ways
from rigid_bench.core.bench.parts import handed_parts, shapes_of, supplied_parts
from rigid_bench.core.bench.step_out import step_of_bench
from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.values.tolerance import Tolerance


def lay_out(exercise: Mapping[str, bytes], files: Mapping[str, bytes] | None, note: str) -> LaidOut:
    """Lay an exercise's parts on a bench, or what a student modelled."""
    read = read_exercise(exercise)
    if files is None:
        return supplied_parts(read, tolerance=Tolerance())
    return handed_parts(files, may_suggest=read.model.suggestions, tolerance=Tolerance())


def draw_apart(
    exercise: Mapping[str, bytes], files: Mapping[str, bytes] | None, state: BenchState, share: float, note: str
) -> Exploded:
    """Draw what a bench holds apart."""
    shapes = shapes_of(read_exercise(exercise), files, tolerance=Tolerance())
    return explode(shapes, state, share=share, tolerance=Tolerance())


def find_bench_ways(
    exercise: Mapping[str, bytes], files: Mapping[str, bytes] | None, state: BenchState, note: str
) -> Ways:
    """Find how what a bench holds comes apart."""
    return find_ways(shapes_of(read_exercise(exercise), files, tolerance=Tolerance()), state, tolerance=Tolerance())


def write_bench(
    exercise: Mapping[str, bytes],
    files: Mapping[str, bytes] | None,
    state: BenchState,
    names: Mapping[str, str],
    note: str,
) -> bytes:
    """Write what a bench holds as a STEP assembly."""
    shapes = shapes_of(read_exercise(exercise), files, tolerance=Tolerance())
    return step_of_bench(state, shapes, names)
