"""The exact gap and overlap of two solids, where they stand."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepGProp import BRepGProp
from OCP.gp import gp_Trsf
from OCP.GProp import GProp_GProps
from OCP.TopoDS import TopoDS_Shape

from rigid_bench.core.frames import Pose
from rigid_bench.core.geometry.kernel import kernel, solids_of


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Gap:
    """How far two solids are apart."""

    #: mm, 0 where they touch or overlap.
    gap_mm: float
    #: (2, 3) mm, the nearest point of each.
    at: NDArray[np.float64]


def moved(shape: TopoDS_Shape, pose: Pose) -> TopoDS_Shape:
    """Return a shape carried by a rigid motion.

    Raises
    ------
    GeometryError
        The kernel refuses the motion.
    """
    motion = gp_Trsf()
    matrix = np.column_stack([pose.rotation, pose.position])
    with kernel("placing a part"):
        motion.SetValues(*(float(value) for value in matrix.ravel()))
        return BRepBuilderAPI_Transform(shape, motion, True).Shape()


def measure_gap(a: TopoDS_Shape, b: TopoDS_Shape) -> Gap:
    """Measure the exact shortest distance between two solids.

    Parameters
    ----------
    a, b
        One solid each, in one frame: between compounds the kernel overlooks that one
        lies within the other.

    Returns
    -------
    Gap

    Raises
    ------
    GeometryError
        The kernel finds no distance.
    """
    with kernel("measuring a gap"):
        found = BRepExtrema_DistShapeShape(a, b)
        points = [found.PointOnShape1(1), found.PointOnShape2(1)] if found.NbSolution() else []
        at = np.array([[p.X(), p.Y(), p.Z()] for p in points]).reshape(-1, 3)
        return Gap(gap_mm=found.Value(), at=at if len(at) else np.zeros((2, 3)))


def overlap_volume(a: TopoDS_Shape, b: TopoDS_Shape) -> float:
    """Return the volume that two solids share, mm3.

    Raises
    ------
    GeometryError
        The kernel cannot cut the solids.
    """
    with kernel("measuring an overlap"):
        common = BRepAlgoAPI_Common(a, b).Shape()
        total = 0.0
        for solid in solids_of(common):
            props = GProp_GProps()
            BRepGProp.VolumeProperties_s(solid, props, 1e-6, False, False)
            total += abs(props.Mass())
        return total
