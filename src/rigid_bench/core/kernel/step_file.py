"""Read a STEP file: its products as parts, the leaves of its assembly as instances.

The text is checked before the kernel sees it: the kernel takes some broken files in
silence, and ends the process on others.
"""

import io
import re
import tempfile
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from types import MappingProxyType

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

from rigid_bench.core.formats.content.step_text import (
    EXPORT_AGAIN,
    MOST_INSTANCES,
    check_text,
    length_units,
    referred_files,
    too_many_instances,
    with_plain_letters,
)
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.kernel.binding import faces_of, has_more_than_solids, kernel, solids_of
from rigid_bench.core.kernel.distance import mirrored, scaled
from rigid_bench.core.kernel.feature_reader import is_nearly_closed
from rigid_bench.core.part.model import Model, ModelInstance, ModelPart
from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.names import plain_name, slug, unique
from rigid_bench.core.wording.language import _

#: A change of size that is rounding.
_SAME_SIZE = 1e-6
_BYTE_ORDER_MARK = b"\xef\xbb\xbf"
_SCHEMA = re.compile(rb"FILE_SCHEMA\s*\(\s*\(\s*'([^']*)'", re.IGNORECASE)
_SCHEMA_NAMES = (
    ("AP242", "AP242"),
    ("AP214", "AP214"),
    ("AUTOMOTIVE", "AP214"),
    ("CONFIG", "AP203"),
    ("AP203", "AP203"),
)


def read_step(data: bytes, *, name: str, beside: Mapping[str, bytes] = MappingProxyType({})) -> Model:
    """Read the parts and instances of a STEP file.

    Parameters
    ----------
    data
        The whole file.
    name
        The file's name, for messages.
    beside
        Files that were handed in with it, by name: an assembly may say that its parts lie in them.

    Returns
    -------
    Model
        Lengths in mm, whatever unit the file is in.

    Raises
    ------
    UnreadableFile
        The data is no STEP file, is cut off or broken, or holds no solid body; or its parts lie in files that are not
        there, which the message names.
    """
    check_text(data, name=name)
    data = with_plain_letters(data)
    named = {other.lower(): other for other in beside}
    referred = [(wanted, named.get(wanted.lower())) for wanted in referred_files(data)]
    reader = STEPCAFControl_Reader()
    reader.SetNameMode(True)
    document = TDocStd_Document(TCollection_ExtendedString("rigid-bench"))
    with kernel(name):
        others = {wanted: beside[other] for wanted, other in referred if other}
        if not _read(reader, document, data, others):
            raise UnreadableFile(name, _("the STEP data cannot be read"), EXPORT_AGAIN)
        lacking = [wanted for wanted, other in referred if not other]
        model = _Collector(XCAFDoc_DocumentTool.ShapeTool_s(document.Main()), name, lacking).collect()
    units = length_units(data)
    return Model(
        schema=_schema(data),
        source_units=next((unit for unit in units if unit), "unknown"),
        parts=tuple(model.parts),
        instances=tuple(model.instances),
        notices=(*_unit_notices(units), *model.notices),
    )


def _read(reader: STEPCAFControl_Reader, document: TDocStd_Document, data: bytes, others: Mapping[str, bytes]) -> bool:
    """Read a file into a document, with others to which it refers: the kernel looks for them in the same folder."""
    text, done = data.removeprefix(_BYTE_ORDER_MARK), IFSelect_ReturnStatus.IFSelect_RetDone
    if not others:
        return bool(reader.ReadStream("model.step", io.BytesIO(text)) == done and reader.Transfer(document))
    with tempfile.TemporaryDirectory(prefix="rigid-bench-") as folder:
        for other, content in others.items():
            check_text(content, name=other)
            (Path(folder) / other).write_bytes(with_plain_letters(content).removeprefix(_BYTE_ORDER_MARK))
        main = Path(folder) / "assembly.step"
        main.write_bytes(text)
        return bool(reader.ReadFile(str(main)) == done and reader.Transfer(document))


def _schema(data: bytes) -> str:
    match = _SCHEMA.search(data[:20_000])
    written = match[1].decode("latin-1").upper() if match else ""
    return next((short for mark, short in _SCHEMA_NAMES if mark in written), written or "unknown")


def _unit_notices(units: list[str]) -> list[Message]:
    named = [unit for unit in units if unit]
    if len(named) > 1:
        return [phrase("unit-mixed", units=", ".join(named))]
    if not named:
        return [phrase("unit-unknown")]
    return [phrase("unit-partly", unit=named[0])] if len(units) > 1 else []


class _Collector:
    """Walk the document once; products become parts, leaves become instances."""

    def __init__(self, tool: XCAFDoc_ShapeTool, file: str, lacking: Sequence[str]) -> None:
        self.tool, self.file, self.lacking = tool, file, lacking
        self.parts: list[ModelPart] = []
        self.instances: list[ModelInstance] = []
        self.notices: list[Message] = []
        self._of_label: dict[tuple[str, float], list[ModelPart]] = {}
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
            self._walk(label)
        is_empty = not any(part.solids for part in self.parts)
        if self.lacking and is_empty:
            raise UnreadableFile(
                self.file,
                _("the parts lie in {lacking}", lacking=", ".join(self.lacking)),
                _("Hand in all of them, best in one zip"),
            )
        if self.lacking:
            self.notices.append(phrase("lacking", names=", ".join(self.lacking)))
        if is_empty:
            raise UnreadableFile(
                self.file, _("there is no solid body in it"), _("Close the surfaces to a solid, then export it again")
            )
        return self

    def _count_leaves(self, label: TDF_Label) -> int:
        """Multiply before expanding: an instance tree can stand for a thousand million leaves."""
        waiting = [_referred(label)]
        while waiting:  # a stack of our own: sub-assemblies may be hundreds deep
            target = waiting[-1]
            below = (
                [_referred(component) for component in _components(target)]
                if XCAFDoc_ShapeTool.IsAssembly_s(target)
                else []
            )
            unknown = [node for node in below if _entry(node) not in self._leaves]
            if unknown:
                waiting += unknown
                continue
            self._leaves[_entry(target)] = sum(self._leaves[_entry(node)] for node in below) if below else 1
            waiting.pop()
        return self._leaves[_entry(_referred(label))]

    def _walk(self, root: TDF_Label) -> None:
        waiting = [(root, TopLoc_Location())]
        while waiting:
            label, above = waiting.pop()
            target = _referred(label)
            here = above.Multiplied(XCAFDoc_ShapeTool.GetLocation_s(label))
            if XCAFDoc_ShapeTool.IsAssembly_s(target):
                waiting += [(component, here) for component in reversed(list(_components(target)))]
            else:
                self._place(target, here.Transformation(), _label_name(label))

    def _place(self, target: TDF_Label, motion: gp_Trsf, name: str) -> None:
        """Add an instance of each part of a product."""
        pose, change = _rigid(motion)
        for part in self._parts_of(target, change):
            self._shown[part.id] += 1
            number = self._shown[part.id]
            self.instances.append(
                ModelInstance(
                    id=unique(f"{part.id}-{number}", self._taken),
                    name=name or f"{part.name}:{number}",
                    part=part.id,
                    pose=pose,
                )
            )

    def _parts_of(self, label: TDF_Label, change: float) -> list[ModelPart]:
        """Return the parts of a product, mirrored where the change of size is below 0."""
        key = (_entry(label), round(change, 9))
        if key not in self._of_label:
            parts = self._read_parts(label) if change == 1 else self._changed(label, change)
            self._of_label[key] = parts
            self.parts.extend(parts)
        return self._of_label[key]

    def _changed(self, label: TDF_Label, change: float) -> list[ModelPart]:
        """Return the parts of a product of another hand or size, as parts of their own."""
        parts = []
        for part in self._parts_of(label, 1.0):
            what = "mirrored" if change < 0 else "scaled"
            self.notices.append(phrase(f"instance-{what}", name=part.name, times=abs(change)))
            shape = mirrored(part.shape) if change < 0 else part.shape
            shape = scaled(shape, abs(change)) if abs(abs(change) - 1) > _SAME_SIZE else shape
            identity = unique(f"{part.id}-{what}", self._taken)
            parts.append(replace(part, id=identity, product=identity, name=f"{part.name} ({what})", shape=shape))
        return parts

    def _read_parts(self, label: TDF_Label) -> list[ModelPart]:
        shape = XCAFDoc_ShapeTool.GetShape_s(label)
        name = _label_name(label) or f"Part {len(self.parts) + 1}"
        solids: list[TopoDS_Shape] = [solid for solid in solids_of(shape) if faces_of(solid)]
        if not solids and not is_nearly_closed(shape):
            # a sketch, a datum plane, an open surface: nothing that can be measured as a body
            if faces_of(shape) or not self.lacking:  # what lies in another file is told by its name
                self.notices.append(phrase("left-out", name=name))
            return []
        product = unique(slug(name), self._taken)
        if not solids:
            self.notices.append(phrase("no-solid", name=name))
            return [ModelPart(id=product, name=name, product=product, shape=shape, solids=0)]
        if has_more_than_solids(shape):
            self.notices.append(phrase("left-out-of", name=name))
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


def _rigid(motion: gp_Trsf) -> tuple[Pose, float]:
    """Split a motion into a rigid one and the change of size before it, below 0 where it mirrors in x."""
    matrix = np.array([[motion.Value(row, column) for column in range(1, 5)] for row in range(1, 4)])
    linear = matrix[:, :3]
    size = float(np.cbrt(np.linalg.det(linear)))
    rotation = linear / size if size > 0 else linear / abs(size) @ np.diag([-1.0, 1.0, 1.0])
    change = 1.0 if abs(size - 1) < _SAME_SIZE else size
    return Pose(rotation, matrix[:, 3]), change
