"""XML of descriptions: what may stand in it, turns about fixed axes, limits that are none, default classes."""

import xml.etree.ElementTree as ET
from typing import Any, Literal

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from rigid_bench.core.interchange import xml
from rigid_bench.core.interchange.chain import Joint
from rigid_bench.core.interchange.mjcf_defaults import JointDefaults, framed, missing_parts
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.frames import Pose

CHANCE = np.random.default_rng(5)


def joint(kind: Literal["revolute", "prismatic"]) -> Joint:
    return Joint(name="j", kind=kind, parent="a", child="b", point=np.zeros(3), direction=np.array([0.0, 0, 1]))


@pytest.mark.parametrize("turns", [*CHANCE.uniform(-3, 3, (20, 3)).tolist(), [0.3, np.pi / 2, 0], [0, -np.pi / 2, 1.0]])
def test_turns_are_about_the_fixed_axes(turns: list[float]) -> None:
    """URDF and SDFormat turn about fixed x, then y, then z: SciPy's extrinsic "xyz"."""
    pose = xml.from_rpy(np.array([0.1, -0.2, 0.3]), np.array(turns))
    assert pose.rotation == pytest.approx(Rotation.from_euler("xyz", turns).as_matrix(), abs=1e-12)
    assert pose.position.tolist() == pytest.approx([100, -200, 300])
    place, told = (np.array([float(word) for word in text.split()]) for text in xml.to_rpy(pose))
    assert xml.from_rpy(place, told).is_close(pose, mm=1e-9, rad=1e-7)


@pytest.mark.parametrize(
    ("data", "problem"),
    [
        (b"<robot", "no XML"),
        (b"<mujoco/>", "its root is 'mujoco', not 'robot'"),
        (b'<!DOCTYPE robot [<!ENTITY a "aaa">]><robot>&a;</robot>', "entities of its own"),
        (b"\xff\xfe\x00", "no XML"),
    ],
)
def test_what_is_no_description_is_refused(data: bytes, problem: str) -> None:
    with pytest.raises(InvalidDocument, match=problem):
        xml.parsed(data, name="kit.urdf", root="robot")


def test_what_is_written_is_read_again() -> None:
    root = ET.Element("robot", name="kit")
    ET.SubElement(root, "link", name="Ø8 rod & nut")
    back = xml.parsed(xml.written(root), name="kit.urdf", root="robot")
    assert [link.get("name") for link in back] == ["Ø8 rod & nut"]


@pytest.mark.parametrize("text", ["1 2", "1 2 three", "1 2 nan", "1 2 1e7", "", "1 2 3 4"])
def test_numbers_that_cannot_be_meant_are_refused(text: str) -> None:
    with pytest.raises(InvalidDocument, match="is not 3 numbers"):
        xml.numbers(text, 3, where="kit.urdf, link 'a'")


def test_numbers_that_are_left_out_have_their_usual_values() -> None:
    assert xml.numbers(None, 3, where="x", otherwise=(0, 0, 1)).tolist() == [0, 0, 1]
    assert xml.numbers("1e7 2 3", 3, where="x", most=None).tolist() == [1e7, 2, 3]


@pytest.mark.parametrize(
    ("kind", "ends", "rotation", "translation"),
    [
        ("revolute", (-1.0, 2.0), (-1.0, 2.0), None),
        ("prismatic", (-0.01, 0.05), None, (-10.0, 50.0)),
        ("revolute", (-1e16, 1e16), None, None),
        ("revolute", (-np.inf, np.inf), None, None),
        ("prismatic", (0.0, 1e9), None, (0.0, 1e7)),
    ],
)
def test_ends_that_no_joint_comes_to_are_none(
    kind: Literal["revolute", "prismatic"], ends: tuple[float, float], rotation: Any, translation: Any
) -> None:
    own = joint(kind)
    xml.take_limits(own, ends, "kit.urdf, joint 'j'")
    assert (own.rotation, own.translation) == (rotation, translation)


def test_ends_the_wrong_way_round_are_refused() -> None:
    with pytest.raises(InvalidDocument, match=r"lower limit 2 is above its upper 1"):
        xml.take_limits(joint("revolute"), (2.0, 1.0), "kit.urdf, joint 'j'")


def test_an_axis_needs_a_direction_and_an_element_its_name() -> None:
    assert xml.way(np.array([0.0, 0, 5]), where="x").tolist() == [0, 0, 1]
    with pytest.raises(InvalidDocument, match="no direction"):
        xml.way(np.zeros(3), where="x")
    with pytest.raises(InvalidDocument, match="<link> has no name"):
        xml.attribute(ET.Element("link"), "name", where="x")


def test_a_pose_is_written_with_digits_enough() -> None:
    pose = Pose(np.eye(3), np.array([123.456789012, 0.0, -0.0]))
    assert xml.to_rpy(pose) == ("0.123456789012 0 0", "0 0 0")


def test_a_class_has_what_the_one_around_it_has() -> None:
    root = ET.fromstring(
        '<mujoco><default><joint damping="1" range="-1 1"/>'
        '<default class="wide"><joint range="-2 2"/></default></default></mujoco>'
    )
    defaults = JointDefaults.of(root)
    own = defaults.joint(ET.Element("joint", {"name": "a"}), "wide", where="x")
    assert own.attrib == {"damping": "1", "range": "-2 2", "name": "a"}
    usual = defaults.joint(ET.Element("joint", {"range": "0 1"}), "main", where="x")
    assert usual.attrib == {"damping": "1", "range": "0 1"}
    with pytest.raises(InvalidDocument, match="no default class 'narrow'"):
        defaults.joint(ET.Element("joint", {"class": "narrow"}), "main", where="x")


@pytest.mark.parametrize(
    ("inside", "problem"),
    [
        ('<worldbody><body><include file="arm.xml"/></body></worldbody>', "<include> of 'arm.xml'"),
        ("<worldbody><replicate/></worldbody>", "<replicate>"),
        ('<compiler coordinate="global"/><worldbody/>', "coordinates are global"),
    ],
)
def test_bodies_that_are_not_all_there_are_refused(inside: str, problem: str) -> None:
    with pytest.raises(InvalidDocument, match=problem):
        missing_parts(ET.fromstring(f"<mujoco>{inside}</mujoco>"), name="kit.mjcf.xml")


def test_what_is_included_beside_the_bodies_is_told() -> None:
    (notice,) = missing_parts(ET.fromstring('<mujoco><include file="looks.xml"/><worldbody/></mujoco>'), name="x")
    assert (notice.code, notice.params) == ("include-left-out", {"name": "looks.xml"})


def test_frames_are_told_from_outside_in() -> None:
    body = ET.fromstring(
        '<body><geom name="a"/><frame name="f"><frame name="g"><geom name="b"/></frame></frame></body>'
    )
    told = [(own.get("name"), [frame.get("name") for frame in frames]) for own, frames in framed(body, "geom")]
    assert told == [("a", []), ("b", ["f", "g"])]
