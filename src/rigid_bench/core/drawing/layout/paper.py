"""The paper: size and frame (ISO 5457), title block (ISO 7200), symbol of the projection (ISO 128-3)."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from rigid_bench.core.drawing.ink import Box, Drawing, Line, Text
from rigid_bench.core.drawing.lettering import SMALL, TEXT, text_width
from rigid_bench.core.drawing.report import SheetReport
from rigid_bench.core.wording import drawing as words
from rigid_bench.core.wording.language import translated

Paper = Literal["A4", "A3", "A4 upright", "A3 upright"]
Angle = Literal["third", "first"]
#: As addresses and commands name them.
PAPERS: dict[str, Paper] = {"a4": "A4", "a3": "A3"}
#: mm, wide and high (ISO 216).
SIZES: dict[Paper, tuple[float, float]] = {
    "A4": (297.0, 210.0), "A3": (420.0, 297.0), "A4 upright": (210.0, 297.0), "A3 upright": (297.0, 420.0),
}  # fmt: skip
_UPRIGHT: dict[Paper, Paper] = {"A4": "A4 upright", "A3": "A3 upright"}
#: mm: margin at the left, to file it, and at the others; centring marks; fields.
_FILED, _MARGIN, _MARK, _FIELD = 20.0, 10.0, 5.0, 50.0
#: mm: the title block's width, one of its rows, and how its four rows are divided.
BLOCK_WIDE, _BLOCK_ROW = 180.0, 9.0
_COLUMNS: tuple[tuple[float, ...], ...] = (
    (60.0, 70.0, 50.0),
    (40.0, 40.0, 40.0, 60.0),
    (30.0, 30.0, 60.0, 30.0, 30.0),
)
#: mm: what the symbol of the projection takes of its cell.
_SYMBOL = 30.0
BLOCK_HIGH = _BLOCK_ROW * len(_COLUMNS)


def upright(paper: Paper) -> Paper:
    """Return a paper the other way up."""
    return _UPRIGHT.get(paper, paper)


def size_of(sheet: SheetReport) -> tuple[float, float]:
    """Return how wide and high a drawn sheet is, mm."""
    wide, high = SIZES[sheet.paper]
    return (wide, high) if sheet.orientation == "landscape" else (high, wide)


def is_upright(paper: Paper) -> bool:
    """Say whether a paper is higher than wide."""
    return SIZES[paper][1] > SIZES[paper][0]


@dataclass(frozen=True, slots=True, kw_only=True)
class TitleBlock:
    """What the title block says."""

    owner: str
    title: str
    part: str
    kind: str
    version: str
    date: str
    scale: str
    units: str
    tolerance: str
    sheet: str


def frame_of(paper: Paper) -> Box:
    """Return the frame, mm from the sheet's lower left corner.

    Examples
    --------
    >>> frame_of("A4")
    (20.0, 10.0, 287.0, 200.0)
    """
    wide, high = SIZES[paper]
    return _FILED, _MARGIN, wide - _MARGIN, high - _MARGIN


def block_of(paper: Paper) -> Box:
    """Return the place of the title block: the lower right corner of the frame."""
    _, low, right, _ = frame_of(paper)
    return right - BLOCK_WIDE, low, right, low + BLOCK_HIGH


def draw_paper(paper: Paper, angle: Angle, block: TitleBlock) -> Drawing:
    """Draw the frame with its marks and the title block."""
    drawing = Drawing()
    left, low, right, high = frame_of(paper)
    drawing.lines.append(Line(kind="frame", points=_rectangle((left, low, right, high))))
    wide, tall = SIZES[paper]
    for points in (
        # the lower one ends at the frame: the title block stands there
        ((wide / 2, 0.0), (wide / 2, low)), ((wide / 2, tall), (wide / 2, high - _MARK)),
        ((0.0, tall / 2), (left + _MARK, tall / 2)), ((wide, tall / 2), (right - _MARK, tall / 2)),
    ):  # fmt: skip
        drawing.lines.append(Line(kind="frame", points=points))
    if paper in ("A3", "A3 upright"):
        drawing.add(_fields(paper))
    drawing.add(_block(paper, angle, block))
    return drawing


def _fields(paper: Paper) -> Drawing:
    """Draw the fields by which a place of the sheet is named: numbers across, letters down, in the margin."""
    drawing = Drawing()
    left, low, right, high = frame_of(paper)
    wide, tall = SIZES[paper]
    across = [wide / 2 + _FIELD * k for k in range(-4, 5) if left < wide / 2 + _FIELD * k < right]
    down = [tall / 2 + _FIELD * k for k in range(-4, 5) if low < tall / 2 + _FIELD * k < high]
    for x in across:
        drawing.lines += [
            Line(kind="frame", points=((x, y), (x, y + way * _MARK))) for y, way in ((low, -1), (high, 1))
        ]
    for y in down:
        drawing.lines += [
            Line(kind="frame", points=((x, y), (x + way * _MARK, y))) for x, way in ((left, -1), (right, 1))
        ]
    columns, rows = [left, *across, right], [high, *reversed(down), low]
    for number, (a, b) in enumerate(itertools.pairwise(columns), 1):
        for y in (low - _MARK / 2, high + _MARK / 2):
            drawing.texts.append(Text(role="field", text=str(number), at=((a + b) / 2, y), height=SMALL))
    for letter, (a, b) in zip("ABCDEFGH", itertools.pairwise(rows), strict=False):
        for x in (left - _MARK / 2, right + _MARK / 2):
            drawing.texts.append(Text(role="field", text=letter, at=(x, (a + b) / 2), height=SMALL))
    return drawing


def _block(paper: Paper, angle: Angle, block: TitleBlock) -> Drawing:
    left, low, right, high = block_of(paper)
    drawing = Drawing(lines=[Line(kind="frame", points=_rectangle((left, low, right, high)))])
    rows: list[list[tuple[str, str]]] = [
        [(words.OWNER, block.owner), (words.TITLE, block.title), (words.PART, block.part)],
        [(words.DRAWN, ""), (words.CHECKED, ""), (words.DATE, block.date), (words.DOCUMENT, block.kind)],
        [
            (words.SCALE, block.scale), (words.UNITS, block.units), (words.TOLERANCE, block.tolerance),
            (words.VERSION, block.version), (words.SHEET, block.sheet),
        ],
    ]  # fmt: skip
    for number, (row, columns) in enumerate(zip(rows, _COLUMNS, strict=True)):
        top = high - number * _BLOCK_ROW
        if number:
            drawing.lines.append(Line(kind="table", points=((left, top), (right, top))))
        x = left
        for (label, value), column in zip(row, columns, strict=True):
            if x > left:
                drawing.lines.append(Line(kind="table", points=((x, top), (x, top - _BLOCK_ROW))))
            _put(drawing, translated(label), (x, top), column, role_height=1.8)
            room = column - _SYMBOL if label == words.DOCUMENT else column
            _put(drawing, value, (x, top - 3.2), room, role_height=TEXT - 0.5)
            x += column
    drawing.add(_symbol(angle), right - _SYMBOL + 6.0, low + _BLOCK_ROW * 1.5)
    return drawing


def _put(drawing: Drawing, text: str, corner: tuple[float, float], column: float, *, role_height: float) -> None:
    """Write a text into a cell, smaller where it would not fit."""
    if not text:
        return
    height = min(role_height, role_height * (column - 3.0) / max(text_width(text, role_height), 1e-9))
    wide = text_width(text, height)
    at = (corner[0] + 1.5 + wide / 2, corner[1] - 1.0 - height / 2)
    drawing.texts.append(Text(role="title", text=text, at=at, height=round(height, 3)))


def _symbol(angle: Angle) -> Drawing:
    """Draw a truncated cone in two views: the view from the left stands at the left in third angle."""
    cone = [(-4.0, -1.6), (4.0, -3.0), (4.0, 3.0), (-4.0, 1.6), (-4.0, -1.6)]
    shift, rings = (8.0, -2.0) if angle == "third" else (0.0, 10.0)
    lines = [Line(kind="symbol", points=tuple((x + shift, y) for x, y in cone))]
    for radius in (1.6, 3.0):
        turn = np.linspace(0, 2 * np.pi, 33)
        points = tuple((rings + radius * float(np.cos(own)), radius * float(np.sin(own))) for own in turn)
        lines.append(Line(kind="symbol", points=points))
    lines.append(Line(kind="centre", points=((shift - 5.5, 0.0), (shift + 5.5, 0.0))))
    lines.append(Line(kind="centre", points=((rings - 4.2, 0.0), (rings + 4.2, 0.0))))
    lines.append(Line(kind="centre", points=((rings, -4.2), (rings, 4.2))))
    return Drawing(lines=lines)


def _rectangle(box: Box) -> tuple[tuple[float, float], ...]:
    left, low, right, high = box
    return (left, low), (right, low), (right, high), (left, high), (left, low)


def table(rows: Sequence[Sequence[str]], widths: Sequence[float], *, row_high: float = 7.0) -> Drawing:
    """Draw a table whose lower left corner is the origin, the first row at the bottom (ISO 7573 reads upwards)."""
    drawing = Drawing()
    wide, high = sum(widths), row_high * len(rows)
    drawing.lines.append(Line(kind="table", points=_rectangle((0.0, 0.0, wide, high))))
    for number, row in enumerate(rows):
        low = number * row_high
        if number:
            drawing.lines.append(Line(kind="table", points=((0.0, low), (wide, low))))
        x = 0.0
        for text, column in zip(row, widths, strict=True):
            if x and not number:
                drawing.lines.append(Line(kind="table", points=((x, 0.0), (x, high))))
            if text:
                height = min(SMALL + 0.3, (SMALL + 0.3) * (column - 2.0) / max(text_width(text, SMALL + 0.3), 1e-9))
                at = (x + 1.0 + text_width(text, height) / 2, low + row_high / 2)
                drawing.texts.append(Text(role="table", text=text, at=at, height=round(height, 3)))
            x += column
    return drawing
