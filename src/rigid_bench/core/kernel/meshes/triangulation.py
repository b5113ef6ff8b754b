"""Solids as triangles."""

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Shape
from trimesh import Trimesh

from rigid_bench.core.kernel.binding import faces_of, kernel
from rigid_bench.core.wording.language import N_

_Array = NDArray[np.float64]
#: mm and rad: how near the triangles stay to a solid that is laid against a mesh.
_DEFLECTION_MM, _DEFLECTION_RAD = 0.01, 0.1


def meshed(shape: TopoDS_Shape, *, within_mm: float = _DEFLECTION_MM) -> Trimesh:
    """Return a solid as a mesh that stays within a distance of it, mm.

    Raises
    ------
    GeometryError
        The kernel cannot mesh it.
    """
    vertices, triangles, _ = face_triangles(shape, within_mm=within_mm)
    mesh = Trimesh(vertices, triangles, process=False)
    mesh.merge_vertices(digits_vertex=5)
    return mesh


def face_meshes(shape: TopoDS_Shape, *, within_mm: float) -> list[Trimesh]:
    """Return each face of a solid as an open mesh, in the order of `faces_of`; none at all where one has no triangles.

    Otherwise as `face_triangles`.
    """
    vertices, triangles, faces = face_triangles(shape, within_mm=within_mm)
    meshes = []
    for number in range(len(faces_of(shape))):
        if not np.any(faces == number):
            return []
        used, own = np.unique(triangles[faces == number], return_inverse=True)
        meshes.append(Trimesh(vertices[used], own.reshape(-1, 3), process=False))
    return meshes


def face_triangles(shape: TopoDS_Shape, *, within_mm: float) -> tuple[_Array, NDArray[np.int64], NDArray[np.int64]]:
    """Return a solid's triangles face by face, for a view in which faces are pointed at.

    Parameters
    ----------
    shape
        A solid.
    within_mm
        How near the triangles stay to it.

    Returns
    -------
    vertices : (n, 3) float, mm
        Corners; those on an edge stand once for each face.
    triangles : (m, 3) int
    faces : (m,) int
        The face of each triangle, counted as `faces_of` does.

    Raises
    ------
    GeometryError
        The kernel cannot mesh it.
    """
    vertices: list[_Array] = []
    triangles: list[NDArray[np.int64]] = []
    faces: list[NDArray[np.int64]] = []
    count = 0
    with kernel(N_("meshing a solid")):
        BRepMesh_IncrementalMesh(shape, within_mm, False, _DEFLECTION_RAD * within_mm / _DEFLECTION_MM, False)
        for number, face in enumerate(faces_of(shape)):
            place = TopLoc_Location()
            triangulation = BRep_Tool.Triangulation_s(face, place)
            if triangulation is None:
                continue
            points = [triangulation.Node(k) for k in range(1, triangulation.NbNodes() + 1)]
            if not place.IsIdentity():
                motion = place.Transformation()
                points = [point.Transformed(motion) for point in points]
            corners = np.array([triangulation.Triangle(k).Get() for k in range(1, triangulation.NbTriangles() + 1)]) - 1
            if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED:
                corners = corners[:, ::-1]
            vertices.append(np.array([[p.X(), p.Y(), p.Z()] for p in points]))
            triangles.append(corners + count)
            faces.append(np.full(len(corners), number, dtype=np.int64))
            count += len(points)
    return np.vstack(vertices), np.vstack(triangles), np.concatenate(faces)
