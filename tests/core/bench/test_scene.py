"""The solved assembly as a scene: the same features as on the desk's lists, where the reference has its parts."""

import gzip
import json

import pytest

from rigid_bench.core.bench.scene import scene_of
from rigid_bench.core.exercise.authoring.pointable import pointables
from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.exercise.references import read_reference
from rigid_bench.demo import seed_drawer
from tests.support.samples import bundle_of
from tests.support.shapes import TOLERANCE


def test_a_scene_has_the_instances_where_the_reference_has_them() -> None:
    exercise = read_exercise(bundle_of(seed_drawer))
    data = scene_of(exercise, tolerance=TOLERANCE)
    assert data
    scene = json.loads(gzip.decompress(data))
    assert exercise.reference
    assert set(scene["placed"]) == {own.id for own in exercise.reference.instances}
    for own in exercise.reference.instances:
        assert scene["poses"][own.id][12:15] == pytest.approx(own.pose.position.tolist(), abs=1e-8)
        assert scene["placed"][own.id]["grounded"] == own.grounded
    for part in scene["parts"]:
        listed = pointables(read_reference(exercise, exercise.part(part["id"]), tolerance=TOLERANCE), mm=1.0)
        assert [feature["feature"] for feature in part["features"]] == [
            own.feature.model_dump(mode="json") for own in listed
        ], "a number means the same feature in the scene and in the lists"
        assert max(part["faces"]) < len(listed)
        assert len(part["triangles"]) == 3 * len(part["faces"])


def test_single_parts_have_none() -> None:
    bundle = {name: data for name, data in bundle_of(seed_drawer).items() if name != "reference.build.json"}
    document = json.loads(bundle["exercise.json"])
    document.pop("reference")
    document["checks"] = []
    document["stages"] = []
    assert (
        scene_of(read_exercise({**bundle, "exercise.json": json.dumps(document).encode()}), tolerance=TOLERANCE) is None
    )
