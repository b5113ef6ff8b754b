"""The seam to the solid-modelling kernel: its failures become `GeometryError`, our bugs pass through."""

from collections.abc import Iterator
from contextlib import contextmanager

import numpy as np
from numpy.typing import NDArray
from OCP.gp import gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.Message import Message
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape, TopoDS_Solid

from rigid_bench.core.values.errors import GeometryError
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.wording.language import _

# The kernel prints its messages to standard output, where our JSON goes.
Message.DefaultMessenger_s().ChangePrinters().Clear()


@contextmanager
def kernel(doing: str) -> Iterator[None]:
    """Turn a failure of the solid-modelling kernel into `GeometryError`."""
    try:
        yield
    except Exception as exc:  # OCP binds every kernel failure straight to Exception
        if not type(exc).__module__.startswith("OCP."):
            raise
        raise GeometryError(
            doing, str(exc) or type(exc).__name__, _("Check the solid in your program and export it again")
        ) from exc


def solids_of(shape: TopoDS_Shape) -> list[TopoDS_Solid]:
    """List the solids in a shape, in the file's order."""
    return [TopoDS.Solid(sub) for sub in _explore(shape, TopAbs_ShapeEnum.TopAbs_SOLID)]


def faces_of(shape: TopoDS_Shape) -> list[TopoDS_Face]:
    """List the faces of a shape; a face's place in this list is its id."""
    return [TopoDS.Face(sub) for sub in _explore(shape, TopAbs_ShapeEnum.TopAbs_FACE)]


def edges_of(shape: TopoDS_Shape) -> list[TopoDS_Edge]:
    """List the edges of a shape."""
    return [TopoDS.Edge(sub) for sub in _explore(shape, TopAbs_ShapeEnum.TopAbs_EDGE)]


def shells_of(shape: TopoDS_Shape) -> list[TopoDS_Shape]:
    """List the shells of a shape."""
    return list(_explore(shape, TopAbs_ShapeEnum.TopAbs_SHELL))


def has_more_than_solids(shape: TopoDS_Shape) -> bool:
    """Say whether faces or edges stand beside the solids of a shape."""
    kinds = TopAbs_ShapeEnum
    loose = ((kinds.TopAbs_FACE, kinds.TopAbs_SOLID), (kinds.TopAbs_EDGE, kinds.TopAbs_FACE))
    return any(TopExp_Explorer(shape, kind, within).More() for kind, within in loose)


def _explore(shape: TopoDS_Shape, kind: TopAbs_ShapeEnum) -> Iterator[TopoDS_Shape]:
    explorer = TopExp_Explorer(shape, kind)
    while explorer.More():
        yield explorer.Current()
        explorer.Next()


def xyz(of: gp_Pnt | gp_Dir | gp_Vec) -> NDArray[np.float64]:
    """Return a kernel's point or vector as an array, (3,)."""
    return np.array([of.X(), of.Y(), of.Z()])


def transformation(pose: Pose) -> gp_Trsf:
    """Return a rigid motion as the kernel takes it."""
    motion = gp_Trsf()
    motion.SetValues(*(float(value) for value in np.column_stack([pose.rotation, pose.position]).ravel()))
    return motion
