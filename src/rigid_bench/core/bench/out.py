"""What a bench holds, for other programs: glTF to look at, URDF with meshes to simulate."""

import base64
import json
import xml.etree.ElementTree as ET
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.bench.documents import BenchPart, BenchParts, BenchState
from rigid_bench.core.bench.work import answer
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]
_M = 1e-3
_FLOAT, _UNSIGNED = 5126, 5125


def gltf(state: BenchState, parts: BenchParts) -> bytes:
    """Write the placed parts as glTF 2.0, its data in it: metres, y upwards (Khronos, glTF 2.0 specification, 3.4)."""
    used = [part for part in parts.parts if any(part.id == own.part for own in state.placed)]
    blob, views, accessors, meshes = b"", [], [], []
    for part in used:
        points, triangles = _triangles(part)
        points = (points * _M).astype("<f4")
        for data, target in ((points, 34962), (triangles.astype("<u4"), 34963)):
            raw = data.tobytes()
            views.append({"buffer": 0, "byteOffset": len(blob), "byteLength": len(raw), "target": target})
            blob += raw
        accessors.append(
            {"bufferView": len(views) - 2, "componentType": _FLOAT, "count": len(points), "type": "VEC3",
             "min": points.min(axis=0).tolist(), "max": points.max(axis=0).tolist()}
        )  # fmt: skip
        accessors.append(
            {"bufferView": len(views) - 1, "componentType": _UNSIGNED, "count": int(triangles.size), "type": "SCALAR"}
        )
        attributes = {"POSITION": len(accessors) - 2}
        meshes.append({"name": part.name, "primitives": [{"attributes": attributes, "indices": len(accessors) - 1}]})
    numbers = {part.id: k for k, part in enumerate(used)}
    nodes: list[dict[str, Any]] = [
        {
            "name": instance.id,
            "mesh": numbers[instance.part],
            "translation": [_M * value for value in instance.position],
            "rotation": [*instance.quaternion[1:], instance.quaternion[0]],
        }
        for instance in state.placed
    ]
    # y is up in glTF, z in ours: one node above all turns them
    nodes.append({"name": "bench", "rotation": [-(0.5**0.5), 0, 0, 0.5**0.5], "children": list(range(len(nodes)))})
    uri = "data:application/octet-stream;base64," + base64.b64encode(blob).decode()
    document = {
        "asset": {"version": "2.0", "generator": "Rigid Bench"},
        "scene": 0,
        "scenes": [{"nodes": [len(nodes) - 1]}],
        "nodes": nodes,
        "meshes": meshes,
        "accessors": accessors,
        "bufferViews": views,
        "buffers": [{"uri": uri, "byteLength": len(blob)}],
    }
    return json.dumps(document).encode()


#: What carries a part, the kind of joint between them, and its axis (point and direction in the world, mm) or None.
Joint = tuple[str, str, tuple[_Array, _Array] | None]


def joints_of(state: BenchState, *, tolerance: Tolerance) -> dict[str, Joint]:
    """Say for each part what carries it, and by which one joint: a tree from the base on.

    A part that may do more than one thing is given as floating; so are parts that nothing carries.
    """
    freedom = answer(state, tolerance=tolerance).freedom
    names = [instance.id for instance in state.placed]
    base = next((instance.id for instance in state.placed if instance.grounded), names[0])
    carried, waiting, joints = {base}, [base], dict[str, Joint]()
    while waiting:
        own = waiting.pop(0)
        for mate in state.mates:
            ends = (mate.a.instance, mate.b.instance)
            if own not in ends or ends[0] == ends[1]:
                continue
            other = ends[1] if ends[0] == own else ends[0]
            if other in carried:
                continue
            carried.add(other)
            waiting.append(other)
            joints[other] = (own, *_joint(freedom.motions(names.index(other), names.index(own))))
    for name in names:
        if name not in carried:
            joints[name] = (base, "floating", None)
    return joints


def _joint(motions: Sequence[Motion]) -> tuple[str, tuple[_Array, _Array] | None]:
    if not motions:
        return "fixed", None
    if len(motions) == 1 and motions[0].kind == "rotation":
        return "continuous", (motions[0].point, motions[0].direction)
    if len(motions) == 1 and motions[0].kind == "translation":
        return "prismatic", (motions[0].point, motions[0].direction)
    return "floating", None


def urdf(state: BenchState, parts: BenchParts, joints: Mapping[str, Joint]) -> dict[str, bytes]:
    """Write the build as URDF with a mesh for each part, by file name; metres and radians.

    Parameters
    ----------
    state, parts
        The bench, its parts with triangles.
    joints
        By instance: the instance that carries it, the joint's kind ("fixed", "revolute", "continuous", "prismatic",
        "floating"), and its axis as (point, direction) in the world, mm, or None.
    """
    robot = ET.Element("robot", name="bench")
    poses = {instance.id: instance.pose for instance in state.placed}
    origins = {name: _joint_frame(poses[name], joints.get(name)) for name in poses}
    for instance in state.placed:
        link = ET.SubElement(robot, "link", name=instance.id)
        inside = origins[instance.id].inverse() @ poses[instance.id]
        for what in ("visual", "collision"):
            shape = ET.SubElement(link, what)
            ET.SubElement(shape, "origin", _origin(inside))
            scale = f"{_M} {_M} {_M}"
            ET.SubElement(ET.SubElement(shape, "geometry"), "mesh", filename=f"{instance.part}.stl", scale=scale)
    for name, (carrier, kind, axis) in joints.items():
        joint = ET.SubElement(robot, "joint", name=f"{carrier} to {name}", type=kind)
        ET.SubElement(joint, "parent", link=carrier)
        ET.SubElement(joint, "child", link=name)
        ET.SubElement(joint, "origin", _origin(origins[carrier].inverse() @ origins[name]))
        if axis is not None:
            way = origins[name].inverse().direction(axis[1])
            ET.SubElement(joint, "axis", xyz=" ".join(f"{value:.9g}" for value in way))
        if kind == "prismatic":
            ET.SubElement(joint, "limit", lower="-1", upper="1", effort="0", velocity="0")
    ET.indent(robot)
    files = {"bench.urdf": ET.tostring(robot, encoding="utf-8", xml_declaration=True)}
    for part in parts.parts:
        if any(part.id == instance.part for instance in state.placed):
            files[f"{part.id}.stl"] = _stl(part)
    return files


def _joint_frame(pose: Pose, joint: Joint | None) -> Pose:
    """A joint's frame stands at a point of its axis, turned as its part is."""
    if joint is None or joint[2] is None:
        return pose
    return Pose(pose.rotation, np.asarray(joint[2][0], dtype=float))


def _origin(pose: Pose) -> dict[str, str]:
    """Write a pose as URDF does: metres, and turns about the fixed x, y and z."""
    r = pose.rotation
    pitch = float(np.arcsin(np.clip(-r[2, 0], -1, 1)))
    roll, yaw = float(np.arctan2(r[2, 1], r[2, 2])), float(np.arctan2(r[1, 0], r[0, 0]))
    return {
        "xyz": " ".join(f"{_M * value:.9g}" for value in pose.position),
        "rpy": f"{roll:.9g} {pitch:.9g} {yaw:.9g}",
    }


def _stl(part: BenchPart) -> bytes:
    """Write a part's triangles as STL, by the mesh library: loaded where it is asked for, as pages live without it."""
    from rigid_bench.core.kernel.meshes.mesh_scene import write_stl

    return write_stl(*_triangles(part))


def _triangles(part: BenchPart) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    return np.array(part.vertices).reshape(-1, 3), np.array(part.triangles, dtype=np.int64).reshape(-1, 3)
