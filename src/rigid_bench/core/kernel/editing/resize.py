"""Change one size of a solid: a round wall gets another radius, a flat face is moved along its normal.

Only what is simple is done, and it is checked by the volume that must come or go: where other features cross what
changes, nothing is changed.
"""

import math
from collections.abc import Sequence
from typing import Any

from numpy.typing import NDArray
from OCP.BRepBuilderAPI import BRepBuilderAPI_Copy
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakePrism
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Vec
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopoDS import TopoDS_Shape

from rigid_bench.core.kernel.binding import faces_of, kernel, solids_of
from rigid_bench.core.kernel.booleans import cut, fused
from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.kernel.mass_properties import area_of, volume_of
from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.errors import GeometryError
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import N_, _

#: Share of the volume that comes or goes by which it may differ from what it should be.
_OFF = 1e-4


def with_radius(part: PartFeatures, wall: Cylinder, radius: float, *, tolerance: Tolerance) -> PartFeatures:
    """Return a part whose round wall, one that goes all round, has another radius, mm.

    Raises
    ------
    GeometryError
        Another feature crosses what changes, or the kernel cannot do it.
    """
    with kernel(N_("changing a diameter")):
        ends = sorted((wall.radius, radius))
        own = _own(part.shape)
        ring = cut(_cylinder(wall, ends[1]), _cylinder(wall, ends[0]))
        changed = _applied(own, ring, adds=(radius < wall.radius) == wall.is_hollow)
    wanted = math.pi * (ends[1] ** 2 - ends[0] ** 2) * wall.length
    return _checked(part, changed, wanted, "changing a diameter", tolerance)


def with_faces_moved(
    part: PartFeatures, faces: Sequence[int], normal: NDArray[Any], by: float, *, tolerance: Tolerance
) -> PartFeatures:
    """Return a part with flat faces of one plane moved along its normal.

    Parameters
    ----------
    part
        Of one solid.
    faces
        Places of the faces in `faces_of`.
    normal
        (3,) unit, out of the material.
    by
        mm, out of the material where above 0.
    tolerance
        For reading what comes out.

    Raises
    ------
    GeometryError
        Another feature crosses what changes, or the kernel cannot do it.
    """
    with kernel(N_("moving a face")):
        changed = _own(part.shape)
        own = faces_of(changed)
        way = gp_Vec(*(float(value) for value in by * normal))
        for number in faces:
            changed = _applied(changed, BRepPrimAPI_MakePrism(own[number], way).Shape(), adds=by > 0)
        area = sum(area_of(own[number])[0] for number in faces)
    return _checked(part, changed, area * abs(by), "moving a face", tolerance)


def _own(shape: TopoDS_Shape) -> TopoDS_Shape:
    """Return a copy: what is done to a shape changes its faces' tolerances, and others may hold it."""
    return BRepBuilderAPI_Copy(shape).Shape()


def _cylinder(wall: Cylinder, radius: float) -> TopoDS_Shape:
    place = gp_Ax2(_point(wall.point), gp_Dir(*(float(value) for value in wall.direction)))
    return BRepPrimAPI_MakeCylinder(place, radius, wall.length).Shape()


def _point(at: NDArray[Any]) -> gp_Pnt:
    return gp_Pnt(*(float(value) for value in at))


def _applied(shape: TopoDS_Shape, tool: TopoDS_Shape, *, adds: bool) -> TopoDS_Shape:
    return _joined((fused if adds else cut)(shape, tool))


def _joined(shape: TopoDS_Shape) -> TopoDS_Shape:
    """Return a shape whose faces that lie in one plane, or on one cylinder, are one."""
    joined = ShapeUpgrade_UnifySameDomain(shape, True, True, False)
    joined.Build()
    return joined.Shape()


def _checked(
    before: PartFeatures, after: TopoDS_Shape, wanted: float, doing: str, tolerance: Tolerance
) -> PartFeatures:
    """Return the one solid that came out, if it has the surfaces that it had, and just so much came or went (mm3)."""
    solids = solids_of(after)
    if len(solids) == 1 and BRepCheck_Analyzer(solids[0]).IsValid():
        change = abs(volume_of(solids[0])[0] - before.volume)
        changed = read_features(solids[0], tolerance=tolerance)
        if abs(change - wanted) <= _OFF * wanted and len(changed.surfaces) == len(before.surfaces):
            return changed
    raise GeometryError(
        doing, _("another feature of the part crosses what changes"), _("Change the model in your program")
    )
