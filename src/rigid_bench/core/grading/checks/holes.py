"""A hole table: holes by size, depth and place from a corner of the overall box, on a part that needs no model."""

import math
from collections.abc import Sequence
from typing import Annotated

import numpy as np
from pydantic import Field
from scipy.optimize import linear_sum_assignment

from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_part
from rigid_bench.core.grading.diagnosis import causes
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.measurement.box_frame import box_frames
from rigid_bench.core.part.recognition.holes import Hole, find_holes, is_closed_at_end
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.wording.phrases import amount

_Length = Annotated[float, Field(gt=0, le=1e5, allow_inf_nan=False)]
_Place = Annotated[float, Field(ge=-1e5, le=1e5, allow_inf_nan=False)]
#: Holes are looked at along an axis that they keep to within this (cosine).
_ALONG = 1 - 1e-6


class HoleRow(Document):
    """One row of the table, in the exercise's unit."""

    diameter: _Length
    #: Without one, the hole goes through.
    depth: _Length | None = None
    #: From the left and the lower edge of the box, seen so that it opens towards you; without it, anywhere.
    at: tuple[_Place, _Place] | None = None


class HolesFields(Document):
    """Fields of a check of kind `holes`."""

    part: str
    holes: Annotated[list[HoleRow], Field(min_length=1, max_length=200)]
    #: How far each size and place may be off; the exercise's exactness of a model without it.
    tolerance: _Length | None = None


def _required(check: CheckModel, fields: HolesFields, exercise: Exercise) -> Message:
    rows = [_row_words(hole, exercise.model.units) for hole in fields.holes]
    different = [row for place, row in enumerate(rows) if row not in rows[:place]]
    holes = [phrase("part.times", count=rows.count(row), what=row) for row in different]
    return phrase("asks.holes", holes=holes, exact=amount(_exact(fields, exercise), "length", exercise.model.units))


def _row_words(row: HoleRow, units: str) -> Message:
    deep = (
        phrase("part.through") if row.depth is None else phrase("part.deep", depth=amount(row.depth, "length", units))
    )
    hole = phrase("part.hole", diameter=row.diameter, deep=deep)
    return phrase("part.hole-at", hole=hole, x=row.at[0], y=row.at[1]) if row.at else hole


def _exact(fields: HolesFields, exercise: Exercise) -> float:
    return fields.tolerance or exercise.model.as_modelled


def _judge(task: Task[HolesFields]) -> CheckResult:
    exercise, rows = task.context.exercise, task.fields.holes
    registered = task.context.registered(task.fields.part, where=task.where)
    if registered is None:
        return task.missing_part(task.fields.part)
    holes = find_holes(registered.part)
    if len(holes) < len(rows):
        registered.need_solid(where=task.where)
    mm, exact = exercise.mm / registered.scale, _exact(task.fields, exercise) + 1e-6
    views = [_View(pose_rows, rows) for pose_rows in _seen(registered, holes, mm)]
    best = min(views, key=lambda view: (view.wrong(exact), view.cost))
    wrong = [(row, best.found.get(k)) for k, row in enumerate(rows) if not best.is_right(k, exact)]
    extra = len(holes) - len(rows)
    right = len(rows) - len(wrong)
    measured = phrase("measured.as-asked", right=right, count=len(rows))
    if extra > 0:
        measured = phrase("measured.as-asked-and-more", measured=measured, extra=extra)
    if not wrong and (extra <= 0 or exercise.part(task.fields.part).extras != "forbidden"):
        return task.result("met", measured)
    cause = causes.of_scale(registered.scale) or Cause(code="holes", message=_differences(task, wrong, extra))
    name = exercise.part_name(task.fields.part)
    awarded = task.check.marks * right / len(rows) if wrong else 0.0
    step = causes.set_unit() if cause.code == "unit-of-part" else phrase("step.put-these-right", name=name)
    return task.result("missed", measured, cause=cause, next_step=step, awarded=awarded)


class _Seen:
    """A hole as seen in one view, in the exercise's unit."""

    __slots__ = ("at", "depth", "diameter")

    def __init__(self, at: np.ndarray, diameter: float, depth: float | None) -> None:
        self.at, self.diameter, self.depth = at, diameter, depth


def _seen(registered: RegisteredPart, holes: Sequence[Hole], mm: float) -> list[list[_Seen]]:
    """List the holes along the line of sight for each way of looking at the part."""
    views = []
    ways = [_opens(registered, hole) for hole in holes]
    for pose, _ in box_frames(registered.part):
        inverse = pose.inverse()
        own = []
        for hole, opens in zip(holes, ways, strict=True):
            towards = float(inverse.direction(opens)[2])
            if (abs(towards) if hole.through else towards) > _ALONG:
                deep = None if hole.through else hole.depth / mm
                own.append(_Seen(inverse.point(hole.cylinder.point)[:2] / mm, 2 * hole.cylinder.radius / mm, deep))
        views.append(own)
    return views


def _opens(registered: RegisteredPart, hole: Hole) -> np.ndarray:
    """Return the direction out of a blind hole; either way along a through one."""
    wall = hole.cylinder
    return -wall.direction if is_closed_at_end(registered.part, hole) else wall.direction


class _View:
    """The table beside the holes of one view, paired at least cost."""

    def __init__(self, seen: Sequence[_Seen], rows: Sequence[HoleRow]) -> None:
        self.rows, self.found, self.cost = rows, dict[int, _Seen](), math.inf
        if not seen:
            return
        offs = np.array([[sum(_offs(row, hole)) for hole in seen] for row in rows])
        taken, columns = linear_sum_assignment(offs)
        self.found = {int(r): seen[int(c)] for r, c in zip(taken, columns, strict=True)}
        self.cost = float(offs[taken, columns].sum())

    def is_right(self, row: int, exact: float) -> bool:
        return row in self.found and max(_offs(self.rows[row], self.found[row])) <= exact

    def wrong(self, exact: float) -> int:
        return sum(not self.is_right(k, exact) for k in range(len(self.rows)))


def _offs(row: HoleRow, hole: _Seen) -> tuple[float, float, float]:
    """Return how far a hole is off in diameter, depth and place."""
    deep = 0.0 if row.depth is None and hole.depth is None else 1e3
    if row.depth is not None and hole.depth is not None:
        deep = abs(row.depth - hole.depth)
    away = float(np.max(np.abs(hole.at - row.at))) if row.at else 0.0
    return abs(row.diameter - hole.diameter), deep, away


def _differences(task: Task[HolesFields], wrong: Sequence[tuple[HoleRow, _Seen | None]], extra: int) -> Message:
    units = task.context.exercise.model.units
    said = []
    for row, hole in wrong[:4]:
        asked = _row_words(row, units)
        if hole is None:
            said.append(phrase("part.hole-missing", hole=asked))
            continue
        shown = HoleRow(diameter=hole.diameter, depth=hole.depth, at=(float(hole.at[0]), float(hole.at[1])))
        slip = causes.of_dimension(
            "diameter",
            row.diameter,
            hole.diameter,
            causes.Surroundings(),
            units=units,
            tolerance=task.context.tolerance,
        )
        own = _row_words(shown if row.at else shown.model_copy(update={"at": None}), units)
        said.append(
            phrase("part.hole-found-by-slip", hole=asked, own=own, slip=phrase(f"slip.{slip.code}"))
            if slip
            else phrase("part.hole-found", hole=asked, own=own)
        )
    if extra > 0:
        said.append(phrase("part.holes-more", count=extra))
    return phrase("cause.differences", what=phrase("in-turn", items=said))


def _verify(check: CheckModel, fields: HolesFields, exercise: Exercise) -> None:
    known_part(check, exercise, fields.part, described=True)


KIND = CheckKind(
    name="holes",
    subject="part",
    spreads=True,
    strip="parts",
    fields=HolesFields,
    required=_required,
    judge=_judge,
    verify=_verify,
)
