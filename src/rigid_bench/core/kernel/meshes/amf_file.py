"""Read AMF (ISO/ASTM 52915): objects with their triangles, placed by constellations."""

import xml.etree.ElementTree as ET

import numpy as np
from trimesh import Trimesh

from rigid_bench.core.formats.archive import is_zip, read_zip
from rigid_bench.core.formats.content.mesh_text import EXPORT_AGAIN
from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.core.values.frames import Pose, rotation_by
from rigid_bench.core.wording.language import _


def read_amf(data: bytes, *, name: str) -> tuple[list[tuple[str, Trimesh, Pose]], str]:
    """Read the placed meshes of a file, in its own unit, and the word for that unit.

    Raises
    ------
    UnreadableFile
        It is no AMF, or refers to what is not there.
    """
    text = next(iter(read_zip(data, name=name).values()), b"") if is_zip(data) else data
    if b"<!DOCTYPE" in text or b"<!ENTITY" in text:
        raise UnreadableFile(name, _("it defines entities of its own"), EXPORT_AGAIN)
    try:
        root = ET.fromstring(text)
        meshes = {element.get("id", ""): (_label(element), _mesh(element)) for element in root.iter("object")}
        placed = [
            (*meshes[instance.get("objectid", "")], _pose(instance))
            for constellation in root.iter("constellation")
            for instance in constellation.iter("instance")
        ]
    except (ET.ParseError, ValueError, KeyError, IndexError) as exc:
        raise UnreadableFile(name, _("the AMF data cannot be read"), EXPORT_AGAIN) from exc
    whole = [(label, mesh, Pose.identity()) for label, mesh in meshes.values()]
    return placed or whole, root.get("unit", "millimeter")


def _label(element: ET.Element) -> str:
    names = (match_.text for match_ in element.findall("metadata") if match_.get("type") == "name")
    return next(names, None) or f"object {element.get('id', '')}"


def _mesh(element: ET.Element) -> Trimesh:
    vertices = [
        [float(corner.findtext(f"coordinates/{axis}", "")) for axis in "xyz"] for corner in element.iter("vertex")
    ]
    faces = [[int(triangle.findtext(f"v{k}", "")) for k in (1, 2, 3)] for triangle in element.iter("triangle")]
    return Trimesh(np.reshape(vertices, (-1, 3)), np.reshape(faces, (-1, 3)).astype(int), process=False)


def _pose(instance: ET.Element) -> Pose:
    turns = [np.radians(float(instance.findtext(f"r{axis}", "0"))) for axis in "xyz"]
    x, y, z = (rotation_by(turn * axis) for axis, turn in zip(np.eye(3), turns, strict=True))
    return Pose(z @ y @ x, np.array([float(instance.findtext(f"delta{axis}", "0")) for axis in "xyz"]))
