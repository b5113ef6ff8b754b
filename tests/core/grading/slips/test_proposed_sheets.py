"""Parts with the sheet that is proposed for them: one slip is one message and one loss, with its own cause."""

from collections.abc import Callable
from functools import cache
from typing import Any

import pytest
from build123d import Align, Axis, Box, Cylinder, GeomType, Pos, Rot, chamfer, fillet

from rigid_bench.core.exercise.authoring.propose import propose
from rigid_bench.core.exercise.bundle import Exercise, read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.demo.modelling import step_bytes
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

CORNER, FOOT = (Align.MIN,) * 3, (Align.CENTER, Align.CENTER, Align.MIN)


def flange(
    *, over: float = 80, plate: float = 12, bore: float = 30, count: int = 6, circle: float = 60, hole: float = 6.6,
    hub: float = 45, high: float = 25, leg: float = 2,
) -> Any:  # fmt: skip
    """A plate with a hub, a bore and a circle of holes."""
    own = Cylinder(over / 2, plate, align=FOOT) + Pos(0, 0, plate) * Cylinder(hub / 2, high, align=FOOT)
    own -= Cylinder(bore / 2, 200)
    own -= [Rot(0, 0, 360 / count * k) * Pos(circle / 2, 0, 0) * Cylinder(hole / 2, 200) for k in range(count)]
    rims = own.edges().filter_by(GeomType.CIRCLE).filter_by(lambda edge: abs(edge.radius - hub / 2) < 1e-6)
    return chamfer(rims.sort_by(Axis.Z)[-1:], leg) if leg else own


def spindle(
    *, first: float = 40, second: float = 50, third: float = 30, middle: float = 22, end: float = 16, key: float = 6,
    long: float = 25, deep: float = 3.5, hole: float = 5, at: float = 15,
) -> Any:  # fmt: skip
    """A stepped shaft with a keyway and a cross hole."""
    own = Cylinder(15, first, align=FOOT) + Pos(0, 0, first) * Cylinder(middle / 2, second, align=FOOT)
    own += Pos(0, 0, first + second) * Cylinder(end / 2, third, align=FOOT)
    own -= Pos(middle / 2 - deep, -key / 2, first + 12) * Box(20, key, long, align=CORNER)
    return own - Pos(0, 0, at) * Rot(90, 0, 0) * Cylinder(hole / 2, 100) if hole else own


def guide(
    *, long: float = 90, wide: float = 40, high: float = 30, slot: float = 12, deep: float = 10, base: float = 10,
    wall: float = 8, hole: float = 6.6, inset: float = 15, radius: float = 4,
) -> Any:  # fmt: skip
    """An angle with a slot in its wall, two holes in its base and a rounded inner edge."""
    own = Box(long, wide, base, align=CORNER) + Box(long, wall, high, align=CORNER)
    if radius:
        inner = own.edges().filter_by(Axis.X)
        own = fillet(
            inner.filter_by(lambda edge: abs(edge.center().Y - wall) + abs(edge.center().Z - base) < 1e-6), radius
        )
    own -= Pos(long / 2 - slot / 2, 0, high - deep) * Box(slot, wall, deep, align=CORNER)
    return own - [Pos(x, wide - 14, 0) * Cylinder(hole / 2, 100) for x in (inset, long - inset)]


def lever(*, long: float = 80, wide: float = 16, thick: float = 8, boss: float = 22) -> Any:
    """An arm with a boss at one end and a round end at the other."""
    own = Box(long, wide, thick, align=FOOT) + Pos(-long / 2, 0, 0) * Cylinder(boss / 2, 14, align=FOOT)
    own += Pos(long / 2, 0, 0) * Cylinder(wide / 2, thick, align=FOOT)
    return own - [Pos(-long / 2, 0, 0) * Cylinder(5, 100), Pos(long / 2, 0, 0) * Cylinder(3, 100)]


def rail(*, count: int = 3, step: float = 25, hole: float = 5.5, thick: float = 5) -> Any:
    """A flat with holes in a row, nearer to one end."""
    return Box(90, 30, thick, align=CORNER) - [Pos(20 + step * k, 18, 0) * Cylinder(hole / 2, 50) for k in range(count)]


Make = Callable[..., Any]


@cache
def sheet(make: Make) -> Exercise:
    return read_exercise(propose(step_bytes(make(), "P"), name="p.step", title="P", tolerance=TOLERANCE))


@pytest.mark.parametrize(
    ("make", "slip", "row", "code"),
    [
        (flange, {"over": 70}, "Round Ø80", None),
        (flange, {"plate": 10}, "Height", None),
        (flange, {"bore": 15}, "Bore Ø30", "radius-for-diameter"),
        (flange, {"count": 5}, "Number of Ø6.6", "wrong-count"),
        (flange, {"count": 8}, "Number of Ø6.6", "wrong-count"),
        (flange, {"circle": 65}, "Hole circle of Ø6.6", None),
        (flange, {"hole": 13.2}, "Bore Ø6.6", "double"),
        (flange, {"hub": 50}, "Round Ø45", None),
        (flange, {"leg": 0}, "Chamfer 2", "feature-missing"),
        (flange, {"leg": 4}, "Chamfer 2", "double"),
        (spindle, {"first": 35}, "Length", None),
        (spindle, {"third": 20}, "Length", None),
        (spindle, {"end": 8}, "Round Ø16", "radius-for-diameter"),
        (spindle, {"key": 8}, "Keyway width", None),
        (spindle, {"deep": 4.5}, "Ø30 from the right", None),
        (spindle, {"hole": 0}, "Bore Ø5", "feature-missing"),
        (spindle, {"at": 20}, "Ø5 from the top", None),
        (guide, {"long": 95}, "Length", None),
        (guide, {"high": 35}, "Height", None),
        (guide, {"slot": 10}, "Slot width", None),
        (guide, {"deep": 12}, "Step from the bottom", None),
        (guide, {"base": 12}, "Thickness at the bottom", None),
        (guide, {"wall": 0.8}, "Thickness at the front", "decimal-point"),
        (guide, {"inset": 12}, "Ø6.6 from the right", None),
        (guide, {"radius": 0}, "Rounding R4", "feature-missing"),
        (guide, {"radius": 8}, "Rounding R4", "diameter-for-radius"),
        (lever, {"wide": 20}, "Round Ø16", None),
        (lever, {"thick": 6}, "Thickness at the bottom", None),
        (lever, {"boss": 11}, "Round Ø22", "radius-for-diameter"),
        (rail, {"count": 2}, "Number of Ø5.5", "wrong-count"),
        (rail, {"thick": 6}, "Thickness", None),
    ],
)
def test_one_slip_falls_on_its_own_row(make: Make, slip: dict[str, float], row: str, code: str | None) -> None:
    report = grade(sheet(make), {"p.step": step_bytes(make(**slip), "P")}, tolerance=TOLERANCE)
    told = [check for check in report.checks if check.verdict != "met" and not check.follows]
    assert [(check.title, check.cause and check.cause.code) for check in told] == [(row, code)]
    assert report.available - report.awarded == 1


@pytest.mark.parametrize("make", [flange, spindle, guide, lever, rail])
def test_the_right_part_meets_its_own_sheet(make: Make) -> None:
    right = step_bytes(Rot(10, 20, 30) * make(), "P")
    assert grade(sheet(make), {"p.step": right}, tolerance=TOLERANCE).percent == 100
