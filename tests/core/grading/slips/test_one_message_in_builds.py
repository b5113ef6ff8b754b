"""One slip, one message in a build: a wrong size that shifts a mate, a missing part, a mate that does not hold."""

import copy
import json
from functools import cache
from typing import Any

import pytest
from build123d import Align, Box, Cylinder, Pos

from rigid_bench.core.exercise.authoring.propose import propose
from rigid_bench.core.exercise.bundle import Exercise, read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import Report
from rigid_bench.demo.modelling import Placed, assembly_bytes, json_bytes, step_bytes
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

CORNER, FOOT = (Align.MIN,) * 3, (Align.CENTER, Align.CENTER, Align.MIN)


def solids(*, long: float = 30, thick: float = 10) -> dict[str, Any]:
    """A plate with a bore, a peg that runs in it and stands up from its head, and a cap on the peg's end."""
    plate = Box(60, 40, 10, align=CORNER) - Pos(20, 20, 0) * Cylinder(5.2, 50)
    peg = Cylinder(9, 5, align=FOOT) + Pos(0, 0, 5) * Cylinder(thick / 2, long, align=FOOT)
    return {"Plate": plate, "Peg": peg, "Cap": Box(30, 24, 6, align=CORNER)}


@cache
def proposed() -> tuple[Exercise, dict[str, Any]]:
    """The exercise as it is proposed, and its reference build."""
    places = {"Plate": (0.0, 0.0, 0.0), "Peg": (20.0, 20.0, -5.0), "Cap": (10.0, 8.0, 30.0)}
    parts = [Placed(name=name, solid=solid, position=places[name]) for name, solid in solids().items()]
    bundle = propose(assembly_bytes(parts, "Post"), name="post.step", title="Post", tolerance=TOLERANCE)
    return read_exercise(bundle), json.loads(bundle["reference.build.json"])


def graded(build: dict[str, Any] | None = None, /, **sizes: float) -> Report:
    exercise, reference = proposed()
    own = solids(**sizes)
    files = {part["file"]: step_bytes(own[part["name"]], part["name"]) for part in reference["parts"]}
    return grade(exercise, {**files, "my.build.json": json_bytes(build or reference)}, tolerance=TOLERANCE)


def told(report: Report) -> list[tuple[str, str | None]]:
    fallen = (check for check in report.checks if check.verdict != "met" and not check.follows)
    return [(check.id, check.cause.code if check.cause else None) for check in fallen]


def test_the_right_build_is_right() -> None:
    assert (graded().percent, told(graded()), graded().notices) == (100, [], [])


@pytest.mark.parametrize("sizes", [{"long": 25.0}, {"thick": 10.8}])
def test_a_mate_and_a_clearance_that_a_wrong_size_upsets_follow_it(sizes: dict[str, float]) -> None:
    report = graded(None, **sizes)
    assert [name.split(".")[0] for name, _ in told(report)] == ["peg"]
    assert any(check.follows and check.kind in ("relation", "gap") for check in report.checks)
    assert report.available - report.awarded == 1


def test_a_part_that_stands_nowhere_is_told_once_and_earns_nothing() -> None:
    build = copy.deepcopy(proposed()[1])
    build["instances"] = [instance for instance in build["instances"] if instance["id"] != "peg-1"]
    build["mates"] = [mate for mate in build["mates"] if "peg-1" not in (mate["a"]["instance"], mate["b"]["instance"])]
    report = graded(build)
    assert ("parts", "part-missing") in told(report)
    assert [code for _, code in told(report)].count("part-missing") == 1
    gone = [check for check in report.checks if check.measured == "not in the build"]
    assert len(gone) >= 3
    assert {(check.follows, check.awarded) for check in gone} == {("parts", 0)}


def test_a_mate_that_does_not_hold_is_noticed() -> None:
    build = copy.deepcopy(proposed()[1])
    frame = {"origin": [0, 0, 0], "z": [0, 0, 1], "x": [1, 0, 0]}
    sides = {side: {"instance": name, "frame": frame} for side, name in (("a", "plate-1"), ("b", "cap-1"))}
    build["mates"].append({"id": "by mistake", "kind": "fixed", **sides})
    (notice,) = graded(build).notices
    assert (notice.code, notice.params["mate"]) == ("mate-does-not-hold", "by mistake")


@pytest.mark.parametrize("with_mates", [True, False])
def test_parts_that_were_never_put_in_place_are_told_once_and_earn_nothing_for_it(with_mates: bool) -> None:
    build = copy.deepcopy(proposed()[1])
    for instance in build["instances"]:
        instance["pose"] = {"position": [0, 0, 0], "quaternion": [1, 0, 0, 0]}
    build["mates"] = build["mates"] if with_mates else []
    report = graded(build)
    assert [code for _, code in told(report)] == ["left-at-origin"]
    (root,) = (check for check in report.checks if check.cause and check.cause.code == "left-at-origin")
    assert root.cause is not None
    assert "Peg" in root.cause.text
    assert "Cap" in root.cause.text
    relations = [check for check in report.checks if check.kind == "relation" and check.follows]
    assert relations
    assert {check.awarded for check in relations} == {0}


def test_a_shoulder_that_a_doubled_size_takes_away_follows_it() -> None:
    """The peg is as thick as twice what was asked, and so is thicker than its own head."""
    report = graded(None, thick=20.0)
    assert [code for _, code in told(report)] == ["double"]
