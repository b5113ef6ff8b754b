"""What two shapes share, and what one leaves of the other; both stay as they are.

Left to itself the kernel widens the tolerances of the shapes that it is given, and others may hold those: a part that
is read once is measured many times.
"""

from OCP.BRepAlgoAPI import BRepAlgoAPI_BooleanOperation, BRepAlgoAPI_Common, BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.collections import List_TopoDS_Shape
from OCP.TopoDS import TopoDS_Shape


def common(a: TopoDS_Shape, b: TopoDS_Shape) -> TopoDS_Shape:
    """Return what two shapes share."""
    return _done(BRepAlgoAPI_Common(), a, b)


def cut(shape: TopoDS_Shape, tool: TopoDS_Shape) -> TopoDS_Shape:
    """Return what a tool leaves of a shape."""
    return _done(BRepAlgoAPI_Cut(), shape, tool)


def fused(a: TopoDS_Shape, b: TopoDS_Shape) -> TopoDS_Shape:
    """Return two shapes as one."""
    return _done(BRepAlgoAPI_Fuse(), a, b)


def _done(operation: BRepAlgoAPI_BooleanOperation, shape: TopoDS_Shape, tool: TopoDS_Shape) -> TopoDS_Shape:
    for given, put in ((shape, operation.SetArguments), (tool, operation.SetTools)):
        shapes = List_TopoDS_Shape()
        shapes.Append(given)
        put(shapes)
    operation.SetNonDestructive(True)
    operation.Build()
    return operation.Shape()
