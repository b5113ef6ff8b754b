"""Descriptions that other programs write: defaults, frames, ways to give a turn, limits that are none.

MuJoCo reads the same text: bodies have to stand where it puts them, with as many motions as it counts.
"""

import json
from pathlib import Path
from typing import Any

import mujoco  # type: ignore[import-untyped]  # it ships no types
import numpy as np
import pytest

from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.formats.build import read_build
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.interchange.convert import as_build, converted
from rigid_bench.core.values.errors import InvalidDocument
from tests.core.grading.report.test_proposals import asked, positions
from tests.support.shapes import TOLERANCE

_BALL = '<geom type="sphere" size="0.01"/>'


def mjcf(world: str, *, before: str = "", after: str = "", compiler: str = "") -> str:
    return f"<mujoco>{compiler}{before}<worldbody>{world}</worldbody>{after}</mujoco>"


def body(name: str, inside: str = "", **given: str) -> str:
    said = "".join(f' {key}="{value}"' for key, value in given.items())
    return f'<body name="{name}"{said}>{_BALL}{inside}</body>'


DEFAULTS = """<default><joint axis="1 0 0"/><default class="ends"><joint range="-30 60"/></default>
<default class="slides"><joint type="slide" axis="0 1 0"/><default class="up"><joint axis="0 0 1"/></default></default>
<default class="balls"><joint type="ball"/></default></default>"""
SAMPLES = {
    "defaults of the main class": mjcf(body("a", "<joint/>"), before=DEFAULTS),
    "limits by a class": mjcf(body("a", '<joint class="ends"/>'), before=DEFAULTS),
    "a class within a class": mjcf(body("a", '<joint class="up"/>'), before=DEFAULTS),
    "a body's class for its joints": mjcf(
        body("a", "<joint/>" + body("b", "<joint/>"), childclass="balls"), before=DEFAULTS
    ),
    "a joint says otherwise": mjcf(body("a", '<joint type="hinge"/>', childclass="slides"), before=DEFAULTS),
    "a frame around a body": mjcf(
        '<frame pos="0.1 0 0" euler="0 0 90">' + body("a", "<joint/>", pos="0 0.2 0") + "</frame>"
    ),
    "a frame within a frame": mjcf(
        '<frame pos="0 0 1"><frame quat="0 1 0 0" childclass="slides">'
        + body("a", "<joint/>", pos="1 2 3") + "</frame></frame>", before=DEFAULTS,
    ),
    "a turn by two axes": mjcf(body("a", "<joint/>", xyaxes="0 1 0 -1 0.2 0.1")),
    "a turn by the z axis": mjcf(body("a", "<joint/>", zaxis="1 -2 0.5") + body("b", zaxis="0 0 -1")),
    "angles about axes that turn along": mjcf(body("a", euler="20 30 40"), compiler='<compiler eulerseq="zyx"/>'),
    "angles about the frame's own axes": mjcf(body("a", euler="20 30 40"), compiler='<compiler eulerseq="XYZ"/>'),
    "radians": mjcf(body("a", euler="0.2 0.3 0.4"), compiler='<compiler angle="radian" eulerseq="ZxY"/>'),
    "an equality that is switched off": mjcf(
        body("a", "<joint/>") + body("b", "<joint/>"),
        after='<equality><weld body1="a" body2="b" active="false"/></equality>',
    ),
}  # fmt: skip


def read(text: str) -> tuple[dict[str, Any], int]:
    data = as_build(text.encode(), name="other.mjcf.xml")
    return json.loads(data), freedom(read_build(data, name="other"), tolerance=TOLERANCE).mobility


@pytest.mark.parametrize("name", SAMPLES)
def test_bodies_stand_and_move_as_mujoco_has_them(name: str) -> None:
    model = mujoco.MjModel.from_xml_string(SAMPLES[name])
    data = mujoco.MjData(model)
    mujoco.mj_kinematics(model, data)
    build, mobility = read(SAMPLES[name])
    assert mobility == model.nv
    for instance in build["instances"]:
        if instance["id"] == "world":
            continue
        own = mujoco.mj_name2id(model, mujoco.mjtObj.mjOBJ_BODY, instance["id"])
        assert np.array(instance["pose"]["position"]) == pytest.approx(1000 * data.xpos[own], abs=1e-6)
        assert abs(float(np.dot(instance["pose"]["quaternion"], data.xquat[own]))) == pytest.approx(1, abs=1e-9)
    for joint in range(model.njnt):
        mate = next(own for own in build["mates"] if own["b"]["instance"] == model.body(model.jnt_bodyid[joint]).name)
        if "frame" in mate["b"]:
            assert mate["b"]["frame"]["z"] == pytest.approx(model.jnt_axis[joint], abs=1e-9)
        if model.jnt_limited[joint]:
            assert np.radians(mate["limits"]["rotation"]) == pytest.approx(model.jnt_range[joint], abs=1e-9)


def test_sites_say_where_a_loop_closes() -> None:
    inner = body("b", '<joint axis="1 0 0"/>', pos="0.5 0 0")
    world = body("a", '<joint/><site name="s" pos="0 0 0.5"/>' + inner)
    world += body("c", '<freejoint/><site name="t" pos="0 0 0.1"/>', pos="0 0 0.4")
    text = mjcf(world, after='<equality><connect site1="s" site2="t"/></equality>')
    mujoco.MjModel.from_xml_string(text)
    build, _ = read(text)
    loop = next(mate for mate in build["mates"] if mate["kind"] == "spherical")
    assert (loop["a"]["instance"], loop["b"]["instance"]) == ("a", "c")
    assert loop["a"]["point"] == pytest.approx([0, 0, 500])


@pytest.mark.parametrize(
    ("world", "says"),
    [
        ('<include file="arm.xml"/>' + body("a"), "holds <include> of 'arm.xml'"),
        (body("a", '<replicate count="3"/>'), "holds <replicate>"),
        (body("a", '<joint class="none"/>'), "no default class 'none'"),
    ],
)
def test_bodies_that_are_not_written_out_are_asked_for(world: str, says: str) -> None:
    with pytest.raises(InvalidDocument, match=says):
        read(mjcf(world))


def urdf(joint: str, kind: str = "revolute", more: str = "") -> bytes:
    own = f'<joint name="j" type="{kind}"><parent link="a"/><child link="b"/>{joint}</joint>'
    return f'<robot name="r"><link name="a"/><link name="b"/>{own}{more}</robot>'.encode()


@pytest.mark.parametrize(
    ("kind", "inside", "limits"),
    [
        ("fixed", '<axis xyz="0 0 0"/>', None),
        ("revolute", '<axis xyz="0 0 1"/><limit lower="-1e+16" upper="1e+16"/>', None),
        ("revolute", '<axis xyz="0 0 1"/><limit lower="-inf" upper="inf"/>', None),
        ("prismatic", '<axis xyz="0 0 1"/><limit lower="-1.79769e+308" upper="0.05"/>', {"translation": [-1e7, 50]}),
    ],
)
def test_a_urdf_says_in_its_own_way_what_there_is_not(kind: str, inside: str, limits: dict[str, Any] | None) -> None:
    build = json.loads(as_build(urdf(inside, kind), name="r.urdf"))
    assert (build["mates"][0]["kind"], build["mates"][0].get("limits")) == (kind, limits)


def test_a_joint_that_follows_another_is_free_and_it_is_said() -> None:
    ends = '<parent link="b"/><child link="c"/><axis xyz="1 0 0"/>'
    follower = f'<joint name="k" type="revolute">{ends}<mimic joint="j"/></joint>'
    text = urdf('<axis xyz="1 0 0"/>', more=f'<link name="c"/>{follower}')
    _, lines = converted(text, name="r.urdf", to="r.build.json")
    assert lines == [
        "r.build.json: 'k' ties the motions of two joints to each other, which no mate says: both are read as free."
    ]


def test_what_a_description_does_not_say_stands_on_the_card() -> None:
    exercise, sample = asked("jig")
    text = urdf('<axis xyz="1 0 0"/><mimic joint="j"/>')
    report = grade(exercise, {**positions(sample), "arm.urdf": text}, tolerance=TOLERANCE)
    assert [said.params for said in report.notices if said.code == "tie-left-out"] == [{"name": "j"}]


@pytest.mark.parametrize("kind", ["universal", "revolute2"])
def test_two_turns_of_an_sdf_hang_on_a_part_between(kind: str) -> None:
    axes = "<axis><xyz>1 0 0</xyz></axis><axis2><xyz>0 1 0</xyz><limit><lower>-0.5</lower></limit></axis2>"
    joint = f'<joint name="j" type="{kind}"><parent>a</parent><child>b</child>{axes}</joint>'
    text = (
        f'<sdf version="1.11"><model name="m"><static>0</static><link name="a"/><link name="b"/>{joint}</model></sdf>'
    )
    data = as_build(text.encode(), name="m.sdf")
    build = json.loads(data)
    assert [mate["kind"] for mate in build["mates"]] == ["revolute", "revolute"]
    assert [mate["a"]["frame"]["z"] for mate in build["mates"]] == [[1, 0, 0], [0, 1, 0]]
    assert build["mates"][1]["limits"]["rotation"][0] == pytest.approx(np.degrees(-0.5))
    assert freedom(read_build(data, name="m"), tolerance=TOLERANCE).mobility == 6 + 2


def test_the_urdf_that_ships_with_mujoco_is_read() -> None:
    folder = Path(mujoco.__file__).parent / "testdata"
    build = json.loads(as_build((folder / "model.urdf").read_bytes(), name="model.urdf"))
    assert [own["id"] for own in build["instances"]] == ["tool"]
    model = mujoco.MjModel.from_xml_path(str(folder / "model.xml"))
    build, mobility = read((folder / "model.xml").read_text())
    assert len(build["instances"]) >= model.nbody - 1
    assert model.neq or mobility == model.nv
