"""Take faces off a solid and close it over: how it would be without a feature."""

from collections.abc import Iterable

from OCP.BRepAlgoAPI import BRepAlgoAPI_Defeaturing
from OCP.BRepBuilderAPI import BRepBuilderAPI_Copy
from OCP.TopoDS import TopoDS_Shape

from rigid_bench.core.kernel.binding import faces_of, kernel, solids_of
from rigid_bench.core.values.errors import GeometryError
from rigid_bench.core.wording.language import _


def without_faces(shape: TopoDS_Shape, numbers: Iterable[int]) -> TopoDS_Shape | None:
    """Return a solid with some of its faces taken off and their neighbours carried on.

    Parameters
    ----------
    shape
        One solid.
    numbers
        Places of the faces in `faces_of`.

    Returns
    -------
    TopoDS_Shape or None
        One solid; None where the neighbours do not close over the faces.
    """
    # the kernel widens tolerances of what it works on, and others may hold it; a copy has its faces in the same order
    own = BRepBuilderAPI_Copy(shape).Shape()
    faces = faces_of(own)
    tool = BRepAlgoAPI_Defeaturing()
    try:
        with kernel(_("taking off a feature")):
            tool.SetShape(own)
            for number in numbers:
                tool.AddFaceToRemove(faces[number])
            tool.Build()
            solids = list(solids_of(tool.Shape())) if tool.IsDone() else []
    except GeometryError:
        return None
    is_done = len(solids) == 1 and len(faces_of(solids[0])) < len(faces)
    return solids[0] if is_done else None
