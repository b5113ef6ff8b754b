"""Whether a screw reaches, and whether its tip is clear, on the weather mast: M5 x 16 through 8 mm into the base."""

import json
from dataclasses import replace
from typing import Any

import pytest
from build123d import Align, Box, Cylinder, Pos, Rot, Solid

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.kernel.step_file import read_step
from rigid_bench.demo import weather_mast
from rigid_bench.demo.modelling import Placed, assembly_bytes, cylinder, step_bytes
from tests.support.samples import bundle_of, files_of
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

FOOT = (Align.CENTER, Align.CENTER, Align.MIN)
RIGHT = weather_mast.SAMPLES[0]
SHANK = cylinder((0, 0, -8), (0, 0, 1), 2.5)["cylinder"]
SCREW = {"kind": "stack", "instance": "screw-1", "of": SHANK, "into": "base-1"}


def graded(check: dict[str, Any], *, lift: float = 0.0) -> CheckResult:
    """Judge one check on the right build, or with all that stands on the base lifted, the screws not."""
    bundle = bundle_of(weather_mast)
    document = json.loads(bundle["exercise.json"])
    document |= {"checks": [{"id": "x", "title": "X", "marks": 1, **check}], "stages": []}
    exercise = read_exercise({**bundle, "exercise.json": json.dumps(document).encode()})
    return grade(exercise, replace(RIGHT, lift=lift).files(), tolerance=TOLERANCE).checks[0]


@pytest.mark.parametrize(
    ("check", "verdict", "measured"),
    [
        ({"min": 5}, "met", "8 mm (16 long: 8 in Base + 8 in Mast)"),
        ({"min": 10}, "missed", "8 mm (16 long: 8 in Base + 8 in Mast)"),
        ({"into": "mast-1", "min": 7, "max": 9}, "met", "8 mm (16 long: 8 in Base + 8 in Mast)"),
        ({"measure": "tip", "min": 1}, "met", "2 mm (8 in Base + 8 in Mast)"),
        ({"measure": "tip", "min": 3}, "missed", "2 mm (8 in Base + 8 in Mast)"),
    ],
)
def test_the_lengths_along_a_screw_are_added_up(check: dict[str, Any], verdict: str, measured: str) -> None:
    result = graded({**SCREW, **check})
    assert (result.verdict, result.measured) == (verdict, measured)


def test_a_flange_that_stands_off_leaves_less_of_the_screw_in_it() -> None:
    result = graded({**SCREW, "into": "mast-1", "min": 8}, lift=3.0)
    assert (result.verdict, result.measured) == ("missed", "5 mm (16 long: 8 in Base + 5 in Mast)")
    assert "3 mm short" in result.next_step


@pytest.mark.parametrize(
    ("check", "lift", "verdict", "measured"),
    [
        ({"measure": "seat", "into": "mast-1", "max": 0.05}, 0.0, "met", "0 mm (8 in Base + 8 in Mast)"),
        ({"measure": "grip", "min": 7, "max": 9}, 0.0, "met", "8 mm (8 in Base + 8 in Mast)"),
        ({"measure": "beyond", "min": 0}, 0.0, "missed", "-2 mm (8 in Base + 8 in Mast)"),
        ({"measure": "beyond", "into": "mast-1", "min": 0}, 0.0, "met", "8 mm (8 in Base + 8 in Mast)"),
        ({"measure": "crossing", "min": 1}, 0.0, "met", "no bore crosses"),
    ],
)
def test_a_screw_sits_grips_and_comes_out(check: dict[str, Any], lift: float, verdict: str, measured: str) -> None:
    result = graded({**SCREW, **check}, lift=lift)
    assert (result.verdict, result.measured) == (verdict, measured)


def test_a_lifted_head_and_a_crossing_bore_are_measured() -> None:
    """A peg of Ø6 with a head, 4 mm off its block, its tip 5 mm short of a bore of Ø8 that crosses 31 below."""
    block = Pos(0, 0, -20) * Box(30, 30, 40) - Pos(0, 0, -25) * Cylinder(3.1, 30, align=FOOT)
    block -= Pos(0, 0, -31) * Rot(0, 90, 0) * Cylinder(4, 100)
    peg = Pos(0, 0, -26) * Cylinder(3, 26, align=FOOT) + Cylinder(6, 3, align=FOOT)
    shapes = {"block": block, "peg": peg}
    parts = [{"id": shape, "name": shape.title(), "file": f"{shape}.step"} for shape in shapes]

    def build(lift: float) -> bytes:
        places = {"block": (0, 0, 0), "peg": (0, 0, lift)}
        instances = [{"id": f"{part}-1", "part": part, "grounded": part == "block",
                      "pose": {"position": at, "quaternion": [1, 0, 0, 0]}} for part, at in places.items()]  # fmt: skip
        head = {"format": "rigid-bench/build", "version": 1, "units": "mm", "parts": parts}
        return json.dumps({**head, "instances": instances, "mates": []}).encode()

    files = {f"{name}.step": step_bytes(shape, name.title()) for name, shape in shapes.items()}
    shank = cylinder((0, 0, -10), (0, 0, 1), 3)["cylinder"]
    asked = {"kind": "stack", "instance": "peg-1", "of": shank, "into": "block-1", "marks": 1}
    checks = [
        {**asked, "id": measure, "title": measure, "measure": measure, "min": 0, "max": 9}
        for measure in ("seat", "crossing")
    ]
    document = {"format": "rigid-bench/exercise", "version": 1, "id": "e", "title": "E", "parts": parts}
    bundle = {"exercise.json": json.dumps({**document, "reference": "r.build.json", "checks": checks}).encode()}
    exercise = read_exercise({**bundle, **files, "r.build.json": build(0)})
    results = grade(exercise, {**files, "b.build.json": build(4)}, tolerance=TOLERANCE).checks
    assert [result.measured.split(" (")[0] for result in results] == ["4 mm", "5 mm"]


@pytest.mark.parametrize(
    ("ring", "hub", "verdict", "says"),
    [
        ("inner", 12.0, "met", "Ø8 mm to Ø12 mm"),
        ("inner", 20.0, "missed", "both-rings"),
        ("outer", 12.0, "missed", "both-rings"),
    ],
)
def test_a_shoulder_touches_one_ring_of_a_bearing(ring: str, hub: float, verdict: str, says: str) -> None:
    """A 608: 8 x 22 x 7 (ISO 15); the mast's shoulder of Ø12 stands under its inner ring."""
    bundle = bundle_of(weather_mast)
    check = {
        "id": "x",
        "title": "X",
        "marks": 1,
        "kind": "ring",
        "instance": "mast-1",
        "bearing": "bearing-1",
        "ring": ring,
    }
    document = json.loads(bundle["exercise.json"]) | {"checks": [check], "stages": []}
    files = files_of(RIGHT)
    if hub != 12.0:
        solids = {part.name: Solid(part.shape) for part in read_step(files["mast.step"], name="mast.step").parts}
        wide = solids["Mast"] + Pos(0, 0, 200) * Cylinder(hub / 2, 1, align=FOOT)
        placed = [
            Placed(name="Mast", solid=wide, position=(0, 0, 12)),
            Placed(name="Bearing 608", solid=solids["Bearing 608"], position=(0, 0, 213)),
        ]
        files = {"a.step": assembly_bytes(placed, "Kit")}
    exercise = read_exercise({**bundle, "exercise.json": json.dumps(document).encode()})
    result = grade(exercise, files, tolerance=TOLERANCE).checks[0]
    assert result.verdict == verdict, result
    assert says in (result.measured if verdict == "met" else str(result.cause and result.cause.code))
