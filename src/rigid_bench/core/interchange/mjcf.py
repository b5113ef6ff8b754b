"""MJCF: bodies within bodies, their joints, and equalities that close loops (MuJoCo XML reference, from memory)."""

import math
import xml.etree.ElementTree as ET
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.formats.message import phrase
from rigid_bench.core.interchange.beside import beside_text, take_beside
from rigid_bench.core.interchange.chain import WORLD, Abilities, Chain, Joint, Link
from rigid_bench.core.interchange.inertia import Inertia
from rigid_bench.core.interchange.mjcf_defaults import MAIN, JointDefaults, framed, missing_parts
from rigid_bench.core.interchange.xml import MM, numbers, parsed, take_limits, text_of, way, written
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.frames import Pose, any_normal, rotation_by, unit
from rigid_bench.core.wording.language import _

_Array = NDArray[np.float64]
ABILITIES = Abilities(
    tree=frozenset({"fixed", "revolute", "prismatic", "cylindrical", "planar", "spherical", "screw"}),
    loops=frozenset({"fixed", "spherical"}),
)
#: Joints of a body, by kind: what each is, and along or about which direction of the joint's own frame.
_WRITTEN = {
    "fixed": (), "revolute": (("hinge", "z"),), "prismatic": (("slide", "z"),), "spherical": (("ball", "z"),),
    "cylindrical": (("slide", "z"), ("hinge", "z")), "screw": (("slide", "z"), ("hinge", "z")),
    "planar": (("slide", "x"), ("slide", "y"), ("hinge", "z")),
}  # fmt: skip
_SAME = 1e-6


def write(chain: Chain, inertia: dict[str, Inertia]) -> bytes:
    """Write a build as MJCF: metres and radians; a screw is a slide and a turn that are tied to each other."""
    root = ET.Element("mujoco", model="build")
    ET.SubElement(root, "compiler", angle="radian", autolimits="true")
    world = ET.SubElement(root, "worldbody")
    joints = {joint.child: joint for joint in chain.joints}
    has_ground = any(link.grounded for link in chain.links)
    ties: list[tuple[str, str, float]] = []
    for link in chain.links:
        if link.id not in joints:
            is_free = not link.grounded if has_ground else True
            _write_body(world, chain, link, Pose.identity(), inertia, ties, is_free=is_free)
    _write_equalities(root, chain, ties)
    custom = ET.SubElement(root, "custom")
    ET.SubElement(custom, "text", name="rigid_bench", data=beside_text(chain))
    return written(root)


def _write_body(
    above: ET.Element, chain: Chain, link: Link, pose: Pose, inertia: dict[str, Inertia],
    ties: list[tuple[str, str, float]], *, is_free: bool,
) -> None:  # fmt: skip
    inside = pose.inverse() @ link.pose
    own = ET.SubElement(
        above, "body", name=link.id, pos=text_of(inside.position / MM), quat=text_of(inside.quaternion())
    )
    if is_free:
        ET.SubElement(own, "freejoint")
    joint = next((joint for joint in chain.joints if joint.child == link.id), None)
    if joint is not None:
        _write_joints(own, joint, link.pose, ties)
    body = inertia[link.id]
    diagonal = (body.tensor[0], body.tensor[3], body.tensor[5])
    ET.SubElement(
        own, "inertial", pos=text_of(body.centre / MM), mass=f"{body.mass:.9g}", diaginertia=text_of(diagonal)
    )
    for below in (joint for joint in chain.joints if joint.parent == link.id):
        _write_body(own, chain, chain.link(below.child), link.pose, inertia, ties, is_free=False)


def _write_joints(body: ET.Element, joint: Joint, pose: Pose, ties: list[tuple[str, str, float]]) -> None:
    inside = pose.inverse()
    x = any_normal(joint.direction)
    axes = {"x": x, "y": np.cross(joint.direction, x), "z": joint.direction}
    kinds = _WRITTEN[joint.kind]
    names = [joint.name if len(kinds) == 1 else f"{joint.name}/{k}" for k in range(1, len(kinds) + 1)]
    for name, (kind, axis) in zip(names, kinds, strict=True):
        own = ET.SubElement(body, "joint", name=name, type=kind, pos=text_of(inside.point(joint.point) / MM))
        if kind != "ball":
            own.set("axis", text_of(inside.direction(axes[axis])))
        ends = joint.rotation if kind == "hinge" else joint.translation
        if ends:
            own.set("range", text_of(ends if kind == "hinge" else [end / MM for end in ends]))
    if joint.kind == "screw":
        ties.append((names[0], names[1], joint.pitch))


def _write_equalities(root: ET.Element, chain: Chain, ties: list[tuple[str, str, float]]) -> None:
    if not ties and not chain.loops:
        return
    equality = ET.SubElement(root, "equality")
    for slide, hinge, pitch in ties:
        slope = f"{pitch / MM / (2 * math.pi):.12g}"
        ET.SubElement(equality, "joint", joint1=slide, joint2=hinge, polycoef=f"0 {slope} 0 0 0")
    for joint in chain.loops:
        parent = chain.link(joint.parent).pose
        ends = {"name": joint.name, "body1": joint.parent, "body2": joint.child}
        if joint.kind == "spherical":
            ET.SubElement(equality, "connect", ends, anchor=text_of(parent.inverse().point(joint.point) / MM))
        else:
            ET.SubElement(equality, "weld", ends)


def read(data: bytes, *, name: str) -> Chain:
    """Read an MJCF: each body is an instance, its joints are mates; bodies of the world without a joint are grounded.

    A body with joints that no one mate says, such as two turns about two axes, hangs on parts between, one for each.

    Raises
    ------
    InvalidDocument
        It is none, or holds what a build cannot.
    """
    root = parsed(data, name=name, root="mujoco")
    world = root.find("worldbody")
    if world is None or world.find(".//body") is None:
        raise InvalidDocument(name, _("it has no body"), _("Give its worldbody one"))
    chain = Chain(links=[], joints=[], notices=missing_parts(root, name=name))
    reader = _Reader(chain, name, root)
    reader.bodies(world, WORLD, Pose.identity(), MAIN)
    for own in root.iterfind("equality/*"):
        if own.get("active", "true") != "false":
            reader.equality(own)
    if any(joint.parent == WORLD for joint in chain.joints):
        chain.links.insert(0, Link(id=WORLD, pose=Pose.identity(), grounded=True))
    text = next((own.get("data") for own in root.iterfind("custom/text") if own.get("name") == "rigid_bench"), None)
    take_beside(chain, text, name=name)
    return chain


class _Reader:
    """Reads bodies into a chain."""

    def __init__(self, chain: Chain, name: str, root: ET.Element) -> None:
        compiler = root.find("compiler")
        said = compiler.attrib if compiler is not None else {}
        self.chain, self.name, self.defaults = chain, name, JointDefaults.of(root)
        self.angle = math.pi / 180 if said.get("angle", "degree") == "degree" else 1.0
        self.turns = said.get("eulerseq", "xyz")
        if len(self.turns) != 3 or set(self.turns.lower()) - set("xyz"):
            raise InvalidDocument(
                name, _("its eulerseq '{turns}' is none", turns=self.turns[:20]), _("Give three of x, y, z")
            )
        #: By the name of a site: its body, and where it is.
        self.sites: dict[str, tuple[str, Pose]] = {}

    def bodies(self, element: ET.Element, parent: str, above: Pose, child_class: str) -> None:
        """Read the bodies within the world or a body, and its sites."""
        for own, frames in framed(element, "body"):
            pose, inner_class = self._placed(frames, above, child_class)
            self._body(own, parent, pose, inner_class)
        for own, frames in framed(element, "site"):
            where = f"{self.name}, site '{own.get('name', '')}'"
            pose, _ = self._placed(frames, above, child_class)
            self.sites[own.get("name", "")] = (parent, pose @ self._pose(own, where))

    def _placed(self, frames: list[ET.Element], above: Pose, child_class: str) -> tuple[Pose, str]:
        """Return where the innermost of some frames is, and the class of what it holds."""
        for frame in frames:
            above = above @ self._pose(frame, f"{self.name}, frame '{frame.get('name', '')}'")
            child_class = frame.get("childclass", child_class)
        return above, child_class

    def _body(self, own: ET.Element, parent: str, above: Pose, child_class: str) -> None:
        """Read a body with those within it."""
        link = own.get("name") or f"body-{len(self.chain.links) + 1}"
        where = f"{self.name}, body '{link}'"
        if any(known.id == link for known in self.chain.links):
            raise InvalidDocument(where, _("two bodies have this name"), _("Give each its own"))
        pose = above @ self._pose(own, where)
        child_class = own.get("childclass", child_class)
        joints = [self.defaults.joint(joint, child_class, where=where) for joint in own.findall("joint")]
        is_free = own.find("freejoint") is not None or any(joint.get("type") == "free" for joint in joints)
        grounded = parent == WORLD and not joints and not is_free
        if not grounded and not is_free:
            self._join(joints, parent, link, pose, where)
        self.chain.links.append(Link(id=link, pose=pose, grounded=grounded))
        self.bodies(own, link, pose, child_class)

    def _pose(self, own: ET.Element, where: str) -> Pose:
        place = MM * numbers(own.get("pos"), 3, where=where, otherwise=[0, 0, 0])
        if own.get("quat"):
            return Pose.from_quaternion(place.tolist(), unit(numbers(own.get("quat"), 4, where=where)).tolist())
        if own.get("axisangle"):
            values = numbers(own.get("axisangle"), 4, where=where)
            return Pose(rotation_by(self.angle * values[3] * way(values[:3], where=where)), place)
        if own.get("euler"):
            return Pose(self._euler(numbers(own.get("euler"), 3, where=where)), place)
        if own.get("xyaxes"):
            values = numbers(own.get("xyaxes"), 6, where=where)
            x = way(values[:3], where=where)
            y = way(values[3:] - float(values[3:] @ x) * x, where=where)
            return Pose(np.column_stack([x, y, np.cross(x, y)]), place)
        if own.get("zaxis"):
            return Pose(_turned_to(way(numbers(own.get("zaxis"), 3, where=where), where=where)), place)
        return Pose(np.eye(3), place)

    def _euler(self, values: _Array) -> _Array:
        """Return a turn by three angles: small letters are axes that turn along, capitals the frame's own."""
        turn: _Array = np.eye(3)
        for letter, value in zip(self.turns, values, strict=True):
            own = rotation_by(self.angle * value * np.eye(3)["xyz".index(letter.lower())])
            turn = turn @ own if letter.islower() else own @ turn
        return turn

    def _join(self, joints: list[ET.Element], parent: str, link: str, pose: Pose, where: str) -> None:
        """Make mates of a body's joints."""
        read = [self._joint(own, parent, link, pose, where) for own in joints]
        if not read:
            fixed = Joint(name=f"{parent} to {link}", kind="fixed", parent=parent, child=link, point=pose.position,
                          direction=np.array([0.0, 0.0, 1.0]))  # fmt: skip
            read = [fixed]
        whole = _as_one(read)
        if whole is not None:
            self.chain.joints.append(whole)
            return
        above = parent
        for number, joint in enumerate(read, 1):
            below = link if number == len(read) else f"{link}-{number}"
            if below != link:
                self.chain.links.append(Link(id=below, pose=pose))
            self.chain.joints.append(replace(joint, parent=above, child=below))
            above = below

    def _joint(self, own: ET.Element, parent: str, link: str, pose: Pose, where: str) -> Joint:
        kind = own.get("type", "hinge")
        kinds = {"hinge": "revolute", "slide": "prismatic", "ball": "spherical"}
        if kind not in kinds:
            raise InvalidDocument(
                where, _("'{kind}' is no type of joint", kind=kind[:40]), _("The types are: hinge, slide, ball, free")
            )
        local = np.array([0.0, 0.0, 1.0])
        if kind != "ball":
            local = way(numbers(own.get("axis"), 3, where=where, otherwise=[0, 0, 1]), where=where)
        place = MM * numbers(own.get("pos"), 3, where=where, otherwise=[0, 0, 0])
        joint = Joint(
            name=own.get("name") or f"{parent} to {link}", kind=kinds[kind], parent=parent, child=link,  # type: ignore[arg-type]
            point=pose.point(place), direction=pose.direction(local),
        )  # fmt: skip
        if own.get("range") and own.get("limited", "auto") != "false" and kind != "ball":
            scale = self.angle if kind == "hinge" else 1.0
            take_limits(joint, [scale * end for end in numbers(own.get("range"), 2, where=where, most=None)], where)
        return joint

    def equality(self, own: ET.Element) -> None:
        """Read what closes a loop, or ties a slide to a turn."""
        where = f"{self.name}, equality '{own.get('name', own.tag)}'"
        if own.tag == "joint":
            self._tie(own, where)
            return
        if own.tag not in ("connect", "weld"):
            self.chain.notices.append(phrase("tie-left-out", name=own.get("name") or own.tag))
            return
        names, point = self._ends(own, where)
        kind = "spherical" if own.tag == "connect" else "fixed"
        self.chain.loops.append(
            Joint(name=own.get("name") or f"{names[0]} to {names[1]}", kind=kind, parent=names[0], child=names[1],  # type: ignore[arg-type]
                  point=point, direction=np.array([0.0, 0.0, 1.0]))
        )  # fmt: skip

    def _ends(self, own: ET.Element, where: str) -> tuple[list[str], _Array]:
        """Return the two bodies that an equality joins, and where."""
        sites = [own.get("site1"), own.get("site2")]
        if any(sites):
            if any(site not in self.sites for site in sites):
                raise InvalidDocument(
                    where,
                    _("'{sites}' or '{sites_2}' is no site", sites=sites[0], sites_2=sites[1]),
                    _("Name sites of the file"),
                )
            (one, pose), (other, _unused) = (self.sites[site] for site in sites if site)
            return [one, other], pose.position
        names = [own.get(body, WORLD) for body in ("body1", "body2")]
        poses = {link.id: link.pose for link in self.chain.links} | {WORLD: Pose.identity()}
        if any(body not in poses for body in names):
            raise InvalidDocument(
                where,
                _("'{names}' or '{names_2}' is no body", names=names[0], names_2=names[1]),
                _("Name bodies of the file"),
            )
        anchor = MM * numbers(own.get("anchor"), 3, where=where, otherwise=[0, 0, 0])
        return names, poses[names[0]].point(anchor)

    def _tie(self, own: ET.Element, where: str) -> None:
        """Make a screw of a slide that is tied to a turn about the same axis."""
        name = (own.get("joint1") or "").rpartition("/")[0]
        joint = next((joint for joint in self.chain.joints if joint.name == name and joint.kind == "cylindrical"), None)
        slope = numbers(own.get("polycoef"), 5, where=where, otherwise=[0, 1, 0, 0, 0])
        if joint is None or abs(slope[0]) > _SAME or np.any(np.abs(slope[2:]) > _SAME):
            tied = own.get("name") or f"{own.get('joint1', '')} and {own.get('joint2', '')}"
            self.chain.notices.append(phrase("tie-left-out", name=tied))
            return
        joint.kind, joint.pitch = "screw", MM * 2 * math.pi * float(slope[1])


def _turned_to(z: _Array) -> _Array:
    """Return the least turn that takes the z axis to a direction."""
    axis = np.cross([0.0, 0.0, 1.0], z)
    size = float(np.linalg.norm(axis))
    if size < _SAME:
        return np.eye(3) if z[2] > 0 else np.diag([1.0, -1.0, -1.0])
    return rotation_by(math.atan2(size, float(z[2])) * axis / size)


def _as_one(joints: list[Joint]) -> Joint | None:
    """Return the one joint that some joints of a body make; None where they make none."""
    if len(joints) == 1:
        return joints[0]
    turns = [joint for joint in joints if joint.kind == "revolute"]
    slides = [joint for joint in joints if joint.kind == "prismatic"]
    name = joints[0].name.rpartition("/")[0] or joints[0].name
    if len(turns) != 1 or len(turns) + len(slides) != len(joints):
        return None
    (turn,) = turns
    along = [abs(float(slide.direction @ turn.direction)) for slide in slides]
    if len(slides) == 1 and along[0] > 1 - _SAME and float(slides[0].direction @ turn.direction) > 0:
        return replace(turn, kind="cylindrical", name=name, translation=slides[0].translation)
    is_flat = len(slides) == 2 and max(along) < _SAME and abs(float(slides[0].direction @ slides[1].direction)) < 0.5
    if is_flat and not any(joint.rotation or joint.translation for joint in joints):
        return replace(turn, kind="planar", name=name)
    return None
