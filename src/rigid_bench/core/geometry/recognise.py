"""Recognise free-form faces that are flat or round: some programs export every face as a B-spline."""

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepGProp import BRepGProp_Face
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Cylinder, gp_Pln, gp_Pnt, gp_Vec
from OCP.ShapeAnalysis import ShapeAnalysis_CanonicalRecognition
from OCP.TopoDS import TopoDS_Face

from rigid_bench.core.geometry.faces import Cylinder, Plane
from rigid_bench.core.geometry.kernel import edges_of
from rigid_bench.core.tolerance import Tolerance

_Array = NDArray[np.float64]
#: Points taken on each edge, to see how far a wall reaches along its axis.
_SAMPLES = 9


def recognised_plane(
    index: int, face: TopoDS_Face, *, point: _Array, area: float, tolerance: Tolerance
) -> Plane | None:
    """Return a free-form face as a plane, or None where it is not flat.

    Parameters
    ----------
    index, face
        The face and its id.
    point : (3,) float, mm
        The centre of its area.
    area
        mm2
    tolerance
        Its `surface_mm` says how nearly flat.
    """
    if not ShapeAnalysis_CanonicalRecognition(face).IsPlane(tolerance.surface_mm, gp_Pln()):
        return None
    _, normal = _middle(face)
    return Plane(face=index, point=point, normal=normal, area=area)


def recognised_cylinder(index: int, face: TopoDS_Face, *, area: float, tolerance: Tolerance) -> Cylinder | None:
    """Return a free-form face as part of a round wall, or None where it is not round."""
    found = gp_Cylinder()
    if not ShapeAnalysis_CanonicalRecognition(face).IsCylinder(tolerance.surface_mm, found):
        return None
    axis, at = found.Axis().Direction(), found.Location()
    direction, origin = np.array([axis.X(), axis.Y(), axis.Z()]), np.array([at.X(), at.Y(), at.Z()])
    along = (_edge_points(face) - origin) @ direction
    length = float(along.max() - along.min())
    place, normal = _middle(face)
    radial = place - origin - direction * float((place - origin) @ direction)
    return Cylinder(
        faces=(index,),
        point=origin + float(along.min()) * direction,
        direction=direction,
        radius=found.Radius(),
        length=length,
        is_hollow=bool(radial @ normal < 0),
        sweep=min(2 * np.pi, area / (found.Radius() * length)),
        area=area,
    )


def _middle(face: TopoDS_Face) -> tuple[_Array, _Array]:
    """Return a point of the face's surface and the normal there, out of the material."""
    u_from, u_to, v_from, v_to = BRepTools.UVBounds_s(face)
    point, normal = gp_Pnt(), gp_Vec()
    BRepGProp_Face(face).Normal((u_from + u_to) / 2, (v_from + v_to) / 2, point, normal)
    direction = np.array([normal.X(), normal.Y(), normal.Z()])
    return np.array([point.X(), point.Y(), point.Z()]), direction / np.linalg.norm(direction)


def _edge_points(face: TopoDS_Face) -> _Array:
    points = []
    for edge in edges_of(face):
        curve = BRepAdaptor_Curve(edge)
        for at in np.linspace(curve.FirstParameter(), curve.LastParameter(), _SAMPLES):
            place = curve.Value(float(at))
            points.append([place.X(), place.Y(), place.Z()])
    return np.array(points)
