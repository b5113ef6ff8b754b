"""Check the text of a STEP file before the kernel sees it.

The kernel takes some broken files in silence, and ends the process on others. Loads no
kernel itself.
"""

import re

import numpy as np

from rigid_bench.core.errors import UnreadableFile

EXPORT_AGAIN = "Export the model again as STEP (AP214 or AP242) and hand in the new file"
#: Brackets deeper than this end the process inside the kernel's reader.
_DEEPEST = 64
_ENTITY = re.compile(rb"^\s*#(\d+)\s*=", re.MULTILINE)
_STRING = re.compile(rb"'[^']*'")


def check_text(data: bytes, *, name: str) -> None:
    """Refuse what the kernel would take in silence, or end the process on.

    Raises
    ------
    UnreadableFile
        Saying what is wrong with the text.
    """

    def refuse(problem: str) -> UnreadableFile:
        return UnreadableFile(name, problem, EXPORT_AGAIN)

    text = data.removeprefix(b"\xef\xbb\xbf").strip()
    if not text:
        raise refuse("the file is empty")
    if not text.startswith(b"ISO-10303-21;"):
        raise refuse("this is not a STEP file, whatever its name says: it does not begin with ISO-10303-21")
    if b"\x00" in text:
        raise refuse("the file holds NUL bytes, so it was damaged on the way")
    if not text.endswith(b"END-ISO-10303-21;"):
        raise refuse("the STEP file is cut off: its last line is missing")
    if text.count(b"END-ISO-10303-21;") > 1:
        raise refuse("two STEP files were joined into one")
    numbers = _ENTITY.findall(text)
    if len(numbers) != len(set(numbers)):
        raise refuse("an entity number is used twice")
    if _bracket_depth(text) > _DEEPEST:
        raise refuse(f"brackets are nested more than {_DEEPEST} deep")


def _bracket_depth(text: bytes) -> int:
    marks = np.frombuffer(_STRING.sub(b"", text), dtype=np.uint8)
    steps = (marks == ord("(")).astype(np.int32) - (marks == ord(")")).astype(np.int32)
    return int(np.cumsum(steps).max(initial=0))
