"""The sheet of one part: its views with their dimensions, arranged at the largest standard scale that fits."""

import itertools
import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np

from rigid_bench.core.drawing.layout import placing
from rigid_bench.core.drawing.layout.breaks import broken_views
from rigid_bench.core.drawing.layout.centre_lines import centre_lines, drawn_features
from rigid_bench.core.drawing.layout.details import detail_mark, detail_views, place_of
from rigid_bench.core.drawing.layout.ink import Box, Drawing, Line, Text, around, box_of, grown, meet
from rigid_bench.core.drawing.layout.lettering import SMALL, TITLE, text_width
from rigid_bench.core.drawing.layout.notes import Linear, Listed, Note, Pointed
from rigid_bench.core.drawing.layout.paper import BLOCK_HIGH, BLOCK_WIDE, Angle, Paper, frame_of
from rigid_bench.core.drawing.layout.part_view import PartView, cutting_line, part_views, shows_cut
from rigid_bench.core.drawing.layout.threads import DrawnThread, thread_lines
from rigid_bench.core.drawing.report import DimensionReport, FeatureReport, ViewReport
from rigid_bench.core.formats.pictures import PartPictures
from rigid_bench.core.part.directions import PICTORIAL, axes_of
from rigid_bench.core.standards.scales import SCALES, scale_text
from rigid_bench.core.values.datums import PlaneFeature

#: mm on paper: between views, and inside the frame.
_BETWEEN, _INSIDE = 12.0, 6.0
#: The pictorial view may be so many times as large as the others.
_PICTORIAL = 2.0
#: From so many notes on it is first looked whether the lines alone fit.
_MANY = 20
#: mm: a line of the list.
_LINE = 4.2
#: The smallest scale for A4: below it A3 is taken.
LEAST_ON_A4 = 1 / 2
_LETTER = "A"
#: How often dimensions are placed again, and the share of what is left of the width that stays at the left: the
#: pictorial view has the rest.
_TRIED, _LEFT_SHARE = 9, 0.25
#: mm: axes that are nearer are one.
_ONE_AXIS = 1e-3


@dataclass(slots=True)
class PlacedView:
    """A view with all that belongs to it, by the view's own coordinates."""

    view: PartView
    drawing: Drawing
    dimensions: list[DimensionReport]

    @property
    def reach(self) -> Box:
        """The box of everything."""
        return self.drawing.box()


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


@dataclass(frozen=True, slots=True, kw_only=True)
class PartDrawing:
    """What is to be drawn of a part."""

    id: str
    pictures: PartPictures
    notes: Sequence[Note]
    symmetric: Sequence[PlaneFeature] = ()
    threads: Sequence[DrawnThread] = ()
    #: What the signs that stand in it mean, a line each.
    legend: Sequence[str] = ()
    #: By check: how far a person has moved its dimension, mm on paper.
    shifts: Mapping[str, Sequence[float]] = field(default_factory=dict)


def lay_out(part: PartDrawing, *, paper: Paper | None, angle: Angle) -> PartSheet:
    """Lay a part's sheet out.

    Parameters
    ----------
    part
        What is to be drawn.
    paper
        None takes A4, or A3 where A4 would need a scale under 1:2.
    angle
        Where the views stand: third angle puts the top view above the front view and the right side to its right,
        first angle below and to its left (ISO 5456-2).
    """
    views = part_views(part.pictures, _LETTER)
    whole = _largest(part, views, paper, angle)
    if whole.scale >= 1:
        return whole
    broken = broken_views(views)
    if not any(view.broken for view in broken):
        return whole
    shorter = _largest(part, broken, paper, angle)
    return shorter if (shorter.scale, -shorter.unplaced) > (whole.scale, -whole.unplaced) else whole


def _largest(part: PartDrawing, views: Sequence[PartView], paper: Paper | None, angle: Angle) -> PartSheet:
    """Lay a sheet out at the largest standard scale at which it fits."""
    papers: list[Paper] = ["A4", "A3"] if paper is None else [paper]
    #: Whether it does not fit, how many notes found no place, and the sheet.
    tried: list[tuple[bool, int, PartSheet]] = []
    for size in papers:
        for scale in SCALES:
            if paper is None and size == "A4" and scale < LEAST_ON_A4:
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
    sheet = PartSheet(paper=paper, scale=views[0].scale)
    left, low, right, high = frame_of(paper)
    bare = _bare_size(views)
    if bare[0] > right - left or bare[1] > high - low - BLOCK_HIGH:
        sheet.unplaced = len(part.notes)
        return sheet, False  # not worth placing dimensions
    if len(part.notes) > _MANY and _is_too_large(part, views, paper, angle):
        sheet.unplaced = len(part.notes)
        return sheet, False
    details = detail_views(part.notes, views)
    sheet, fits = _arranged(part, [*views, *details], paper, angle)
    return _arranged(part, views, paper, angle) if details and not fits else (sheet, fits)


def _arranged(part: PartDrawing, views: Sequence[PartView], paper: Paper, angle: Angle) -> tuple[PartSheet, bool]:
    """Lay a sheet out with these views, and say whether it fits."""
    sheet = PartSheet(paper=paper, scale=views[0].scale)
    left, low, right, high = frame_of(paper)
    placed, listed = _placed_views(part, views)
    list_high = _LINE * (len(listed) + len(part.legend)) + 2.0
    room = (left + _INSIDE, low + max(BLOCK_HIGH, list_high) + _INSIDE, right - _INSIDE, high - _INSIDE)
    sheet.unplaced = len(listed) - sum(isinstance(note, Listed) for note in part.notes)
    columns, rows = _grid(placed, angle)
    wide, tall = _total(columns), _total(rows)
    fits = wide <= room[2] - room[0] and tall <= room[3] - room[1]
    square = [own for own in placed if own.view.window is None]
    spots = _spots(square, columns, rows, room, angle)
    for detail in placed[len(square) :]:
        taken = [_reach_at(own, spot) for own, spot in zip(placed, spots, strict=False)]
        spot = place_of(detail.reach, list(_free_spaces(taken, room)))
        fits = fits and spot is not None
        spots.append(spot or (room[0], room[1]))
    for number, (own, spot) in enumerate(zip(placed, spots, strict=True), 1):
        _put_view(sheet, part, own, spot, f"v{number}")
    _name_parents(sheet, part.pictures, [own.view for own in placed])
    _pictorial(sheet, part, room, [_reach_at(own, spot) for own, spot in zip(placed, spots, strict=True)])
    _put_list(sheet, listed, part.legend, (left, low + list_high))
    return sheet, fits


def _is_too_large(part: PartDrawing, views: Sequence[PartView], paper: Paper, angle: Angle) -> bool:
    """Say whether sizes along lines alone already reach beyond the paper, before any leader is placed."""
    left, low, right, high = frame_of(paper)
    lines = [pair for pair in _in_order(part.notes, views) if isinstance(pair[1], Linear)]
    columns, rows = _grid(_placed_once(part, views, lines)[0], angle)
    return _total(columns) > right - left - 2 * _INSIDE or _total(rows) > high - low - BLOCK_HIGH - 2 * _INSIDE


def _bare_size(views: Sequence[PartView]) -> tuple[float, float]:
    """Return how much place the outlines alone take, mm."""
    sizes = {view.slot: view.size for view in views}
    wide = max(size[0] for slot, size in sizes.items() if slot in ("front", "top"))
    wide += sum(size[0] for slot, size in sizes.items() if slot in ("left side", "right side"))
    tall = max(sizes[slot][1] for slot in sizes if slot != "top") + sizes.get("top", (0.0, 0.0))[1]
    return wide, tall


def _placed_views(part: PartDrawing, views: Sequence[PartView]) -> tuple[list[PlacedView], list[Listed]]:
    """Draw a part's views with the dimensions that each shows best; what none shows is listed.

    A size that finds no place, or only one where lines cross, comes first when all are placed again.
    """
    order = _in_order(part.notes, views)
    tried: list[tuple[int, int, int, list[PlacedView], list[tuple[str, Linear | Pointed]]]] = []
    for _ in range(_TRIED if len(order) < _MANY else 2):
        placed, left, crossed = _placed_once(part, views, order)
        unplaced = [pair for pair in left if isinstance(pair[1], Linear) and _is_seen(pair[1], views)]
        tried.append((len(unplaced), len(crossed), len(tried), placed, left))
        first = [*unplaced, *(pair for pair in order if pair[0] in crossed)]
        if not first or (len(order) >= _MANY and not unplaced):
            break
        order = [*first, *(pair for pair in order if pair not in first)]
    placed, left = min(tried, key=lambda own: own[:3])[3:]
    listed = [note for note in part.notes if isinstance(note, Listed)]
    listed += [Listed(checks=note.checks, text=note.text) for _, note in left]
    placed = _telling(placed, part.pictures)
    _letter(placed)
    return placed, listed


def _is_seen(note: Linear, views: Sequence[PartView]) -> bool:
    return any(placing.ends_in(view, note) for view in views)


def _placed_once(
    part: PartDrawing, views: Sequence[PartView], order: Sequence[tuple[str, Linear | Pointed]]
) -> tuple[list[PlacedView], list[tuple[str, Linear | Pointed]], set[str]]:
    """Place dimensions in an order; return the views, what found no place, and what stands where lines cross."""
    placed, placers = [], {}
    cut_in = _cut_in(part.pictures, views)
    for view in views:
        ground = view.outline()
        ground.add(centre_lines(view, part.pictures.rounds, part.pictures.hole_circles, part.symmetric))
        ground.add(thread_lines(view, part.threads) if view.window is None else Drawing())
        ground.add(detail_mark(view, [own for own in views if own.window]))
        if part.pictures.section and view.name == cut_in:
            ground.add(cutting_line(view, part.pictures.section, _LETTER))
        placers[view.name] = placing.ViewPlacing(view, ground)
        placed.append(PlacedView(view, ground, []))
    by_name = {own.view.name: own for own in placed}
    left = []
    for name, note in order:
        own = _put_note(name, note, views, placers, part.shifts)
        if own is None:
            left.append((name, note))
            continue
        by_name[own].dimensions.append(
            DimensionReport(
                id=name, checks=list(note.checks), text=note.text, view=own,
                auxiliary=isinstance(note, Linear) and note.auxiliary,
            )
        )  # fmt: skip
    for shown in placed:
        shown.drawing.add(placers[shown.view.name].drawing)
    return placed, left, {name for placer in placers.values() for name in placer.crossed}


def _cut_in(pictures: PartPictures, views: Sequence[PartView]) -> str | None:
    """Return the view that shows where the part is cut: the first in which the plane stands on edge."""
    section = pictures.section
    if section is None:
        return None
    return next((view.name for view in views if shows_cut(view, section)), None)


def _telling(placed: Sequence[PlacedView], pictures: PartPictures) -> list[PlacedView]:
    """Leave out the views that say nothing: no size, and nothing round that no other shows from its end."""
    ends = {own.view.name: _seen_from_end(own.view, pictures) for own in placed}
    cut_in = _cut_in(pictures, [own.view for own in placed])
    return [
        own
        for own in placed
        if own.dimensions
        or any(other.view.window and other.view.window.of == own.view.name for other in placed)
        or own.view.slot == "front"
        or own.view.section
        or own.view.name == cut_in
        or ends[own.view.name].difference(*(ends[other.view.name] for other in placed if other is not own))
    ]


def _seen_from_end(view: PartView, pictures: PartPictures) -> set[int]:
    return {
        number
        for number, found in enumerate(pictures.rounds)
        if math.dist(view.at(found.start), view.at(found.end)) < 1e-3
    }


def _in_order(notes: Sequence[Note], views: Sequence[PartView]) -> list[tuple[str, Linear | Pointed]]:
    """Return the notes in the order in which they look for places: sizes from the shortest on, then leaders."""

    def length(note: Linear | Pointed) -> float:
        if isinstance(note, Pointed):
            return 1e6 - note.radius
        ends = next((ends for view in views if (ends := placing.ends_in(view, note))), None)
        return ends.span[1] - ends.span[0] if ends else 1e5

    own = [note for note in notes if not isinstance(note, Listed)]
    return [(f"d{number}", note) for number, note in enumerate(sorted(own, key=length), 1)]


def _put_note(
    name: str,
    note: Linear | Pointed,
    views: Sequence[PartView],
    placers: Mapping[str, placing.ViewPlacing],
    shifts: placing.Shifts,
) -> str | None:
    """Place a note in the view that shows it best; return that view's name, or None where no view has a place."""
    shift = next((shifts[check] for check in note.checks if check in shifts), (0.0, 0.0))
    if isinstance(note, Linear):
        seen = [(view, ends) for view in views if (ends := placing.ends_in(view, note))]
        seen.sort(key=lambda pair: -placing.score(pair[0], note, pair[1]))
        within = math.inf if note.across is None else placing.ACROSS
        for view, ends in seen:
            if placers[view.name].put_linear(name, note, ends, shift, within=within):
                return view.name
        if note.across is None:
            return None
        for view, ends in seen:
            if placers[view.name].put_pointed(name, _at_wall(note, view, ends), shift):
                return view.name
        # no view shows both its sides: a leader to it, seen from its end
        pointed = Pointed(
            checks=note.checks, text=note.text, points=note.points[:1], direction=note.across, radius=note.diameter / 2
        )
    else:
        pointed = note
    for view in sorted(views, key=lambda own: -placing.pointed_score(own, pointed)):
        if placers[view.name].put_pointed(name, pointed, shift):
            return view.name
    return None


def _at_wall(note: Linear, view: PartView, ends: placing.Ends) -> Pointed:
    """Return a diameter as a note that points at the wall as it is seen from the side."""
    middle, out = np.array(note.points[0]), view.axes[ends.along]
    points = [middle + side * note.diameter / 2 * out for side in (1, -1)]
    named = tuple((float(x), float(y), float(z)) for x, y, z in points)
    return Pointed(checks=note.checks, text=note.text, points=named, direction=note.points[0], target="face")


def _letter(placed: Sequence[PlacedView]) -> None:
    """Write over the section and the details what they are."""
    for own in placed:
        if own.view.section or own.view.window:
            _, _, _, top = own.reach
            letter = own.view.letter
            label = Text(
                role="label",
                text=f"{letter} ({scale_text(own.view.scale)})" if own.view.window else f"{letter}–{letter}",
                at=(own.view.size[0] / 2, top + 4.0),
                height=TITLE,
            )
            own.drawing.texts.append(label)


def _grid(placed: Sequence[PlacedView], angle: Angle) -> tuple[list[tuple[float, float]], list[tuple[float, float]]]:
    """Return for each column from the left, and each row from below, how far it reaches before and after its edge."""

    def reach(names: Sequence[str], k: int) -> tuple[float, float]:
        own = [view.reach for view in placed if view.view.slot in names]
        return (max([0.0, *(-box[k] for box in own)]), max([0.0, *(box[k + 2] for box in own)]))

    columns = [reach(("left side",), 0), reach(("front", "top"), 0), reach(("right side",), 0)]
    rows = [reach(("front", "right side", "left side"), 1), reach(("top",), 1)]
    if angle == "first":
        columns.reverse()
        rows.reverse()
    return columns, rows


def _total(strips: Sequence[tuple[float, float]]) -> float:
    used = [before + after for before, after in strips if before + after > 0]
    return sum(used) + _BETWEEN * (len(used) - 1)


def _spots(
    placed: Sequence[PlacedView],
    columns: Sequence[tuple[float, float]],
    rows: Sequence[tuple[float, float]],
    room: Box,
    angle: Angle,
) -> list[tuple[float, float]]:
    """Return where the lower left corner of each outline falls: the views spread evenly over the room."""

    def edges(strips: Sequence[tuple[float, float]], low: float, high: float, share: float) -> list[float]:
        used = [before + after for before, after in strips if before + after > 0]
        spare = max(0.0, high - low - sum(used)) / (len(used) + 1)
        spare = min(spare, 3 * _BETWEEN) if len(used) > 1 else spare
        at = low + max(0.0, (high - low - sum(used) - spare * (len(used) - 1)) * share)
        found = []
        for before, after in strips:
            found.append(at + before)
            at += before + after + (spare if before + after > 0 else 0.0)
        return found

    xs, ys = edges(columns, room[0], room[2], _LEFT_SHARE), edges(rows, room[1], room[3], 0.5)
    first = angle == "first"
    column = {"front": 1, "top": 1, "right side": 0 if first else 2, "left side": 2 if first else 0}
    row = dict.fromkeys(("front", "right side", "left side"), int(first)) | {"top": int(not first)}
    return [(xs[column[own.view.slot]], ys[row[own.view.slot]]) for own in placed]


def _reach_at(own: PlacedView, spot: tuple[float, float]) -> Box:
    left, low, right, high = own.reach
    return left + spot[0], low + spot[1], right + spot[0], high + spot[1]


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
    cut_in = _cut_in(pictures, views)
    parents = [view.window.of if view.window else cut_in if view.section else None for view in views]
    sheet.views = [
        report.model_copy(update={"of": names.get(parent) if parent else None})
        for report, parent in zip(sheet.views, parents, strict=True)
    ]


def _checks_of(part: PartDrawing) -> dict[int, list[str]]:
    """Return by the place of what is round: the checks whose notes point at it."""
    found: dict[int, list[str]] = {}
    for number, own in enumerate(part.pictures.rounds):
        for note in part.notes:
            if not isinstance(note, Pointed) or note.target != "hole":
                continue
            off = [np.array(point) - own.start for point in note.points]
            if any(np.linalg.norm(np.cross(apart, note.direction)) < _ONE_AXIS for apart in off):
                found.setdefault(number, []).extend(note.checks)
    return found


def _pictorial(sheet: PartSheet, part: PartDrawing, room: Box, taken: Sequence[Box]) -> None:
    """Put a pictorial view (ISO 5456-3) where there is room for it: beside the others, else not."""
    own = next((view for view in part.pictures.views if view.name == PICTORIAL.name), None)
    if own is None:
        return
    (left, low), (right, high) = own.box
    best = max(
        ((min((b[2] - b[0]) / (right - left), (b[3] - b[1]) / (high - low)), b) for b in _free_spaces(taken, room)),
        key=lambda pair: pair[0],
        default=(0.0, room),
    )
    factor, space = best
    scale = next((scale for scale in SCALES if scale <= min(factor, _PICTORIAL * sheet.scale)), 0.0)
    if scale <= 0 or (right - left) * scale < 20.0:
        return
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


def _free_spaces(taken: Sequence[Box], room: Box) -> Iterator[Box]:
    """Yield the rectangles between the edges of what is taken in which nothing stands."""
    apart = [grown(box, _INSIDE) for box in taken]
    xs = sorted({room[0], room[2], *(box[k] for box in apart for k in (0, 2) if room[0] < box[k] < room[2])})
    ys = sorted({room[1], room[3], *(box[k] for box in apart for k in (1, 3) if room[1] < box[k] < room[3])})
    for (left, right), (low, high) in itertools.product(itertools.combinations(xs, 2), itertools.combinations(ys, 2)):
        if not any(meet((left, low, right, high), box) for box in apart):
            yield left, low, right, high


def _put_list(sheet: PartSheet, listed: Sequence[Listed], legend: Sequence[str], corner: tuple[float, float]) -> None:
    """Write what no view shows, and what the signs mean, beside the title block, from an upper left corner down."""
    drawing = Drawing()
    left, top = corner[0] + 2.0, corner[1] - _LINE / 2
    wide = frame_of(sheet.paper)[2] - BLOCK_WIDE - corner[0] - 4.0
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
