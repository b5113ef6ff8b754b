"""Tell mesh files by content, and refuse what is cut off or absurd. Loads no kernel and no mesh library."""

import io
import json
import re
import zipfile

from rigid_bench.core.formats.archive import is_zip
from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.core.wording.language import N_, _

#: Bytes before the triangles of a binary STL, and of each triangle.
_HEADER, _TRIANGLE = 84, 50
_CORNER, _FACE = re.compile(rb"^v[ \t]+[-+.\d]", re.MULTILINE), re.compile(rb"^f[ \t]+-?\d", re.MULTILINE)
_NEAR_HEAD = 100_000
_ELEMENTS = re.compile(rb"element \w+ (\d{1,18})")
#: More triangles than any part a class models.
MOST_TRIANGLES = 2_000_000
EXPORT_AGAIN = N_("Export the model again, best as STEP, and hand in the new file")


def mesh_kind(data: bytes) -> str | None:
    """Return "STL", "3MF", "OBJ", "PLY", "glTF" or "AMF" by content, or None for anything else.

    Examples
    --------
    >>> mesh_kind(b"solid part facet normal 0 0 1")
    'STL'
    >>> mesh_kind(b"ISO-10303-21;") is None
    True
    """
    if is_zip(data):
        return _zipped_kind(data)
    if data[:4] == b"glTF" or (data.lstrip()[:1] == b"{" and b'"asset"' in data and b'"accessors"' in data):
        return "glTF"
    if re.match(rb"ply\r?\n", data):
        return "PLY"
    if b"<amf" in data[:2000]:
        return "AMF"
    if len(data) >= _HEADER and len(data) == _HEADER + _TRIANGLE * _announced(data):
        return "STL"
    if data[:5].lower() == b"solid" and b"facet" in data[:2000]:
        return "STL"
    # its first corner stands near its head: a long file of another format is not searched to its end
    return "OBJ" if b"\0" not in data[:2000] and _CORNER.search(data, 0, _NEAR_HEAD) and _FACE.search(data) else None


def check_mesh(data: bytes, *, name: str) -> None:
    """Refuse a mesh file that is cut off or absurdly large.

    Raises
    ------
    UnreadableFile
        Saying what is wrong.
    """
    kind = mesh_kind(data)
    if kind is None and len(data) >= _HEADER and _announced(data) > (len(data) - _HEADER) // _TRIANGLE:
        raise UnreadableFile(name, _("this is no STL file, or it is cut off"), EXPORT_AGAIN)
    if kind is None:
        raise UnreadableFile(name, _("this is no file of triangles, whatever its name says"), EXPORT_AGAIN)
    if _most_announced(data, kind) > 3 * MOST_TRIANGLES:
        raise UnreadableFile(
            name,
            _("it announces more than {most_triangles} triangles", most_triangles=MOST_TRIANGLES),
            _("Export it coarser"),
        )
    if data[:4] == b"glTF" and int.from_bytes(data[8:12], "little") != len(data):
        raise UnreadableFile(name, _("the file is cut off, or something follows it"), EXPORT_AGAIN)
    if kind == "STL" and len(data) > _HEADER + _TRIANGLE * MOST_TRIANGLES:
        raise UnreadableFile(
            name,
            _("the mesh has more than {most_triangles} triangles", most_triangles=MOST_TRIANGLES),
            _("Export it coarser"),
        )
    if kind == "STL" and len(data) != _HEADER + _TRIANGLE * _announced(data) and b"endsolid" not in data[-200:].lower():
        raise UnreadableFile(name, _("the STL file is cut off: its last line is missing"), EXPORT_AGAIN)


def _announced(data: bytes) -> int:
    return int.from_bytes(data[80:84], "little")


def _most_announced(data: bytes, kind: str) -> int:
    """Return the largest count that a file gives for its corners or triangles, 0 where it gives none."""
    if kind == "PLY":
        return max((int(count) for count in _ELEMENTS.findall(data.partition(b"end_header")[0])), default=0)
    if kind != "glTF":
        return 0
    text = data[20 : 20 + int.from_bytes(data[12:16], "little")] if data[:4] == b"glTF" else data
    try:
        accessors = json.loads(text)["accessors"]
        return max((int(accessor["count"]) for accessor in accessors), default=0)
    except (ValueError, TypeError, KeyError, OverflowError, RecursionError):
        return 0  # the reader says what is wrong


def _zipped_kind(data: bytes) -> str | None:
    """Return "3MF" or "AMF" for a zip that is one mesh file; None for one that holds files."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            names = [name.lower() for name in archive.namelist()]
    except (zipfile.BadZipFile, NotImplementedError, OSError, ValueError):
        return None
    if any(name.endswith("3dmodel.model") for name in names):
        return "3MF"
    return "AMF" if len(names) == 1 and names[0].endswith(".amf") else None
