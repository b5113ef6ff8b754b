"""The drawing report: what is drawn on the sheets of an exercise, so that others can check it; mm, y upwards."""

from typing import Literal

import numpy as np

from rigid_bench.core.formats.documents import Document
from rigid_bench.core.part.directions import SQUARE_VIEWS

Point = list[float]
LineKind = Literal[
    "outline", "hidden", "centre", "pitch", "dimension", "extension", "leader", "arrow", "hatching", "cutting",
    "break", "phantom", "thread", "trail", "balloon", "detail", "symbol", "frame", "table",
]  # fmt: skip
TextRole = Literal["dimension", "note", "label", "balloon", "title", "table", "field"]


class ViewReport(Document):
    """One view on a sheet."""

    id: str
    #: None on an assembly's sheet.
    part: str | None
    #: The view that a section or detail belongs to.
    of: str | None = None
    kind: Literal["view", "section", "detail", "pictorial", "assembly", "exploded"]
    form: Literal["full", "half", "stepped", "removed", "broken"] | None = None
    letter: str | None = None
    scale: str
    #: Unit directions of the part's (or the reference build's) coordinates.
    right: Point
    up: Point
    #: Where the origin of these coordinates falls.
    origin: Point
    #: Left, low, right, high: of the outline alone.
    box: Point


def view_name(view: ViewReport) -> str | None:
    """Return from where a part is seen in a view or section, "front", "top" ...; None for others.

    Examples
    --------
    >>> view_name(ViewReport(id="v1", part="p", kind="view", scale="1:1", right=[1, 0, 0], up=[0, 1, 0], origin=[0, 0],
    ...                      box=[0, 0, 1, 1]))
    'top'
    """
    if view.kind not in ("view", "section"):
        return None
    toward = np.cross(view.right, view.up)
    return next((name for name, own in SQUARE_VIEWS.items() if np.allclose(own.toward, toward)), None)


class LineReport(Document):
    """One line, whole and not as dashes."""

    kind: LineKind
    view: str | None
    width: float
    dimension: str | None
    points: list[Point]


class TextReport(Document):
    """One text; its corners run counter-clockwise from lower left, in reading direction."""

    role: TextRole
    view: str | None
    dimension: str | None
    text: str
    height: float
    corners: list[Point]


class DimensionReport(Document):
    """One dimension or note, and the checks that it shows."""

    id: str
    checks: list[str]
    text: str
    view: str | None
    auxiliary: bool = False


class FeatureReport(Document):
    """Something round as it is drawn."""

    view: str
    kind: Literal["hole", "boss", "round end", "thread", "ball"]
    seen: Literal["end", "side"]
    centre: Point
    axis: list[Point] | None
    diameter: float
    checks: list[str]


class ItemReport(Document):
    """One line of the parts list."""

    item: int
    part: str
    quantity: int


class SheetReport(Document):
    """One sheet of paper."""

    number: int
    parts: list[str]
    paper: Literal["A4", "A3"]
    orientation: Literal["landscape", "portrait"]
    scale: str
    angle: Literal["third", "first"]
    frame: Point
    views: list[ViewReport]
    lines: list[LineReport]
    texts: list[TextReport]
    dimensions: list[DimensionReport]
    features: list[FeatureReport]
    items: list[ItemReport]


class DrawingReport(Document):
    """All sheets of an exercise."""

    sheets: list[SheetReport]
