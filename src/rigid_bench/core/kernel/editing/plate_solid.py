"""A plate with upright holes as a STEP file."""

import re
from collections.abc import Sequence

from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.TopoDS import TopoDS_Shape

from rigid_bench.core.kernel.binding import kernel, solids_of
from rigid_bench.core.kernel.booleans import cut
from rigid_bench.core.kernel.step_writer import write_step
from rigid_bench.core.wording.language import N_

#: The header's time is left out, so that the same plate gives the same bytes.
_TIME = re.compile(rb"'\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d[^']*'")
#: mm by which a cut reaches out of the solid.
_OUT = 1.0


def plate_step(size: Sequence[float], holes: Sequence[tuple[float, float, float, float | None]], *, name: str) -> bytes:
    """Write a plate.

    Parameters
    ----------
    size
        (3,) mm; the plate's least corner is the origin.
    holes
        x, y and diameter of each, and its depth from above; None is through.
    name
        The product's.

    Raises
    ------
    GeometryError
        The kernel cannot make it.
    """
    with kernel(N_("making a plate")):
        solid: TopoDS_Shape = BRepPrimAPI_MakeBox(*(float(value) for value in size)).Shape()
        for x, y, diameter, depth in holes:
            floor = -_OUT if depth is None else size[2] - depth
            place = gp_Ax2(gp_Pnt(x, y, floor), gp_Dir(0, 0, 1))
            solid = cut(solid, BRepPrimAPI_MakeCylinder(place, diameter / 2, size[2] + _OUT - floor).Shape())
        return _TIME.sub(b"'2026-01-01T00:00:00'", write_step(solids_of(solid)[0], name=name), count=1)
