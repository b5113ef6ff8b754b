"""What travels beside the joints of a description, and the mass of its links."""

from typing import Any

import numpy as np
import pytest

from rigid_bench.core.interchange.beside import beside_text, kept_pose, take_beside
from rigid_bench.core.interchange.chain import Chain, Joint, Link
from rigid_bench.core.interchange.inertia import inertia_of
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.frames import Pose

UP = np.array([0.0, 0, 1])


def at(x: float, turn: float = 0.0) -> Pose:
    turned = Pose.about(turn * UP, np.zeros(3))
    return Pose(turned.rotation, np.array([x, 0.0, 0.0]))


def chain(**part: Any) -> Chain:
    arm = {"id": "arm", "name": "Arm", "file": "kit.step", **part}
    links = [
        Link(id="base-1", pose=at(0), grounded=True, part={"id": "base", "name": "Base", "file": "kit.step"}),
        Link(id="arm-1", pose=at(40, 0.5), group="lid", part=arm),
    ]
    joint = Joint(
        name="j", kind="revolute", parent="base-1", child="arm-1", point=np.zeros(3), direction=UP, turned=0.25
    )
    return Chain(links=links, joints=[joint], source="kit.step")


def without_extras() -> Chain:
    """The same as a description has it: links in another order, and nothing but poses."""
    own = chain()
    links = [Link(id=link.id, pose=link.pose) for link in reversed(own.links)]
    joint = Joint(name="j", kind="revolute", parent="base-1", child="arm-1", point=np.zeros(3), direction=UP)
    return Chain(links=links, joints=[joint])


def test_what_was_written_comes_back() -> None:
    back = without_extras()
    take_beside(back, beside_text(chain()), name="kit.urdf")
    assert [link.id for link in back.links] == ["base-1", "arm-1"]
    assert (back.link("base-1").grounded, back.link("arm-1").group) == (True, "lid")
    assert back.link("arm-1").part["name"] == "Arm"
    assert (back.joints[0].turned, back.source) == (0.25, "kit.step")


def test_digits_that_a_description_lost_are_put_back_and_a_move_is_kept() -> None:
    rounded, moved = without_extras(), without_extras()
    rounded.link("arm-1").pose = at(40.0004, 0.5)
    moved.link("arm-1").pose = at(42, 0.5)
    for own in (rounded, moved):
        take_beside(own, beside_text(chain()), name="kit.urdf")
    assert rounded.link("arm-1").pose.position[0] == 40.0
    assert moved.link("arm-1").pose.position[0] == 42.0


def test_a_frame_of_its_own_is_known_again() -> None:
    inside = at(5, 0.2)
    text = beside_text(chain(), {"arm-1": inside, "base-1": Pose.identity()})
    assert kept_pose(text, "arm-1", name="x").is_close(at(40, 0.5) @ inside.inverse(), mm=1e-9, rad=1e-9)
    assert kept_pose(text, "base-1", name="x").is_close(at(0), mm=1e-9, rad=1e-9)
    assert kept_pose(None, "arm-1", name="x").is_close(Pose.identity(), mm=0, rad=0)


@pytest.mark.parametrize("text", ["{", "[1]", "{}", '{"links": {}, "frames": {}, "coordinates": {}, "mates": [{}]}'])
def test_what_was_changed_by_hand_is_refused_with_its_place(text: str) -> None:
    with pytest.raises(InvalidDocument) as refused:
        take_beside(without_extras(), text, name="kit.urdf")
    assert "kit.urdf" in refused.value.where


def test_a_block_has_the_inertia_of_the_handbook() -> None:
    """m/12 (b2 + c2) about each axis of a cuboid (Meriam and Kraige, Dynamics, table D/4, from memory)."""
    sizes = {"volume": 40_000.0, "extents": [100.0, 40, 10], "centroid": [50.0, 20, 5]}
    own = inertia_of(chain(material="steel"), {"arm": sizes})["arm-1"]
    mass = 40_000e-9 * 7850  # steel, kg/m3
    assert own.mass == pytest.approx(mass, rel=2e-3)
    xx, _, _, yy, _, zz = own.tensor
    assert xx == pytest.approx(own.mass / 12 * (0.04**2 + 0.01**2))
    assert yy == pytest.approx(own.mass / 12 * (0.1**2 + 0.01**2))
    assert zz == pytest.approx(own.mass / 12 * (0.1**2 + 0.04**2))
    assert (own.centre.tolist(), own.is_placeholder) == ([50, 20, 5], False)


def test_what_was_not_measured_has_a_placeholder_and_an_unknown_material_that_of_the_printer() -> None:
    sizes = {"volume": 1000.0, "extents": [10.0, 10, 10], "centroid": [0.0, 0, 0]}
    own = inertia_of(chain(material="unobtainium"), {"arm": sizes})
    assert own["base-1"].is_placeholder
    assert own["arm-1"].mass == pytest.approx(1.24e-3)  # 1 cm3 of PLA
