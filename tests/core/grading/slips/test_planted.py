"""Slips planted in a model's parameters, in every container a class hands in: the same checks fall."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cache
from typing import Any

import pytest
from build123d import Box, Cylinder, Pos, Rot, Solid
from OCP.ShapeUpgrade import ShapeUpgrade_ShapeDivideAngle, ShapeUpgrade_ShapeDivideArea

from rigid_bench.core.exercise.bundle import Exercise, read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.demo.modelling import cylinder, json_bytes, plane, step_bytes
from tests.support.shapes import TOLERANCE, inch_step

pytestmark = pytest.mark.thorough


@dataclass(frozen=True, kw_only=True)
class Sizes:
    """A bracket: a foot with two bores, a wall with an eye, mm."""

    length: float = 83.0
    width: float = 47.0
    foot: float = 7.0
    wall: float = 9.0
    height: float = 38.0
    bore: float = 6.4
    left: float = 31.0
    pitch: float = 29.0
    front: float = 19.0
    eye: float = 12.5
    eye_height: float = 24.0
    eye_front: float = 21.5


def bracket(s: Sizes) -> Any:
    own = Pos(s.length / 2, s.width / 2, s.foot / 2) * Box(s.length, s.width, s.foot)
    own += Pos(s.wall / 2, s.width / 2, s.height / 2) * Box(s.wall, s.width, s.height)
    bores = [Pos(s.left + k * s.pitch, s.front, 0) * Cylinder(s.bore / 2, 100) for k in range(2)]
    return own - [*bores, Pos(0, s.eye_front, s.eye_height) * Rot(0, 90, 0) * Cylinder(s.eye / 2, 100)]


@cache
def exercise() -> Exercise:
    s = Sizes()
    up, down = (0, 0, 1), (0, 0, -1)
    back, right, front = plane((0, 9, 9), (-1, 0, 0)), plane((s.length, 9, 3), (1, 0, 0)), plane((9, 0, 3), (0, -1, 0))
    side, bottom = plane((9, s.width, 3), (0, 1, 0)), plane((9, 9, 0), down)
    bore, other = (cylinder((s.left + k * s.pitch, s.front, 0), up, s.bore / 2) for k in range(2))
    eye = cylinder((0, s.eye_front, s.eye_height), (1, 0, 0), s.eye / 2)
    sizes: list[tuple[str, str, float, dict[str, Any]]] = [
        ("length", "length", s.length, {"between": [back, right]}),
        ("width", "length", s.width, {"between": [front, side]}),
        ("foot", "thickness", s.foot, {"between": [bottom, plane((50, 9, s.foot), up)]}),
        ("wall", "thickness", s.wall, {"between": [back, plane((s.wall, 9, 20), (1, 0, 0))]}),
        ("height", "length", s.height, {"between": [bottom, plane((4, 9, s.height), up)]}),
        ("bore", "diameter", s.bore, {"of": bore}),
        ("left", "position", s.left, {"between": [bore, back]}),
        ("pitch", "position", s.pitch, {"between": [bore, other], "axis": "x"}),
        ("front", "position", s.front, {"between": [bore, front]}),
        ("eye", "diameter", s.eye, {"of": eye}),
        ("eye-height", "position", s.eye_height, {"between": [eye, bottom]}),
        ("eye-front", "position", s.eye_front, {"between": [eye, front]}),
    ]
    base = {"kind": "dimension", "marks": 1, "part": "b"}
    checks = [{**base, "id": name, "title": name, "measure": m, "nominal": n, **more} for name, m, n, more in sizes]
    document = {"format": "rigid-bench/exercise", "version": 1, "id": "b", "title": "B", "checks": checks}
    part = {"id": "b", "name": "Bracket", "file": "b.step"}
    return read_exercise(
        {"exercise.json": json_bytes({**document, "parts": [part]}), "b.step": step_bytes(bracket(s), "B")}
    )


def split(shape: Any) -> Any:
    """The same solid with its round walls in quarters and its flat faces in pieces."""
    angle = ShapeUpgrade_ShapeDivideAngle(1.6, shape.solid().wrapped)
    angle.Perform()
    area = ShapeUpgrade_ShapeDivideArea(angle.Result())
    area.MaxArea = 900.0
    area.Perform()
    return Solid(area.Result())


CONTAINERS: dict[str, Callable[[Any], bytes]] = {
    "as drawn": lambda own: step_bytes(own, "Bracket"),
    "moved and renamed": lambda own: step_bytes(Pos(12, -70, 5) * Rot(31, 62, 127) * own, "Solid 1"),
    "in inches": lambda own: inch_step(Rot(90, 0, 90) * own, "x"),
    "faces in pieces": lambda own: step_bytes(Rot(0, 0, 45) * split(own), "Bracket"),
}
S = Sizes()
#: A wrong part, the checks that its slip reaches, and what is to be named for the first of them.
SLIPS = {
    "right": (S, (), None),
    "radius for diameter": (replace(S, bore=3.2), ("bore",), "radius-for-diameter"),
    "diameter for radius": (replace(S, eye=25.0, eye_height=24), ("eye",), None),
    "to the edge": (replace(S, left=S.left - S.bore / 2), ("left",), "edge-for-centre"),
    "from the other side": (replace(S, front=S.width - S.front), ("front",), "from-other-side"),
    "neighbour's value": (replace(S, wall=7.0), ("wall",), "neighbours-value"),
    "decimal point": (replace(S, foot=0.7), ("foot",), "decimal-point"),
    "a wall too little": (replace(S, length=S.length - S.wall), ("length",), "wall"),
    "any wrong value": (replace(S, pitch=30.37), ("pitch",), None),
}


@pytest.mark.parametrize("container", CONTAINERS)
@pytest.mark.parametrize("slip", SLIPS)
def test_the_same_checks_fall_in_every_container(slip: str, container: str) -> None:
    sizes, falls, code = SLIPS[slip]
    report = grade(exercise(), {"mine.step": CONTAINERS[container](bracket(sizes))}, tolerance=TOLERANCE)
    fallen = [check for check in report.checks if check.verdict != "met"]
    assert [result.id for result in fallen] == list(falls)
    if code:
        assert fallen[0].cause
        assert fallen[0].cause.code == code
