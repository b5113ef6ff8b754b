"""Name what a solid's faces are: planes, cylinders, and of these the holes and bosses."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from OCP.Bnd import Bnd_Box
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepGProp import BRepGProp
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Dir, gp_Pnt, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_Orientation, TopAbs_State
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from rigid_bench.core.geometry.kernel import faces_of, kernel, shells_of
from rigid_bench.core.tolerance import Tolerance

#: Looser than this the kernel's integration is off by up to 6e-4 on curved walls.
_INTEGRATION = 1e-12
#: A wall that goes round this far (rad) is a hole or boss although a keyway opens it;
#: a half bore and the round end of a slot go round by pi only.
_GOES_ROUND = math.radians(240)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Plane:
    """A flat face."""

    #: Index in `faces_of`.
    face: int
    #: (3,) mm, the centre of the face's area.
    point: NDArray[np.float64]
    #: (3,) unit, out of the material.
    normal: NDArray[np.float64]
    #: mm2
    area: float


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Cylinder:
    """Cylinder faces of one axis and radius that belong together, however the file splits them."""

    faces: tuple[int, ...]
    #: (3,) mm, on the axis where the wall begins.
    point: NDArray[np.float64]
    #: (3,) unit, along the axis from `point`.
    direction: NDArray[np.float64]
    #: mm
    radius: float
    #: mm along `direction`.
    length: float
    #: Material is outside the wall.
    is_hollow: bool
    #: How far the wall goes round (rad), 2 pi for a whole one.
    sweep: float
    #: mm2
    area: float

    @property
    def goes_round(self) -> bool:
        """The wall has material (or air) all round it, but for a keyway."""
        return self.sweep > _GOES_ROUND

    @property
    def end(self) -> NDArray[np.float64]:
        """(3,) mm, on the axis where the wall ends."""
        return self.point + self.length * self.direction


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Cone:
    """A conical face, as left by a drill or a countersink."""

    face: int
    #: (3,) mm
    apex: NDArray[np.float64]
    #: (3,) unit, from the apex into the cone.
    direction: NDArray[np.float64]
    #: mm from the apex along `direction`: where the face begins and ends.
    near: float
    far: float
    #: rad, between axis and wall.
    half_angle: float
    area: float


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class OtherFace:
    """A face that is none of the above; known by kind, place and size only."""

    face: int
    kind: str
    point: NDArray[np.float64]
    area: float


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Hole:
    """A cylindrical wall with material all round it."""

    cylinder: Cylinder
    #: mm along the axis, without the drill point.
    depth: float
    through: bool
    #: "plain", "counterbore" or "countersink".
    entry: str
    #: mm, the length of the drill point; 0 without one.
    tip: float


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
    def holes(self) -> tuple[Hole, ...]:
        """All holes; a counterbore is the entry of its hole and none of its own."""
        return _find_holes(self)

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
        The kernel cannot read a face.
    """
    planes: list[Plane] = []
    walls: list[Cylinder] = []
    cones: list[Cone] = []
    others: list[OtherFace] = []
    areas: list[float] = []
    with kernel("reading the faces"):
        for index, face in enumerate(faces_of(shape)):
            surface = BRepAdaptor_Surface(face)
            area, point = _area(face)
            areas.append(area)
            match surface.GetType():
                case GeomAbs_SurfaceType.GeomAbs_Plane:
                    planes.append(Plane(face=index, point=point, normal=_plane_normal(face, surface), area=area))
                case GeomAbs_SurfaceType.GeomAbs_Cylinder:
                    walls.append(_cylinder(index, face, surface, area))
                case GeomAbs_SurfaceType.GeomAbs_Cone:
                    cones.append(_cone(index, surface, area))
                case kind:
                    name = kind.name.removeprefix("GeomAbs_").lower()
                    others.append(OtherFace(face=index, kind=name, point=point, area=area))
        volume, centroid = _volume(shape)
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
            box=tight_box(shape),
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


def _area(face: TopoDS_Face) -> tuple[float, NDArray[np.float64]]:
    props = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, props)
    return props.Mass(), _xyz(props.CentreOfMass())


def _volume(shape: TopoDS_Shape) -> tuple[float, NDArray[np.float64]]:
    props = GProp_GProps()
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
    for wall in sorted(walls, key=lambda each: each.faces):
        for place, other in enumerate(merged):
            if _is_one_wall(wall, other, tolerance):
                merged[place] = _joined(other, wall)
                break
        else:
            merged.append(wall)
    return merged


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


def _find_holes(part: PartFeatures) -> tuple[Hole, ...]:
    walls = [each for each in part.cylinders if each.is_hollow and each.goes_round]
    closed = {wall.faces: _closed_ends(part, wall) for wall in walls}
    entries = {wall.faces: _entry(wall, walls, part, closed) for wall in walls}
    counterbores = {wide.faces for kind, wide in entries.values() if kind == "counterbore" and wide}
    return tuple(
        Hole(
            cylinder=wall,
            depth=wall.length,
            through=not any(any(closed[each.faces]) for each in _chain(wall, walls)),
            entry=entries[wall.faces][0],
            tip=_tip(part, wall),
        )
        for wall in walls
        if wall.faces not in counterbores
    )


def _is_coaxial(wall: Cylinder, point: NDArray[np.float64], direction: NDArray[np.float64]) -> bool:
    return bool(
        np.linalg.norm(np.cross(wall.direction, direction)) < 1e-6
        and np.linalg.norm(np.cross(point - wall.point, wall.direction)) < 1e-3
    )


def _chain(wall: Cylinder, walls: Sequence[Cylinder]) -> list[Cylinder]:
    """List the walls on one axis that follow each other without a break, `wall` among them."""
    chain, rest = [wall], [each for each in walls if each is not wall and _is_coaxial(wall, each.point, each.direction)]
    while joined := [each for each in rest if any(_meet(each, link) for link in chain)]:
        chain += joined
        rest = [each for each in rest if each not in joined]
    return chain


def _meet(a: Cylinder, b: Cylinder) -> bool:
    return any(np.linalg.norm(p - q) < 1e-3 for p in (a.point, a.end) for q in (b.point, b.end))


def _closed_ends(part: PartFeatures, wall: Cylinder) -> tuple[bool, bool]:
    """Say for each end of a wall whether material, or a drill point, closes it."""
    start, end = wall.point, wall.end
    return (
        _is_inside(part.shape, start - 0.01 * wall.direction) or _tip_at(part, wall, start) is not None,
        _is_inside(part.shape, end + 0.01 * wall.direction) or _tip_at(part, wall, end) is not None,
    )


def _is_inside(shape: TopoDS_Shape, point: NDArray[np.float64]) -> bool:
    x, y, z = (float(value) for value in point)
    return bool(BRepClass3d_SolidClassifier(shape, gp_Pnt(x, y, z), 1e-6).State() == TopAbs_State.TopAbs_IN)


def _tip_at(part: PartFeatures, wall: Cylinder, end: NDArray[np.float64]) -> Cone | None:
    """Find the drill point that closes an end: a cone that runs to its apex, away from the wall."""
    outward = end - (wall.point + 0.5 * wall.length * wall.direction)
    for cone in part.cones:
        wide_end = cone.apex + cone.far * cone.direction
        runs_to_apex = cone.near < 0.01 * cone.far
        if runs_to_apex and np.linalg.norm(wide_end - end) < 1e-3 and float(cone.direction @ outward) < 0:
            return cone
    return None


def _tip(part: PartFeatures, wall: Cylinder) -> float:
    tips = [_tip_at(part, wall, end) for end in (wall.point, wall.end)]
    return max((tip.far for tip in tips if tip), default=0.0)


def _entry(
    wall: Cylinder, walls: Sequence[Cylinder], part: PartFeatures, closed: dict[tuple[int, ...], tuple[bool, bool]]
) -> tuple[str, Cylinder | None]:
    """Say how a hole begins, and by which wider wall."""
    for wide in walls:
        is_at_end = not any(closed[wide.faces]) and len([w for w in _chain(wide, walls) if _meet(w, wide)]) == 2
        if wide.radius > wall.radius and is_at_end and wide in _chain(wall, walls) and _meet(wide, wall):
            return "counterbore", wide
    for cone in part.cones:
        narrow_end = cone.apex + cone.near * cone.direction
        if cone.near > 1e-3 and any(np.linalg.norm(narrow_end - end) < 1e-3 for end in (wall.point, wall.end)):
            return "countersink", None
    return "plain", None
