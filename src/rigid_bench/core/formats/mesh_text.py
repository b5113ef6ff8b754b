"""Tell mesh files by content: STL, as text or binary, and 3MF. Loads no kernel and no mesh library."""

import io
import zipfile

from rigid_bench.core.formats.archive import is_zip
from rigid_bench.core.values.errors import UnreadableFile

#: Bytes before the triangles of a binary STL, and of each triangle.
_HEADER, _TRIANGLE = 84, 50
#: More triangles than any part a class models.
MOST_TRIANGLES = 2_000_000
EXPORT_AGAIN = "Export the model again, best as STEP, and hand in the new file"


def mesh_kind(data: bytes) -> str | None:
    """Return "STL" or "3MF" by content, or None for anything else.

    Examples
    --------
    >>> mesh_kind(b"solid part facet normal 0 0 1")
    'STL'
    >>> mesh_kind(b"ISO-10303-21;") is None
    True
    """
    if is_zip(data):
        return "3MF" if _holds_model(data) else None
    if len(data) >= _HEADER and len(data) == _HEADER + _TRIANGLE * _announced(data):
        return "STL"
    return "STL" if data[:5].lower() == b"solid" and b"facet" in data[:2000] else None


def check_mesh(data: bytes, *, name: str) -> None:
    """Refuse a mesh file that is cut off or absurdly large.

    Raises
    ------
    UnreadableFile
        Saying what is wrong.
    """
    kind = mesh_kind(data)
    if kind is None and len(data) >= _HEADER and _announced(data) > (len(data) - _HEADER) // _TRIANGLE:
        raise UnreadableFile(name, "this is no STL file, or it is cut off", EXPORT_AGAIN)
    if kind is None:
        raise UnreadableFile(name, "this is not an STL or 3MF file, whatever its name says", EXPORT_AGAIN)
    if kind == "STL" and len(data) > _HEADER + _TRIANGLE * MOST_TRIANGLES:
        raise UnreadableFile(name, f"the mesh has more than {MOST_TRIANGLES} triangles", "Export it coarser")
    if kind == "STL" and len(data) != _HEADER + _TRIANGLE * _announced(data) and b"endsolid" not in data[-200:].lower():
        raise UnreadableFile(name, "the STL file is cut off: its last line is missing", EXPORT_AGAIN)


def _announced(data: bytes) -> int:
    return int.from_bytes(data[80:84], "little")


def _holds_model(data: bytes) -> bool:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return any(name.lower().endswith("3dmodel.model") for name in archive.namelist())
    except (zipfile.BadZipFile, NotImplementedError, OSError, ValueError):
        return False
