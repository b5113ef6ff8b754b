"""What a bench holds as files for other programs, read back by other programs."""

import io

import mujoco  # type: ignore[import-untyped]
import numpy as np
import pytest
import trimesh

from rigid_bench.core.bench import out
from rigid_bench.core.bench.documents import BenchState
from rigid_bench.core.bench.parts import shapes_of
from rigid_bench.core.bench.step_out import step_of_bench
from rigid_bench.core.bench.work import place
from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.kernel.step_file import read_step
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.demo import weather_mast
from tests.core.bench.mast import assembled, loose
from tests.support.samples import bundle_of
from tests.support.shapes import TOLERANCE


def test_what_it_holds_goes_out_as_gltf_and_urdf() -> None:
    """glTF is read back by trimesh, URDF by MuJoCo: another program's view of the same build."""
    state, parts = assembled(), loose()
    scene = trimesh.load(io.BytesIO(out.gltf(state, parts)), file_type="gltf")
    heights = np.array(scene.bounds)[:, 1]  # metres, y upwards
    assert heights == pytest.approx([0, 0.22], abs=1e-4)
    joints = out.joints_of(state, tolerance=TOLERANCE)
    assert {name: (carrier, kind) for name, (carrier, kind, _) in joints.items()} == {
        "mast-1": ("base-1", "fixed"),
        "collar-1": ("mast-1", "floating"),
        "vane-1": ("collar-1", "continuous"),
    }
    files = out.urdf(state, parts, joints)
    assert set(files) == {"bench.urdf", "base.stl", "mast.stl", "collar.stl", "vane.stl"}
    text = files["bench.urdf"].decode().replace('type="floating"', 'type="fixed"')  # MuJoCo frees bodies otherwise
    model = mujoco.MjModel.from_xml_string(text, {name: data for name, data in files.items() if name != "bench.urdf"})
    data = mujoco.MjData(model)
    mujoco.mj_forward(model, data)
    assert model.njnt == 1
    assert model.jnt_type[0] == mujoco.mjtJoint.mjJNT_HINGE
    assert data.xaxis[0] == pytest.approx([0, 0, 1], abs=1e-9)


def test_it_goes_out_as_a_step_assembly_and_comes_back_as_it_stood() -> None:
    state = assembled()
    shapes = shapes_of(read_exercise(bundle_of(weather_mast)), None, tolerance=TOLERANCE)
    names = {part.id: part.name for part in loose().parts}
    state = place(place(state, loose(), "screw"), loose(), "screw")
    model = read_step(step_of_bench(state, shapes, names), name="bench.step")
    assert [part.name for part in model.parts] == ["Base", "Mast", "Collar", "Vane", "Screw M5 x 16"]
    assert [instance.name for instance in model.instances] == [instance.id for instance in state.placed]
    for mine, theirs in zip(state.placed, model.instances, strict=True):
        assert mine.pose.is_close(theirs.pose, mm=1e-6, rad=1e-9)
    with pytest.raises(FormRejected, match="no part is placed"):
        step_of_bench(BenchState(), shapes, names)
