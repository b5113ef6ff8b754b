"""Where the ends of a size stand in a view, and how well the view shows it."""

from dataclasses import dataclass

import numpy as np

from rigid_bench.core.drawing.layout.part_view import PartView
from rigid_bench.core.drawing.notes.note import Linear, Pointed


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """One end of a size in a view, mm on paper."""

    #: Where the edge that is measured begins and ends across the size.
    edge: tuple[float, float]
    is_axis: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Ends:
    """Both ends of a size in a view."""

    #: 0 across the view, 1 up it.
    along: int
    #: mm on paper, the lower first.
    span: tuple[float, float]
    places: tuple[Place, Place]


def ends_in(view: PartView, note: Linear) -> Ends | None:
    """Return where a size stands in a view; None where the view does not show it."""
    if note.across is not None:
        return _across(view, note)
    along = view.level_with(note.way)
    if along is None:
        return None
    ends = []
    for point, axis in zip(note.points, note.axes, strict=True):
        at = view.at(point)
        if note.is_extent or axis is None:
            edge = None if note.is_extent else view.edge_ends(along, at[along])
            if view.window and edge is None:
                return None
            ends.append((at[along], Place(edge=edge or (0.0, view.size[1 - along]), is_axis=False)))
        elif view.seen_along(axis):
            ends.append((at[along], Place(edge=(at[1 - along], at[1 - along]), is_axis=True)))
        elif view.level_with(axis) == 1 - along:
            ends.append((at[along], Place(edge=(0.0, view.size[1 - along]), is_axis=True)))
        else:
            return None
    if view.window and not all(view.shows(level, along) for level, _ in ends):
        return None
    (low, first), (high, second) = sorted(ends, key=lambda end: end[0])
    return Ends(along=along, span=(low, high), places=(first, second)) if high - low > 1e-6 else None


def _across(view: PartView, note: Linear) -> Ends | None:
    """Return the ends of a diameter that is seen from the side."""
    assert note.across is not None
    run = view.level_with(note.across)
    if run is None:
        return None
    along, radius = 1 - run, note.diameter / 2 * view.scale
    middle = view.at(note.points[0])
    places = []
    for level in (middle[along] - radius, middle[along] + radius):
        edge = view.edge_ends(along, level)
        if edge is None:
            return None
        places.append(Place(edge=edge, is_axis=False))
    return Ends(along=along, span=(middle[along] - radius, middle[along] + radius), places=(places[0], places[1]))


def score(view: PartView, note: Linear, ends: Ends) -> float:
    """Say how well a view shows a size: axes end on, edges that are seen; what is cut shows depths best."""
    axes = [axis for axis in note.axes if axis is not None]
    seen = sum(view.seen_along(axis) for axis in axes)
    edges = 0
    for point, axis in zip(note.points, note.axes, strict=True):
        if axis is None and not note.is_extent and note.across is None:
            edges += view.edge_ends(ends.along, view.at(point)[ends.along]) is not None
    larger = 10.0 if view.window else 0.0
    return larger + 4.0 * seen + 3.0 * edges + (0.5 if view.section else 0.0) + (0.3 if view.name == "front" else 0.0)


def pointed_score(view: PartView, note: Pointed) -> float:
    """Say how well a view shows what a note points at; 0 where it does not."""
    if view.window:
        return 2.0 if view.seen_along(note.direction) and view.shows_point(note.points[0]) else -1.0
    if note.target == "sheet":
        return 1.0 if view.seen_along(note.direction) else 0.0
    if note.target == "face":
        return 1.0 - abs(float(view.axes[2] @ np.array(note.direction)))
    return 1.0 if view.seen_along(note.direction) else 0.2 if view.section else 0.05
