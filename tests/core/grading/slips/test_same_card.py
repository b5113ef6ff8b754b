"""The same build moved, renamed, in other files or another unit gets the same card."""

import json
from collections.abc import Mapping
from types import ModuleType
from typing import Any

import numpy as np
import pytest
from build123d import Solid
from scipy.spatial.transform import Rotation

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import Report
from rigid_bench.core.kernel.step_file import read_step
from rigid_bench.core.values.frames import Pose
from rigid_bench.demo import drill_jig, pedal_bin, seed_drawer, weather_mast
from rigid_bench.demo.modelling import step_bytes
from tests.support.samples import bundle_of, files_of
from tests.support.shapes import TOLERANCE, inch_step

pytestmark = pytest.mark.thorough

WORLD = Pose(Rotation.from_rotvec([0.3, -0.8, 1.9]).as_matrix(), np.array([120.0, -40, 15]))
CASES = [
    (drill_jig, "jig-dowel-slides"),
    (seed_drawer, "right"),
    (seed_drawer, "radius-for-diameter"),
    (pedal_bin, "bin-joint-short"),
    (weather_mast, "mast-vane-loose"),
]


def build_of(files: Mapping[str, bytes]) -> dict[str, Any]:
    return dict(json.loads(next(data for name, data in files.items() if name.endswith(".build.json"))))


def one_file_a_part(files: Mapping[str, bytes], *, inch: bool = False, names: str = "{}") -> dict[str, bytes]:
    """Each part in a file of its own, as the build names it."""
    document = build_of(files)
    model = read_step(next(data for name, data in files.items() if name.endswith(".step")), name="x.step")
    shapes = {part.name: part.shape for part in model.parts}
    write, written = (inch_step if inch else step_bytes), {}
    for part in document["parts"]:
        shape, part["name"] = shapes[part.pop("part", part["name"])], names.format(part["name"])
        part["file"] = f"{part['id']}.step"
        written[part["file"]] = write(Solid(shape), part["name"])
    document.pop("source", None)
    return {**written, "b.build.json": json.dumps(document).encode()}


def moved(files: Mapping[str, bytes]) -> dict[str, bytes]:
    written = one_file_a_part(files)
    document = json.loads(written["b.build.json"])
    for instance in document["instances"]:
        pose = WORLD @ Pose.from_quaternion(instance["pose"]["position"], instance["pose"]["quaternion"])
        instance["pose"] = {"position": pose.position.tolist(), "quaternion": pose.quaternion()}
    return {**written, "b.build.json": json.dumps(document).encode()}


def in_inches(files: Mapping[str, bytes]) -> dict[str, bytes]:
    """Shapes and build file in inches: every length of the build divided by 25.4."""
    written = one_file_a_part(files, inch=True)

    def shrunk(value: Any, key: str = "") -> Any:
        if isinstance(value, dict):
            return {name: shrunk(item, name) for name, item in value.items()}
        if isinstance(value, list) and key in ("position", "point", "origin"):
            return [number / 25.4 for number in value]
        if isinstance(value, list):
            return [shrunk(item) for item in value]
        return value / 25.4 if key in ("value", "offset", "radius") else value

    document = shrunk(json.loads(written["b.build.json"]))
    return {**written, "b.build.json": json.dumps({**document, "units": "in"}).encode()}


def card(module: ModuleType, files: Mapping[str, bytes], **more: Any) -> Report:
    bundle = bundle_of(module)
    document = json.loads(bundle["exercise.json"]) | more
    return grade(read_exercise({**bundle, "exercise.json": json.dumps(document).encode()}), files, tolerance=TOLERANCE)


def rows(report: Report) -> list[tuple[str, str, float, str]]:
    return [
        (check.id, check.verdict, check.awarded, check.cause.code if check.cause else "") for check in report.checks
    ]


@pytest.mark.parametrize(("module", "name"), CASES, ids=[name for _, name in CASES])
def test_another_file_place_name_or_unit_changes_nothing(module: ModuleType, name: str) -> None:
    files = files_of(next(sample for sample in module.SAMPLES if sample.name == name))
    wanted = rows(card(module, files))
    assert rows(card(module, one_file_a_part(files))) == wanted
    assert rows(card(module, one_file_a_part(files, names="Body of {} (2)"))) == wanted
    assert rows(card(module, moved(files), grounding=["declared"])) == rows(card(module, files, grounding=["declared"]))
    assert rows(card(module, in_inches(files))) == wanted
