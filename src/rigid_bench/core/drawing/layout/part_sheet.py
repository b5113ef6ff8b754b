"""The sheet of one part: its views with their dimensions, arranged at the largest standard scale that fits."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np

from rigid_bench.core.drawing.ink import Box, Drawing, Line, Text, around, box_of
from rigid_bench.core.drawing.layout.arrangement import INSIDE, Strip, free_spaces, grid, reach_at, spots, total
from rigid_bench.core.drawing.layout.breaks import broken_views
from rigid_bench.core.drawing.layout.centre_lines import drawn_features
from rigid_bench.core.drawing.layout.details import detail_views, place_of
from rigid_bench.core.drawing.layout.paper import Angle, Paper, block_of, frame_of
from rigid_bench.core.drawing.layout.part_view import PartView
from rigid_bench.core.drawing.layout.view_choice import part_views
from rigid_bench.core.drawing.layout.view_dimensions import (
    MANY,
    PartDrawing,
    PlacedView,
    cut_in_view,
    in_order,
    placed_once,
    placed_views,
)
from rigid_bench.core.drawing.lettering import SMALL, text_width
from rigid_bench.core.drawing.notes.note import Linear, Listed, Pointed
from rigid_bench.core.drawing.report import DimensionReport, FeatureReport, ViewReport
from rigid_bench.core.formats.pictures import PartPictures
from rigid_bench.core.part.directions import PICTORIAL, axes_of
from rigid_bench.core.standards.scales import SCALES, preferred_below, scale_text

#: The pictorial view may be so many times as large as the others.
_PICTORIAL = 2.0
#: mm: a smaller pictorial view shows nothing.
_LEAST_PICTORIAL = 18.0
#: Shares of the spare width and height that stay left of and below the views, tried in this order.
_SHARES = ((0.25, 0.5), (0.0, 0.5), (0.0, 1.0), (0.0, 0.0))
#: mm: a line of the list.
_LINE = 4.2
#: The smallest scale for A4: below it A3 is taken.
LEAST_ON_A4 = 1 / 2
#: mm: axes that are nearer are one.
_ONE_AXIS = 1e-3
#: mm: less beside the title block is no place for a list.
_LEAST_LIST = 30.0


@dataclass(slots=True)
class PartSheet:
    """A part's sheet, laid out."""

    paper: Paper
    scale: float
    views: list[ViewReport] = field(default_factory=list)
    #: What belongs to each view, by its id; None for the sheet's own.
    drawings: list[tuple[str | None, Drawing]] = field(default_factory=list)
    dimensions: list[DimensionReport] = field(default_factory=list)
    features: list[FeatureReport] = field(default_factory=list)
    #: How many dimensions found no place in the views.
    unplaced: int = 0
    #: The views at their scale, and how much place all takes, wide and high, mm.
    drawn: Sequence[PartView] = ()
    size: tuple[float, float] = (0.0, 0.0)


def whole_paper(paper: Paper, lines: int) -> tuple[Box, Box]:
    """Return the rooms for the views and for so many lines of the list of a part that has a paper for itself.

    The list stands beside the title block, on an upright A4 over it.
    """
    left, low, right, high = frame_of(paper)
    block_left, _, _, block_high = block_of(paper)
    tall = _LINE * lines + 2.0 if lines else 0.0
    is_beside = block_left - left > _LEAST_LIST
    top = max(block_high, low + tall) if is_beside else block_high + tall
    list_room = (left, low, block_left, low + tall) if is_beside else (left, block_high, right, block_high + tall)
    return (left + INSIDE, top + INSIDE, right - INSIDE, high - INSIDE), list_room


def lay_out(part: PartDrawing, *, papers: Sequence[Paper], angle: Angle) -> PartSheet:
    """Lay a part's sheet out.

    Parameters
    ----------
    part
        What is to be drawn.
    papers
        The second is taken where the first would need a scale under 1:2.
    angle
        Where the views stand: third angle puts the top view above the front view and the right side to its right,
        first angle below and to its left (ISO 5456-2).
    """
    views = _without_edges(part, part_views(part.pictures, part.letters[0], part.views))
    whole = _largest(part, views, papers, angle)
    if whole.scale >= 1:
        return whole
    broken = broken_views(views)
    if not any(view.broken for view in broken):
        return whole
    shorter = _largest(part, broken, papers, angle)
    return shorter if (shorter.scale, -shorter.unplaced) > (whole.scale, -whole.unplaced) else whole


def _without_edges(part: PartDrawing, views: Sequence[PartView]) -> list[PartView]:
    """Leave out the views of a sheet's edge where its thickness is noted on its face, unless a person chose them."""
    face = next((note.direction for note in part.notes if isinstance(note, Pointed) and note.target == "sheet"), None)
    flat = [view for view in views if face is not None and view.seen_along(face)]
    return flat if flat and not part.views else list(views)


def _largest(part: PartDrawing, views: Sequence[PartView], papers: Sequence[Paper], angle: Angle) -> PartSheet:
    """Lay a sheet out at the largest standard scale at which it fits."""
    #: Whether it does not fit, how many notes found no place, and the sheet.
    tried: list[tuple[bool, int, PartSheet]] = []
    for size in papers:
        for scale in SCALES:
            if len(papers) > 1 and size == papers[0] and scale < LEAST_ON_A4:
                break
            sheet, fits = _at_scale(part, [replace(view, scale=scale) for view in views], size, angle)
            if fits and not sheet.unplaced:
                return sheet
            tried.append((not fits, sheet.unplaced, sheet))
            if fits:
                break  # smaller, even less finds its place
    return min(tried, key=lambda own: own[:2])[2]


def _at_scale(part: PartDrawing, views: Sequence[PartView], paper: Paper, angle: Angle) -> tuple[PartSheet, bool]:
    """Lay a sheet out at a scale, and say whether it fits."""
    sheet = PartSheet(paper=paper, scale=views[0].scale, drawn=views)
    left, low, right, high = whole_paper(paper, len(part.legend))[0]
    bare = _bare_size(views)
    is_too_large = bare[0] > right - left or bare[1] > high - low
    if is_too_large or (len(part.notes) > MANY and _is_too_large(part, views, (right - left, high - low), angle)):
        sheet.unplaced = len(part.notes)
        return sheet, False  # not worth placing dimensions
    details = detail_views(part.notes, views, part.letters)
    sheet, fits = arranged(part, [*views, *details], paper, angle)
    return arranged(part, views, paper, angle) if details and not fits else (sheet, fits)


def arranged(
    part: PartDrawing, views: Sequence[PartView], paper: Paper, angle: Angle, cell: Box | None = None
) -> tuple[PartSheet, bool]:
    """Lay a part out with these views, and say whether it fits.

    Parameters
    ----------
    part
        What is to be drawn.
    views
        At their scale.
    paper, angle
        Of the sheet.
    cell
        The part of the paper that is free for it; None for all of it.
    """
    sheet = PartSheet(paper=paper, scale=views[0].scale, drawn=views)
    placed, listed = placed_views(part, views)
    lines = len(listed) + len(part.legend)
    room, list_room = whole_paper(paper, lines) if cell is None else _in_cell(lines, cell)
    sheet.unplaced = len(listed) - sum(isinstance(note, Listed) for note in part.notes)
    columns, rows = grid(placed, angle)
    sheet.size = total(columns), total(rows) + list_room[3] - list_room[1]
    fits = total(columns) <= room[2] - room[0] and total(rows) <= room[3] - room[1]
    places, space, has_room = _spread(part, placed, (columns, rows), room, angle)
    fits = fits and has_room
    for number, (own, spot) in enumerate(zip(placed, places, strict=True), 1):
        _put_view(sheet, part, own, spot, f"v{number}")
    _name_parents(sheet, part.pictures, [own.view for own in placed])
    if space is not None:
        _pictorial(sheet, part, space)
    elif sheet.scale > 1:
        fits = False  # rather smaller than without a picture
    _put_list(sheet, listed, part.legend, list_room)
    return sheet, fits


def _spread(
    part: PartDrawing,
    placed: Sequence[PlacedView],
    strips: tuple[Sequence[Strip], Sequence[Strip]],
    room: Box,
    angle: Angle,
) -> tuple[list[tuple[float, float]], Box | None, bool]:
    """Spread views so that the pictorial view has a space; return the places, the space, and whether details fit."""
    square = [own for own in placed if own.view.window is None]
    spreads: list[tuple[list[tuple[float, float]], Box | None, bool]] = []
    for shares in _SHARES:
        places = spots(square, *strips, room, angle, shares)
        has_room = True
        for detail in placed[len(square) :]:
            taken = [reach_at(own, spot) for own, spot in zip(placed, places, strict=False)]
            spot = place_of(detail.reach, list(free_spaces(taken, room)))
            has_room = has_room and spot is not None
            places.append(spot or (room[0], room[1]))
        taken = [reach_at(own, spot) for own, spot in zip(placed, places, strict=True)]
        space = _pictorial_space(part.pictures, list(free_spaces(taken, room)))
        spreads.append((places, space, has_room))
    # the usual arrangement unless another shows the part larger
    return max(spreads, key=lambda own: (own[2], _pictorial_scale(part.pictures, own[1])))


def _pictorial_scale(pictures: PartPictures, space: Box | None) -> float:
    """Return the scale, a preferred number, at which the pictorial view fits into a space; 0 for none."""
    own = next((view for view in pictures.views if view.name == PICTORIAL.name), None)
    if own is None or space is None:
        return 0.0
    wide, tall = np.ptp(np.array(own.box), axis=0).tolist()
    factor = min((space[2] - space[0]) / wide, (space[3] - space[1]) / tall)
    return preferred_below(factor) if factor > 0 else 0.0


def _pictorial_space(pictures: PartPictures, spaces: Sequence[Box]) -> Box | None:
    """Return the space in which the pictorial view can be largest; None where it would be too small to see."""
    own = next((view for view in pictures.views if view.name == PICTORIAL.name), None)
    if own is None:
        return None
    best = max(spaces, key=lambda space: _pictorial_scale(pictures, space), default=None)
    size = max(np.ptp(np.array(own.box), axis=0).tolist())
    return best if size * _pictorial_scale(pictures, best) >= _LEAST_PICTORIAL else None


def _in_cell(lines: int, cell: Box) -> tuple[Box, Box]:
    """Return the rooms for the views and the list of a part that shares a paper: the list stands under the views."""
    left, low, right, high = cell
    tall = _LINE * lines + 2.0 if lines else 0.0
    return (left, low + tall, right, high), (left, low, right, low + tall)


def _is_too_large(part: PartDrawing, views: Sequence[PartView], room: tuple[float, float], angle: Angle) -> bool:
    """Say whether sizes along lines alone already reach beyond the room, before any leader is placed."""
    lines = [pair for pair in in_order(part.notes, views) if isinstance(pair[1], Linear)]
    columns, rows = grid(placed_once(part, views, lines)[0], angle)
    return total(columns) > room[0] or total(rows) > room[1]


def _bare_size(views: Sequence[PartView]) -> tuple[float, float]:
    """Return how much place the outlines alone take, mm."""
    bare = [PlacedView(view, Drawing(lines=[_box_line(view)]), []) for view in views]
    columns, rows = grid(bare, "third")
    return total(columns), total(rows)


def _box_line(view: PartView) -> Line:
    return Line(kind="outline", points=((0.0, 0.0), view.size))


def _put_view(sheet: PartSheet, part: PartDrawing, own: PlacedView, spot: tuple[float, float], name: str) -> None:
    view, (x, y) = own.view, spot
    wide, high = view.size
    sheet.views.append(
        ViewReport(
            id=name, part=part.id, kind=_kind_of(view), form=_form_of(view), letter=view.letter or None,
            scale=scale_text(view.scale),
            right=np.round(view.axes[0], 9).tolist(), up=np.round(view.axes[1], 9).tolist(),
            origin=[round(view.origin[0] + x, 3), round(view.origin[1] + y, 3)],
            box=[round(value, 3) for value in (x, y, x + wide, y + high)],
        )
    )  # fmt: skip
    moved = Drawing()
    moved.add(own.drawing, x, y)
    sheet.drawings.append((name, moved))
    sheet.dimensions += [report.model_copy(update={"view": name}) for report in own.dimensions]
    threads = {thread.number for thread in part.threads}
    for report in drawn_features(view, name, part.pictures.rounds, _checks_of(part), threads):
        axis = [[a + x, b + y] for a, b in report.axis] if report.axis else None
        centre = [report.centre[0] + x, report.centre[1] + y]
        sheet.features.append(report.model_copy(update={"centre": centre, "axis": axis}))


def _kind_of(view: PartView) -> Literal["view", "section", "detail"]:
    return "detail" if view.window else "section" if view.section else "view"


def _form_of(view: PartView) -> Literal["full", "half", "stepped", "broken"] | None:
    if view.window:
        return None
    return view.section.form if view.section else "broken" if view.broken else None


def _name_parents(sheet: PartSheet, pictures: PartPictures, views: Sequence[PartView]) -> None:
    """Write at the section which view shows where it is cut, and at a detail which view it belongs to."""
    names = {view.name: report.id for report, view in zip(sheet.views, views, strict=True)}
    cut_in = cut_in_view(pictures, views)
    parents = [view.window.of if view.window else cut_in if view.section else None for view in views]
    sheet.views = [
        report.model_copy(update={"of": names.get(parent) if parent else None})
        for report, parent in zip(sheet.views, parents, strict=True)
    ]


def _checks_of(part: PartDrawing) -> dict[int, list[str]]:
    """Return by the place of what is round: the checks whose notes point at it."""
    checks: dict[int, list[str]] = {}
    for number, own in enumerate(part.pictures.rounds):
        for note in part.notes:
            if not isinstance(note, Pointed) or note.target != "hole":
                continue
            off = [np.array(point) - own.start for point in note.points]
            if any(np.linalg.norm(np.cross(apart, note.direction)) < _ONE_AXIS for apart in off):
                checks.setdefault(number, []).extend(note.checks)
    return checks


def _pictorial(sheet: PartSheet, part: PartDrawing, space: Box) -> None:
    """Put a pictorial view (ISO 5456-3) into the middle of a space."""
    own = next(view for view in part.pictures.views if view.name == PICTORIAL.name)
    (left, low), (right, high) = own.box
    fitting = _pictorial_scale(part.pictures, space)
    scale = min(fitting, _PICTORIAL * sheet.scale)
    x = (space[0] + space[2] - (right + left) * scale) / 2
    y = (space[1] + space[3] - (high + low) * scale) / 2
    lines = [
        Line(kind="outline", points=tuple((px * scale + x, py * scale + y) for px, py in line)) for line in own.visible
    ]
    box = around([box_of(line.points) for line in lines])
    axes, name = axes_of(PICTORIAL), f"v{len(sheet.views) + 1}"
    sheet.views.append(
        ViewReport(
            id=name, part=part.id, kind="pictorial", scale=scale_text(scale),
            right=np.round(axes[0], 9).tolist(), up=np.round(axes[1], 9).tolist(),
            origin=[round(x, 3), round(y, 3)], box=[round(value, 3) for value in box],
        )
    )  # fmt: skip
    sheet.drawings.append((name, Drawing(lines=lines)))


def _put_list(sheet: PartSheet, listed: Sequence[Listed], legend: Sequence[str], room: Box) -> None:
    """Write what no view shows, and what the signs mean, from the top of its room down."""
    drawing = Drawing()
    left, top = room[0] + 2.0, room[3] - _LINE / 2
    wide = room[2] - room[0] - 4.0
    count = len(sheet.dimensions)
    for number, note in enumerate(listed):
        name = f"d{count + number + 1}"
        height = min(SMALL, SMALL * wide / max(text_width(note.text, SMALL), 1e-9))
        at = (left + text_width(note.text, height) / 2, top - number * _LINE)
        drawing.texts.append(Text(role="note", text=note.text, at=at, height=round(height, 3), dimension=name))
        sheet.dimensions.append(DimensionReport(id=name, checks=list(note.checks), text=note.text, view=None))
    for number, line in enumerate(legend, len(listed)):
        at = (left + text_width(line, SMALL) / 2, top - number * _LINE)
        drawing.texts.append(Text(role="note", text=line, at=at, height=SMALL))
    sheet.drawings.append((None, drawing))
