"""What a format of model files is: one entry says all that the program knows of it. Loads no kernel."""

from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class ModelFormat:
    """One format; a module in `formats/models/` that has a `FORMAT` is found by itself."""

    #: "STEP"
    name: str
    #: With the dot, in lower case.
    extensions: tuple[str, ...]
    #: Says by the content alone whether a file is of this format.
    is_content: Callable[[bytes], bool]
    #: Refuses a file that is cut off, broken or absurd, before anything is measured: data, and its name as `name`.
    check: Callable[..., None]
    #: "module:function" that reads a file into a `Model`: data, and its name as `name`. Loaded when it is asked for.
    reader: str
    #: Its surfaces are exact; a mesh answers for flat faces and round walls alone.
    is_exact: bool
