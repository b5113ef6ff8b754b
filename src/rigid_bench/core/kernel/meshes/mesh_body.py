"""Bodies of triangles: carrying, gaps, overlaps, and the flat surfaces among their triangles."""

from typing import TYPE_CHECKING

import fcl
import manifold3d
import numpy as np
from numpy.typing import NDArray
from trimesh import Trimesh

from rigid_bench.core.values.errors import GeometryError
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.wording.language import _

if TYPE_CHECKING:
    from OCP.TopoDS import TopoDS_Shape

_Array = NDArray[np.float64]
#: mm: how near coarse and fine triangles stay to a solid; their angle (rad) grows alike.
COARSE_MM, FINE_MM = 0.1, 0.02


def carried(mesh: Trimesh, pose: Pose) -> Trimesh:
    """Return a mesh carried by a rigid motion."""
    return Trimesh(pose.point(np.asarray(mesh.vertices)), mesh.faces, process=False)


def scaled(mesh: Trimesh, factor: float) -> Trimesh:
    """Return a mesh made larger or smaller about the origin."""
    return Trimesh(np.asarray(mesh.vertices) * factor, mesh.faces, process=False)


def mirrored(mesh: Trimesh) -> Trimesh:
    """Return the mirror image of a mesh."""
    return Trimesh(np.asarray(mesh.vertices) * [-1, 1, 1], mesh.faces[:, ::-1], process=False)


def encloses(mesh: Trimesh, point: _Array) -> bool:
    """Say whether a point, (3,) mm, lies within a closed mesh.

    By the solid angle under which its triangles are seen (van Oosterom and Strackee, IEEE Trans. Biomed. Eng. 30,
    1983): 4 pi from within, none from without.
    """
    corners = np.asarray(mesh.triangles) - point
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    la, lb, lc = np.linalg.norm(corners, axis=2).T
    triple = np.einsum("ij,ij->i", a, np.cross(b, c))
    below = la * lb * lc + lc * (a * b).sum(axis=1) + lb * (a * c).sum(axis=1) + la * (b * c).sum(axis=1)
    return bool(abs(2 * np.arctan2(triple, below).sum()) > 2 * np.pi)


def triangles_of(body: "TopoDS_Shape | Trimesh", *, within_mm: float) -> Trimesh:
    """Return a body as triangles: a mesh as it is, a solid to within a distance, mm."""
    if isinstance(body, Trimesh):
        return body
    from rigid_bench.core.kernel.meshes.triangulation import meshed  # with the kernel, which meshes do without

    return meshed(body, within_mm=within_mm)


def mesh_gap(a: Trimesh, b: Trimesh) -> tuple[float, _Array]:
    """Return the shortest distance between two meshes (mm), and the nearest point of each, (2, 3).

    One mesh within the other, clear of its skin, overlaps it: the distance is 0.
    """
    request, result = fcl.DistanceRequest(enable_nearest_points=True), fcl.DistanceResult()
    gap = max(0.0, float(fcl.distance(_collider(a), _collider(b), request, result)))
    at = np.array(result.nearest_points, dtype=float).reshape(2, 3)
    return (0.0 if gap and mesh_overlap(a, b) > 0 else gap), at


def _collider(mesh: Trimesh) -> object:
    return fcl.CollisionObject(hierarchy(mesh), fcl.Transform())


def hierarchy(mesh: Trimesh) -> object:
    """Return the triangles of a mesh as a tree of boxes, in which near ones are found quickly."""
    model = fcl.BVHModel()
    model.beginModel(len(mesh.vertices), len(mesh.faces))
    model.addSubModel(np.asarray(mesh.vertices, dtype=float), np.asarray(mesh.faces))
    model.endModel()
    return model


class DistanceMesh:
    """A body's triangles, made once, for asking quickly how far apart bodies are at least."""

    def __init__(self, body: "TopoDS_Shape | Trimesh", *, within_mm: float) -> None:
        self.mesh = triangles_of(body, within_mm=within_mm)
        self.model = hierarchy(self.mesh)
        self.off_mm = 0.0 if isinstance(body, Trimesh) else within_mm

    def least_gap(self, pose: Pose, other: "DistanceMesh", there: Pose) -> float:
        """Return a distance, mm, that two bodies keep at least where they stand; 0 where they may touch."""
        return max(0.0, self.triangle_gap(pose, other, there) - self.off_mm - other.off_mm)

    def triangle_gap(self, pose: Pose, other: "DistanceMesh", there: Pose) -> float:
        """Return the distance, mm, of the triangles of two bodies where they stand; not above 0 where they cross."""
        one, two = (
            fcl.CollisionObject(mesh.model, fcl.Transform(at.rotation, at.position))
            for mesh, at in ((self, pose), (other, there))
        )
        return float(fcl.distance(one, two, fcl.DistanceRequest(), fcl.DistanceResult()))


def mesh_overlap(a: Trimesh, b: Trimesh) -> float:
    """Return the volume that two meshes share, mm3.

    Raises
    ------
    GeometryError
        One of them is not closed.
    """
    return float((_manifold(a) ^ _manifold(b)).volume())


def _manifold(mesh: Trimesh) -> manifold3d.Manifold:
    solid = manifold3d.Manifold(
        manifold3d.Mesh64(np.asarray(mesh.vertices, dtype=np.float64), np.asarray(mesh.faces, dtype=np.uint64))
    )
    if solid.status() != manifold3d.Error.NoError:
        raise GeometryError(
            _("mesh"), _("it is not closed, so its overlap cannot be measured"), _("Close it, or use STEP")
        )
    return solid
