"""Threads in simplified form (ISO 6410-1): the other diameter as a narrow line, from the end three quarters round.

Of a hole the root of the thread lies outside what is drilled, of a stud within the shank.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.drawing.ink import Drawing, Line
from rigid_bench.core.drawing.layout.part_view import PartView
from rigid_bench.core.exercise.bundle import CheckModel, features_of
from rigid_bench.core.formats.pictures import RoundModel
from rigid_bench.core.standards.threads import find_thread
from rigid_bench.core.values.datums import AxisFeature

_Array = NDArray[np.float64]
#: mm: axes that are nearer are one.
_ONE = 1e-3
#: Where the quarter of the circle is left out: the upper right one, a little turned (ISO 6410-1).
_FROM, _TO = math.radians(95), math.radians(355)
_SAME = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawnThread:
    """A thread on a round wall of the part, mm."""

    #: Place of the wall among what is round.
    number: int
    start: tuple[float, float, float]
    end: tuple[float, float, float]
    #: Of the narrow line.
    diameter: float
    is_hole: bool


def drawn_threads(checks: Sequence[CheckModel], rounds: Sequence[RoundModel], mm: float) -> list[DrawnThread]:
    """Find the walls that are declared to be threads.

    Parameters
    ----------
    checks
        Those of kind `thread` count.
    rounds
        The part's holes and bosses.
    mm
        Millimetres in the exercise's unit.
    """
    drawn = []
    for check in checks:
        thread = find_thread(str(check.fields.get("thread"))) if check.kind == "thread" else None
        feature = next(iter(features_of(check, mm)), None)
        if thread is None or not isinstance(feature, AxisFeature):
            continue
        walls = [(number, wall) for number, wall in enumerate(rounds) if _is_on(wall, feature)]
        if not walls:
            continue
        number, wall = min(walls, key=lambda own: abs(own[1].diameter - thread.nominal))
        start, end = np.array(wall.start), np.array(wall.end)
        depth = check.fields.get("depth")
        if depth:
            end = start + (end - start) * min(1.0, float(depth) * mm / float(np.linalg.norm(end - start)))
        is_hole = wall.kind == "hole"
        is_drilled = is_hole and wall.diameter < thread.nominal - _SAME
        diameter = thread.nominal if is_drilled else thread.minor_internal if is_hole else thread.root_external
        drawn.append(
            DrawnThread(number=number, start=_tuple(start), end=_tuple(end), diameter=diameter, is_hole=is_hole)
        )
    return drawn


def _is_on(wall: RoundModel, feature: AxisFeature) -> bool:
    along, off = np.array(wall.end) - np.array(wall.start), np.array(wall.start) - feature.point
    length = float(np.linalg.norm(along))
    if wall.kind not in ("hole", "boss") or not length:
        return False
    is_parallel = abs(float(along @ feature.direction)) > (1 - 1e-6) * length
    return is_parallel and bool(np.linalg.norm(np.cross(off, feature.direction)) < _ONE)


def _tuple(point: _Array) -> tuple[float, float, float]:
    x, y, z = point.tolist()
    return x, y, z


def thread_lines(view: PartView, threads: Sequence[DrawnThread]) -> Drawing:
    """Draw the threads of a view: from the end, and from the side where they are seen or cut."""
    drawing = Drawing()
    for thread in threads:
        start, end, radius = view.at(thread.start), view.at(thread.end), thread.diameter / 2 * view.scale
        if math.dist(start, end) < _SAME:
            turn = np.linspace(_FROM, _TO, 49).tolist()
            points = tuple((start[0] + radius * math.cos(a), start[1] + radius * math.sin(a)) for a in turn)
            drawing.lines.append(Line(kind="thread", points=points))
        elif not thread.is_hole or view.section:
            way = np.array(end) - np.array(start)
            across = radius * np.array([-way[1], way[0]]) / float(np.linalg.norm(way))
            for side in (1.0, -1.0):
                a, b = np.array(start) + side * across, np.array(end) + side * across
                drawing.lines.append(
                    Line(kind="thread", points=((float(a[0]), float(a[1])), (float(b[0]), float(b[1]))))
                )
    return drawing
