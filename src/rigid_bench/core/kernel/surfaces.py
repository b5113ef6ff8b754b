"""Read the surface under a face as one of the known kinds."""

import math

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Ax3
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS_Face

from rigid_bench.core.kernel.binding import xyz
from rigid_bench.core.kernel.recognise import recognised
from rigid_bench.core.part.faces import Cone, Cylinder, OtherFace, Plane, Sphere, Surface, Torus
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]


def read_surface(
    index: int, face: TopoDS_Face, surface: BRepAdaptor_Surface, *, point: _Array, area: float, tolerance: Tolerance
) -> Surface:
    """Return what kind of surface a face lies on, and where.

    Parameters
    ----------
    index, face, surface
        The face, its id, and the surface within its bounds.
    point : (3,) float, mm
        The centre of its area.
    area
        mm2
    tolerance
        Its `surface_mm` says how nearly a free-form face is flat or round.
    """
    match surface.GetType():
        case GeomAbs_SurfaceType.GeomAbs_Plane:
            return Plane(faces=(index,), point=point, normal=_plane_normal(face, surface), area=area)
        case GeomAbs_SurfaceType.GeomAbs_Cylinder:
            return _cylinder(index, face, surface, area)
        case GeomAbs_SurfaceType.GeomAbs_Cone:
            return _cone(index, face, surface, area)
        case GeomAbs_SurfaceType.GeomAbs_Sphere:
            sphere = surface.Sphere()
            return Sphere(
                faces=(index,),
                point=xyz(sphere.Location()),
                radius=sphere.Radius(),
                is_hollow=_is_inward(face, sphere.Position()),
                area=area,
            )
        case GeomAbs_SurfaceType.GeomAbs_Torus:
            return _torus(index, face, surface, area)
        case kind:
            name = kind.name.removeprefix("GeomAbs_").lower()
            known = recognised(index, face, point=point, area=area, tolerance=tolerance)
            return known or OtherFace(faces=(index,), kind=name, point=point, area=area)


def _is_inward(face: TopoDS_Face, position: gp_Ax3) -> bool:
    """Say whether the face's side away from the material looks to the axis or centre."""
    # a left-handed axis system turns the natural normal inward, as a reversed face does
    is_reversed = face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
    return bool(is_reversed == position.Direct())


def _plane_normal(face: TopoDS_Face, surface: BRepAdaptor_Surface) -> _Array:
    position = surface.Plane().Position()
    normal = xyz(position.Direction()) * (1 if position.Direct() else -1)
    return -normal if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else normal


def _cylinder(index: int, face: TopoDS_Face, surface: BRepAdaptor_Surface, area: float) -> Cylinder:
    cylinder = surface.Cylinder()
    direction = xyz(cylinder.Axis().Direction())
    around_from, around_to, along_from, along_to = BRepTools.UVBounds_s(face)
    middle = (around_from + around_to) / 2
    position = cylinder.Position()
    toward = math.cos(middle) * xyz(position.XDirection()) + math.sin(middle) * xyz(position.YDirection())
    return Cylinder(
        faces=(index,),
        point=xyz(cylinder.Location()) + along_from * direction,
        direction=direction,
        radius=cylinder.Radius(),
        length=along_to - along_from,
        is_hollow=_is_inward(face, position),
        arcs=((toward, min(around_to - around_from, 2 * math.pi)),),
        area=area,
    )


def _cone(index: int, face: TopoDS_Face, surface: BRepAdaptor_Surface, area: float) -> Cone:
    cone = surface.Cone()
    apex, axis = xyz(cone.Apex()), xyz(cone.Axis().Direction())
    around_from, around_to, along_from, along_to = BRepTools.UVBounds_s(face)
    cosine, sine = math.cos(cone.SemiAngle()), math.sin(cone.SemiAngle())
    to_location = float((xyz(cone.Location()) - apex) @ axis)
    ends = [to_location + v * cosine for v in (along_from, along_to)]
    # beyond the apex the radius is negative, and the natural normal looks to the axis
    is_beyond = cone.RefRadius() + (along_from + along_to) / 2 * sine < 0
    if sum(ends) < 0:
        axis, ends = -axis, [-end for end in ends]
    return Cone(
        faces=(index,),
        apex=apex,
        direction=axis,
        near=max(min(ends), 0.0),
        far=max(ends),
        half_angle=abs(cone.SemiAngle()),
        is_hollow=_is_inward(face, cone.Position()) != is_beyond,
        sweep=around_to - around_from,
        area=area,
    )


def _torus(index: int, face: TopoDS_Face, surface: BRepAdaptor_Surface, area: float) -> Torus:
    torus = surface.Torus()
    around_from, around_to, tube_from, tube_to = BRepTools.UVBounds_s(face)
    # of a tube that reaches past the axis, the part there has its natural normal turned into the tube
    is_beyond = torus.MajorRadius() + torus.MinorRadius() * math.cos((tube_from + tube_to) / 2) < 0
    return Torus(
        faces=(index,),
        point=xyz(torus.Location()),
        direction=xyz(torus.Axis().Direction()),
        major=torus.MajorRadius(),
        minor=torus.MinorRadius(),
        is_hollow=_is_inward(face, torus.Position()) != is_beyond,
        sweep=around_to - around_from,
        tube_sweep=tube_to - tube_from,
        area=area,
    )
