"""Write solids as a STEP file: one, or an assembly of them."""

import tempfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFDoc import XCAFDoc_DocumentTool, XCAFDoc_ShapeTool

from rigid_bench.core.kernel.binding import kernel, transformation
from rigid_bench.core.values.errors import GeometryError
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.wording.language import _


@dataclass(frozen=True, slots=True, kw_only=True)
class Component:
    """One instance of a part in an assembly."""

    name: str
    part: str
    pose: Pose


def write_step(shape: TopoDS_Shape, *, name: str) -> bytes:
    """Return a STEP file (AP214, mm) of one solid.

    Raises
    ------
    GeometryError
        The kernel cannot write it.
    """
    with kernel(_("writing a STEP file")):
        document, tool = _begun()
        _call(tool.AddShape(shape, False), name)
        return _written(document, name)


def write_assembly(
    parts: Mapping[str, tuple[str, TopoDS_Shape]], components: Sequence[Component], *, name: str = "build"
) -> bytes:
    """Return a STEP file (AP214, mm) of an assembly: every part once, and its instances with their poses.

    Parameters
    ----------
    parts
        Name and solid of each, by id.
    components
        The instances, in world coordinates.
    name
        Of the whole.

    Raises
    ------
    GeometryError
        The kernel cannot write it.
    """
    with kernel(_("writing a STEP file")):
        document, tool = _begun()
        whole = tool.NewShape()
        _call(whole, name)
        labels: dict[str, TDF_Label] = {}
        for part, (called, shape) in parts.items():
            labels[part] = tool.AddShape(shape, False)
            _call(labels[part], called)
        for component in components:
            location = TopLoc_Location(transformation(component.pose))
            _call(tool.AddComponent(whole, labels[component.part], location), component.name)
        tool.UpdateAssemblies()
        return _written(document, name)


def _begun() -> tuple[TDocStd_Document, XCAFDoc_ShapeTool]:
    document = TDocStd_Document(TCollection_ExtendedString("rigid-bench"))
    return document, XCAFDoc_DocumentTool.ShapeTool_s(document.Main())


def _call(label: TDF_Label, name: str) -> None:
    TDataStd_Name.Set_s(label, TCollection_ExtendedString(name, True))


def _written(document: TDocStd_Document, name: str) -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "part.step"
        writer = STEPCAFControl_Writer()
        writer.SetNameMode(True)
        writer.Transfer(document)
        if writer.Write(str(path)) != IFSelect_ReturnStatus.IFSelect_RetDone:
            raise GeometryError(name, _("it cannot be written as STEP"), _("Export it from the modelling program"))
        return path.read_bytes()
