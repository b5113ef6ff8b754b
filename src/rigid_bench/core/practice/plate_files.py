"""The files of a drill about a plate, for who checks it by another road."""

import json
from typing import Any

from rigid_bench.core.exercise.bundle import FILE
from rigid_bench.core.formats.archive import write_zip
from rigid_bench.core.kernel.editing.plate_solid import plate_step
from rigid_bench.core.practice.drill import Drill
from rigid_bench.core.practice.plate import Hole, Plate
from rigid_bench.core.practice.plate_stack import PARTS


def files_of(drill: Drill) -> dict[str, bytes]:
    """Return `exercise.zip`, and `build.zip` where there is a build beside the sheet."""
    given = drill.given
    if "stack" in given:
        return _of_stack(given)
    wanted = _step(_plate(given["plate"]))
    files = {"exercise.zip": write_zip({FILE: json.dumps(given["exercise"]).encode(), "plate.step": wanted})}
    if "built" in given:
        files["build.zip"] = write_zip({"plate.step": _step(_plate(given["built"]))})
    return files


def _of_stack(given: dict[str, Any]) -> dict[str, bytes]:
    parts = {f"{part}.step": _step(_plate(given["stack"][part])) for part in PARTS}
    asked = {FILE: given["exercise"], "reference.build.json": given["reference"]}
    return {
        "exercise.zip": write_zip({name: json.dumps(own).encode() for name, own in asked.items()} | parts),
        "build.zip": write_zip({"stack.build.json": json.dumps(given["build"]).encode(), **parts}),
    }


def _plate(given: dict[str, Any]) -> Plate:
    return Plate(**{**given, "holes": tuple(Hole(**hole) for hole in given["holes"])})


def _step(plate: Plate) -> bytes:
    holes = [(hole.x, hole.y, hole.diameter, hole.depth) for hole in plate.holes]
    return plate_step((plate.length, plate.width, plate.thickness), holes, name="Plate")
