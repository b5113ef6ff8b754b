"""Rounded and chamfered edges: faces that replace an edge between two others.

A fillet is a round face, less than half round, that runs into both of its neighbours
without a kink. A chamfer is a narrow slanted plane or cone between the two faces that
would meet without it. Only outside chamfers count: a slant in an inside corner is a rib.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.BRepGProp import BRepGProp_Face
from OCP.collections import IndexedDataMap_TopoDS_Shape_List_TopoDS_Shape_TopTools_ShapeMapHasher as EdgeMap
from OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as FaceMap
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face

from rigid_bench.core.geometry.faces import Cone, Plane
from rigid_bench.core.geometry.features import PartFeatures
from rigid_bench.core.geometry.kernel import edges_of, faces_of, kernel

_Array = NDArray[np.float64]
#: A round face that goes further is the end of a slot, or a full round.
_FILLET_SWEEP = math.radians(175)
_SMOOTH = 1e-3
#: A chamfer turns towards both neighbours: cosine of the angle between the normals.
_SLANT = 0.1
#: A chamfer's leg is at most this much of what is left of the face that it was cut from.
_NARROW = 1.05


@dataclass(frozen=True, slots=True, kw_only=True)
class Fillet:
    """A rounded edge."""

    #: mm
    radius: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Chamfer:
    """A chamfered edge."""

    #: mm, how much of either face was cut away, the shorter first.
    legs: tuple[float, float]

    @property
    def angle(self) -> float:
        """rad, of the slant to the face of the longer leg; an eighth of a turn for equal legs."""
        return math.atan2(*self.legs)


def find_edge_treatments(part: PartFeatures) -> tuple[list[Fillet], list[Chamfer]]:
    """Find all fillets and chamfers of a part, one for each edge that was treated.

    Parameters
    ----------
    part
        Its faces.

    Returns
    -------
    fillets : list of Fillet
    chamfers : list of Chamfer

    Raises
    ------
    GeometryError
        The kernel cannot look across an edge.
    """
    with kernel("reading the edges"):
        around = _Neighbours(part)
        fillets = [*_straight_fillets(part, around), *_round_fillets(around)]
        chamfers = [*_flat_chamfers(part, around), *_round_chamfers(part)]
    return fillets, chamfers


class _Neighbours:
    """Which face lies beyond an edge of a face."""

    def __init__(self, part: PartFeatures) -> None:
        self.faces = faces_of(part.shape)
        self._numbers = FaceMap()
        for face in self.faces:
            self._numbers.Add(face)
        self._of_edge = EdgeMap()
        TopExp.MapShapesAndAncestors_s(
            part.shape, TopAbs_ShapeEnum.TopAbs_EDGE, TopAbs_ShapeEnum.TopAbs_FACE, self._of_edge
        )

    def beyond(self, number: int) -> Iterator[tuple[TopoDS_Edge, int]]:
        """Yield the edges of a face, each with the id of the other face."""
        for edge in edges_of(self.faces[number]):
            for shape in self._of_edge.FindFromKey(edge):
                other = self._numbers.FindIndex(shape) - 1  # the kernel counts from 1
                if other not in (-1, number):
                    yield edge, other

    def is_smooth(self, edge: TopoDS_Edge, a: int, b: int) -> bool:
        """Say whether two faces run into each other without a kink."""
        return float(np.linalg.norm(_normal_at(edge, self.faces[a]) - _normal_at(edge, self.faces[b]))) < _SMOOTH


def _normal_at(edge: TopoDS_Edge, face: TopoDS_Face) -> _Array:
    """Return the normal of a face at the middle of one of its edges, out of the material."""
    curve = BRepAdaptor_Curve2d(edge, face)
    at = curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2)
    point, normal = gp_Pnt(), gp_Vec()
    BRepGProp_Face(face).Normal(at.X(), at.Y(), point, normal)
    direction: _Array = np.array([normal.X(), normal.Y(), normal.Z()]) / normal.Magnitude()
    return direction


def _line(edge: TopoDS_Edge) -> tuple[_Array, _Array] | None:
    """Return middle and direction of a straight edge, or None."""
    curve = BRepAdaptor_Curve(edge)
    if curve.GetType() != GeomAbs_CurveType.GeomAbs_Line:
        return None
    middle = curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2)
    way = curve.Line().Direction()
    return np.array([middle.X(), middle.Y(), middle.Z()]), np.array([way.X(), way.Y(), way.Z()])


def _straight_fillets(part: PartFeatures, around: _Neighbours) -> Iterator[Fillet]:
    for wall in part.cylinders:
        if wall.sweep > _FILLET_SWEEP:
            continue
        smooth = {
            other
            for face in wall.faces
            for edge, other in around.beyond(face)
            if (line := _line(edge)) and abs(line[1] @ wall.direction) > 1 - 1e-6
            if other not in wall.faces and around.is_smooth(edge, face, other)
        }
        if len(smooth) >= 2:
            yield Fillet(radius=round(wall.radius, 6))


def _round_fillets(around: _Neighbours) -> Iterator[Fillet]:
    """Yield fillets along circles: tori, however many faces the file splits them into."""
    seen: set[tuple[float, ...]] = set()
    for number, face in enumerate(around.faces):
        surface = BRepAdaptor_Surface(face)
        if surface.GetType() != GeomAbs_SurfaceType.GeomAbs_Torus:
            continue
        torus = surface.Torus()
        at, axis = torus.Location(), torus.Axis().Direction()
        sweep = abs(surface.LastVParameter() - surface.FirstVParameter())
        smooth = [edge for edge, other in around.beyond(number) if around.is_smooth(edge, number, other)]
        sides = [round(abs(value), 3) for value in (axis.X(), axis.Y(), axis.Z())]
        key = tuple(round(v, 3) for v in (at.X(), at.Y(), at.Z(), *sides, torus.MajorRadius(), torus.MinorRadius()))
        if sweep < _FILLET_SWEEP and len(smooth) >= 2 and key not in seen:
            seen.add(key)
            yield Fillet(radius=round(torus.MinorRadius(), 6))


def _flat_chamfers(part: PartFeatures, around: _Neighbours) -> Iterator[Chamfer]:
    planes = {plane.face: plane for plane in part.planes}
    for plane in part.planes:
        sides = [
            (line, planes[other])
            for edge, other in around.beyond(plane.face)
            if other in planes and (line := _line(edge)) is not None
        ]
        for k, (first, a) in enumerate(sides):
            for second, b in sides[k + 1 :]:
                chamfer = _chamfer_between(plane, first, a, second, b, around)
                if chamfer:
                    yield chamfer
                    break
            else:
                continue
            break


def _chamfer_between(
    plane: Plane, first: tuple[_Array, _Array], a: Plane, second: tuple[_Array, _Array], b: Plane, around: _Neighbours
) -> Chamfer | None:
    """Return the chamfer that a plane is between two others along parallel edges, or None."""
    along = first[1]
    slants = min(float(plane.normal @ a.normal), float(plane.normal @ b.normal)) > _SLANT
    if abs(along @ second[1]) < 1 - 1e-6 or abs(a.normal @ b.normal) > 0.999 or not slants:
        return None
    # where the two faces would meet: on both planes, level with the chamfer's middle along the edge
    corner = np.linalg.solve(
        np.array([a.normal, b.normal, along]), [a.normal @ a.point, b.normal @ b.point, along @ plane.point]
    )
    if (corner - plane.point) @ plane.normal < 1e-6:
        return None
    legs = [_across(corner - line[0], along) for line in (first, second)]
    left = [_reach(around, each.face, np.cross(each.normal, along)) for each in (a, b)]
    if any(leg > _NARROW * rest for leg, rest in zip(legs, left, strict=True)):
        return None
    short, long = sorted(round(leg, 6) for leg in legs)
    return Chamfer(legs=(short, long))


def _across(offset: _Array, along: _Array) -> float:
    return float(np.linalg.norm(offset - along * float(offset @ along)))


def _reach(around: _Neighbours, face: int, direction: _Array) -> float:
    """Return how far a face reaches in a direction, by the middles and ends of its edges, mm."""
    places = []
    for edge in edges_of(around.faces[face]):
        curve = BRepAdaptor_Curve(edge)
        for share in (0.0, 0.5, 1.0):
            at = curve.Value(curve.FirstParameter() + share * (curve.LastParameter() - curve.FirstParameter()))
            places.append(float(np.array([at.X(), at.Y(), at.Z()]) @ direction))
    return max(places) - min(places)


def _round_chamfers(part: PartFeatures) -> Iterator[Chamfer]:
    """Yield chamfers round the end of a boss; at a hole's mouth a cone is a countersink."""
    seen: list[_Array] = []
    for cone in part.cones:
        wide = cone.apex + cone.far * cone.direction
        if cone.near > 1e-3 and _ends_a_boss(part, cone, wide) and not any(np.allclose(wide, each) for each in seen):
            seen.append(wide)
            axial = cone.far - cone.near
            short, long = sorted(round(leg, 6) for leg in (axial, axial * math.tan(cone.half_angle)))
            yield Chamfer(legs=(short, long))


def _ends_a_boss(part: PartFeatures, cone: Cone, wide: _Array) -> bool:
    radius = cone.far * math.tan(cone.half_angle)
    return any(
        abs(boss.radius - radius) < 1e-3 and any(np.linalg.norm(end - wide) < 1e-3 for end in (boss.point, boss.end))
        for boss in part.bosses
    )
