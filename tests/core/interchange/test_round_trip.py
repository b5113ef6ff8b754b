"""Out and back gives the same build: ids, poses, limits, grounding, mobility; and others read what was written."""

import json
import random
from typing import Any

import mujoco  # type: ignore[import-untyped]  # it ships no types
import numpy as np
import pytest

from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.assembly.freedom.freedom_report import freedom_report
from rigid_bench.core.formats.build import read_build
from rigid_bench.core.interchange.convert import DESCRIPTIONS, converted
from rigid_bench.core.practice.mechanisms import linkages
from rigid_bench.core.practice.mechanisms.families import ALL
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.values.errors import InvalidDocument, NotSupported
from rigid_bench.core.values.tolerance import Tolerance

pytestmark = pytest.mark.thorough

Build = dict[str, Any]


def there_and_back(build: Build, ending: str) -> tuple[Build, str, list[str]]:
    written, notes = converted(json.dumps(build).encode(), name="b.build.json", to=f"b{ending}")
    again, _ = converted(written, name=f"b{ending}", to="c.build.json")
    return json.loads(again), written.decode(), notes


def mobility(build: Build) -> int:
    free = freedom(read_build(json.dumps(build).encode(), name="b"), tolerance=Tolerance())
    assert not free.conflicts
    return free.mobility


def same(before: Build, after: Build) -> None:
    old, new = ({own["id"]: own for own in build["instances"]} for build in (before, after))
    assert list(old) == list(new)
    for name, own in old.items():
        assert own.get("grounded", False) == new[name]["grounded"]
        assert own.get("group") == new[name].get("group")
        assert np.allclose(own["pose"]["position"], new[name]["pose"]["position"], atol=1e-6)
        turns = [
            np.array(pose["quaternion"]) / np.linalg.norm(pose["quaternion"])
            for pose in (own["pose"], new[name]["pose"])
        ]
        assert abs(turns[0] @ turns[1]) > 1 - 1e-12
    assert mobility(before) == mobility(after)


@pytest.mark.parametrize("ending", DESCRIPTIONS)
@pytest.mark.parametrize("family", ALL, ids=lambda family: family.__name__)
def test_each_family_comes_back_the_same(family: Any, ending: str) -> None:
    for seed in range(4):
        try:
            build = family(random.Random(seed)).build
        except Unfit:
            continue
        again, _, _ = there_and_back(build, ending)
        same(build, again)
        loose = {**build, "instances": [{**own, "grounded": False} for own in build["instances"]]}
        again, _, _ = there_and_back(loose, ending)
        same(loose, again)


#: What MuJoCo lets move is what we do, where no mate travels beside its joints: 6 n minus what it holds.
@pytest.mark.parametrize("family", ALL, ids=lambda family: family.__name__)
def test_mujoco_agrees_with_the_mobility(family: Any) -> None:
    build = next((made for seed in range(9) if (made := drawn(family, seed)) is not None), None)
    assert build is not None
    written, notes = converted(json.dumps(build).encode(), name="b.build.json", to="b.mjcf.xml")
    model = mujoco.MjModel.from_xml_string(written.decode())
    data = mujoco.MjData(model)
    mujoco.mj_forward(model, data)
    if any("travels" in note for note in notes):
        assert family in linkages.FAMILIES or model.nv >= mobility(build)
        return
    held = np.linalg.matrix_rank(data.efc_J.reshape(-1, model.nv), tol=1e-6) if data.nefc else 0
    assert model.nv - held == mobility(build)


def drawn(family: Any, seed: int) -> Build | None:
    try:
        build: Build = family(random.Random(seed)).build
    except Unfit:
        return None
    return build


def limited(kind: str, limits: dict[str, list[float]], *, turned: float = 0.0, sense: str = "aligned") -> Build:
    """A joint along a slanted axis, its second frame turned against the first."""
    c, s = np.cos(np.radians(turned)), np.sin(np.radians(turned))
    z = [0, 0, 1] if sense == "aligned" else [0, 0, -1]
    pose = {"position": [3, -4, 12], "quaternion": [0.5, 0.5, 0.5, 0.5]}
    return {
        "format": "rigid-bench/build", "version": 1, "units": "mm",
        "parts": [{"id": "p", "name": "P"}, {"id": "q", "name": "Q"}],
        "instances": [{"id": "p-1", "part": "p", "grounded": True, "pose": pose},
                      {"id": "q-1", "part": "q", "grounded": False, "pose": pose}],
        "mates": [{"id": "drive", "kind": kind, "sense": sense, "limits": limits,
                   "a": {"instance": "p-1", "frame": {"origin": [1, 2, 3], "z": [0, 0, 1], "x": [1, 0, 0]}},
                   "b": {"instance": "q-1", "frame": {"origin": [1, 2, 3], "z": z, "x": [c, s, 0]}}}],
    }  # fmt: skip


@pytest.mark.parametrize("ending", DESCRIPTIONS)
@pytest.mark.parametrize(
    ("kind", "limits", "turned"),
    [
        ("revolute", {"rotation": [-20.0, 75.0]}, 0.0),
        ("revolute", {"rotation": [-20.0, 75.0]}, 30.0),
        ("prismatic", {"translation": [-5.0, 40.0]}, 0.0),
        ("cylindrical", {"rotation": [-90.0, 90.0], "translation": [0.0, 25.0]}, 15.0),
    ],
)
def test_limits_come_back(kind: str, limits: dict[str, list[float]], turned: float, ending: str) -> None:
    build = limited(kind, limits, turned=turned)
    again, _, _ = there_and_back(build, ending)
    before, after = (
        freedom_report(read_build(json.dumps(own).encode(), name="b"), tolerance=Tolerance()).limits
        for own in (build, again)
    )
    assert len(before) == len(after) == len(limits)
    for old, new in zip(before, after, strict=True):
        assert (old.kind, old.state) == (new.kind, new.state)
        for field in ("value", "least", "greatest"):
            assert getattr(new, field) == pytest.approx(getattr(old, field), abs=1e-6)


def test_a_positive_turn_is_right_handed_and_from_the_zero_position() -> None:
    _, text, _ = there_and_back(limited("revolute", {"rotation": [-20.0, 75.0]}, turned=30.0), ".urdf")
    low, high = (float(text.split(f'{end}="')[1].split('"')[0]) for end in ("lower", "upper"))
    assert np.degrees([low, high]) == pytest.approx([-50.0, 45.0])


def test_a_screw_carries_its_pitch() -> None:
    build = limited("screw", {})
    build["mates"][0] |= {"pitch": -1.75}
    build["mates"][0].pop("limits")
    _, text, notes = there_and_back(build, ".sdf")
    assert "<screw_thread_pitch>-0.00175</screw_thread_pitch>" in text
    assert not any("travels" in note for note in notes)
    again, text, _ = there_and_back(build, ".mjcf.xml")
    assert 'polycoef="0 -0.000278521150' in text
    assert again["mates"][0]["pitch"] == pytest.approx(-1.75)


def test_what_cannot_be_said_is_said_on_a_line_each() -> None:
    build = next(made for seed in range(9) if (made := drawn(linkages.four_bar, seed)) is not None)
    _, text, notes = there_and_back(build, ".urdf")
    assert [note for note in notes if "travels" in note] == [
        "b.urdf: no joint says mate 'm4'; it travels in an element of its own"
    ]
    assert "<rigid_bench>" in text


def test_groups_and_inches_come_back() -> None:
    build = limited("revolute", {"rotation": [0.0, 10.0]})
    other = {**build["instances"][1], "id": "r-1"}
    build["instances"] = [build["instances"][0], *({**own, "group": "g"} for own in (build["instances"][1], other))]
    inch = {**build, "units": "in"}
    for ending in DESCRIPTIONS:
        again, _, _ = there_and_back(build, ending)
        same(build, again)
        again, _, _ = there_and_back(inch, ending)
        assert np.allclose(again["instances"][0]["pose"]["position"], 25.4 * np.array([3, -4, 12]))


#: A robot as packages ship them: a root link, a continuous joint, a prismatic one with limits, a fixed one.
SAMPLE = """<?xml version="1.0"?><robot name="r">
<link name="base"/><link name="arm"/><link name="slide"/><link name="tip"/>
<joint name="turn" type="continuous"><parent link="base"/><child link="arm"/>
<origin xyz="0 0 0.1" rpy="0 1.5707963267948966 0"/><axis xyz="0 0 1"/></joint>
<joint name="out" type="prismatic"><parent link="arm"/><child link="slide"/><axis xyz="1 0 0"/>
<limit lower="0" upper="0.05" effort="1" velocity="1"/></joint>
<joint name="end" type="fixed"><parent link="slide"/><child link="tip"/><origin xyz="0.2 0 0"/></joint></robot>"""


def test_a_urdf_of_others_is_read() -> None:
    data, _ = converted(SAMPLE.encode(), name="r.urdf", to="r.build.json")
    build = json.loads(data)
    assert [own["id"] for own in build["instances"]] == ["base", "arm", "slide", "tip"]
    assert build["instances"][1]["pose"]["position"] == [0, 0, 100]
    assert build["instances"][3]["pose"]["position"] == pytest.approx([0, 0, -100])
    assert [mate["kind"] for mate in build["mates"]] == ["revolute", "prismatic", "fixed"]
    assert build["mates"][1]["limits"] == {"translation": [0, 50]}
    assert mobility(build) == 6 + 2, "nothing is grounded: the root floats"


@pytest.mark.parametrize(
    ("name", "text", "says"),
    [
        ("a.urdf", "<robot", "no XML"),
        ("a.urdf", "<!DOCTYPE x [<!ENTITY a 'b'>]><robot/>", "entities"),
        ("a.urdf", "<sdf/>", "its root is 'sdf'"),
        ("a.urdf", "<robot/>", "no link"),
        ("a.urdf", "<robot><link name='a'/><link name='b'/></robot>", "2 links are the child of no joint"),
        ("a.urdf", SAMPLE.replace('parent link="base"', 'parent link="x"'), "'x' is no link"),
        ("a.urdf", SAMPLE.replace("continuous", "gear"), "'gear' is no type of joint"),
        ("a.urdf", SAMPLE.replace('xyz="0 0 0.1"', 'xyz="0 nan 1"'), "is not 3 numbers"),
        ("a.sdf", "<sdf/>", "it has no model"),
        ("a.sdf", "<sdf><model><include/><link name='a'/></model></sdf>", "holds a <include>"),
        ("a.mjcf.xml", "<mujoco/>", "it has no body"),
        ("a.mjcf.xml", "<mujoco><worldbody><body><joint type='odd'/></body></worldbody></mujoco>", "'odd' is no type"),
    ],
)  # fmt: skip
def test_what_cannot_be_used_is_refused_with_its_place(name: str, text: str, says: str) -> None:
    with pytest.raises(InvalidDocument, match=says.replace("(", r"\(").replace("<", "<")):
        converted(text.encode(), name=name, to="b.build.json")


def test_endings_that_are_not_known_are_refused() -> None:
    for name, to in (("a.txt", "b.urdf"), ("a.build.json", "b.step")):
        with pytest.raises(NotSupported, match="ending"):
            converted(b"{}", name=name, to=to)
