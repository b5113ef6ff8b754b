"""Surfaces past their own axis: a lemon and an apple are solid, whichever way their normals run by nature."""

import math

import numpy as np
import pytest
from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeSolid
from OCP.Geom import Geom_ToroidalSurface
from OCP.gp import gp_Ax3, gp_Dir, gp_Pnt
from OCP.TopoDS import TopoDS_Shell

from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.part.faces import Torus
from tests.support.shapes import TOLERANCE

RING, TUBE = 6.0, 10.0
#: Where the tube meets the axis, rad.
MEETS = math.acos(-RING / TUBE)


@pytest.mark.parametrize(
    ("begin", "end", "widest"),
    [(MEETS, 2 * math.pi - MEETS, TUBE - RING), (-MEETS, MEETS, TUBE + RING)],
    ids=["lemon", "apple"],
)
def test_a_spindle_torus_is_solid_and_its_normals_look_out(begin: float, end: float, widest: float) -> None:
    surface = Geom_ToroidalSurface(gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), RING, TUBE)
    shell = TopoDS_Shell()
    builder = BRep_Builder()
    builder.MakeShell(shell)
    builder.Add(shell, BRepBuilderAPI_MakeFace(surface, 0, 2 * math.pi, begin, end, 1e-6).Face())
    shell.Closed(True)
    part = read_features(BRepBuilderAPI_MakeSolid(shell).Solid(), tolerance=TOLERANCE)
    (torus,) = part.surfaces
    assert isinstance(torus, Torus)
    assert not torus.is_hollow
    assert torus.normals_at(np.array([[widest, 0.0, 0]]))[0] == pytest.approx([1, 0, 0])
