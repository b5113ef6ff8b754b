"""Detail views: what is too small for the sheet's scale is drawn larger beside it (ISO 128-3, removed details)."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.drawing.ink import Box, Drawing, Line, Segments, Text
from rigid_bench.core.drawing.layout.ends import ends_in, score
from rigid_bench.core.drawing.layout.part_view import PartView, Window
from rigid_bench.core.drawing.lettering import TITLE
from rigid_bench.core.drawing.notes.note import Linear, Listed, Note
from rigid_bench.core.standards.scales import SCALES

_Array = NDArray[np.float64]
#: mm on paper: a size or feature that is shorter is too small; what it must become; the largest detail.
_TOO_SMALL, _CLEAR, _LARGEST = 2.0, 6.0, 60.0
#: A detail shows its features with so much around them, times their size; those nearer than that share one.
_AROUND, _LEAST_AROUND = 1.6, 2.0
_MOST = 2
#: Directions, degrees, in which the letter may stand at its circle.
_BESIDE = (45, 135, 315, 225, 0, 90, 180, 270)


def detail_views(notes: Sequence[Note], views: Sequence[PartView], letters: str) -> list[PartView]:
    """Return the views that show larger what would be crowded at the scale of these views.

    Parameters
    ----------
    notes
        What is dimensioned.
    views
        At the sheet's scale.
    letters
        Of the section, where there is one, and the details, in their order.

    Returns
    -------
    list of PartView
        At the smallest standard scale that makes what they show clear; at most two.
    """
    windows: list[Window] = []
    for view in views:
        windows += _united(list(_crowded(notes, view)), view.name)
    windows.sort(key=lambda window: -window.members)
    by_name = {view.name: view for view in views}
    details = []
    left = letters[1:] if any(view.section for view in views) else letters
    for window, letter in zip(windows[:_MOST], left, strict=False):
        detail = _detail(by_name[window.of], window, letter)
        if detail is not None:
            details.append(detail)
    return details


def _crowded(notes: Sequence[Note], view: PartView) -> Iterator[Window]:
    """Yield places of a view where something is too small, each from the view that shows it best."""
    for note in notes:
        if isinstance(note, Listed):
            continue
        if isinstance(note, Linear):
            ends = ends_in(view, note)
            if ends is None or ends.span[1] - ends.span[0] >= _TOO_SMALL or score(view, note, ends) < 3.0:
                continue
            low, high = (own / view.scale for own in ends.span)
            top = min(place.edge[1] for place in ends.places) / view.scale
            deep = max(abs(a.edge[1] - b.edge[1]) for a in ends.places for b in ends.places) / view.scale
            reach = max((high - low) / 2, deep, _LEAST_AROUND)
            middle = np.zeros(2)
            # at the upper end of the edges, where the outline shows what is narrow
            middle[ends.along], middle[1 - ends.along] = (low + high) / 2, top
            yield _window(view, middle, reach, high - low)
        elif 0 < 2 * note.radius * view.scale < _TOO_SMALL and view.seen_along(note.direction):
            for point in note.points:
                yield _window(view, np.array(view.at(point)) / view.scale, note.radius, 2 * note.radius)


def _window(view: PartView, middle: _Array, reach: float, size: float) -> Window:
    x, y = middle + view.box[0]
    return Window(of=view.name, x=float(x), y=float(y), radius=_AROUND * reach + _LEAST_AROUND, smallest=size)


def _united(windows: Sequence[Window], of: str) -> list[Window]:
    """Put places together that overlap."""
    kept: list[Window] = []
    for window in windows:
        near = next(
            (own for own in kept if math.dist((own.x, own.y), (window.x, window.y)) < own.radius + window.radius), None
        )
        if near is None:
            kept.append(window)
            continue
        apart = math.dist((near.x, near.y), (window.x, window.y))
        kept.remove(near)
        kept.append(
            Window(
                of=of, x=(near.x + window.x) / 2, y=(near.y + window.y) / 2,
                radius=apart / 2 + max(near.radius, window.radius),
                smallest=min(near.smallest, window.smallest), members=near.members + window.members,
            )
        )  # fmt: skip
    return kept


def _detail(view: PartView, window: Window, letter: str) -> PartView | None:
    """Return a detail at the smallest standard scale that makes it clear; None where it would become too large."""
    larger = [scale for scale in reversed(SCALES) if scale > view.scale]
    clear = [scale for scale in larger if scale * window.smallest >= _CLEAR]
    fitting = [scale for scale in larger if 2 * window.radius * scale <= _LARGEST]
    if not fitting:
        return None
    scale = min(clear[0] if clear else fitting[-1], fitting[-1])
    middle, radius = np.array([window.x, window.y]), window.radius
    return replace(
        view,
        name=f"detail {letter}",
        slot="detail",
        box=np.array([middle - radius, middle + radius]),
        scale=scale,
        window=window,
        letter=letter,
    )


def detail_mark(view: PartView, details: Sequence[PartView]) -> Drawing:
    """Draw in a view where its details lie: a narrow circle with a letter."""
    drawing = Drawing()
    ink = Segments([view.on_paper(line) for line in (*view.visible, *view.hidden)])
    for detail in details:
        window = detail.window
        if window is None or window.of != view.name:
            continue
        x, y = (np.array([window.x, window.y]) - view.box[0]) * view.scale
        radius = window.radius * view.scale
        turn = np.linspace(0, 2 * math.pi, 49)
        circle = tuple((float(x + radius * np.cos(a)), float(y + radius * np.sin(a))) for a in turn)
        drawing.lines.append(Line(kind="detail", points=circle))
        spots = [
            Text(role="label", text=detail.letter, at=_beside(float(x), float(y), radius, angle), height=TITLE)
            for angle in _BESIDE
        ]
        drawing.texts.append(next((text for text in spots if not ink.meet_box(text.box)), spots[0]))
    return drawing


def _beside(x: float, y: float, radius: float, degrees: float) -> tuple[float, float]:
    out, angle = radius + 4.0, math.radians(degrees)
    return x + out * math.cos(angle), y + out * math.sin(angle)


def place_of(detail_reach: Box, spaces: Sequence[Box]) -> tuple[float, float] | None:
    """Return where a detail's own corner falls so that all that belongs to it lies in one of the free spaces."""
    left, low, right, high = detail_reach
    for space in sorted(spaces, key=lambda own: (own[2] - own[0]) * (own[3] - own[1])):
        if right - left <= space[2] - space[0] and high - low <= space[3] - space[1]:
            return (space[0] + space[2] - right - left) / 2, (space[1] + space[3] - high - low) / 2
    return None
