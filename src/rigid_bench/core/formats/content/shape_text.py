"""Tell IGES and BREP files by content, and refuse what is cut off. Loads no kernel."""

import re

from rigid_bench.core.formats.content.step_text import EXPORT_AGAIN
from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.core.wording.language import _

#: IGES 5.3, section 2.2.2: lines of 80 columns, the section's letter in column 73.
_START, _TERMINATE = re.compile(rb"^.{72}S[ 0]*1\s*$", re.MULTILINE), re.compile(rb"^.{72}T[ 0]*1\s*$", re.MULTILINE)
_GLOBAL = re.compile(rb"^(.{72})G[ \d]+\s*$", re.MULTILINE)
#: IGES 5.3, section 2.2.4.3.14: the unit flag.
_UNITS = {1: "inch", 2: "millimetre", 4: "foot", 6: "metre", 9: "micrometre", 10: "centimetre"}
#: The 14th of the global parameters, counted from 0.
_UNIT_FLAG = 13


def is_iges(data: bytes) -> bool:
    """Say whether a file is IGES, by its first line."""
    return bool(_START.match(data[:100]))


def is_brep(data: bytes) -> bool:
    """Say whether a file is BREP text, by its head."""
    return data[:200].lstrip().startswith((b"DBRep_DrawableShape", b"CASCADE Topology V"))


def check_iges(data: bytes, *, name: str) -> None:
    """Refuse what is no IGES file or lacks its end.

    Raises
    ------
    UnreadableFile
        Saying what is wrong.
    """
    if not is_iges(data):
        raise UnreadableFile(name, _("this is no IGES file"), EXPORT_AGAIN)
    if not _TERMINATE.search(data[-400:]):
        raise UnreadableFile(name, _("the IGES file is cut off: its last line is missing"), EXPORT_AGAIN)


def check_brep(data: bytes, *, name: str) -> None:
    """Refuse what is no BREP file or lacks its end.

    Raises
    ------
    UnreadableFile
        Saying what is wrong.
    """
    if not is_brep(data):
        raise UnreadableFile(name, _("this is no BREP file"), EXPORT_AGAIN)
    # after the last shape stands the root: its orientation, number and location
    if b"TShapes" not in data or not re.search(rb"[+-]\d+ \d+\s*$", data[-200:]):
        raise UnreadableFile(name, _("the BREP file is cut off: its root is missing"), EXPORT_AGAIN)


def iges_unit(data: bytes) -> str:
    """Return the unit of length that the global section names, or "unknown".

    Strings stand as in 4HUNIT, so that a delimiter within one counts for nothing.
    """
    text = b"".join(_GLOBAL.findall(data[:20_000]))
    fields: list[bytes] = []
    place = 0
    while place < len(text) and len(fields) <= _UNIT_FLAG:
        string = re.compile(rb"\s*(\d+)H").match(text, place)
        end = string.end() + int(string[1]) if string else place
        stop = re.compile(rb"[,;]").search(text, end)
        if stop is None:
            break
        fields.append(text[place : stop.start()].strip())
        place = stop.end()
    flag = fields[_UNIT_FLAG] if len(fields) > _UNIT_FLAG else b""
    return _UNITS.get(int(flag), "unknown") if flag.isdigit() else "unknown"
