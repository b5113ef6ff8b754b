"""SDFormat: links where they stand, joints between any two of them (Open Robotics, SDFormat 1.11, from memory)."""

import xml.etree.ElementTree as ET
from dataclasses import replace

import numpy as np

from rigid_bench.core.interchange.beside import beside_text, take_beside
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

_SPOKEN = frozenset({"fixed", "revolute", "prismatic", "spherical", "screw"})
ABILITIES = Abilities(tree=_SPOKEN, loops=_SPOKEN)
_WRITTEN = {"spherical": "ball"}
_READ: dict[str, JointKind] = {
    "fixed": "fixed", "revolute": "revolute", "continuous": "revolute", "prismatic": "prismatic", "ball": "spherical",
    "screw": "screw",
}  # fmt: skip
#: Turns about two axes one after the other: a part between carries the second.
_TWO_TURNS = ("universal", "revolute2")
#: The element of our own: formats' readers pass over names with a prefix.
_BESIDE, _SPACE = "{urn:rigid-bench}build", "urn:rigid-bench"


def write(chain: Chain, inertia: dict[str, Inertia]) -> bytes:
    """Write a build as SDFormat: metres and radians; loops are joints like others."""
    ET.register_namespace("rigid_bench", _SPACE)
    root = ET.Element("sdf", version="1.11")
    model = ET.SubElement(root, "model", name="build")
    for link in chain.links:
        own = ET.SubElement(model, "link", name=link.id)
        ET.SubElement(own, "pose").text = " ".join(to_rpy(link.pose))
        _write_inertia(own, inertia[link.id])
    for link in chain.links:
        if link.grounded:
            own = ET.SubElement(model, "joint", name=f"{WORLD} to {link.id}", type="fixed")
            ET.SubElement(own, "parent").text, ET.SubElement(own, "child").text = WORLD, link.id
    for joint in (*chain.joints, *chain.loops):
        _write_joint(model, joint, chain.link(joint.child).pose)
    ET.SubElement(model, _BESIDE).text = beside_text(chain)
    return written(root)


def _write_inertia(link: ET.Element, inertia: Inertia) -> None:
    own = ET.SubElement(link, "inertial")
    ET.SubElement(own, "pose").text = " ".join(to_rpy(Pose(np.eye(3), inertia.centre)))
    ET.SubElement(own, "mass").text = f"{inertia.mass:.9g}"
    tensor = ET.SubElement(own, "inertia")
    for name, value in zip(("ixx", "ixy", "ixz", "iyy", "iyz", "izz"), inertia.tensor, strict=True):
        ET.SubElement(tensor, name).text = f"{value:.9g}"


def _write_joint(model: ET.Element, joint: Joint, child: Pose) -> None:
    own = ET.SubElement(model, "joint", name=joint.name, type=_WRITTEN.get(joint.kind, joint.kind))
    ET.SubElement(own, "parent").text, ET.SubElement(own, "child").text = joint.parent, joint.child
    if joint.kind == "fixed":
        return
    place = Pose(np.eye(3), child.inverse().point(joint.point))
    ET.SubElement(own, "pose").text = " ".join(to_rpy(place))
    if joint.kind == "spherical":
        return
    axis = ET.SubElement(own, "axis")
    ET.SubElement(axis, "xyz").text = text_of(child.inverse().direction(joint.direction))
    ends = joint.rotation or joint.translation
    if ends:
        scale = 1.0 if joint.rotation else 1 / MM
        limit = ET.SubElement(axis, "limit")
        for name, end in zip(("lower", "upper"), ends, strict=True):
            ET.SubElement(limit, name).text = f"{end * scale:.12g}"
    if joint.kind == "screw":
        ET.SubElement(own, "screw_thread_pitch").text = f"{joint.pitch / MM:.12g}"


def read(data: bytes, *, name: str) -> Chain:
    """Read the first model of a file: links are instances, joints mates; what is fixed to the world is grounded.

    Raises
    ------
    InvalidDocument
        It is none, or holds what a build cannot, such as a model within a model.
    """
    root = parsed(data, name=name, root="sdf")
    model = root.find("model") if root.find("model") is not None else root.find("world/model")
    if model is None:
        raise InvalidDocument(name, _("it has no model"), _("Give it one"))
    for nested in ("model", "include"):
        if model.find(nested) is not None:
            raise InvalidDocument(
                name, _("its model holds a <{nested}>", nested=nested), _("Write all links into one model")
            )
    links = {attribute(own, "name", where=f"{name}, link"): own for own in model.findall("link")}
    if not links:
        raise InvalidDocument(name, _("its model has no link"), _("Give it one"))
    poses = _poses(model, links, name)
    is_static = (model.findtext("static") or "").strip() in ("true", "1")
    chain = Chain(links=[Link(id=own, pose=poses[own], grounded=is_static) for own in links], joints=[])
    for own in model.findall("joint"):
        _read_joint(chain, own, poses, f"{name}, joint '{attribute(own, 'name', where=name)}'")
    take_beside(chain, model.findtext(_BESIDE), name=name)
    return chain


def _poses(model: ET.Element, links: dict[str, ET.Element], name: str) -> dict[str, Pose]:
    """Return where links stand, also those that are placed relative to others."""
    poses = {"": Pose.identity(), "__model__": Pose.identity()}
    waiting = dict(links)
    while waiting:
        ready = [key for key, own in waiting.items() if _base(own) in poses]
        if not ready:
            key = next(iter(waiting))
            raise InvalidDocument(
                _("{name}, link '{key}'", name=name, key=key),
                _("it stands relative to '{waiting}'", waiting=_base(waiting[key])),
                _("Name a link"),
            )
        for key in ready:
            own = waiting.pop(key)
            poses[key] = poses[_base(own)] @ _pose(own.find("pose"), f"{name}, link '{key}'")
    return poses


def _base(own: ET.Element) -> str:
    pose = own.find("pose")
    return "" if pose is None else pose.get("relative_to", "")


def _pose(element: ET.Element | None, where: str) -> Pose:
    if element is None or not (element.text or "").strip():
        return Pose.identity()
    if element.get("rotation_format") == "quat_xyzw":
        values = numbers(element.text, 7, where=where)
        x, y, z, w = values[3:].tolist()
        return Pose.from_quaternion((MM * values[:3]).tolist(), [w, x, y, z])
    values = numbers(element.text, 6, where=where)
    turns = np.radians(values[3:]) if element.get("degrees") in ("true", "1") else values[3:]
    return from_rpy(values[:3], turns)


def _read_joint(chain: Chain, own: ET.Element, poses: dict[str, Pose], where: str) -> None:
    parent, child = ((own.findtext(side) or "").strip() for side in ("parent", "child"))
    known = {link.id for link in chain.links}
    kind = own.get("type", "")
    if kind not in _READ and kind not in _TWO_TURNS:
        known_kinds = series([*_READ, *_TWO_TURNS])
        raise InvalidDocument(
            where,
            _("'{kind}' is no type of joint that a build has", kind=kind[:40]),
            _("Use one of: {known_kinds}", known_kinds=known_kinds),
        )
    if child == WORLD and parent in known:
        parent, child = child, parent
    if child not in known or parent not in (*known, WORLD):
        raise InvalidDocument(
            where,
            _("'{parent}' or '{child}' is no link", parent=parent[:40], child=child[:40]),
            _("Name links of the model"),
        )
    if parent == WORLD and kind == "fixed":
        chain.link(child).grounded = True
        return
    if parent == WORLD and WORLD not in known:
        chain.links.insert(0, Link(id=WORLD, pose=Pose.identity(), grounded=True))
    pose = own.find("pose")
    base = pose.get("relative_to", "") if pose is not None else ""
    placed = poses.get(base or child, poses[child]) @ _pose(pose, where)
    name = attribute(own, "name", where=where)
    joint = Joint(
        name=name, kind=_READ.get(kind, "revolute"), parent=parent, child=child, point=placed.position,
        direction=placed.direction(np.array([0.0, 0.0, 1.0])),
    )  # fmt: skip
    if kind == "screw":
        joint.pitch = MM * float(numbers(own.findtext("screw_thread_pitch"), 1, where=where)[0])
    if kind not in _TWO_TURNS:
        chain.joints.append(
            joint if joint.kind in ("fixed", "spherical") else _about(joint, own, "axis", placed, poses, where)
        )
        return
    between = f"{child}/{name}"
    chain.links.append(Link(id=between, pose=poses[child]))
    first, second = replace(joint, name=f"{name}/1", child=between), replace(joint, name=f"{name}/2", parent=between)
    chain.joints.append(_about(first, own, "axis", placed, poses, where))
    chain.joints.append(_about(second, own, "axis2", placed, poses, where))


def _about(joint: Joint, own: ET.Element, tag: str, placed: Pose, poses: dict[str, Pose], where: str) -> Joint:
    """Return a joint about or along one of its axes, with the limits of that."""
    axis = own.find(tag)
    xyz = axis.find("xyz") if axis is not None else None
    local = way(numbers(xyz.text if xyz is not None else None, 3, where=where, otherwise=[0, 0, 1]), where=where)
    base = xyz.get("expressed_in", "") if xyz is not None else ""
    frame = placed if not base else poses.get(base, placed)
    joint = replace(joint, direction=frame.direction(local))
    limit = axis.find("limit") if axis is not None else None
    if limit is not None and joint.kind in ("revolute", "prismatic"):
        sides = (("lower", -np.inf), ("upper", np.inf))
        ends = [numbers(limit.findtext(side), 1, where=where, otherwise=[none], most=None)[0] for side, none in sides]
        take_limits(joint, ends, where)
    return joint
