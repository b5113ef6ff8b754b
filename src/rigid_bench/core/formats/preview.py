"""What was understood of a submission, as it is kept and shown. Loads no kernel."""

from typing import Literal

from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.pictures import ViewModel


class PartUnderstood(Document):
    """A part of the submission, and what it was taken for."""

    name: str
    #: The required part's name; None for one that the exercise does not ask for.
    taken_for: str | None
    #: How often it stands in the build, and how often it should; None for a part that is not asked for.
    count: int
    wanted: int | None
    #: mm
    sizes: list[float]
    #: Such as "4 × hole Ø8, through".
    features: list[str]
    is_mesh: bool
    #: How it looks, only what is seen; None for a mesh or a part without a shape.
    picture: ViewModel | None = None


class Doubt(Document):
    """What is so far off that it is said first."""

    code: Literal["other-exercise", "other-unit", "lone-part"]
    #: So many times as large as asked, of `other-unit`; so many parts asked, of the others.
    number: float


class Preview(Document):
    """What was understood of a submission."""

    #: Each unit of length that the files are in.
    units: list[str]
    parts: list[PartUnderstood]
    instances: int
    #: Names of required parts that were not found, and how many of each are missing.
    missing: dict[str, int]
    #: Of the build file: its mates, and what it grounds; None without one.
    mates: int | None
    grounded: list[str]
    #: What the parts show of their relations where they stand, such as "faces meet: Lid and Box".
    relations: list[str] = []
    #: A second export, after dragging, was handed in too.
    has_moved: bool = False
    warnings: list[str]
    #: Of older looks, None.
    doubt: Doubt | None = None
