"""Parts that share a paper: those that fit beside or under each other at one scale."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from rigid_bench.core.drawing.ink import Box, Drawing, Text
from rigid_bench.core.drawing.layout.arrangement import BETWEEN
from rigid_bench.core.drawing.layout.details import detail_views
from rigid_bench.core.drawing.layout.paper import Angle
from rigid_bench.core.drawing.layout.part_sheet import PartSheet, arranged, whole_paper
from rigid_bench.core.drawing.layout.view_dimensions import LETTERS, PartDrawing
from rigid_bench.core.drawing.lettering import TITLE, text_width
from rigid_bench.core.standards.scales import SCALES

#: mm: what a part's name takes over its views.
_HEADING = TITLE + 4.0
#: Parts on one paper.
_MOST = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedSheet:
    """A part's own sheet, and what the part is called."""

    name: str
    part: PartDrawing
    sheet: PartSheet


def shared_sheets(sheets: Sequence[NamedSheet], angle: Angle) -> list[list[NamedSheet]]:
    """Return parts that follow each other in groups, each of which stands on one paper.

    Parameters
    ----------
    sheets
        Of each part by itself.
    angle
        Of their views.
    """
    groups: list[list[NamedSheet]] = []
    for own in sheets:
        together = _together([*groups[-1], own], angle) if groups else None
        if together is None:
            groups.append([own])
        else:
            groups[-1] = together
    return groups


def _together(group: Sequence[NamedSheet], angle: Angle) -> list[NamedSheet] | None:
    """Lay parts out on one paper at one scale; None where they do not fit.

    What could be drawn larger than it is may be drawn smaller for it, but not under its own size.
    """
    if len(group) > _MOST or len({own.sheet.paper for own in group}) > 1:
        return None
    scales = [own.sheet.scale for own in group]
    largest = min(scales)
    common = [scale for scale in SCALES if 1 <= scale <= largest] or [largest] * (max(scales) == largest)
    for scale in common:
        scaled = _scaled(group, scale, angle)
        for along in (0, 1):
            cells = _cells(scaled, along)
            named_sheets = [_in_cell(own, angle, cell) for own, cell in zip(scaled, cells, strict=False)]
            together = [own for own in named_sheets if own is not None]
            if len(together) == len(group):
                return _numbered_on(together)
    return None


def _scaled(group: Sequence[NamedSheet], scale: float, angle: Angle) -> list[NamedSheet]:
    """Return parts at one scale, their sections and details with letters that stand once on the paper."""
    named_sheets: list[NamedSheet] = []
    used = 0
    for own in group:
        scaled = _at_scale(replace(own, part=replace(own.part, letters=LETTERS[used:])), scale, angle)
        used += sum(view.letter is not None for view in scaled.sheet.views)
        named_sheets.append(scaled)
    return named_sheets


def _at_scale(own: NamedSheet, scale: float, angle: Angle) -> NamedSheet:
    """Return a part's sheet at a scale."""
    section = own.part.letters[0]
    views = [
        replace(view, scale=scale, letter=section if view.section else "")
        for view in own.sheet.drawn
        if view.window is None
    ]
    details = detail_views(own.part.notes, views, own.part.letters)
    sheet, _ = arranged(own.part, [*views, *details], own.sheet.paper, angle)
    return replace(own, sheet=sheet)


def _cells(group: Sequence[NamedSheet], along: int) -> list[Box]:
    """Return a cell for each part, beside each other (0) or under each other (1); none where there is no room."""
    left, low, right, high = whole_paper(group[0].sheet.paper, 0)[0]
    wanted = [own.sheet.size[along] + (_HEADING if along else 0.0) for own in group]
    whole = (right - left, high - low)[along]
    spare = (whole - sum(wanted) - BETWEEN * (len(group) - 1)) / len(group)
    if spare < 0:
        return []
    cells: list[Box] = []
    at = 0.0
    for need in wanted:
        end = at + need + spare
        cells.append((left + at, low, left + end, high) if along == 0 else (left, high - end, right, high - at))
        at = end + BETWEEN
    return cells


def _in_cell(own: NamedSheet, angle: Angle, cell: Box) -> NamedSheet | None:
    """Lay a part out in its cell under its name; None where it does not fit with all its views."""
    left, low, right, high = cell
    sheet, fits = arranged(own.part, own.sheet.drawn, own.sheet.paper, angle, (left, low, right, high - _HEADING))
    if not fits or sheet.unplaced or len(sheet.views) < len(own.sheet.views):
        return None
    at = (left + text_width(own.name, TITLE) / 2, high - TITLE / 2)
    sheet.drawings.append((None, Drawing(texts=[Text(role="label", text=own.name, at=at, height=TITLE)])))
    return replace(own, sheet=sheet)


def _numbered_on(group: Sequence[NamedSheet]) -> list[NamedSheet]:
    """Number views and dimensions through, so that each has its own name on the paper."""
    named_sheets: list[NamedSheet] = []
    views = dimensions = 0
    for own in group:
        named_sheets.append(replace(own, sheet=_renumbered(own.sheet, views, dimensions)))
        views += len(own.sheet.views)
        dimensions += len(own.sheet.dimensions)
    return named_sheets


def _renumbered(sheet: PartSheet, views: int, dimensions: int) -> PartSheet:
    view_ids = {view.id: f"v{number + views}" for number, view in enumerate(sheet.views, 1)}
    ids = {own.id: f"d{number + dimensions}" for number, own in enumerate(sheet.dimensions, 1)}

    def drawing(own: Drawing) -> Drawing:
        return Drawing(
            lines=[replace(line, dimension=ids.get(line.dimension or "")) for line in own.lines],
            texts=[replace(text, dimension=ids.get(text.dimension or "")) for text in own.texts],
        )

    return replace(
        sheet,
        views=[
            view.model_copy(update={"id": view_ids[view.id], "of": view_ids.get(view.of or "")}) for view in sheet.views
        ],
        drawings=[(view_ids[view] if view else None, drawing(own)) for view, own in sheet.drawings],
        dimensions=[
            own.model_copy(update={"id": ids[own.id], "view": view_ids.get(own.view or "")}) for own in sheet.dimensions
        ],
        features=[own.model_copy(update={"view": view_ids[own.view]}) for own in sheet.features],
    )
