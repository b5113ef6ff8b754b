"""Name what a solid's faces are: planes, round walls, cones, and the rest by kind."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from OCP.Bnd import Bnd_Box
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepGProp import BRepGProp
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.gp import gp_Dir, gp_Pnt, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_Orientation, TopAbs_State
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Shape
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from rigid_bench.core.errors import GeometryError
from rigid_bench.core.geometry.faces import Cone, Cylinder, OtherFace, Plane
from rigid_bench.core.geometry.kernel import edges_of, faces_of, kernel, shells_of
from rigid_bench.core.geometry.recognise import recognised_cylinder, recognised_plane
from rigid_bench.core.tolerance import Tolerance

#: Relative error that the kernel's integration over a curved face may have.
_INTEGRATION = 1e-10
#: A solid of less volume, as a share of its size cubed, is a crossed or crushed sketch.
_FLAT = 1e-10
#: Axes are one when their feet differ by less than this (mm), and their directions by a
#: thousandth of it (rad).
_SAME_AXIS, _AXIS_WEIGHT = 1e-3, 1e3


@dataclass(frozen=True, eq=False)
class PartFeatures:
    """What one part is made of, in its own coordinates."""

    shape: TopoDS_Shape
    planes: tuple[Plane, ...]
    cylinders: tuple[Cylinder, ...]
    cones: tuple[Cone, ...]
    others: tuple[OtherFace, ...]
    #: Every shell is closed.
    closed: bool
    #: mm3, mm2
    volume: float
    area: float
    #: (3,) mm
    centroid: NDArray[np.float64]
    #: (2, 3) mm, least and greatest corner of the tight box along the part's axes.
    box: NDArray[np.float64]

    @property
    def extents(self) -> NDArray[np.float64]:
        """(3,) mm, the sizes of the tight box."""
        sizes: NDArray[np.float64] = self.box[1] - self.box[0]
        return sizes

    @property
    def size(self) -> float:
        """mm, the diagonal of the tight box."""
        return float(np.linalg.norm(self.extents))

    @cached_property
    def plane_arrays(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Normals and points of the flat faces, (n, 3) each."""
        normals = np.array([each.normal for each in self.planes]).reshape(-1, 3)
        return normals, np.array([each.point for each in self.planes]).reshape(-1, 3)

    @cached_property
    def _classifier(self) -> BRepClass3d_SolidClassifier:
        return BRepClass3d_SolidClassifier(self.shape)  # making one takes longer than asking it

    def is_inside(self, point: NDArray[np.float64]) -> bool:
        """Say whether there is material at a point, (3,) mm."""
        self._classifier.Perform(gp_Pnt(*(float(value) for value in point)), 1e-6)
        return bool(self._classifier.State() == TopAbs_State.TopAbs_IN)

    @cached_property
    def bosses(self) -> tuple[Cylinder, ...]:
        """Round walls with the material inside."""
        return tuple(each for each in self.cylinders if not each.is_hollow and each.goes_round)


def read_features(shape: TopoDS_Shape, *, tolerance: Tolerance) -> PartFeatures:
    """Read a part into named faces and its mass properties.

    Parameters
    ----------
    shape
        One solid, in mm.
    tolerance
        Its `surface_mm` decides which cylinder faces are one wall.

    Returns
    -------
    PartFeatures

    Raises
    ------
    GeometryError
        The kernel cannot read a face, or the faces enclose nothing.
    """
    planes: list[Plane] = []
    walls: list[Cylinder] = []
    cones: list[Cone] = []
    others: list[OtherFace] = []
    areas: list[float] = []
    all_simple = True
    with kernel("reading the faces"):
        for index, face in enumerate(faces_of(shape)):
            surface = BRepAdaptor_Surface(face)
            is_simple = _is_simple(face, surface)
            all_simple = all_simple and is_simple
            area, point = _area(face, is_simple=is_simple)
            areas.append(area)
            match surface.GetType():
                case GeomAbs_SurfaceType.GeomAbs_Plane:
                    planes.append(Plane(face=index, point=point, normal=_plane_normal(face, surface), area=area))
                case GeomAbs_SurfaceType.GeomAbs_Cylinder:
                    walls.append(_cylinder(index, face, surface, area))
                case GeomAbs_SurfaceType.GeomAbs_Cone:
                    cones.append(_cone(index, surface, area))
                case kind:
                    if plane := recognised_plane(index, face, point=point, area=area, tolerance=tolerance):
                        planes.append(plane)
                    elif wall := recognised_cylinder(index, face, area=area, tolerance=tolerance):
                        walls.append(wall)
                    else:
                        name = kind.name.removeprefix("GeomAbs_").lower()
                        others.append(OtherFace(face=index, kind=name, point=point, area=area))
        volume, centroid = _volume(shape, is_simple=all_simple)
        box = tight_box(shape)
        if abs(volume) < _FLAT * float(np.linalg.norm(box[1] - box[0])) ** 3:
            raise GeometryError(
                "part", "its faces enclose no volume", "Look for lines of its sketch that cross, then export it again"
            )
        if volume < 0:  # inside out: every face looks into the material
            return read_features(TopoDS.Solid(shape.Reversed()), tolerance=tolerance)
        return PartFeatures(
            shape=shape,
            planes=tuple(planes),
            cylinders=tuple(_merge(walls, tolerance)),
            cones=tuple(cones),
            others=tuple(others),
            closed=all(shell.Closed() for shell in shells_of(shape)),
            volume=volume,
            area=sum(areas),
            centroid=centroid,
            box=box,
        )


def tight_box(shape: TopoDS_Shape) -> NDArray[np.float64]:
    """Return the least and greatest corner of the tight box along the axes, (2, 3) mm."""
    box = Bnd_Box()
    BRepBndLib.AddOptimal_s(shape, box, False, False)
    if box.IsVoid():
        return np.zeros((2, 3))
    return np.array([_xyz(box.CornerMin()), _xyz(box.CornerMax())])


def _xyz(of: gp_Pnt | gp_Dir | gp_Vec) -> NDArray[np.float64]:
    return np.array([of.X(), of.Y(), of.Z()])


_SIMPLE_EDGES = {GeomAbs_CurveType.GeomAbs_Line, GeomAbs_CurveType.GeomAbs_Circle}
_FLAT_EDGES = _SIMPLE_EDGES | {GeomAbs_CurveType.GeomAbs_Ellipse}
_SIMPLE_SURFACES = {
    GeomAbs_SurfaceType.GeomAbs_Cylinder,
    GeomAbs_SurfaceType.GeomAbs_Cone,
    GeomAbs_SurfaceType.GeomAbs_Sphere,
    GeomAbs_SurfaceType.GeomAbs_Torus,
}


def _is_simple(face: TopoDS_Face, surface: BRepAdaptor_Surface) -> bool:
    """Say whether plain integration is exact on a face, which is a hundred times faster than a tight one.

    Within lines and circles it is, on a plane within ellipses too. Elsewhere it is off by up to 6e-4.
    """
    edges = {BRepAdaptor_Curve(edge).GetType() for edge in edges_of(face)}
    if surface.GetType() == GeomAbs_SurfaceType.GeomAbs_Plane:
        return edges <= _FLAT_EDGES
    return surface.GetType() in _SIMPLE_SURFACES and edges <= _SIMPLE_EDGES


def _area(face: TopoDS_Face, *, is_simple: bool) -> tuple[float, NDArray[np.float64]]:
    props = GProp_GProps()
    if is_simple:
        BRepGProp.SurfaceProperties_s(face, props)
    else:
        BRepGProp.SurfaceProperties_s(face, props, _INTEGRATION)
    return props.Mass(), _xyz(props.CentreOfMass())


def _volume(shape: TopoDS_Shape, *, is_simple: bool) -> tuple[float, NDArray[np.float64]]:
    props = GProp_GProps()
    if is_simple:
        BRepGProp.VolumeProperties_s(shape, props, False, False, False)
    else:
        BRepGProp.VolumeProperties_s(shape, props, _INTEGRATION, False, False)
    return props.Mass(), _xyz(props.CentreOfMass())


def _plane_normal(face: TopoDS_Face, surface: BRepAdaptor_Surface) -> NDArray[np.float64]:
    position = surface.Plane().Position()
    normal = _xyz(position.Direction()) * (1 if position.Direct() else -1)
    return -normal if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else normal


def _cylinder(index: int, face: TopoDS_Face, surface: BRepAdaptor_Surface, area: float) -> Cylinder:
    cylinder = surface.Cylinder()
    direction = _xyz(cylinder.Axis().Direction())
    around_from, around_to, along_from, along_to = BRepTools.UVBounds_s(face)
    # a left-handed axis system turns the natural normal inward, as a reversed face does
    is_reversed = face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
    return Cylinder(
        faces=(index,),
        point=_xyz(cylinder.Location()) + along_from * direction,
        direction=direction,
        radius=cylinder.Radius(),
        length=along_to - along_from,
        is_hollow=is_reversed == cylinder.Direct(),
        sweep=around_to - around_from,
        area=area,
    )


def _cone(index: int, surface: BRepAdaptor_Surface, area: float) -> Cone:
    cone = surface.Cone()
    apex, axis = _xyz(cone.Apex()), _xyz(cone.Axis().Direction())
    cosine = math.cos(cone.SemiAngle())
    to_location = float((_xyz(cone.Location()) - apex) @ axis)
    ends = [to_location + v * cosine for v in (surface.FirstVParameter(), surface.LastVParameter())]
    if sum(ends) < 0:
        axis, ends = -axis, [-end for end in ends]
    return Cone(
        face=index,
        apex=apex,
        direction=axis,
        near=min(ends),
        far=max(ends),
        half_angle=abs(cone.SemiAngle()),
        area=area,
    )


def _merge(walls: Sequence[Cylinder], tolerance: Tolerance) -> list[Cylinder]:
    """Join cylinder faces of one axis, radius and side that meet along or around the axis."""
    merged: list[Cylinder] = []
    for group in axis_groups(walls):
        found: list[Cylinder] = []
        for wall in group:
            for place, other in enumerate(found):
                if _is_one_wall(wall, other, tolerance):
                    found[place] = _joined(other, wall)
                    break
            else:
                found.append(wall)
        merged += found
    return sorted(merged, key=lambda each: each.faces)


def axis_groups(walls: Sequence[Cylinder]) -> list[list[Cylinder]]:
    """Group walls by their axes, in time about linear in their number.

    Parameters
    ----------
    walls
        In any order.

    Returns
    -------
    list of list of Cylinder
        Walls whose axes agree within about 1e-3 mm near the part, in the order given.
    """
    if not walls:
        return []
    directions = np.array([each.direction for each in walls])
    # an axis has no sign: let its first sizeable entry be positive
    first = directions[np.arange(len(walls)), np.argmax(np.abs(directions) > 0.1, axis=1)]
    directions = directions * np.sign(first)[:, None]
    points = np.array([each.point for each in walls])
    feet = points - directions * np.einsum("ij,ij->i", points, directions)[:, None]
    places = np.hstack([directions * _AXIS_WEIGHT, feet])
    pairs = cKDTree(places).query_pairs(_SAME_AXIS, output_type="ndarray")
    links = coo_array((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(walls), len(walls)))
    _, labels = connected_components(links, directed=False)
    groups: dict[int, list[Cylinder]] = {}
    for label, wall in zip(labels, walls, strict=True):
        groups.setdefault(int(label), []).append(wall)
    return list(groups.values())


def _is_one_wall(a: Cylinder, b: Cylinder, tolerance: Tolerance) -> bool:
    if a.is_hollow != b.is_hollow or abs(a.radius - b.radius) > tolerance.surface_mm:
        return False
    if np.linalg.norm(np.cross(a.direction, b.direction)) > 1e-6:
        return False
    offset = b.point - a.point
    if np.linalg.norm(np.cross(offset, a.direction)) > tolerance.surface_mm:
        return False
    ends = sorted([float(offset @ a.direction), float((b.end - a.point) @ a.direction)])
    return ends[0] <= a.length + tolerance.surface_mm and ends[1] >= -tolerance.surface_mm


def _joined(a: Cylinder, b: Cylinder) -> Cylinder:
    ends = [0.0, a.length, *(float((end - a.point) @ a.direction) for end in (b.point, b.end))]
    length, area = max(ends) - min(ends), a.area + b.area
    return Cylinder(
        faces=(*a.faces, *b.faces),
        point=a.point + min(ends) * a.direction,
        direction=a.direction,
        radius=a.radius,
        length=length,
        is_hollow=a.is_hollow,
        # halves side by side go round together; lengths end to end do not add to the sweep
        sweep=min(2 * math.pi, max(a.sweep, b.sweep, area / (a.radius * length))),
        area=area,
    )
