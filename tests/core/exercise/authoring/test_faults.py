"""Faults of the sheet, planted one by one. Values of the trade: common practice, no source."""

import json
from typing import Any

import pytest
from build123d import Align, Box, Cylinder, Pos

from rigid_bench.core.exercise.authoring.faults import find_faults
from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.demo import weather_mast
from rigid_bench.demo.modelling import json_bytes, step_bytes
from tests.support.samples import bundle_of
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

FOOT = (Align.CENTER, Align.CENTER, Align.MIN)


def block(*, wall: float = 4.0, hole_at: float = 0.0) -> Any:
    """40 x 30 x 20, a pocket that leaves a wall, and a hole of 6 through its floor."""
    solid = Box(40, 30, 20, align=FOOT) - Pos(0, 0, wall) * Box(40 - 2 * wall, 30 - 2 * wall, 40, align=FOOT)
    return solid - Pos(hole_at, 0, -1) * Cylinder(3, 40)


def faults(
    shape: Any, *, process: str | None = "printed", pin: float | None = None, name: str = "Pin", origin: str = "made"
) -> list[str]:
    parts = [{"id": "block", "name": "Block", "file": "block.step", "process": process}]
    files = {"block.step": step_bytes(shape, "Block")}
    instances = [{"id": "block-1", "part": "block", "grounded": True,
                  "pose": {"position": [0, 0, 0], "quaternion": [1, 0, 0, 0]}}]  # fmt: skip
    if pin is not None:
        parts.append({"id": "pin", "name": name, "file": "pin.step", "origin": origin})
        ring = Cylinder(pin / 2, 8) - Cylinder(1, 20) if origin == "bought" else Cylinder(pin / 2, 30)
        files["pin.step"] = step_bytes(ring, name)
        instances.append({"id": "pin-1", "part": "pin", "grounded": False,
                          "pose": {"position": [0, 0, 0], "quaternion": [1, 0, 0, 0]}})  # fmt: skip
    document = {"format": "rigid-bench/exercise", "version": 1, "id": "e", "title": "E", "checks": []}
    build = {"format": "rigid-bench/build", "version": 1, "units": "mm", "mates": []}
    bundle = {
        "exercise.json": json_bytes({**document, "parts": parts, "reference": "r.build.json"}),
        "r.build.json": json_bytes({**build, "parts": parts, "instances": instances}),
    }
    return find_faults(read_exercise({**bundle, **files}), tolerance=TOLERANCE)


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"shape": block()}, []),
        ({"shape": block(wall=0.8)}, ["thinner than what is printed (1.2 at least)"]),
        ({"shape": block(wall=0.8), "process": None}, []),
        ({"shape": block(hole_at=13.0)}, ["is 7 from an edge; 9 is usual"]),
        ({"shape": block(), "pin": 6.0}, ["printed parts need a gap"]),
        ({"shape": block(), "pin": 5.6}, []),
        ({"shape": block(), "pin": 6.0, "process": "turned"}, []),
        ({"shape": block(), "pin": 6.4}, ["overlap in the model"]),
        ({"shape": block(), "pin": 5.6, "name": "Bearing", "origin": "bought"}, ["no bearing in the tables"]),
    ],
    ids=[
        "sound",
        "thin wall",
        "thin, no process",
        "near an edge",
        "no gap",
        "a gap",
        "turned",
        "overlap",
        "no bearing",
    ],
)
def test_each_fault_is_found_and_no_other(given: dict[str, Any], says: list[str]) -> None:
    reported = faults(**given)
    assert len(reported) == len(says), reported
    assert all(words in text for words, text in zip(says, reported, strict=True)), reported


def test_overlaps_that_are_declared_are_no_fault() -> None:
    bundle = bundle_of(weather_mast)
    assert not [fault for fault in find_faults(read_exercise(bundle), tolerance=TOLERANCE) if "overlap" in fault]
    document = json.loads(bundle["exercise.json"])
    for check in document["checks"]:
        check.pop("expected", None)
    open_ = read_exercise({**bundle, "exercise.json": json_bytes(document)})
    assert len([fault for fault in find_faults(open_, tolerance=TOLERANCE) if "overlap" in fault]) == 4
