"""Links and joints as a build file, each joint as the mate of its kind."""

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.interchange.chain import Chain, Joint, Link
from rigid_bench.core.values.frames import Pose, any_normal, rotation_by
from rigid_bench.core.values.names import unique

_Array = NDArray[np.float64]
_DIGITS = 12


def build_document(chain: Chain) -> dict[str, Any]:
    """Write a build file, mm; mates that travelled beside the joints are as they were."""
    parts: dict[str, dict[str, Any]] = {}
    for link in chain.links:
        own = link.part or {"id": link.id, "name": link.id}
        parts.setdefault(own["id"], own)
    taken = {mate["id"] for mate in chain.mates}
    mates = list(chain.mates)
    for joint in [*chain.joints, *chain.loops]:
        ends = [chain.link(joint.parent), chain.link(joint.child)]
        if ends[0].group and ends[0].group == ends[1].group and joint.kind == "fixed":
            continue  # the group says it
        name = unique(joint.name, taken)
        taken.add(name)
        mates.append({"id": name, **_mate(joint, ends[0], ends[1])})
    return {
        "format": "rigid-bench/build", "version": 1, "units": "mm",
        **({"source": chain.source} if chain.source else {}), "parts": list(parts.values()),
        "instances": [_instance(link) for link in chain.links], "mates": mates,
    }  # fmt: skip


def _instance(link: Link) -> dict[str, Any]:
    pose = {"position": _list(link.pose.position), "quaternion": _list(link.pose.quaternion())}
    group = {"group": link.group} if link.group else {}
    return {"id": link.id, "part": link.part.get("id", link.id), "grounded": link.grounded, "pose": pose, **group}


def _mate(joint: Joint, parent: Link, child: Link) -> dict[str, Any]:
    sides: list[dict[str, Any]]
    if joint.kind == "spherical":
        sides = [
            {"instance": link.id, "point": _list(link.pose.inverse().point(joint.point))} for link in (parent, child)
        ]
        return {"kind": "spherical", "a": sides[0], "b": sides[1]}
    if joint.kind == "planar":
        sides = [{"instance": link.id, "plane": _plane(joint, link.pose)} for link in (parent, child)]
        return {"kind": "planar", "sense": "aligned", "a": sides[0], "b": sides[1]}
    x = any_normal(joint.direction)
    moved_x = rotation_by(joint.turned * joint.direction) @ x
    origin = joint.point + joint.travelled * joint.direction
    mate: dict[str, Any] = {
        "kind": joint.kind,
        "sense": "aligned",
        "a": {"instance": parent.id, "frame": _frame(joint.point, joint.direction, x, parent.pose)},
        "b": {"instance": child.id, "frame": _frame(origin, joint.direction, moved_x, child.pose)},
    }
    if joint.kind == "screw":
        mate["pitch"] = round(joint.pitch, 9)
    limits = {}
    if joint.rotation:
        limits["rotation"] = [round(math.degrees(end + joint.turned), 9) + 0.0 for end in joint.rotation]
    if joint.translation:
        limits["translation"] = [round(end + joint.travelled, 9) + 0.0 for end in joint.translation]
    return {**mate, "limits": limits} if limits else mate


def _frame(origin: _Array, z: _Array, x: _Array, pose: Pose) -> dict[str, list[float]]:
    inside = pose.inverse()
    return {"origin": _list(inside.point(origin)), "z": _list(inside.direction(z)), "x": _list(inside.direction(x))}


def _plane(joint: Joint, pose: Pose) -> dict[str, list[float]]:
    inside = pose.inverse()
    return {"point": _list(inside.point(joint.point)), "normal": _list(inside.direction(joint.direction))}


def _list(values: "_Array | Sequence[float]") -> list[float]:
    return [round(float(value), _DIGITS) + 0.0 for value in values]
