"""How a task says what it is doing, from within the sandbox."""

import os
from collections.abc import Callable
from pathlib import Path


def noting(path: str) -> Callable[[str], None]:
    """Return a progress callback that leaves its text in a file, whole at every moment."""
    note, next_note = Path(path), Path(path + ".next")

    def write(text: str) -> None:
        next_note.write_text(text, encoding="utf-8")
        os.replace(next_note, note)

    return write
