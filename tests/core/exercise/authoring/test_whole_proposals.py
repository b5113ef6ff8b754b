"""A fresh proposal fixes every size and position of a part, says nothing twice, and gives each size its own name."""

import json
from typing import Any

import pytest
from build123d import (
    Align,
    Axis,
    Box,
    Cone,
    CounterBoreHole,
    CounterSinkHole,
    Cylinder,
    GeomType,
    Polyline,
    Pos,
    RegularPolygon,
    Rot,
    SlotOverall,
    Sphere,
    Torus,
    chamfer,
    extrude,
    fillet,
    make_face,
)

from rigid_bench.core.drawing.audit.part_audit import audit_part
from rigid_bench.core.exercise.authoring.propose_sizes import dimensions
from rigid_bench.core.exercise.bundle import CheckModel, PartModel, read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.tolerance import Tolerance
from tests.support.shapes import features, step

pytestmark = pytest.mark.thorough

TOLERANCE = Tolerance()
CORNER, FOOT = (Align.MIN,) * 3, (Align.CENTER, Align.CENTER, Align.MIN)
PART = PartModel.model_validate({"id": "p", "name": "Part", "file": "p.step"})
rod = Cylinder(6, 40, align=FOOT)
PARTS: dict[str, Any] = {
    "rod": rod,
    "rod chamfered": chamfer(rod.edges(), 1),
    "rod chamfer 2x1": chamfer(rod.edges().sort_by(Axis.Z)[-1:], 2, 1),
    "rod two chamfers": chamfer(
        chamfer(rod.edges().sort_by(Axis.Z)[-1:], 1).edges().filter_by(GeomType.CIRCLE).sort_by(Axis.Z)[:1], 2
    ),
    "rod rounded": fillet(rod.edges().sort_by(Axis.Z)[-1:], 2),
    "rod rounded both": fillet(rod.edges(), 2),
    "ball end": rod + Pos(0, 0, 40) * Sphere(6),
    "ball on neck": rod + Pos(0, 0, 48) * Sphere(10),
    "taper": rod + Pos(0, 0, 40) * Cone(6, 4, 20, align=FOOT),
    "csk plate": Box(60, 40, 8, align=CORNER)
    - Pos(20, 20, 8) * CounterSinkHole(2.5, 5, depth=8, counter_sink_angle=90),
    "csk plate 2": Box(60, 40, 8, align=CORNER)
    - Pos(20, 20, 8) * CounterSinkHole(2.5, 5, depth=8, counter_sink_angle=90)
    - Pos(45, 20, 8) * CounterSinkHole(2.5, 5, depth=8, counter_sink_angle=90),
    "cbore plate": Box(60, 40, 12, align=CORNER)
    - Pos(20, 20, 12) * CounterBoreHole(2.75, 5, 5, depth=12)
    - Pos(45, 20, 12) * CounterBoreHole(2.75, 5, 5, depth=12),
    "latch plate": Box(80, 50, 10, align=CORNER)
    - [Pos(x, y, 10) * CounterBoreHole(2.75, 5.5, 5, depth=10) for x in (10, 70) for y in (10, 40)]
    - Pos(40, 25, 0) * Cylinder(6.2, 30),
    "hex bar": extrude(RegularPolygon(10, 6, major_radius=False), 30),
    "socket ball": Box(30, 30, 20, align=CORNER) - Pos(15, 15, 20) * Sphere(6),
    "blind drilled": Box(30, 30, 20, align=CORNER) - Pos(10, 12, 20) * Cylinder(3, 20),
    "stepped": rod + Pos(0, 0, 40) * Cylinder(4, 10, align=FOOT) + Pos(0, 0, 50) * Cylinder(2, 5, align=FOOT),
    "circle4": Cylinder(30, 8, align=FOOT)
    - [Rot(0, 0, 90 * k) * Pos(20, 0, 0) * Cylinder(3, 30) for k in range(4)]
    - Cylinder(8, 40),
    "grid": Box(80, 60, 8, align=CORNER) - [Pos(x, y, 0) * Cylinder(2.5, 30) for x in (20, 40, 60) for y in (15, 45)],
    "slot": Box(60, 30, 6, align=CORNER) - Pos(30, 15, 3) * extrude(SlotOverall(20, 8), 10, both=True),
    "wedge": extrude(make_face(Polyline((0, 0), (40, 0), (40, 10), (15, 25), (0, 25), close=True)), 12),
    "filleted block": fillet(Box(40, 30, 20, align=CORNER).edges().filter_by(Axis.Z), 4),
    "fillets2": fillet(
        fillet(Box(40, 30, 20, align=CORNER).edges().filter_by(Axis.Z)[:1], 4)
        .edges()
        .filter_by(Axis.Z)
        .sort_by(Axis.X)[-1:],
        6,
    ),
    "torus ring": Torus(20, 4),
    "L round": (Box(40, 30, 6, align=CORNER) + Box(6, 30, 30, align=CORNER)),
}


@pytest.mark.parametrize("name", PARTS)
def test_a_fresh_proposal_is_rigid_and_says_nothing_twice(name: str) -> None:
    part = features(PARTS[name])
    proposed = dimensions("p", part, TOLERANCE)
    audit = audit_part(part, PART, [CheckModel.model_validate(dimension) for dimension in proposed], mm=1.0)
    assert (audit.missing, audit.redundant) == ((), ())
    titles = [dimension["title"] for dimension in proposed]
    assert len(set(titles)) == len(titles)


@pytest.mark.parametrize("name", PARTS)
def test_the_part_earns_full_marks_for_what_was_proposed_of_it(name: str) -> None:
    data = step(PARTS[name], "Part")
    report = grade(
        asked(data, *dimensions("p", features(PARTS[name]), TOLERANCE)), {"p.step": data}, tolerance=TOLERANCE
    )
    assert [(check.title, check.measured) for check in report.checks if check.verdict != "met"] == []


def asked(data: bytes, *checks: dict[str, Any]) -> Any:
    made = {
        "format": "rigid-bench/exercise", "version": 1, "id": "e", "title": "E", "units": "mm",
        "parts": [{"id": "p", "name": "Part", "file": "p.step"}], "checks": list(checks),
    }  # fmt: skip
    return read_exercise({"exercise.json": json.dumps(made).encode(), "p.step": data})


def test_a_bar_is_said_by_its_diameter_and_a_plate_by_its_thickness() -> None:
    said = {name: {size["title"]: size["nominal"] for size in dimensions("p", features(PARTS[name]), TOLERANCE)}
            for name in ("rod", "latch plate", "hex bar")}  # fmt: skip
    assert said["rod"] == {"Length": 40, "Round Ø12": 12}
    assert said["hex bar"] == {"Across flats": pytest.approx(20), "Length": 30}
    plate = said["latch plate"]
    assert (plate["Thickness"], plate["Bore Ø5.5"], plate["Number of Ø5.5"]) == (10, 5.5, 4)
    assert (plate["Counterbore Ø11"], plate["Ø11 depth"]) == (11, 5)


#: Of a part: what a check names, flat and nested, and what it measures.
ASKED: list[tuple[str, str, dict[str, Any], float]] = [
    ("ball end", "sphere_diameter", {"sphere": {"point": [0, 0, 40], "radius": 6}}, 12),
    ("ball end", "sphere_diameter", {"point": [0, 0, 40], "radius": 6}, 12),
    ("socket ball", "sphere_diameter", {"sphere": {"point": [15, 15, 20], "radius": 6}}, 12),
    ("rod rounded", "tube_radius", {"torus": {"point": [0, 0, 38], "direction": [0, 0, 1], "radius": 4, "tube": 2}}, 2),
    ("torus ring", "tube_radius", {"point": [0, 0, 0], "direction": [0, 0, -1], "radius": 20, "tube": 4}, 4),
    ("taper", "cone_angle", {"cone": {"point": [0, 0, 50], "direction": [0, 0, 1], "angle": 11.4211863}}, 11.4211863),
    ("rod chamfered", "chamfer", {"cone": {"point": [0, 0, 39.5], "direction": [0, 0, 1], "angle": 90}}, 1),
    ("rod two chamfers", "chamfer", {"cone": {"point": [0, 0, 1], "direction": [0, 0, 1], "angle": 90}}, 2),
    ("rod two chamfers", "chamfer", {"point": [0, 0, 39.5], "direction": [0, 0, 1], "angle": 90}, 1),
    ("csk plate", "countersink_diameter", {"countersink": {"point": [20, 20, 8], "direction": [0, 0, 1]}}, 10),
    ("csk plate", "countersink_angle", {"countersink": {"point": [20, 20, 0], "direction": [0, 0, -1]}}, 90),
    ("circle4", "pitch_circle", {"cylinder": {"point": [20, 0, 0], "direction": [0, 0, 1], "radius": 3}}, 40),
    ("hex bar", "across_flats", {"plane": {"point": [0, 10, 15], "normal": [0, 1, 0]}}, 20),
]


@pytest.mark.parametrize(("name", "measure", "of", "value"), ASKED)
def test_balls_rings_cones_and_countersinks_are_asked_and_measured(
    name: str, measure: str, of: dict[str, Any], value: float
) -> None:
    check = {"id": "c", "title": "C", "kind": "dimension", "marks": 1, "part": "p", "measure": measure, "of": of}
    data = step(PARTS[name], "Part")
    report = grade(asked(data, {**check, "nominal": value}), {"p.step": data}, tolerance=TOLERANCE)
    assert report.checks[0].verdict == "met"
    assert float(report.checks[0].measured.removesuffix(" mm").removesuffix("°")) == pytest.approx(value, abs=0.005)
    audit = audit_part(features(PARTS[name]), PART, [CheckModel.model_validate({**check, "nominal": value})], mm=1.0)
    assert audit.without_tie == ()


def test_a_square_of_four_is_a_circle_and_a_grid_and_four_at_the_corners_of_a_plate_are_none() -> None:
    of = {"cylinder": {"point": [10, 10, 0], "direction": [0, 0, 1], "radius": 2}}
    check = {"id": "c", "title": "C", "kind": "dimension", "marks": 1, "part": "p", "measure": "pitch_circle", "of": of}
    verdicts = []
    for far in (40, 50):
        plate = Box(60, 60, 5, align=CORNER) - [Pos(x, y, 0) * Cylinder(2, 30) for x in (10, 40) for y in (10, far)]
        data = step(plate, "Part")
        wanted = asked(data, {**check, "nominal": 42.4264})
        verdicts.append(grade(wanted, {"p.step": data}, tolerance=TOLERANCE).checks[0].verdict)
    assert verdicts == ["met", "missed"]


THREAD = {"id": "t", "title": "Thread", "kind": "thread", "marks": 2, "part": "p", "depth": 12,
          "of": {"axis": {"point": [15, 15, 0], "direction": [0, 0, 1]}}, "thread": "M6"}  # fmt: skip


def tapped(diameter: float, depth: float) -> bytes:
    hole = Pos(15, 15, 20) * Cylinder(diameter / 2, depth, align=(Align.CENTER, Align.CENTER, Align.MAX))
    return step(Box(30, 30, 20, align=CORNER) - hole, "Part")


@pytest.mark.parametrize(
    ("diameter", "depth", "verdict", "measured", "cause"),
    [
        # tapping drill by ISO 2306, core by ISO 724
        (5.0, 14, "met", "Ø5 (tapping drill)", None),
        (4.917, 14, "met", "Ø4.917 (core)", None),
        (6.0, 12, "met", "Ø6 (nominal, drawn plain)", None),
        (5.0, 8, "missed", "Ø5 (tapping drill), 8 mm deep", None),
        (4.2, 14, "missed", "Ø4.2", "It is the tapping drill of M5."),
        (5.6, 14, "missed", "Ø5.6", None),
    ],
)
def test_a_thread_is_judged_by_the_tables(
    diameter: float, depth: float, verdict: str, measured: str, cause: str | None
) -> None:
    report = grade(asked(tapped(5.0, 14), THREAD), {"p.step": tapped(diameter, depth)}, tolerance=TOLERANCE)
    row = report.checks[0]
    assert (row.required, row.verdict, row.measured) == ("M6, 12 mm deep", verdict, measured)
    assert (row.cause.text if row.cause else None) == cause


def test_a_thread_of_no_table_and_one_on_a_flat_are_refused() -> None:
    for wrong, says in (
        ({"thread": "M7"}, "no thread 'M7'"),
        ({"of": {"plane": {"point": [0, 0, 0], "normal": [0, 0, 1]}}}, "round wall"),
    ):
        with pytest.raises(InvalidDocument, match=says):
            grade(asked(tapped(5.0, 14), {**THREAD, **wrong}), {"p.step": tapped(5.0, 14)}, tolerance=TOLERANCE)


def test_a_part_is_said_by_its_thickness_steps_and_slots_and_not_from_a_hole() -> None:
    guide = Box(90, 40, 10, align=CORNER) + Box(90, 8, 30, align=CORNER)
    guide -= Pos(39, 0, 20) * Box(12, 8, 10, align=CORNER)
    guide -= [Pos(x, 26, 0) * Cylinder(3.3, 100) for x in (15, 75)]
    part = {dimension["title"]: dimension["nominal"] for dimension in dimensions("p", features(guide), TOLERANCE)}
    assert part == {
        "Length": 90, "Width": 40, "Height": 30, "Bore Ø6.6": 6.6, "Number of Ø6.6": 2, "Slot width": 12,
        "Thickness at the bottom": 10, "Thickness at the front": 8, "Step from the bottom": 20,
        "Step from the left": 51, "Ø6.6 from the left": 15, "Ø6.6 from the back": 14,
        "Ø6.6 from the left, back right": 75, "Ø6.6 from the back, back right": 14, "Ø6.6 through": 1,
    }  # fmt: skip
