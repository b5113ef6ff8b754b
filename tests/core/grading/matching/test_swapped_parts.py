"""Parts that were swapped, in name or place, and parts that were joined."""

from typing import Any

import pytest
from build123d import Box, Cylinder, Pos, Rot

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import Report
from rigid_bench.demo.modelling import Placed, assembly_bytes, json_bytes, plane, step_bytes
from tests.support.shapes import TOLERANCE, step

pytestmark = pytest.mark.thorough


def base() -> Any:
    return Box(90, 50, 8) - Pos(30, 15) * Cylinder(3, 20)


def arm(holes: int) -> Any:
    """Two variants that differ by one hole."""
    return Box(12, 30, 40) - [Pos(0, 0, 10 * k) * Rot(0, 90, 0) * Cylinder(2, 20) for k in range(holes)]


PLACES = {"left": (-30, 0, 24), "right": (30, 0, 24)}


def bundle() -> dict[str, bytes]:
    shapes = {"base": base(), "left": arm(1), "right": arm(2)}
    names = {"base": "Base", "left": "Left arm", "right": "Right arm"}
    placed = {"base": (0, 0, 0), **PLACES}
    poses = {part: {"position": at, "quaternion": [1, 0, 0, 0]} for part, at in placed.items()}
    instances = [{"id": f"{part}-1", "part": part, "grounded": part == "base", "pose": poses[part]} for part in placed]
    parts = [{"id": part, "name": name, "file": f"{part}.step"} for part, name in names.items()]
    seats = [
        {
            "id": f"{part}.seat",
            "title": f"{names[part]} seat",
            "kind": "relation",
            "marks": 1,
            "relation": "distance",
            "value": -39 - at[0],
            "sense": "aligned",
            "a": {"instance": "base-1", **plane((-45, 0, 0), (-1, 0, 0))},
            "b": {"instance": f"{part}-1", **plane((-6, 0, 0), (-1, 0, 0))},
        }
        for part, at in PLACES.items()
    ]
    checks = [{"id": "parts", "title": "Parts", "kind": "parts", "marks": 1}, *seats]
    build = {"format": "rigid-bench/build", "version": 1, "parts": parts, "instances": instances, "mates": []}
    document = {"format": "rigid-bench/exercise", "version": 1, "id": "arms", "title": "Arms"}
    return {
        "exercise.json": json_bytes({**document, "reference": "r.build.json", "parts": parts, "checks": checks}),
        "r.build.json": json_bytes({**build, "units": "mm"}),
        **{f"{part}.step": step_bytes(shape, names[part]) for part, shape in shapes.items()},
    }


def graded(data: bytes) -> Report:
    return grade(read_exercise(bundle()), {"mine.step": data}, tolerance=TOLERANCE)


def build(left: int, right: int, names: tuple[str, str] = ("Left arm", "Right arm")) -> bytes:
    arms = [(arm(left), names[0], PLACES["left"]), (arm(right), names[1], PLACES["right"])]
    placed = [Placed(solid=solid.solid(), name=name, position=Pos(*at)) for solid, name, at in arms]
    return assembly_bytes([Placed(solid=base().solid(), name="Base", position=Pos(0, 0, 0)), *placed], "Kit")


def test_two_arms_in_each_others_place_are_said_to_be_swapped() -> None:
    assert [check.verdict for check in graded(build(1, 2)).checks] == ["met"] * 3
    results = graded(build(2, 1, ("Part 7", "Part 9"))).checks
    assert [result.verdict for result in results] == ["met", "missed", "missed"]
    assert results[1].cause
    assert results[1].cause.code == "swapped"
    assert "Left arm and Right arm are swapped" in results[1].cause.text


def test_two_names_that_are_swapped_are_a_remark_and_cost_nothing() -> None:
    report = graded(build(1, 2, ("Right arm", "Left arm")))
    assert [check.verdict for check in report.checks] == ["met"] * 3
    assert "'Left arm' and 'Right arm' are swapped: each has the other's shape or name." in report.warnings


@pytest.mark.parametrize("pose", [Pos(0, 0, 0), Pos(4, 5, 6) * Rot(10, 20, 30)])
def test_an_arm_joined_with_the_base_is_said_to_be_one_body_with_it(pose: Any) -> None:
    joined = base() + Pos(*PLACES["left"]) * arm(1)
    results = graded(step(pose * joined, "Base")).checks
    assert results[0].cause
    assert (results[0].cause.code, "Left arm was joined with Base" in results[0].cause.text) == ("merged", True)


def test_a_stray_duplicate_in_the_place_of_another_is_named() -> None:
    arms = [
        (arm(1), "Left arm", PLACES["left"]),
        (arm(2), "Right arm", PLACES["right"]),
        (arm(1), "Left arm", PLACES["left"]),
    ]
    placed = [Placed(name="Base", solid=base()), *(Placed(name=n, solid=solid, position=at) for solid, n, at in arms)]
    result = graded(assembly_bytes(placed, "Kit")).checks[0]
    assert result.cause
    assert (result.verdict, result.cause.code) == ("missed", "duplicate")
    assert "Left arm is there twice" in result.cause.text
