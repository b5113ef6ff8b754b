"""Dimensions put into the views that show them best; what no view shows is listed."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from rigid_bench.core.drawing.ink import Box, Drawing, Text, box_of
from rigid_bench.core.drawing.layout import placing
from rigid_bench.core.drawing.layout.centre_lines import centre_lines
from rigid_bench.core.drawing.layout.details import detail_mark
from rigid_bench.core.drawing.layout.ends import Ends, ends_in, pointed_score, score
from rigid_bench.core.drawing.layout.part_view import PartView, cutting_line, shows_cut
from rigid_bench.core.drawing.layout.running import put_runs, runs_of
from rigid_bench.core.drawing.layout.threads import DrawnThread, thread_lines
from rigid_bench.core.drawing.lettering import TITLE
from rigid_bench.core.drawing.notes.note import Linear, Listed, Note, Pointed
from rigid_bench.core.drawing.report import DimensionReport
from rigid_bench.core.exercise.bundle import ViewChoice
from rigid_bench.core.formats.pictures import PartPictures
from rigid_bench.core.standards.scales import scale_text
from rigid_bench.core.values.datums import PlaneFeature
from rigid_bench.core.wording.drawing import turned

#: From so many notes on places are looked for less often.
MANY = 20
#: Of sections and details; I, O and Q are left out (ISO 128-3).
LETTERS = "ABCDEFGHJKLMNPRSTUVWXYZ"
#: mm: half of the width in which nothing may stand between a view and its label.
_LABEL = 16.0
#: How often dimensions are placed again.
_TRIED = 9


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


@dataclass(frozen=True, slots=True, kw_only=True)
class PartDrawing:
    """What is to be drawn of a part."""

    id: str
    pictures: PartPictures
    notes: Sequence[Note]
    symmetric: Sequence[PlaneFeature] = ()
    threads: Sequence[DrawnThread] = ()
    #: For its section and its details, in their order.
    letters: str = LETTERS
    #: What the signs that stand in it mean, a line each.
    legend: Sequence[str] = ()
    #: Sizes from one datum stand on one line.
    running: bool = False
    #: How a person chose the views; empty for the program's own choice.
    views: Sequence[ViewChoice] = ()
    #: By check: how far a person has moved its dimension, mm on paper.
    shifts: Mapping[str, Sequence[float]] = field(default_factory=dict)


def placed_views(part: PartDrawing, views: Sequence[PartView]) -> tuple[list[PlacedView], list[Listed]]:
    """Draw a part's views with the dimensions that each shows best; what none shows is listed.

    A size that finds no place, or only one where lines cross, comes first when all are placed again.
    """
    order = in_order(part.notes, views)
    tried: list[tuple[int, int, int, list[PlacedView], list[tuple[str, Linear | Pointed]]]] = []
    for _ in range(_TRIED if len(order) < MANY else 2):
        placed, left, crossed = placed_once(part, views, order)
        unplaced = [pair for pair in left if isinstance(pair[1], Linear) and _is_seen(pair[1], views)]
        tried.append((len(unplaced), len(crossed), len(tried), placed, left))
        first = [*unplaced, *(pair for pair in order if pair[0] in crossed)]
        if not first or (len(order) >= MANY and not unplaced):
            break
        order = [*first, *(pair for pair in order if pair not in first)]
    placed, left = min(tried, key=lambda own: own[:3])[3:]
    listed = [note for note in part.notes if isinstance(note, Listed)]
    listed += [Listed(checks=note.checks, text=note.text) for _, note in left]
    placed = _telling(placed, part.pictures)
    _letter(placed)
    return placed, listed


def _is_seen(note: Linear, views: Sequence[PartView]) -> bool:
    return any(ends_in(view, note) for view in views)


def placed_once(
    part: PartDrawing, views: Sequence[PartView], order: Sequence[tuple[str, Linear | Pointed]]
) -> tuple[list[PlacedView], list[tuple[str, Linear | Pointed]], set[str]]:
    """Place dimensions in an order; return the views, what found no place, and what stands where lines cross."""
    placed, placers = [], {}
    cut_in = cut_in_view(part.pictures, views)
    for view in views:
        ground = view.outline()
        ground.add(centre_lines(view, part.pictures.rounds, part.pictures.hole_circles, part.symmetric))
        ground.add(thread_lines(view, part.threads) if view.window is None else Drawing())
        ground.add(detail_mark(view, [own for own in views if own.window]))
        if part.pictures.section and view.name == cut_in:
            ground.add(cutting_line(view, part.pictures.section, part.letters[0]))
        placers[view.name] = placing.ViewPlacing(view, ground)
        placed.append(PlacedView(view, ground, []))
    by_name = {own.view.name: own for own in placed}
    left = []
    running = put_runs(runs_of(order, views, part.shifts), placers) if part.running else {}
    for name, note in order:
        own = running.get(name) or _put_note(name, note, views, placers, part.shifts)
        if own is None:
            left.append((name, note))
            continue
        by_name[own].dimensions.append(
            DimensionReport(
                id=name, checks=list(note.checks), text=note.text, view=own,
                auxiliary=isinstance(note, Linear) and note.auxiliary,
            )
        )  # fmt: skip
    missing = {name for name, note in order if note.is_missing}
    for shown in placed:
        shown.drawing.add(_ghosts(placers[shown.view.name].drawing, missing))
    return placed, left, {name for placer in placers.values() for name in placer.crossed}


def _ghosts(drawing: Drawing, missing: set[str]) -> Drawing:
    """Return a drawing in which what is still missing stands in lines of its own kind."""
    ghosts = ("dimension", "extension", "leader")
    lines = [
        replace(line, kind="phantom") if line.dimension in missing and line.kind in ghosts else line
        for line in drawing.lines
    ]
    return Drawing(lines=lines, texts=drawing.texts)


def cut_in_view(pictures: PartPictures, views: Sequence[PartView]) -> str | None:
    """Return the view that shows where the part is cut: the first in which the plane stands on edge."""
    section = pictures.section
    if section is None:
        return None
    return next((view.name for view in views if shows_cut(view, section)), None)


def _telling(placed: Sequence[PlacedView], pictures: PartPictures) -> list[PlacedView]:
    """Leave out the views that say nothing: no size, and nothing round that no other shows from its end."""
    ends = {own.view.name: _seen_from_end(own.view, pictures) for own in placed}
    cut_in = cut_in_view(pictures, [own.view for own in placed])
    return [
        own
        for own in placed
        if own.dimensions
        or own.view.chosen
        or any(other.view.window and other.view.window.of == own.view.name for other in placed)
        or (own.view.slot == "front" and not any(other.dimensions for other in placed))
        or own.view.section
        or own.view.name == cut_in
        or ends[own.view.name].difference(*(ends[other.view.name] for other in placed if other is not own))
    ]


def _seen_from_end(view: PartView, pictures: PartPictures) -> set[int]:
    return {
        number
        for number, round_feature in enumerate(pictures.rounds)
        if math.dist(view.at(round_feature.start), view.at(round_feature.end)) < 1e-3
    }


def in_order(notes: Sequence[Note], views: Sequence[PartView]) -> list[tuple[str, Linear | Pointed]]:
    """Return the notes in the order in which they look for places: sizes from the shortest on, then leaders."""

    def length(note: Linear | Pointed) -> float:
        if isinstance(note, Pointed):
            return 1e6 - note.radius
        ends = next((ends for view in views if (ends := ends_in(view, note))), None)
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
        seen = [(view, ends) for view in views if (ends := ends_in(view, note))]
        seen.sort(key=lambda pair: -score(pair[0], note, pair[1]))
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
    for view in sorted(views, key=lambda own: -pointed_score(own, pointed)):
        if placers[view.name].put_pointed(name, pointed, shift):
            return view.name
    return None


def _at_wall(note: Linear, view: PartView, ends: Ends) -> Pointed:
    """Return a diameter as a note that points at the wall as it is seen from the side."""
    middle, out = np.array(note.points[0]), view.axes[ends.along]
    points = [middle + side * note.diameter / 2 * out for side in (1, -1)]
    named = tuple((float(x), float(y), float(z)) for x, y, z in points)
    return Pointed(checks=note.checks, text=note.text, points=named, direction=note.points[0], target="face")


def _is_over(box: Box, middle: float) -> bool:
    return box[0] < middle + _LABEL and box[2] > middle - _LABEL


def _letter(placed: Sequence[PlacedView]) -> None:
    """Write over the section and the details what they are, and over a turned view by how much (ISO 128-3)."""
    for own in placed:
        letter, turn = own.view.letter, turned(own.view.turn) if own.view.turn else ""
        named = f"{letter} ({scale_text(own.view.scale)})" if own.view.window else f"{letter}–{letter}"
        text = f"{named} {turn}".strip() if own.view.section or own.view.window else turn
        if text:
            middle = own.view.size[0] / 2
            lines = [box_of(line.points) for line in own.drawing.lines]
            over = [box for box in (*lines, *(text.box for text in own.drawing.texts)) if _is_over(box, middle)]
            top = max([own.view.size[1], *(box[3] for box in over)])
            label = Text(
                role="label",
                text=text,
                at=(middle, top + 4.0),
                height=TITLE,
            )
            own.drawing.texts.append(label)
