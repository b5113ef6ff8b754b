"""Read a STEP file: its products as parts, the leaves of its assembly as instances.

The text is checked before the kernel sees it: the kernel takes some broken files in
silence, and ends the process on others.
"""

import io
import re
from collections import Counter
from collections.abc import Iterator

import numpy as np
from OCP.collections import Sequence_TDF_Label
from OCP.gp import gp_Trsf
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_AsciiString, TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label, TDF_Tool
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFDoc import XCAFDoc_DocumentTool, XCAFDoc_ShapeTool

from rigid_bench.core.formats.message import Message, notice
from rigid_bench.core.formats.step_text import (
    EXPORT_AGAIN,
    MOST_INSTANCES,
    check_text,
    length_units,
    too_many_instances,
)
from rigid_bench.core.kernel.binding import kernel, solids_of
from rigid_bench.core.part.model import Model, ModelInstance, ModelPart
from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.names import plain_name, slug, unique

_SCHEMA = re.compile(rb"FILE_SCHEMA\s*\(\s*\(\s*'([^']*)'", re.IGNORECASE)
_SCHEMA_NAMES = (
    ("AP242", "AP242"),
    ("AP214", "AP214"),
    ("AUTOMOTIVE", "AP214"),
    ("CONFIG", "AP203"),
    ("AP203", "AP203"),
)


def read_step(data: bytes, *, name: str) -> Model:
    """Read the parts and instances of a STEP file.

    Parameters
    ----------
    data
        The whole file.
    name
        The file's name, for messages.

    Returns
    -------
    Model
        Lengths in mm, whatever unit the file is in.

    Raises
    ------
    UnreadableFile
        The data is no STEP file, is cut off or broken, or holds no solid body.
    """
    check_text(data, name=name)
    reader = STEPCAFControl_Reader()
    reader.SetNameMode(True)
    document = TDocStd_Document(TCollection_ExtendedString("rigid-bench"))
    with kernel(name):
        status = reader.ReadStream("model.step", io.BytesIO(data.removeprefix(b"\xef\xbb\xbf")))
        if status != IFSelect_ReturnStatus.IFSelect_RetDone or not reader.Transfer(document):
            raise UnreadableFile(name, "the STEP data cannot be read", EXPORT_AGAIN)
        model = _Collector(XCAFDoc_DocumentTool.ShapeTool_s(document.Main()), name).collect()
    units = length_units(data)
    return Model(
        schema=_schema(data),
        source_units=next((each for each in units if each), "unknown"),
        parts=tuple(model.parts),
        instances=tuple(model.instances),
        notices=(*_unit_notices(units), *model.notices),
    )


def _schema(data: bytes) -> str:
    match = _SCHEMA.search(data[:20_000])
    written = match[1].decode("latin-1").upper() if match else ""
    return next((short for mark, short in _SCHEMA_NAMES if mark in written), written or "unknown")


def _unit_notices(units: list[str]) -> list[Message]:
    named = [unit for unit in units if unit]
    if len(named) > 1:
        return [notice("unit-mixed", units=", ".join(named))]
    if not named:
        return [notice("unit-unknown")]
    return [notice("unit-partly", unit=named[0])] if len(units) > 1 else []


class _Collector:
    """Walk the document once; products become parts, leaves become instances."""

    def __init__(self, tool: XCAFDoc_ShapeTool, file: str) -> None:
        self.tool, self.file = tool, file
        self.parts: list[ModelPart] = []
        self.instances: list[ModelInstance] = []
        self.notices: list[Message] = []
        self._of_label: dict[str, list[ModelPart]] = {}
        self._leaves: dict[str, int] = {}
        self._shown: Counter[str] = Counter()
        self._taken: set[str] = set()

    def collect(self) -> "_Collector":
        roots = Sequence_TDF_Label()
        self.tool.GetFreeShapes(roots)
        labels = [roots.Value(k) for k in range(1, roots.Length() + 1)]
        count = sum(self._count_leaves(label) for label in labels)
        if count > MOST_INSTANCES:
            raise too_many_instances(self.file, count)
        for label in labels:
            self._walk(label, TopLoc_Location(), _label_name(label))
        if not any(part.solids for part in self.parts):
            raise UnreadableFile(
                self.file, "there is no solid body in it", "Close the surfaces to a solid, then export it again"
            )
        return self

    def _count_leaves(self, label: TDF_Label) -> int:
        """Multiply before expanding: an instance tree can stand for a thousand million leaves."""
        target = _referred(label)
        key = _entry(target)
        if key not in self._leaves:
            below = list(_components(target)) if XCAFDoc_ShapeTool.IsAssembly_s(target) else []
            self._leaves[key] = sum(self._count_leaves(each) for each in below) if below else 1
        return self._leaves[key]

    def _walk(self, label: TDF_Label, above: TopLoc_Location, name: str) -> None:
        target = _referred(label)
        here = above.Multiplied(XCAFDoc_ShapeTool.GetLocation_s(label))
        if XCAFDoc_ShapeTool.IsAssembly_s(target):
            for component in _components(target):
                self._walk(component, here, _label_name(component))
            return
        for part in self._parts_of(target):
            self._shown[part.id] += 1
            number = self._shown[part.id]
            self.instances.append(
                ModelInstance(
                    id=unique(f"{part.id}-{number}", self._taken),
                    name=name or f"{part.name}:{number}",
                    part=part.id,
                    pose=_pose(here.Transformation()),
                )
            )

    def _parts_of(self, label: TDF_Label) -> list[ModelPart]:
        key = _entry(label)
        if key not in self._of_label:
            self._of_label[key] = self._read_parts(label)
            self.parts.extend(self._of_label[key])
        return self._of_label[key]

    def _read_parts(self, label: TDF_Label) -> list[ModelPart]:
        shape = XCAFDoc_ShapeTool.GetShape_s(label)
        name = _label_name(label) or f"Part {len(self.parts) + 1}"
        product = unique(slug(name), self._taken)
        solids: list[TopoDS_Shape] = list(solids_of(shape))
        if not solids:
            self.notices.append(notice("no-solid", name=name))
            return [ModelPart(id=product, name=name, product=product, shape=shape, solids=0)]
        if len(solids) == 1:
            return [ModelPart(id=product, name=name, product=product, shape=solids[0], solids=1)]
        return [
            ModelPart(
                id=unique(f"{product}-b{k}", self._taken), name=f"{name} ({k})", product=product, shape=solid, solids=1
            )
            for k, solid in enumerate(solids, 1)
        ]


def _entry(label: TDF_Label) -> str:
    """Return the label's place in the document, which is the same for every handle to it."""
    entry = TCollection_AsciiString()
    TDF_Tool.Entry_s(label, entry)
    return str(entry.ToCString())


def _referred(label: TDF_Label) -> TDF_Label:
    """Return the product that a component label points to, or the label itself."""
    target = TDF_Label()
    return target if XCAFDoc_ShapeTool.GetReferredShape_s(label, target) else label


def _components(label: TDF_Label) -> Iterator[TDF_Label]:
    below = Sequence_TDF_Label()
    XCAFDoc_ShapeTool.GetComponents_s(label, below)
    for k in range(1, below.Length() + 1):
        yield below.Value(k)


def _label_name(label: TDF_Label) -> str:
    attribute = TDataStd_Name()
    if not label.FindAttribute(TDataStd_Name.GetID_s(), attribute):
        return ""
    name = plain_name(attribute.Get().ToExtString())
    return "" if name.startswith("=>[") else name  # the kernel's stand-in for no name


def _pose(motion: gp_Trsf) -> Pose:
    matrix = np.array([[motion.Value(row, column) for column in range(1, 5)] for row in range(1, 4)])
    return Pose(matrix[:, :3], matrix[:, 3])
