"""The exact gap and overlap of two solids, where they stand."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from types import ModuleType
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_Transform
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.gp import gp_Ax2, gp_Dir, gp_Pln, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopoDS import TopoDS_Compound, TopoDS_Shape

from rigid_bench.core.kernel.binding import faces_of, kernel, solids_of, transformation
from rigid_bench.core.kernel.booleans import common, cut
from rigid_bench.core.kernel.feature_reader import tight_box
from rigid_bench.core.kernel.mass_properties import volume_of
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.model import Body
from rigid_bench.core.values.frames import Pose, any_normal
from rigid_bench.core.wording.language import N_, _


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Gap:
    """How far two solids are apart."""

    #: mm, 0 where they touch or overlap.
    gap_mm: float
    #: (2, 3) mm, the nearest point of each.
    at: NDArray[np.float64]
    #: A plane between the two is known, so that they share nothing.
    is_apart: bool = False


@lru_cache(maxsize=4096)
def extreme(part: PartFeatures, direction: tuple[float, float, float]) -> float:
    """Return how far a part reaches along a direction, mm from its origin.

    Parameters
    ----------
    part
        Its solid.
    direction
        (3,) unit, in the part's coordinates.
    """
    way = np.array(direction)
    first = any_normal(way)
    square = np.array([way, first, np.cross(way, first)])
    return float(tight_box(moved(part.shape, Pose(square, np.zeros(3))))[1][0])


def moved(shape: Body, pose: Pose) -> Body:
    """Return a body carried by a rigid motion.

    Raises
    ------
    GeometryError
        The kernel refuses the motion.
    """
    if not isinstance(shape, TopoDS_Shape):
        return _meshes().carried(shape, pose)
    with kernel(N_("placing a part")):
        return BRepBuilderAPI_Transform(shape, transformation(pose), True).Shape()


def behind(
    shape: TopoDS_Shape, *, point: NDArray[np.float64], normal: NDArray[np.float64], reach: float
) -> TopoDS_Shape:
    """Return what of a solid lies behind a plane: a section.

    Parameters
    ----------
    shape
        The solid.
    point, normal
        (3,) mm and (3,) unit: of the plane, the normal towards what is taken away.
    reach
        mm, more than the solid's size.

    Raises
    ------
    GeometryError
        The kernel cannot cut it.
    """
    with kernel(N_("cutting a section")):
        plane = gp_Pln(gp_Pnt(*point.tolist()), gp_Dir(*normal.tolist()))
        face = BRepBuilderAPI_MakeFace(plane, -reach, reach, -reach, reach).Face()
        half = BRepPrimAPI_MakePrism(face, gp_Vec(*(reach * normal).tolist())).Shape()
        return cut(shape, half)


def scaled(shape: Body, factor: float) -> Body:
    """Return a body made larger or smaller about the origin.

    Raises
    ------
    GeometryError
        The kernel refuses.
    """
    if not isinstance(shape, TopoDS_Shape):
        return _meshes().scaled(shape, factor)
    change = gp_Trsf()
    with kernel(N_("scaling a part")):
        change.SetScale(gp_Pnt(0, 0, 0), factor)
        return BRepBuilderAPI_Transform(shape, change, True).Shape()


def mirrored(shape: Body) -> Body:
    """Return the mirror image of a body.

    Raises
    ------
    GeometryError
        The kernel refuses.
    """
    if not isinstance(shape, TopoDS_Shape):
        return _meshes().mirrored(shape)
    change = gp_Trsf()
    with kernel(N_("mirroring a part")):
        change.SetMirror(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)))
        return BRepBuilderAPI_Transform(shape, change, True).Shape()


def measure_gap(a: Body, b: Body) -> Gap:
    """Measure the exact shortest distance between two bodies.

    Parameters
    ----------
    a, b
        One body each, in one frame: between compounds the kernel overlooks that one
        lies within the other. A solid beside a mesh is meshed to 0.01 mm.

    Returns
    -------
    Gap

    Raises
    ------
    GeometryError
        The kernel finds no distance.
    """
    if not (isinstance(a, TopoDS_Shape) and isinstance(b, TopoDS_Shape)):
        gap, at = _meshes().mesh_gap(_as_mesh(a), _as_mesh(b))
        return Gap(gap_mm=gap, at=at)
    with kernel(N_("measuring a gap")):
        nearest = BRepExtrema_DistShapeShape(a, b)
        points = [nearest.PointOnShape1(1), nearest.PointOnShape2(1)] if nearest.NbSolution() else []
        at = np.array([[p.X(), p.Y(), p.Z()] for p in points]).reshape(-1, 3)
        return Gap(gap_mm=nearest.Value(), at=at if len(at) else np.zeros((2, 3)))


def gap_of_faces(a: TopoDS_Shape, b: TopoDS_Shape, numbers: tuple[Sequence[int], Sequence[int]]) -> Gap:
    """Measure the exact shortest distance between some faces of a solid and some of another.

    Parameters
    ----------
    a, b
        Solids in one frame.
    numbers
        Which faces of each, counted as `faces_of` does.

    Raises
    ------
    GeometryError
        The kernel finds no distance.
    """
    with kernel(N_("measuring a gap")):
        chosen = []
        for shape, own in zip((a, b), numbers, strict=True):
            builder, compound = BRep_Builder(), TopoDS_Compound()
            builder.MakeCompound(compound)
            faces = faces_of(shape)
            for number in own:
                builder.Add(compound, faces[number])
            chosen.append(compound)
    return measure_gap(*chosen)


def overlap_volume(a: Body, b: Body) -> float:
    """Return the volume that two bodies share, mm3.

    Raises
    ------
    GeometryError
        The kernel cannot cut the solids.
    """
    if not (isinstance(a, TopoDS_Shape) and isinstance(b, TopoDS_Shape)):
        return float(_meshes().mesh_overlap(_as_mesh(a), _as_mesh(b)))
    with kernel(_("measuring an overlap")):
        total = 0.0
        for solid in solids_of(common(a, b)):
            total += abs(volume_of(solid)[0])
        return total


def _as_mesh(body: Body) -> Any:
    if not isinstance(body, TopoDS_Shape):
        return body
    from rigid_bench.core.kernel.meshes.triangulation import meshed

    return meshed(body)


def _meshes() -> ModuleType:
    """Return what is done with triangles: its libraries load as slowly as the kernel, and most files are solids."""
    from rigid_bench.core.kernel.meshes import mesh_body

    return mesh_body
