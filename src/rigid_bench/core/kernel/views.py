"""Hidden-line views of solids: the edges that are seen and those that are hidden, as polylines."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepLib import BRepLib
from OCP.GCPnts import GCPnts_QuasiUniformDeflection
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.HLRAlgo import HLRAlgo_Projector
from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_HLRToShape
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Shape

from rigid_bench.core.kernel.binding import kernel
from rigid_bench.core.part.directions import Direction
from rigid_bench.core.wording.language import N_

_Array = NDArray[np.float64]
#: How far a drawn curve may stray from the true one: as a share of the view's size, and at most mm: a small hole in
#: a large part may be drawn larger.
_STRAY, _MOST_STRAY = 5e-4, 0.03


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class View:
    """A view as polylines in its own plane, mm, y upwards."""

    name: str
    visible: tuple[_Array, ...]
    hidden: tuple[_Array, ...]
    #: (2, 2) mm, least and greatest corner.
    box: _Array


def draw_view(solids: Sequence[TopoDS_Shape], direction: Direction, *, size: float) -> View:
    """Draw solids as seen from a direction.

    Parameters
    ----------
    solids
        In world coordinates.
    direction
        Where the eye is.
    size
        mm, of the whole; decides how finely curves are drawn.

    Returns
    -------
    View

    Raises
    ------
    GeometryError
        The kernel cannot work out the hidden lines.
    """
    with kernel(N_("drawing a view")):
        shapes = _hidden_lines(solids, direction)
        visible = [shapes.VCompound(), shapes.Rg1LineVCompound(), shapes.OutLineVCompound()]
        hidden = [shapes.HCompound(), shapes.OutLineHCompound()]
        stray = _stray(size)
        seen = tuple(line for known_line in visible for line in _polylines(known_line, stray))
        unseen = tuple(line for known_line in hidden for line in _polylines(known_line, stray))
    points = np.vstack([*seen, *unseen]) if seen or unseen else np.zeros((1, 2))
    return View(
        name=direction.name, visible=seen, hidden=unseen, box=np.array([points.min(axis=0), points.max(axis=0)])
    )


def seen_edges(solids: Sequence[TopoDS_Shape], direction: Direction, *, size: float) -> list[list[_Array]]:
    """Return the edges of each solid that are seen from a direction, the others being in the way.

    Raises
    ------
    GeometryError
        The kernel cannot work out the hidden lines.
    """
    with kernel(N_("looking what is seen")):
        shapes = _hidden_lines(solids, direction)
        return [
            [
                line
                for lines in (shapes.VCompound(solid), shapes.OutLineVCompound(solid))
                for line in _polylines(lines, _stray(size))
            ]
            for solid in solids
        ]


def _stray(size: float) -> float:
    return min(_STRAY * size, _MOST_STRAY)


def _hidden_lines(solids: Sequence[TopoDS_Shape], direction: Direction) -> HLRBRep_HLRToShape:
    algorithm = HLRBRep_Algo()
    for solid in solids:
        algorithm.Add(solid)
    axes = gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(*direction.toward), gp_Dir(*direction.right))
    algorithm.Projector(HLRAlgo_Projector(axes))
    algorithm.Update()
    algorithm.Hide()
    return HLRBRep_HLRToShape(algorithm)


def _polylines(shape: TopoDS_Shape | None, stray: float) -> list[_Array]:
    if shape is None or shape.IsNull():
        return []
    BRepLib.BuildCurves3d_s(shape)
    lines = []
    explorer = TopExp_Explorer(shape, TopAbs_ShapeEnum.TopAbs_EDGE)
    while explorer.More():
        curve = BRepAdaptor_Curve(TopoDS.Edge(explorer.Current()))
        points = GCPnts_QuasiUniformDeflection(curve, stray)
        if points.IsDone() and points.NbPoints() > 1:
            places = [points.Value(k) for k in range(1, points.NbPoints() + 1)]
            lines.append(np.array([[point.X(), point.Y()] for point in places]))
        explorer.Next()
    return lines
