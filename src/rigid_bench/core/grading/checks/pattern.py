"""Do the hole patterns of two parts fit each other, in pitch and shape, wherever they sit?"""

import math
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import Field
from scipy.optimize import linear_sum_assignment
from scipy.spatial.transform import Rotation

from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import CylinderModel, Document, FeatureModel
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_part
from rigid_bench.core.grading.report.models import CheckResult, Gauge
from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.values.datums import AxisFeature
from rigid_bench.core.wording.phrases import amount

_Array = NDArray[np.float64]
_DUST = 1e-6


class HolesOfPart(Document):
    """Round walls of one part that belong to a pattern."""

    part: str
    cylinders: Annotated[list[CylinderModel], Field(min_length=2, max_length=200)]


class PatternFields(Document):
    """Fields of a check of kind `pattern`: how far any hole may be off, in the exercise's unit."""

    a: HolesOfPart
    b: HolesOfPart
    max: Annotated[float, Field(ge=0, le=1e6)] = 0.05


def _required(check: CheckModel, fields: PatternFields, exercise: Exercise) -> Message:
    names = [exercise.part_name(holes.part) for holes in (fields.a, fields.b)]
    return phrase("asks.holes-line-up", parts=names, within=amount(fields.max, "length", exercise.model.units))


def _judge(task: Task[PatternFields]) -> CheckResult:
    exercise, middles = task.context.exercise, []
    for side in (task.fields.a, task.fields.b):
        registered = task.context.registered(side.part, where=task.where)
        if registered is None:
            return task.missing_part(side.part)
        features = [FeatureModel(cylinder=cylinder).feature(mm=exercise.mm) for cylinder in side.cylinders]
        walls = [registered.wall(feature, where=task.where) for feature in features if isinstance(feature, AxisFeature)]
        cylinders = [wall for wall in walls if wall is not None]
        if len(cylinders) < len(side.cylinders):
            name = exercise.part_name(side.part)
            return task.lacking("cause.lacks-hole", name)
        middles.append(_in_plane(cylinders))
    off = greatest_mismatch(*middles) / exercise.mm
    if not math.isfinite(off):
        measured = phrase(
            "measured.other-number-of-holes", a=len(task.fields.a.cylinders), b=len(task.fields.b.cylinders)
        )
        return task.result("missed", measured, next_step=phrase("step.compare-distances"))
    units = exercise.model.units
    gauge = Gauge(low=0.0, high=task.fields.max, measured=off, unit=units)
    measured = phrase("measured.off-at-worst-hole", by=amount(off, "length", units))
    if off <= task.fields.max + _DUST:
        return task.result("met", measured, gauge=gauge)
    step = phrase("step.compare-distances")
    return task.result("missed", measured, gauge=gauge, next_step=step)


def _in_plane(walls: list[Cylinder]) -> _Array:
    """Return the feet of axes on a plane square to the first, (n, 3) mm from their middle."""
    direction = walls[0].direction
    feet = np.array([wall.point - float(wall.point @ direction) * direction for wall in walls])
    turn, _ = Rotation.align_vectors([[0, 0, 1]], [direction])
    flat: _Array = turn.apply(feet - feet.mean(axis=0))
    return flat


def greatest_mismatch(a: _Array, b: _Array) -> float:
    """Return how far the worst hole is off when two patterns are laid over each other, mm.

    Parameters
    ----------
    a, b : (n, 3) float, mm
        Middles of holes in a plane, from the middle of each pattern.

    Returns
    -------
    float
        Infinite where the numbers differ.

    Examples
    --------
    >>> row = np.array([[-10.0, 0, 0], [10, 0, 0]])
    >>> greatest_mismatch(row, np.array([[0.0, -11, 0], [0, 11, 0]]))
    1.0
    """
    if len(a) != len(b):
        return float("inf")
    best = float("inf")
    farthest = a[int(np.argmax(np.linalg.norm(a, axis=1)))]
    for aim in b:  # by turning the farthest hole onto each; either part may lie on its other side
        for side in (1.0, -1.0):
            turned = _turned(a * [1, side, side], farthest * [1, side, side], aim)
            away = np.linalg.norm(turned[:, None] - b[None], axis=2)
            rows, columns = linear_sum_assignment(away)
            best = min(best, float(away[rows, columns].max()))
    return round(best, 9)


def _turned(points: _Array, onto: _Array, aim: _Array) -> _Array:
    angle = np.arctan2(aim[1], aim[0]) - np.arctan2(onto[1], onto[0])
    turned: _Array = Rotation.from_rotvec([0, 0, angle]).apply(points)
    return turned


def _verify(check: CheckModel, fields: PatternFields, exercise: Exercise) -> None:
    known_part(check, exercise, fields.a.part)
    known_part(check, exercise, fields.b.part)


KIND = CheckKind(
    name="pattern", subject="part", strip="fit", fields=PatternFields, required=_required, judge=_judge, verify=_verify
)
