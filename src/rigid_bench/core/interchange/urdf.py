"""URDF: links and joints in a tree (Open Robotics, unified robot description format, from memory)."""

import xml.etree.ElementTree as ET

import numpy as np

from rigid_bench.core.formats.message import phrase
from rigid_bench.core.interchange.beside import beside_text, kept_pose, take_beside
from rigid_bench.core.interchange.chain import WORLD, Abilities, Chain, Joint, JointKind, Link
from rigid_bench.core.interchange.inertia import Inertia
from rigid_bench.core.interchange.xml import (
    MM,
    attribute,
    from_rpy,
    numbers,
    parsed,
    take_limits,
    text_of,
    to_rpy,
    way,
    written,
)
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.wording.language import _, series

ABILITIES = Abilities(tree=frozenset({"fixed", "revolute", "prismatic", "planar"}), loops=frozenset())
_READ: dict[str, JointKind] = {
    "fixed": "fixed", "revolute": "revolute", "continuous": "revolute", "prismatic": "prismatic", "planar": "planar",
}  # fmt: skip
_AXIS = [1.0, 0.0, 0.0]


def write(chain: Chain, inertia: dict[str, Inertia]) -> bytes:
    """Write a build as URDF: metres and radians; what no joint says is in an element of our own at its end."""
    robot = ET.Element("robot", name="build")
    joints = {joint.child: joint for joint in chain.joints}
    frames = {link.id: _joint_frame(link, joints.get(link.id)) for link in chain.links}
    grounded = [link.id for link in chain.links if link.grounded]
    if grounded:
        ET.SubElement(robot, "link", name=WORLD)
    for link in chain.links:
        _write_link(robot, link, frames[link.id].inverse() @ link.pose, inertia[link.id])
    root = WORLD if grounded else next(link.id for link in chain.links if link.id not in joints)
    for link in chain.links:
        joint = joints.get(link.id)
        if joint is not None:
            _write_joint(robot, joint, frames)
        elif link.id != root:
            kind = "fixed" if link.grounded else "floating"
            own = ET.SubElement(robot, "joint", name=f"{root} to {link.id}", type=kind)
            origin = frames[link.id] if root == WORLD else frames[root].inverse() @ frames[link.id]
            _ends(own, root, link.id, origin)
    beside = ET.SubElement(robot, "rigid_bench")
    beside.text = beside_text(chain, {name: pose.inverse() @ chain.link(name).pose for name, pose in frames.items()})
    return written(robot)


def _joint_frame(link: Link, joint: Joint | None) -> Pose:
    """Return where a link's frame stands: on its joint's axis, turned as its part is."""
    if joint is None or joint.kind == "fixed":
        return link.pose
    return Pose(link.pose.rotation, joint.point)


def _write_link(robot: ET.Element, link: Link, inside: Pose, inertia: Inertia) -> None:
    own = ET.SubElement(robot, "link", name=link.id)
    body = ET.SubElement(own, "inertial")
    xyz, rpy = to_rpy(inside @ Pose(np.eye(3), inertia.centre))
    ET.SubElement(body, "origin", xyz=xyz, rpy=rpy)
    ET.SubElement(body, "mass", value=f"{inertia.mass:.9g}")
    names = ("ixx", "ixy", "ixz", "iyy", "iyz", "izz")
    ET.SubElement(body, "inertia", {name: f"{value:.9g}" for name, value in zip(names, inertia.tensor, strict=True)})
    file = str(link.part.get("file", ""))
    if file.lower().endswith((".stl", ".dae", ".obj")):
        shape = ET.SubElement(own, "visual")
        xyz, rpy = to_rpy(inside)
        ET.SubElement(shape, "origin", xyz=xyz, rpy=rpy)
        ET.SubElement(ET.SubElement(shape, "geometry"), "mesh", filename=file, scale="0.001 0.001 0.001")


def _ends(own: ET.Element, parent: str, child: str, origin: Pose) -> None:
    ET.SubElement(own, "parent", link=parent)
    ET.SubElement(own, "child", link=child)
    xyz, rpy = to_rpy(origin)
    ET.SubElement(own, "origin", xyz=xyz, rpy=rpy)


def _write_joint(robot: ET.Element, joint: Joint, frames: dict[str, Pose]) -> None:
    ends = joint.rotation or joint.translation
    kind = "continuous" if joint.kind == "revolute" and not ends else joint.kind
    own = ET.SubElement(robot, "joint", name=joint.name, type=kind)
    _ends(own, joint.parent, joint.child, frames[joint.parent].inverse() @ frames[joint.child])
    if joint.kind == "fixed":
        return
    ET.SubElement(own, "axis", xyz=text_of(frames[joint.child].inverse().direction(joint.direction)))
    if ends or joint.kind == "prismatic":
        scale = 1.0 if joint.kind == "revolute" else 1 / MM
        low, high = (f"{end * scale:.12g}" for end in ends or (-MM, MM))
        ET.SubElement(own, "limit", lower=low, upper=high, effort="0", velocity="0")


def read(data: bytes, *, name: str) -> Chain:
    """Read a URDF: each link is an instance, each joint a mate; a link "world" is the ground.

    Raises
    ------
    InvalidDocument
        It is none, or its joints make no tree.
    """
    robot = parsed(data, name=name, root="robot")
    links = {attribute(own, "name", where=f"{name}, link"): own for own in robot.findall("link")}
    if not links:
        raise InvalidDocument(name, _("it has no link"), _("Give it one"))
    waiting = {attribute(own, "name", where=f"{name}, joint"): own for own in robot.findall("joint")}
    text = robot.findtext("rigid_bench")
    children = {_end(own, "child", links, f"{name}, joint '{key}'") for key, own in waiting.items()}
    roots = [link for link in links if link not in children]
    if len(roots) != 1:
        problem = _("{count} links are the child of no joint; one should be", count=len(roots))
        raise InvalidDocument(name, problem, _("Join all links to one tree"))
    # a root that floats stands where the build had it; the format itself has no word for that
    poses = {roots[0]: kept_pose(text, roots[0], name=name)}
    chain = Chain(links=[], joints=[])
    while waiting:
        ready = [key for key, own in waiting.items() if _end(own, "parent", links, f"{name}, joint '{key}'") in poses]
        if not ready:
            raise InvalidDocument(
                name,
                _("joint '{waiting}' hangs on itself", waiting=next(iter(waiting))),
                _("Join all links to one tree"),
            )
        for key in ready:
            _read_joint(chain, waiting.pop(key), key, poses, links, f"{name}, joint '{key}'")
    is_ground = WORLD in links and roots[0] == WORLD
    fixed = {joint.child for joint in chain.joints if joint.parent == WORLD and joint.kind == "fixed"}
    on_world = [joint for joint in chain.joints if joint.parent == WORLD and joint.kind != "fixed"]
    for link in links:
        if link == WORLD and is_ground and not on_world:
            continue
        grounded = is_ground and (link == WORLD or link in fixed)
        chain.links.append(Link(id=link, pose=poses[link], grounded=grounded))
    if is_ground:
        chain.joints = [joint for joint in chain.joints if joint.parent != WORLD or joint.kind != "fixed"]
    take_beside(chain, text, name=name)
    return chain


def _end(own: ET.Element, side: str, links: dict[str, ET.Element], where: str) -> str:
    end = own.find(side)
    link = end.get("link", "") if end is not None else ""
    if link not in links:
        raise InvalidDocument(
            where, _("its {side} '{link}' is no link", side=side, link=link[:40]), _("Name a link of the file")
        )
    return link


def _read_joint(
    chain: Chain, own: ET.Element, key: str, poses: dict[str, Pose], links: dict[str, ET.Element], where: str
) -> None:
    parent, child = _end(own, "parent", links, where), _end(own, "child", links, where)
    if child in poses:
        raise InvalidDocument(
            where,
            _("'{child}' is the child of two joints", child=child),
            _("A link has one parent: URDF knows no loops"),
        )
    origin = own.find("origin")
    xyz = numbers(origin.get("xyz") if origin is not None else None, 3, where=where, otherwise=[0, 0, 0])
    rpy = numbers(origin.get("rpy") if origin is not None else None, 3, where=where, otherwise=[0, 0, 0])
    poses[child] = poses[parent] @ from_rpy(xyz, rpy)
    kind = own.get("type", "")
    if kind == "floating":
        return
    if kind not in _READ:
        raise InvalidDocument(
            where,
            _("'{kind}' is no type of joint", kind=kind[:40]),
            _("The types are: {value}", value=series([*_READ, "floating"])),
        )
    axis = own.find("axis")
    local = np.array(_AXIS)
    if kind != "fixed":  # many write an axis of nothing for what has none
        xyz_axis = axis.get("xyz") if axis is not None else None
        local = way(numbers(xyz_axis, 3, where=where, otherwise=_AXIS), where=where)
    joint = Joint(
        name=key, kind=_READ[kind], parent=parent, child=child, point=poses[child].position,
        direction=poses[child].direction(local),
    )  # fmt: skip
    limit = own.find("limit")
    if limit is not None and kind in ("revolute", "prismatic") and not _is_ours(own, limit):
        ends = [numbers(limit.get(end), 1, where=where, otherwise=[0], most=None)[0] for end in ("lower", "upper")]
        take_limits(joint, ends, where)
    if own.find("mimic") is not None:
        chain.notices.append(phrase("tie-left-out", name=key))
    chain.joints.append(joint)


def _is_ours(own: ET.Element, limit: ET.Element) -> bool:
    """Say whether a limit was written only because the format wants one: a metre either way."""
    return own.get("type") == "prismatic" and (limit.get("lower"), limit.get("upper")) == ("-1", "1")
