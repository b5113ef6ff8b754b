"""Recognise free-form faces that are flat or round: some programs export every face as a B-spline."""

import math

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepGProp import BRepGProp_Face
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Cone, gp_Cylinder, gp_Pln, gp_Pnt, gp_Sphere, gp_Vec
from OCP.ShapeAnalysis import ShapeAnalysis_CanonicalRecognition
from OCP.TopoDS import TopoDS_Face

from rigid_bench.core.kernel.binding import edges_of, xyz
from rigid_bench.core.part.faces import Cone, Cylinder, Plane, Sphere
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]
#: Points taken on each edge, to see how far a wall reaches along its axis.
_SAMPLES = 9


def recognised(
    index: int, face: TopoDS_Face, *, point: _Array, area: float, tolerance: Tolerance
) -> Plane | Cylinder | Cone | Sphere | None:
    """Return a free-form face as the plain surface that it is, or None.

    Parameters
    ----------
    index, face
        The face and its id.
    point : (3,) float, mm
        The centre of its area.
    area
        mm2
    tolerance
        Its `surface_mm` says how nearly flat or round.
    """
    canonical = ShapeAnalysis_CanonicalRecognition(face)
    near = tolerance.surface_mm
    if canonical.IsPlane(near, gp_Pln()):
        _, normal = _middle(face)
        return Plane(faces=(index,), point=point, normal=normal, area=area)
    cylinder = gp_Cylinder()
    if canonical.IsCylinder(near, cylinder):
        return _as_cylinder(index, face, cylinder, area)
    cone = gp_Cone()
    if canonical.IsCone(near, cone):
        return _as_cone(index, face, cone, area)
    sphere = gp_Sphere()
    if canonical.IsSphere(near, sphere):
        centre = xyz(sphere.Location())
        place, normal = _middle(face)
        hollow = bool((place - centre) @ normal < 0)
        return Sphere(faces=(index,), point=centre, radius=sphere.Radius(), is_hollow=hollow, area=area)
    return None


def _as_cylinder(index: int, face: TopoDS_Face, cylinder: gp_Cylinder, area: float) -> Cylinder:
    direction, origin = xyz(cylinder.Axis().Direction()), xyz(cylinder.Location())
    along = (_edge_points(face) - origin) @ direction
    length = float(along.max() - along.min())
    radial, normal = _radial_middle(face, origin, direction)
    return Cylinder(
        faces=(index,),
        point=origin + float(along.min()) * direction,
        direction=direction,
        radius=cylinder.Radius(),
        length=length,
        is_hollow=bool(radial @ normal < 0),
        arcs=((radial, min(2 * math.pi, area / (cylinder.Radius() * length))),),
        area=area,
    )


def _as_cone(index: int, face: TopoDS_Face, cone: gp_Cone, area: float) -> Cone:
    apex, axis = xyz(cone.Apex()), xyz(cone.Axis().Direction())
    along = (_edge_points(face) - apex) @ axis
    if along.sum() < 0:
        axis, along = -axis, -along
    near, far, angle = max(float(along.min()), 0.0), float(along.max()), abs(cone.SemiAngle())
    radial, normal = _radial_middle(face, apex, axis)
    whole = math.pi * math.tan(angle) / math.cos(angle) * (far**2 - near**2)  # lateral area of the frustum
    return Cone(
        faces=(index,),
        apex=apex,
        direction=axis,
        near=near,
        far=far,
        half_angle=angle,
        is_hollow=bool(radial @ normal < 0),
        sweep=2 * math.pi * min(1.0, area / whole),
        area=area,
    )


def _radial_middle(face: TopoDS_Face, origin: _Array, direction: _Array) -> tuple[_Array, _Array]:
    """Return the unit direction from the axis to the middle of a face, and the normal there."""
    place, normal = _middle(face)
    radial = place - origin - direction * float((place - origin) @ direction)
    return radial / np.linalg.norm(radial), normal


def _middle(face: TopoDS_Face) -> tuple[_Array, _Array]:
    """Return a point of the face's surface and the normal there, out of the material."""
    u_from, u_to, v_from, v_to = BRepTools.UVBounds_s(face)
    point, normal = gp_Pnt(), gp_Vec()
    BRepGProp_Face(face).Normal((u_from + u_to) / 2, (v_from + v_to) / 2, point, normal)
    direction = xyz(normal)
    return xyz(point), direction / np.linalg.norm(direction)


def _edge_points(face: TopoDS_Face) -> _Array:
    points: list[_Array] = []
    for edge in edges_of(face):
        curve = BRepAdaptor_Curve(edge)
        along = np.linspace(curve.FirstParameter(), curve.LastParameter(), _SAMPLES)
        points += [xyz(curve.Value(float(at))) for at in along]
    return np.array(points)
