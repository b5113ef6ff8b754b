"""The parts of a bench without the kernel: fine triangles, flat faces, round walls and edges, kept with the bench.

Contacts and collisions are found on them within one answer of a page, where no solid is at hand.
"""

import io
from collections.abc import Mapping
from dataclasses import dataclass, fields
from functools import cached_property, partial
from typing import Any

import fcl
import numpy as np
from numpy.typing import NDArray
from trimesh import Trimesh

from rigid_bench.core.kernel.meshes.mesh_body import encloses, hierarchy
from rigid_bench.core.part.edges import Edges
from rigid_bench.core.part.faces import Cylinder, OtherFace, Plane, Surface
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.frames import Pose

_Array = NDArray[np.float64]
#: mm: so near the triangles stay to a part.
_WITHIN = 0.03
#: mm: collisions are looked for so far under the skin, so that facets of what is round do not collide.
UNDER_MM = 0.05
#: Along what no face says, a corner stays: a share of the rest.
_DAMPING = 1e-3
#: How flat faces and round walls are written; 0 for the rest.
_KINDS: dict[type, int] = {Plane: 1, Cylinder: 2}
_EDGE_ARRAYS = [field.name for field in fields(Edges) if field.name != "samples"]


@dataclass(frozen=True, eq=False)
class CollisionMesh:
    """What is known of a part on a bench."""

    #: Its flat faces, round walls and edges; its body is the fine triangles.
    part: PartFeatures
    #: (m,) int, the bench's feature of each triangle, -1 for none.
    features: NDArray[np.int64]
    #: (n, 3) mm, the corners of the triangles `UNDER_MM` under the skin.
    under: _Array

    @property
    def mesh(self) -> Trimesh:
        """The fine triangles, mm."""
        assert isinstance(self.part.shape, Trimesh)
        return self.part.shape

    @cached_property
    def core(self) -> Any:
        """The triangles `UNDER_MM` under the skin, ready for collisions; their numbers are those of `features`."""
        return hierarchy(Trimesh(self.under, self.mesh.faces, process=False))


def meets(one: CollisionMesh, pose: Pose, other: CollisionMesh, there: Pose) -> tuple[int, int] | None:
    """Return a feature of each of two parts that run into each other where they stand; None where they do not."""
    bodies = [fcl.CollisionObject(mesh.core, fcl.Transform(at.rotation, at.position))
              for mesh, at in ((one, pose), (other, there))]  # fmt: skip
    result = fcl.CollisionResult()
    if not fcl.collide(*bodies, fcl.CollisionRequest(num_max_contacts=1, enable_contact=True), result):
        return None
    first = result.contacts[0]
    return int(one.features[first.b1]), int(other.features[first.b2])


def _under(mesh: Trimesh) -> _Array:
    """Return the corners of a closed mesh, each moved inward until all faces round it are `UNDER_MM` deeper."""
    merged = mesh.copy()
    merged.merge_vertices(digits_vertex=5)
    corners, normals = np.asarray(merged.faces), np.repeat(np.asarray(merged.face_normals), 3, axis=0)
    # least squares at every corner at once: n . move = -UNDER_MM for each face round it
    squares, sums = np.zeros((len(merged.vertices), 3, 3)), np.zeros((len(merged.vertices), 3))
    np.add.at(squares, corners.ravel(), normals[:, :, None] * normals[:, None, :])
    np.add.at(sums, corners.ravel(), -UNDER_MM * normals)
    weights = np.maximum(np.trace(squares, axis1=1, axis2=2), 1.0)[:, None, None]
    moves = np.linalg.solve(squares + _DAMPING * weights * np.eye(3), sums[:, :, None])[:, :, 0]
    lengths = np.linalg.norm(moves, axis=1, keepdims=True)
    moves *= np.minimum(1.0, 4 * UNDER_MM / np.maximum(lengths, 1e-12))  # a needle's point stays within it
    # the same triangles in the same order, so each corner of the first finds its own in the second
    own = np.asarray(mesh.faces).ravel()
    places: _Array = np.asarray(mesh.vertices, dtype=float).copy()
    places[own] = mesh.vertices[own] + moves[corners.ravel()]
    return places


def pack_collision_meshes(parts: Mapping[str, tuple[PartFeatures, Mapping[int, int]]]) -> bytes:
    """Write the collision meshes of parts.

    Parameters
    ----------
    parts
        By the part's id on the bench: its features, and the bench's feature of each face as `faces_of` counts them.

    Returns
    -------
    bytes
        As NumPy's `savez`, without pickles.
    """
    from rigid_bench.core.kernel.meshes.triangulation import (
        face_triangles,
    )  # with the kernel, which a drag does without

    packed: dict[str, Any] = {}
    for name, (part, numbers) in parts.items():
        vertices, triangles, faces = face_triangles(part.shape, within_mm=_WITHIN)
        own: dict[str, Any] = {
            "vertices": vertices,
            "triangles": triangles,
            "under": _under(Trimesh(vertices, triangles, process=False)),
            "features": [numbers.get(int(face), -1) for face in faces],
            "box": part.box,
            "of": [_KINDS.get(type(surface), 0) for surface in part.surfaces],
            "planes": [[*plane.point, *plane.normal, plane.area] for plane in part.planes],
            "walls": [[*wall.point, *wall.direction, wall.radius, wall.length, wall.is_hollow, wall.area]
                      for wall in part.cylinders],
            "arcs": [[k, *middle, sweep] for k, wall in enumerate(part.cylinders) for middle, sweep in wall.arcs],
            "sampled": np.array(list(part.edges.samples), dtype=np.int64),
            "samples": list(part.edges.samples.values()),
        }  # fmt: skip
        own |= {field: getattr(part.edges, field) for field in _EDGE_ARRAYS}
        packed |= {f"{name}/{what}": np.asarray(values) for what, values in own.items()}
    written = io.BytesIO()
    np.savez_compressed(written, **packed)
    return written.getvalue()


def unpack_collision_meshes(data: bytes) -> dict[str, CollisionMesh]:
    """Read what `pack_collision_meshes` wrote, by the part's id."""
    with np.load(io.BytesIO(data), allow_pickle=False) as given:
        names = dict.fromkeys(file.rsplit("/", 1)[0] for file in given.files)
        return {name: _skin({file.rsplit("/", 1)[1]: given[file] for file in given.files
                             if file.rsplit("/", 1)[0] == name}) for name in names}  # fmt: skip


def _skin(own: Mapping[str, NDArray[Any]]) -> CollisionMesh:
    planes = (
        Plane(faces=(k,), point=row[:3], normal=row[3:6], area=float(row[6])) for k, row in enumerate(own["planes"])
    )
    arcs = own["arcs"].reshape(-1, 5)
    walls = (
        Cylinder(
            faces=(-k - 1,), point=row[:3], direction=row[3:6], radius=float(row[6]), length=float(row[7]),
            is_hollow=bool(row[8]), area=float(row[9]),
            arcs=tuple((arc[1:4], float(arc[4])) for arc in arcs if int(arc[0]) == k),
        )
        for k, row in enumerate(own["walls"])
    )  # fmt: skip
    other = OtherFace(faces=(), kind="other", point=np.zeros(3), area=0.0)
    kinds: list[int] = own["of"].tolist()
    surfaces: list[Surface] = [next(planes) if kind == 1 else next(walls) if kind == 2 else other for kind in kinds]
    samples = dict(zip(own["sampled"].tolist(), own["samples"], strict=True))
    edges = Edges(**{field: own[field] for field in _EDGE_ARRAYS}, samples=samples)
    mesh = Trimesh(own["vertices"], own["triangles"], process=False)
    part = PartFeatures(
        shape=mesh, surfaces=tuple(surfaces), edges=edges,
        is_mesh=True, is_inside=partial(encloses, mesh),
        closed=True, volume=0.0, area=0.0, centroid=np.zeros(3),
        box=own["box"],
    )  # fmt: skip
    return CollisionMesh(part=part, features=own["features"].astype(np.int64), under=own["under"])
