"""The parts list: bought-in sizes, the other hand, bodies for parts; nested parts; grounded and mated at once."""

import json
from typing import Any

import pytest
from build123d import Box, Compound, Cylinder, Pos

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.demo.modelling import Placed, assembly_bytes, json_bytes, step_bytes
from tests.support.shapes import TOLERANCE, handed_bracket, mirrored

pytestmark = pytest.mark.thorough

PLACES = {"bracket": (0, 0, 0), "bush": (60, 0, 0)}


def bush(outside: float = 12.0, chamfer: bool = False) -> Any:
    ring = Cylinder(outside / 2, 10) - Cylinder(4, 50)
    return ring.chamfer(0.5, None, [ring.edges()[0]]) if chamfer else ring


def bundle(*checks: dict[str, Any]) -> dict[str, bytes]:
    parts = [
        {"id": "bracket", "name": "Bracket", "file": "bracket.step"},
        {"id": "bush", "name": "Bush", "file": "bush.step", "origin": "bought"},
    ]
    document = {"format": "rigid-bench/exercise", "version": 1, "id": "e", "title": "E", "parts": parts}
    instances = [
        {"id": f"{part}-1", "part": part, "grounded": part == "bracket",
         "pose": {"position": at, "quaternion": [1, 0, 0, 0]}}
        for part, at in PLACES.items()
    ]  # fmt: skip
    build = {"format": "rigid-bench/build", "version": 1, "units": "mm", "parts": parts, "instances": instances}
    return {
        "exercise.json": json_bytes({**document, "reference": "r.build.json", "checks": list(checks)}),
        "r.build.json": json_bytes({**build, "mates": []}),
        "bracket.step": step_bytes(handed_bracket(), "Bracket"),
        "bush.step": step_bytes(bush(), "Bush"),
    }


def judged(step: bytes, check: dict[str, Any], build: dict[str, Any] | None = None) -> CheckResult:
    files = {"kit.step": step} | ({} if build is None else {"kit.build.json": json.dumps(build).encode()})
    exercise = read_exercise(bundle({"id": "x", "title": "X", "marks": 1, **check}))
    return grade(exercise, files, tolerance=TOLERANCE).checks[0]


def kit(bracket: Any = None, ring: Any = None, at: tuple[float, float, float] = (60, 0, 0)) -> bytes:
    placed = [Placed(name="Bracket", solid=bracket or handed_bracket())]
    placed.append(Placed(name="Bush", solid=ring or bush(), position=at))
    return assembly_bytes(placed, "Kit")


def bodies() -> bytes:
    return step_bytes(Compound([*handed_bracket().solids(), *(Pos(60, 0, 0) * bush()).solids()]), "Bodies")


@pytest.mark.parametrize(
    ("step", "more", "code", "says"),
    [
        (kit(), {"components": True}, None, ""),
        (kit(ring=bush(chamfer=True)), {}, None, ""),  # a bought-in part's edges may be drawn as one likes
        (kit(ring=bush(14)), {}, "bought-wrong-size", "14 mm where it should have 12 mm"),
        (kit(mirrored(handed_bracket())), {}, "mirrored", "Bracket is the mirror image"),
        (bodies(), {}, None, ""),
        (bodies(), {"components": True}, "bodies-for-parts", "are bodies of one part in your file"),
    ],
    ids=["right", "chamfered", "other size", "other hand", "bodies", "bodies where parts were asked"],
)
def test_the_parts_list_tells_parts_by_shape(step: bytes, more: dict[str, Any], code: str | None, says: str) -> None:
    result = judged(step, {"kind": "parts", **more})
    assert (result.cause.code if result.cause else None) == code
    assert result.verdict == ("missed" if code else "met")
    assert says in (result.cause.text if result.cause else "")


def test_a_part_wholly_within_another_is_named() -> None:
    block = Box(80, 80, 80)
    result = judged(assembly_bytes([
        Placed(name="Bracket", solid=handed_bracket()),
        Placed(name="Bush", solid=bush(), position=(60, 0, 0)),
        Placed(name="Block", solid=block, position=(60, 0, 0)),
    ], "Kit"), {"kind": "interference"})  # fmt: skip
    assert result.cause
    assert result.cause.code == "nested"
    assert "Bush lies wholly within Block" in result.cause.text


def test_grounded_and_mated_at_once_is_remarked_on() -> None:
    pose = {"position": [0, 0, 0], "quaternion": [1, 0, 0, 0]}
    build: dict[str, Any] = {
        "format": "rigid-bench/build", "version": 1, "units": "mm", "source": "kit.step",
        "parts": [{"id": place, "name": place.title(), "part": place.title()} for place in PLACES],
        "instances": [{"id": place, "part": place, "grounded": True,
                       "pose": {**pose, "position": at}} for place, at in PLACES.items()],
        "mates": [],
    }  # fmt: skip
    check = {"kind": "grounded", "instance": "bracket-1"}
    assert judged(kit(), check, build).measured == "Bracket grounded; Bush is grounded too"
    level = {"plane": {"point": [0, 0, 5], "normal": [0, 0, 1]}}
    build["mates"] = [{"id": "m", "kind": "parallel", "a": {"instance": "bracket", **level},
                       "b": {"instance": "bush", **level}}]  # fmt: skip
    result = judged(kit(), check, build)
    assert result.verdict == "met"
    assert "Bush is grounded and mated at once" in result.measured
