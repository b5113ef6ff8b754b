"""Exercises proposed and examined: runs in the sandbox, files in, reports out."""

from collections.abc import Mapping, Sequence
from typing import Any

from rigid_bench.core.bench.scene import scene_of
from rigid_bench.core.drawing.audit.exercise_audit import exercise_equations
from rigid_bench.core.drawing.audit.kept_equations import KeptEquations, kept
from rigid_bench.core.exercise.authoring.propose import propose
from rigid_bench.core.exercise.bundle import CheckModel, read_exercise
from rigid_bench.core.exercise.review.examine import examine
from rigid_bench.core.exercise.review.examined import Examined
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _
from rigid_bench.jobs.geometry.progress import noting


def propose_exercise(data: bytes, name: str, title: str, note: str) -> dict[str, bytes]:
    """Propose an exercise for a solved model."""
    noting(note)(f"Reading {name}")
    return propose(data, name=name, title=title, tolerance=Tolerance())


def draw_scene(exercise: Mapping[str, bytes], note: str) -> bytes | None:
    """Draw an exercise's solved assembly, to be pointed at; None where it has none."""
    noting(note)(_("Drawing the assembly"))
    return scene_of(read_exercise(exercise), tolerance=Tolerance())


def size_equations(
    exercise: Mapping[str, bytes], offered: Mapping[str, Sequence[Mapping[str, Any]]], note: str
) -> dict[str, KeptEquations]:
    """Return by part what an audit needs of its model; also for checks that are offered, and may come next."""
    read = read_exercise(exercise)
    checks = {part: [CheckModel.model_validate(check) for check in own] for part, own in offered.items()}
    equations = exercise_equations(read, checks, tolerance=Tolerance())
    return {part: kept(own, read.mm) for part, own in equations.items()}


def examine_exercise(exercise: Mapping[str, bytes], note: str) -> Examined:
    """Say what is found of an exercise before it is released."""
    return examine(read_exercise(exercise), dict(exercise), tolerance=Tolerance(), progress=noting(note))
