"""Mesh files: their placed meshes as they stand in one of any format, and its unit; triangles written as STL."""

import io

import numpy as np
import trimesh
from numpy.typing import NDArray
from trimesh import Trimesh
from trimesh.exchange.stl import export_stl

from rigid_bench.core.formats.content.mesh_text import EXPORT_AGAIN, MOST_TRIANGLES
from rigid_bench.core.kernel.meshes.amf_file import read_amf
from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.wording.language import _

#: Label, corners and triangles, and where it stands.
Placed = tuple[str, Trimesh, Pose]
#: From y up, as glTF 2.0 section 3.4 says, to z up.
_UPRIGHT = np.array([[1.0, 0.0, 0.0], [0.0, 0.0, -1.0], [0.0, 1.0, 0.0]])
#: Formats that say no unit, and those that always have the same.
_UNITS = {"STL": "unknown", "OBJ": "unknown", "PLY": "unknown", "glTF": "meter"}
_RIGID = 1e-6


def load_scene(data: bytes, *, kind: str, name: str) -> tuple[list[Placed], str]:
    """Return each placed mesh with its label and pose, in the file's unit, and the word for that unit.

    Raises
    ------
    UnreadableFile
        The data is broken or absurd.
    """
    if kind == "AMF":
        placed, unit = read_amf(data, name=name)
    else:
        placed, unit = _loaded(data, kind, name)
    if sum(len(mesh.faces) for _name, mesh, _pose in placed) > MOST_TRIANGLES:
        raise UnreadableFile(
            name,
            _("the mesh has more than {most_triangles} triangles", most_triangles=MOST_TRIANGLES),
            _("Export it coarser"),
        )
    if any(
        len(mesh.faces) and not 0 <= mesh.faces.min() <= mesh.faces.max() < len(mesh.vertices)
        for _name, mesh, _pose in placed
    ):
        raise UnreadableFile(name, _("its triangles name corners that are not there"), EXPORT_AGAIN)
    return placed, unit


def _loaded(data: bytes, kind: str, name: str) -> tuple[list[Placed], str]:
    file_type = "glb" if data[:4] == b"glTF" else kind.lower()
    try:
        loaded = trimesh.load_scene(io.BytesIO(data), file_type=file_type, process=False, skip_materials=True)
        nodes = [(node, *loaded.graph[node]) for node in loaded.graph.nodes_geometry]
        meshes = [
            _placed(str(label), loaded.geometry[label], np.asarray(matrix, dtype=float), str(node))
            for node, matrix, label in nodes
            if isinstance(loaded.geometry[label], Trimesh)
        ]
    except Exception as exc:  # the reader raises whatever the broken file makes it raise
        raise UnreadableFile(name, _("the {kind} data cannot be read", kind=kind), EXPORT_AGAIN) from exc
    if kind == "glTF":
        meshes = [_upright(*node) for node in meshes]
    said = (str(mesh.units) for _name, mesh, _pose in meshes if mesh.units)
    return meshes, _UNITS.get(kind) or next(said, "millimeter")


def _upright(label: str, mesh: Trimesh, pose: Pose) -> Placed:
    """Return what stands with y up with z up, in its own coordinates and in the file's."""
    turned = Trimesh(np.asarray(mesh.vertices) @ _UPRIGHT.T, mesh.faces, process=False)
    return label, turned, Pose(_UPRIGHT @ pose.rotation @ _UPRIGHT.T, _UPRIGHT @ pose.position)


def _placed(label: str, mesh: Trimesh, matrix: NDArray[np.float64], node: str) -> Placed:
    """Return a mesh where its node puts it; one that the node stretches or mirrors is a mesh of its own."""
    turn = matrix[:3, :3]
    if np.abs(turn @ turn.T - np.eye(3)).max() < _RIGID and np.linalg.det(turn) > 0:
        return label, mesh, Pose(turn, matrix[:3, 3])
    units = mesh.units
    own = mesh.copy()
    own.apply_transform(matrix)
    own.units = units
    return node, own, Pose.identity()


def write_stl(vertices: NDArray[np.float64], triangles: NDArray[np.int64]) -> bytes:
    """Write triangles as binary STL: corners, (n, 3) mm, and the three of each triangle, (m, 3)."""
    written: bytes = export_stl(Trimesh(vertices, triangles, process=False))
    return written
