"""The files of drills that need the solid-modelling kernel: runs in the sandbox."""

import base64
import importlib
from collections.abc import Mapping

from rigid_bench.core.practice.drill import Drill
from rigid_bench.core.practice.exercise_source import source_of
from rigid_bench.core.practice.registry import KINDS, drill_of
from rigid_bench.jobs.geometry.grading import prepare_exercise


def drill_of_exercise(exercise: Mapping[str, bytes], kind: str, seed: int, level: int, note: str) -> Drill:
    """Make a drill of an exercise's bundle, whose parts are drawn for it."""
    prepared = prepare_exercise(exercise, note)
    sizes = {check.id: check.size for check in prepared.checks if check.size}
    return drill_of(kind, seed, level, source_of(exercise, prepared.sheet, sizes))


def drill_with_files(kind: str, seed: int, level: int, note: str) -> Drill:
    """Make a drill with the files by which its answer is checked by another road, base64 in `given`."""
    drill = drill_of(kind, seed, level)
    module, _, function = KINDS[kind].files.rpartition(".")
    files: dict[str, bytes] = getattr(importlib.import_module(module), function)(drill)
    given = {"files": {name: base64.b64encode(data).decode() for name, data in files.items()}}
    submission = {"submission": "build.zip"} if "build.zip" in files else {}
    return drill.model_copy(update={"given": {**given, **submission}})
