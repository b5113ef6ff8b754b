"""Write one solid as a STEP file."""

import tempfile
from pathlib import Path

from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFDoc import XCAFDoc_DocumentTool

from rigid_bench.core.errors import GeometryError
from rigid_bench.core.geometry.kernel import kernel


def write_step(shape: TopoDS_Shape, *, name: str) -> bytes:
    """Return a STEP file (AP214, mm) of one solid.

    Raises
    ------
    GeometryError
        The kernel cannot write it.
    """
    with kernel("writing a STEP file"), tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "part.step"
        document = TDocStd_Document(TCollection_ExtendedString("rigid-bench"))
        label = XCAFDoc_DocumentTool.ShapeTool_s(document.Main()).AddShape(shape, False)
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(name, True))
        writer = STEPCAFControl_Writer()
        writer.SetNameMode(True)
        writer.Transfer(document)
        if writer.Write(str(path)) != IFSelect_ReturnStatus.IFSelect_RetDone:
            raise GeometryError(name, "it cannot be written as STEP", "Export it from the modelling program")
        return path.read_bytes()
