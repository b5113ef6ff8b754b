"""Where views stand on the paper: in columns and rows by their projection (ISO 5456-2), spread over the room."""

import itertools
from collections.abc import Iterator, Sequence

from rigid_bench.core.drawing.ink import Box, grown, meet
from rigid_bench.core.drawing.layout.paper import Angle
from rigid_bench.core.drawing.layout.view_dimensions import PlacedView

#: mm on paper: between views, and inside the frame: more than its centring marks reach.
BETWEEN, INSIDE = 8.0, 6.0
#: From the left, and from below, in third angle: what a view looks at is the side on which it stands.
_COLUMNS = (("left side",), ("front", "top", "bottom"), ("right side",), ("back",))
_ROWS = (("bottom",), ("front", "right side", "left side", "back"), ("top",))
#: Of a column or row: how far it reaches before and after the edge at which its outlines begin, mm.
Strip = tuple[float, float]


def grid(placed: Sequence[PlacedView], angle: Angle) -> tuple[list[Strip], list[Strip]]:
    """Return the columns from the left and the rows from below; (0, 0) for those in which nothing stands."""

    def strip(slots: Sequence[str], k: int) -> Strip:
        own = [view.reach for view in placed if view.view.slot in slots]
        return max([0.0, *(-box[k] for box in own)]), max([0.0, *(box[k + 2] for box in own)])

    columns, rows = [strip(slots, 0) for slots in _COLUMNS], [strip(slots, 1) for slots in _ROWS]
    if angle == "first":
        columns.reverse()
        rows.reverse()
    return columns, rows


def total(strips: Sequence[Strip]) -> float:
    """Return how much place columns or rows take with what lies between them, mm."""
    used = [before + after for before, after in strips if before + after > 0]
    return sum(used) + BETWEEN * (len(used) - 1)


def spots(
    placed: Sequence[PlacedView],
    columns: Sequence[Strip],
    rows: Sequence[Strip],
    room: Box,
    angle: Angle,
    shares: tuple[float, float],
) -> list[tuple[float, float]]:
    """Return where the lower left corner of each outline falls: the views spread evenly, moved as a person moved them.

    Parameters
    ----------
    placed
        The views; details have no place of their own in the grid.
    columns, rows
        From `grid`.
    room
        In which they stand.
    angle
        Third angle puts the top view above the front view and the right side to its right, first angle below and to
        its left (ISO 5456-2).
    shares
        Of what is left over of the room: how much of it stays at the left, and below.
    """
    xs, ys = _edges(columns, room[0], room[2], shares[0]), _edges(rows, room[1], room[3], shares[1])
    places = []
    for own in placed:
        column = next(k for k, slots in enumerate(_COLUMNS) if own.view.slot in slots)
        row = next(k for k, slots in enumerate(_ROWS) if own.view.slot in slots)
        if angle == "first":
            column, row = len(_COLUMNS) - 1 - column, len(_ROWS) - 1 - row
        places.append((xs[column] + own.view.moved[0], ys[row] + own.view.moved[1]))
    return places


def _edges(strips: Sequence[Strip], low: float, high: float, share: float) -> list[float]:
    used = [before + after for before, after in strips if before + after > 0]
    spare = max(0.0, high - low - sum(used)) / (len(used) + 1)
    spare = min(spare, 3 * BETWEEN) if len(used) > 1 else spare
    at = low + max(0.0, (high - low - sum(used) - spare * (len(used) - 1)) * share)
    edges = []
    for before, after in strips:
        edges.append(at + before)
        at += before + after + (spare if before + after > 0 else 0.0)
    return edges


def reach_at(own: PlacedView, spot: tuple[float, float]) -> Box:
    """Return the box of a view with all that belongs to it."""
    left, low, right, high = own.reach
    return left + spot[0], low + spot[1], right + spot[0], high + spot[1]


def free_spaces(taken: Sequence[Box], room: Box) -> Iterator[Box]:
    """Yield the rectangles between the edges of what is taken in which nothing stands."""
    apart = [grown(box, INSIDE) for box in taken]
    xs = sorted({room[0], room[2], *(box[k] for box in apart for k in (0, 2) if room[0] < box[k] < room[2])})
    ys = sorted({room[1], room[3], *(box[k] for box in apart for k in (1, 3) if room[1] < box[k] < room[3])})
    for (left, right), (low, high) in itertools.product(itertools.combinations(xs, 2), itertools.combinations(ys, 2)):
        if not any(meet((left, low, right, high), box) for box in apart):
            yield left, low, right, high
