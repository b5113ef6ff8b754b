"""Read IGES and BREP files: loose shapes without products; each solid is a part that stands once."""

import tempfile
from collections.abc import Mapping
from pathlib import Path
from types import MappingProxyType

from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid, BRepBuilderAPI_Sewing
from OCP.BRepLib import BRepLib
from OCP.BRepTools import BRepTools
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.IGESControl import IGESControl_Reader
from OCP.TopoDS import TopoDS, TopoDS_Shape

from rigid_bench.core.formats.content.shape_text import check_brep, check_iges, iges_unit
from rigid_bench.core.formats.content.step_text import EXPORT_AGAIN
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.kernel.binding import has_more_than_solids, kernel, shells_of, solids_of
from rigid_bench.core.part.model import Model, ModelInstance, ModelPart
from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.names import slug, unique
from rigid_bench.core.wording.language import _

#: mm: trimmed surfaces whose edges lie so near are one skin.
_SEWN_MM = 0.01


def read_iges(data: bytes, *, name: str, beside: Mapping[str, bytes] = MappingProxyType({})) -> Model:
    """Read the solids of an IGES file (Initial Graphics Exchange Specification 5.3); its trimmed surfaces are sewn.

    Parameters
    ----------
    data, name
        The whole file, and its name for messages.
    beside
        Not used: an IGES file refers to no other.

    Returns
    -------
    Model
        Lengths in mm.

    Raises
    ------
    UnreadableFile
        The file is broken, or its surfaces enclose no body.
    """
    check_iges(data, name=name)
    reader = IGESControl_Reader()
    with tempfile.TemporaryDirectory(prefix="rigid-bench-") as folder, kernel(name):
        path = Path(folder) / "model.igs"
        path.write_bytes(data)
        if reader.ReadFile(str(path)) != IFSelect_ReturnStatus.IFSelect_RetDone:
            raise UnreadableFile(name, _("the IGES data cannot be read"), EXPORT_AGAIN)
        reader.TransferRoots()
        shape = reader.OneShape()
    return _model(shape, name=name, schema="IGES", unit=iges_unit(data))


def read_brep(data: bytes, *, name: str, beside: Mapping[str, bytes] = MappingProxyType({})) -> Model:
    """Read the solids of a BREP file, the kernel's own text; in mm, for it says no unit.

    Parameters, returns and errors are those of `read_iges`.
    """
    check_brep(data, name=name)
    shape = TopoDS_Shape()
    with tempfile.TemporaryDirectory(prefix="rigid-bench-") as folder, kernel(name):
        path = Path(folder) / "model.brep"
        path.write_bytes(data)
        if not BRepTools.Read_s(shape, str(path), BRep_Builder()):
            raise UnreadableFile(name, _("the BREP data cannot be read"), EXPORT_AGAIN)
    return _model(shape, name=name, schema="BREP", unit="unknown")


def _model(shape: TopoDS_Shape, *, name: str, schema: str, unit: str) -> Model:
    notices = [phrase("unit-unknown")] if unit == "unknown" else []
    called = name.rsplit(".", 1)[0]
    solids: list[TopoDS_Shape] = []
    if not shape.IsNull():
        with kernel(name):
            solids, more = _solids(shape, called)
            notices += more
    if not solids:
        raise UnreadableFile(name, _("there is no closed body in it"), _("Close its surfaces, then export it again"))
    taken: set[str] = set()
    parts = [
        ModelPart(
            id=unique(slug(called), taken),
            name=called if len(solids) == 1 else f"{called} ({number})",
            product=slug(called),
            shape=solid,
            solids=1,
        )
        for number, solid in enumerate(solids, 1)
    ]
    instances = [
        ModelInstance(id=unique(f"{part.id}-1", taken), name=f"{part.name}:1", part=part.id, pose=Pose.identity())
        for part in parts
    ]
    return Model(
        schema=schema, source_units=unit, parts=tuple(parts), instances=tuple(instances), notices=tuple(notices)
    )


def _solids(shape: TopoDS_Shape, called: str) -> tuple[list[TopoDS_Shape], list[Message]]:
    """Return the solids of a shape, or those that its surfaces enclose when they are sewn; and what is to be said."""
    own: list[TopoDS_Shape] = list(solids_of(shape))
    if own:
        return own, [phrase("left-out-of", name=called)] if has_more_than_solids(shape) else []
    sewing = BRepBuilderAPI_Sewing(_SEWN_MM)
    sewing.Add(shape)
    sewing.Perform()
    sewn: list[TopoDS_Shape] = []
    for shell in shells_of(sewing.SewedShape()):
        if not shell.Closed():
            continue
        solid = BRepBuilderAPI_MakeSolid(TopoDS.Shell(shell)).Solid()
        BRepLib.OrientClosedSolid_s(solid)
        sewn.append(solid)
    return sewn, [phrase("sewn", name=called)]
