"""The bench: parts brought in and mated until only the wanted motions are left; dragging, nudging, suggestions."""

import io
import json
import math
from functools import cache

import mujoco  # type: ignore[import-untyped]
import numpy as np
import pytest
import trimesh

from rigid_bench.core.assembly.build import LimitsModel, OperandModel, read_build
from rigid_bench.core.assembly.freedom_report import freedom_report
from rigid_bench.core.bench import out, work
from rigid_bench.core.bench.documents import BenchMate, BenchParts, BenchState
from rigid_bench.core.bench.parts import handed_parts, supplied_parts
from rigid_bench.core.errors import FormRejected
from rigid_bench.core.exercise.exercise import read_exercise
from rigid_bench.demo import pedal_bin, seed_drawer, weather_mast
from tests.shapes import TOLERANCE


@cache
def loose() -> BenchParts:
    return supplied_parts(read_exercise(weather_mast.bundle()), tolerance=TOLERANCE)


@cache
def handed(module: object) -> BenchParts:
    files = module.SAMPLES[0].files()  # type: ignore[attr-defined]
    return handed_parts({name: data for name, data in files.items() if name.endswith(".step")}, tolerance=TOLERANCE)


def at(parts: BenchParts, instance: str, words: str) -> str:
    """Find a feature by its words, as a student reads them."""
    part = next(each for each in parts.parts if each.id == instance.rsplit("-", 1)[0])
    number = next(k for k, each in enumerate(part.features) if each.words == words)
    return f"{instance}:{number}"


def mated(state: BenchState, a: tuple[str, str], b: tuple[str, str], doing: str, **more: object) -> BenchState:
    parts = loose()
    return work.mate(state, parts, a=at(parts, *a), b=at(parts, *b), doing=doing, tolerance=TOLERANCE, **more)  # type: ignore[arg-type]


#: The mast on its base, the collar, the vane and the rotor: what stands, what comes, on which axis and seat.
STEPS = [
    ("mast", ("base-1", "Ø4 hole, x = 22, y = 0"), ("mast-1", "Ø4 hole, x = 22, y = 0"), "share an axis"),
    ("", ("base-1", "Ø4 hole, x = -22, y = 0"), ("mast-1", "Ø4 hole, x = -22, y = 0"), "share an axis"),
    ("", ("base-1", "top face, z = 12"), ("mast-1", "bottom face, z = 0"), "faces meet"),
    ("collar", ("mast-1", "Ø20 round, x = 0, y = 0"), ("collar-1", "Ø20.4 hole, x = 0, y = 0"), "share an axis"),
    ("vane", ("collar-1", "Ø20.4 hole, x = 0, y = 0"), ("vane-1", "Ø20.4 hole, x = 0, y = 0"), "share an axis"),
    ("", ("collar-1", "top face, z = 20"), ("vane-1", "bottom face, z = 0"), "faces meet"),
]


@cache
def assembled() -> BenchState:
    state = work.ground(work.place(BenchState(), loose(), "base"), "base-1")
    for part, a, b, doing in STEPS:
        if part:
            state = work.place(state, loose(), part)
        state = mated(state, a, b, doing)
    return state


def test_parts_come_as_many_as_are_asked_for_and_stand_apart() -> None:
    state = BenchState()
    for _ in range(4):
        state = work.place(state, loose(), "screw")
    assert [each.id for each in state.placed] == ["screw-1", "screw-2", "screw-3", "screw-4"]
    assert np.diff([each.position[0] for each in state.placed]).min() > 8.5 + 9
    assert work.left_over(state, loose())["screw"] == 0
    with pytest.raises(FormRejected, match="none of it is left"):
        work.place(state, loose(), "screw")


def test_each_mate_takes_away_what_the_core_says() -> None:
    state = work.ground(work.place(BenchState(), loose(), "base"), "base-1")
    seen = []
    for part, a, b, doing in STEPS:
        if part:
            state = work.place(state, loose(), part)
        state = mated(state, a, b, doing)
        found = work.answer(state, tolerance=TOLERANCE)
        seen.append(found.instances[b[0]].degrees)
        report = freedom_report(
            read_build(json.dumps(state.build_document(loose())).encode(), name="b"), tolerance=TOLERANCE
        )
        assert {k: v.degrees for k, v in found.instances.items()} == {k: v.degrees for k, v in report.instances.items()}
        assert report.satisfied
    assert seen == [2, 1, 0, 2, 2, 2]
    assert found.mobility == 3


def test_the_part_that_stands_stays_and_the_other_comes() -> None:
    state = assembled()
    mast, vane = state.instance("mast-1"), state.instance("vane-1")
    assert mast
    assert vane
    assert mast.position == pytest.approx([0, 0, 12], abs=1e-6)
    collar = state.instance("collar-1")
    assert collar
    assert vane.position[2] - collar.position[2] == pytest.approx(20, abs=1e-6)


def test_what_two_features_can_do_begins_with_the_nearest() -> None:
    state, parts = assembled(), loose()
    top, under = at(parts, "base-1", "top face, z = 12"), at(parts, "mast-1", "bottom face, z = 0")
    assert work.can_do(state, parts, top, under)[0] == "faces meet"
    assert work.can_do(state, parts, top, at(parts, "mast-1", "top face, z = 8"))[0] == "faces level"
    assert work.can_do(state, parts, top, at(parts, "mast-1", "Ø20 round, x = 0, y = 0"))[0] == "touch all along"
    assert work.can_do(state, parts, top, at(parts, "base-1", "bottom face, z = 0")) == []
    with pytest.raises(FormRejected):
        work.mate(state, parts, a=top, b=under, doing="share an axis", tolerance=TOLERANCE)
    with pytest.raises(FormRejected):
        work.mate(state, parts, a="base-1:999", b=under, doing="faces meet", tolerance=TOLERANCE)


def test_a_flip_turns_it_over_and_a_gap_keeps_its_value() -> None:
    parts = loose()
    state = work.place(work.ground(work.place(BenchState(), parts, "base"), "base-1"), parts, "collar")
    a, b = ("base-1", "top face, z = 12"), ("collar-1", "bottom face, z = 0")
    met, over = mated(state, a, b, "faces meet"), mated(state, a, b, "faces meet", flipped=True)
    for found, way in ((met, 1.0), (over, -1.0)):
        collar = found.instance("collar-1")
        assert collar
        assert collar.pose.direction([0, 0, 1])[2] == pytest.approx(way)
    gap = mated(state, a, b, "keep a gap", value=2.5).instance("collar-1")
    assert gap
    assert gap.position[2] == pytest.approx(14.5)


def test_a_mate_that_clashes_is_kept_and_named_and_nothing_moves() -> None:
    state = assembled()
    clash = mated(state, ("base-1", "top face, z = 12"), ("mast-1", "top face, z = 8"), "faces level")
    assert [each.position for each in clash.placed] == [each.position for each in state.placed]
    assert work.answer(clash, tolerance=TOLERANCE).clashing == ("m7",)
    back = work.unmate(clash, "m7")
    assert back == state
    again = mated(state, ("base-1", "top face, z = 12"), ("mast-1", "bottom face, z = 0"), "faces meet")
    assert work.answer(again, tolerance=TOLERANCE).redundant == ("m7",)


def test_taking_a_part_away_takes_its_mates() -> None:
    state = work.take_away(assembled(), "collar-1")
    assert all("collar-1" not in (each.a.instance, each.b.instance) for each in state.mates)
    assert work.left_over(state, loose())["collar"] == 1
    with pytest.raises(FormRejected):
        work.take_away(state, "collar-1")
    assert not any(each.grounded for each in work.ground(assembled(), "base-1").placed)


def test_a_drag_turns_the_vane_and_slides_the_collar_and_moves_nothing_else() -> None:
    state = assembled()
    vane = state.instance("vane-1")
    assert vane
    tip = vane.pose.point([90, 0, 7.5])
    moved = work.drag(state, "vane-1", start=tip.tolist(), end=[0, 90, float(tip[2])], tolerance=TOLERANCE)
    turned = moved.instance("vane-1")
    assert turned
    assert np.hypot(*turned.pose.point([90, 0, 7.5])[:2] - [0, 90]) < 2
    for name in ("base-1", "mast-1"):
        assert moved.instance(name) == state.instance(name)
    assert not work.answer(moved, tolerance=TOLERANCE).clashing
    stuck = work.drag(state, "mast-1", start=[0, 0, 100], end=[50, 0, 100], tolerance=TOLERANCE)
    assert stuck == state


def test_a_joints_limit_stops_a_drag() -> None:
    state = assembled()
    tip = state.instance("vane-1")
    assert tip
    start = tip.pose.point([90, 0, 7.5])
    axis = {"origin": [0, 0, 0], "z": [0, 0, 1], "x": [1, 0, 0]}
    hinge = BenchMate(
        id="hinge",
        kind="revolute",
        sense="aligned",
        offset=0.0,
        limits=LimitsModel(rotation=[-5, 30]),
        a=OperandModel.model_validate({"instance": "collar-1", "frame": {**axis, "origin": [0, 0, 20]}}),
        b=OperandModel.model_validate({"instance": "vane-1", "frame": axis}),
    )
    held = state.model_copy(update={"mates": [*state.mates[:4], hinge]})
    placed = [each.model_copy(update={"grounded": each.id in ("base-1", "collar-1")}) for each in held.placed]
    held = held.model_copy(update={"placed": placed})
    far = work.drag(held, "vane-1", start=start.tolist(), end=[0, 90, float(start[2])], tolerance=TOLERANCE)
    vane = far.instance("vane-1")
    assert vane
    turned = vane.pose.direction([1, 0, 0])
    assert 0 < math.degrees(math.atan2(turned[1], turned[0])) <= 30.01


def test_a_nudge_goes_out_and_comes_back_with_all_mates_holding() -> None:
    state, parts = assembled(), loose()
    frames = work.nudge(state, parts, "vane-1", 0, tolerance=TOLERANCE)
    assert frames[-1] == state
    assert len(frames) > 4
    assert all(not work.answer(each, tolerance=TOLERANCE).clashing for each in frames)
    with pytest.raises(FormRejected):
        work.nudge(state, parts, "mast-1", 0, tolerance=TOLERANCE)


def test_suggestions_make_a_positioned_model_a_declared_build() -> None:
    parts = handed(seed_drawer)
    state = work.ground(BenchState(placed=parts.placed), "housing-1" if parts.placed[0].id != "housing" else "housing")
    assert {"housing", "drawer", "knob"} == {each.part for each in state.placed}
    assert parts.suggestions
    for each in parts.suggestions:
        if each.mate.kind in ("coincident", "coaxial"):
            state = work.with_mate(state, each.mate, tolerance=TOLERANCE)
    assert [each.position for each in state.placed] == [pytest.approx(each.position, abs=1e-6) for each in parts.placed]
    found = work.answer(state, tolerance=TOLERANCE)
    assert not found.clashing
    assert found.mobility < 12


def test_driving_the_linkage_moves_all_its_links_and_every_mate_holds() -> None:
    files = pedal_bin.SAMPLES[0].files()
    parts = handed_parts(files, tolerance=TOLERANCE)
    state = BenchState(placed=parts.placed, mates=parts.mates)
    found = work.answer(state, tolerance=TOLERANCE)
    assert found.mobility == 1
    pedal = next(each for each in state.placed if each.part == "pedal")
    frames = work.nudge(state, parts, pedal.id, 0, tolerance=TOLERANCE)
    for each in frames[:: max(1, len(frames) // 6)]:
        assert not work.answer(each, tolerance=TOLERANCE).clashing
    far = frames[len(frames) // 2 - 1]
    went = [a.pose.is_close(b.pose, mm=0.01, rad=1e-4) for a, b in zip(far.placed, state.placed, strict=True)]
    assert went.count(False) == 3


def test_triangles_know_the_feature_that_they_belong_to() -> None:
    parts = loose()
    mast = next(each for each in parts.parts if each.id == "mast")
    points = np.array(mast.vertices).reshape(-1, 3)[np.array(mast.triangles).reshape(-1, 3)]
    shaft = next(k for k, each in enumerate(mast.features) if each.words == "Ø20 round, x = 0, y = 0")
    own = points[np.array(mast.faces) == shaft].reshape(-1, 3)
    assert np.allclose(np.hypot(own[:, 0], own[:, 1]), 10, atol=0.01)
    assert math.isclose(own[:, 2].max(), 200, abs_tol=1e-3)
    assert -1 not in mast.faces


def test_drawn_apart_each_part_goes_along_its_mate_and_carries_what_hangs_on_it() -> None:
    away = work.apart(assembled(), loose())
    assert away["base-1"] == [0, 0, 0]
    assert away["mast-1"][:2] == [0, 0]
    levels = [away[name][2] for name in ("mast-1", "collar-1", "vane-1")]
    assert levels[0] == pytest.approx(1.2 * 208)
    assert abs(levels[1] - levels[0]) == pytest.approx(1.2 * 20)
    assert abs(levels[2] - levels[1]) == pytest.approx(1.2 * 30)
    assert work.apart(BenchState(), loose()) == {}


def test_what_it_holds_goes_out_as_gltf_and_urdf() -> None:
    """glTF is read back by trimesh, URDF by MuJoCo: another program's view of the same build."""
    state, parts = assembled(), loose()
    scene = trimesh.load(io.BytesIO(out.gltf(state, parts)), file_type="gltf")
    heights = np.array(scene.bounds)[:, 1]  # metres, y upwards
    assert heights == pytest.approx([0, 0.22], abs=1e-4)
    joints = work.joints_of(state, tolerance=TOLERANCE)
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
