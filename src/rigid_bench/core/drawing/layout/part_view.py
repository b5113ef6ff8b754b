"""One view of a part on paper: where points of the part fall, and which lines of it are drawn."""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.drawing.ink import Drawing, Line, Text
from rigid_bench.core.formats.pictures import Polyline, SectionModel
from rigid_bench.core.part.directions import SQUARE_VIEWS, axes_of

_Array = NDArray[np.float64]
SQUARE = 1e-6
#: mm on paper: between the lines of a hatching; how far a cutting line reaches beyond the outline; its arrows and wide
#: ends.
_HATCH, _CUT_BEYOND, _CUT_ARROW, _CUT_END = 2.5, 4.0, 5.0, 3.5
#: mm on paper: what stands for a stretch that is left out, how far its lines reach beyond the outline, their zigzag.
BREAK_GAP, _BREAK_BEYOND, _BREAK_TOOTH = 3.0, 2.0, 2.0
#: mm: edges of a round wall's outline are found so near to where they should be.
ON_WALL = 0.02


@dataclass(frozen=True, slots=True, kw_only=True)
class Window:
    """A round piece of a view that a detail shows, mm in nature in the view's coordinates."""

    #: The view.
    of: str
    x: float
    y: float
    radius: float
    #: mm: of the smallest thing in it; how many small things there are.
    smallest: float
    members: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Break:
    """A plain stretch that is left out of a view."""

    #: 0 across the view, 1 up it.
    along: int
    #: mm in nature, in the view's coordinates, from where to where.
    low: float
    high: float


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class PartView:
    """A view at a scale; its own coordinates begin at the lower left corner of its outline, mm on paper."""

    name: str
    #: Where it stands beside the others: "front", "top", "right side", "left side", "back" or "bottom"; "detail".
    slot: str
    #: Rows: right, up, towards the eye.
    axes: _Array
    #: (2, 2) mm in nature, of the outline.
    box: _Array
    scale: float
    visible: tuple[Polyline, ...]
    hidden: tuple[Polyline, ...]
    section: SectionModel | None = None
    letter: str = ""
    #: Of a detail: what it shows.
    window: Window | None = None
    broken: Break | None = None
    #: A person chose it, turned it by so many degrees counter-clockwise, and moved it so far on the paper, mm.
    chosen: bool = False
    turn: int = 0
    moved: tuple[float, float] = (0.0, 0.0)

    @property
    def size(self) -> tuple[float, float]:
        """Width and height of the outline, mm on paper."""
        wide, high = self._from_corner(self.box[1])
        return float(wide), float(high)

    @property
    def origin(self) -> tuple[float, float]:
        """Where the part's origin falls."""
        x, y = self._from_corner(np.zeros(2))
        return float(x), float(y)

    def _from_corner(self, points: _Array) -> _Array:
        """Return points of the view, (..., 2) mm in nature, on paper; a stretch that is left out is a small gap."""
        own = np.array(points, dtype=float)
        if self.broken:
            gap, values = self.broken, own[..., self.broken.along]
            cut = gap.high - gap.low
            kept = BREAK_GAP / self.scale
            own[..., gap.along] = np.where(
                values < gap.low, values,
                np.where(values > gap.high, values - cut + kept, gap.low + (values - gap.low) / cut * kept),
            )  # fmt: skip
        return np.asarray((own - self.box[0]) * self.scale)

    def at(self, point: Sequence[float] | _Array) -> tuple[float, float]:
        """Return where a point of the part falls."""
        x, y = self._from_corner(self.axes[:2] @ np.asarray(point, dtype=float))
        return float(x), float(y)

    def shows(self, level: float, along: int) -> bool:
        """Say whether a level, mm on paper along a direction, lies within the view's own box."""
        return -ON_WALL < level < self.size[along] + ON_WALL

    def shows_point(self, point: Sequence[float] | _Array) -> bool:
        """Say whether a point of the part falls into a detail's window; True for a whole view."""
        if self.window is None:
            return True
        radius = self.window.radius * self.scale
        return math.dist(self.at(point), (radius, radius)) < radius

    def seen_along(self, direction: Sequence[float] | _Array) -> bool:
        """Say whether a direction is the line of sight."""
        return abs(float(self.axes[2] @ np.asarray(direction, dtype=float))) > 1 - SQUARE

    def level_with(self, direction: Sequence[float] | _Array) -> int | None:
        """Return 0 for a direction that runs across the view, 1 for one that runs up it, None for others."""
        along = np.abs(self.axes[:2] @ np.asarray(direction, dtype=float))
        return int(along.argmax()) if along.max() > 1 - SQUARE else None

    def on_paper(self, line: Polyline) -> tuple[tuple[float, float], ...]:
        """Return a polyline of the view on paper."""
        return tuple((float(x), float(y)) for x, y in self._from_corner(np.array(line)))

    def pieces(self, line: Polyline) -> list[tuple[tuple[float, float], ...]]:
        """Return what is drawn of a polyline: all of it, what lies in the window, or what no break leaves out."""
        points = self.on_paper(line)
        if self.window:
            radius = self.window.radius * self.scale
            return within_circle(points, (radius, radius), radius)
        return self._beside_gap(points) if self.broken else [points]

    def gap(self) -> tuple[float, float]:
        """Return from where to where a break reaches, mm on paper along it."""
        assert self.broken
        ends = np.zeros((2, 2))
        ends[:, self.broken.along] = self.broken.low, self.broken.high
        low, high = self._from_corner(ends)[:, self.broken.along]
        return float(low), float(high)

    def _beside_gap(self, points: Sequence[tuple[float, float]]) -> list[tuple[tuple[float, float], ...]]:
        """Return what of a polyline lies beside the gap; those that cross it are straight and run along it."""
        assert self.broken
        along, (low, high) = self.broken.along, self.gap()
        pieces: list[tuple[tuple[float, float], ...]] = []
        for a, b in itertools.pairwise(points):
            first, last = sorted((a, b), key=lambda point: point[along])
            if last[along] <= low + ON_WALL or first[along] >= high - ON_WALL:
                pieces.append((a, b))
                continue
            for start, end in ((first[along], min(last[along], low)), (max(first[along], high), last[along])):
                if end - start > ON_WALL:
                    share = [(own - first[along]) / (last[along] - first[along]) for own in (start, end)]
                    p, q = (tuple(first[k] + part * (last[k] - first[k]) for k in (0, 1)) for part in share)
                    pieces.append(((p[0], p[1]), (q[0], q[1])))
        return pieces if len(pieces) != len(points) - 1 else [tuple(points)]

    def outline(self) -> Drawing:
        """Draw the edges, and the hatching of what is cut."""
        lines = [Line(kind="outline", points=piece) for line in self.visible for piece in self.pieces(line)]
        lines += [Line(kind="hidden", points=piece) for line in self.hidden for piece in self.pieces(line)]
        if self.section:
            lines += [Line(kind="hatching", points=line) for line in self._hatching()]
        if self.window:
            radius = self.window.radius * self.scale
            turn = np.linspace(0, 2 * np.pi, 73)
            circle = tuple((radius * (1 + float(np.cos(a))), radius * (1 + float(np.sin(a)))) for a in turn)
            lines.append(Line(kind="detail", points=circle))
        if self.broken:
            lines += self._break_lines()
        return Drawing(lines=lines)

    def _break_lines(self) -> list[Line]:
        """Draw narrow lines with a zigzag where a stretch is left out (ISO 128-3)."""
        assert self.broken
        along = self.broken.along
        levels = [
            a[1 - along]
            for line in self.visible
            for a, b in itertools.pairwise(self.on_paper(line))
            if abs(a[along] - b[along]) > abs(a[1 - along] - b[1 - along])
        ]
        low, high = min(levels) - _BREAK_BEYOND, max(levels) + _BREAK_BEYOND
        middle, tooth = (low + high) / 2, min(_BREAK_TOOTH, (high - low) / 6)
        lines = []
        for at in self.gap():
            run = [(low, 0.0), (middle - tooth, 0.0), (middle - tooth / 3, 0.7), (middle + tooth / 3, -0.7),
                   (middle + tooth, 0.0), (high, 0.0)]  # fmt: skip
            points = tuple((at + off, across) if along == 0 else (across, at + off) for across, off in run)
            lines.append(Line(kind="break", points=points))
        return lines

    def _hatching(self) -> list[tuple[tuple[float, float], ...]]:
        """Return lines at 45 degrees over what is cut (ISO 128-3)."""
        assert self.section
        hatching = hatched_areas(self, self.section.areas, _HATCH)
        if self.window:
            radius = self.window.radius * self.scale
            return [piece for line in hatching for piece in within_circle(line, (radius, radius), radius)]
        return [piece for line in hatching for piece in self._beside_gap(line)] if self.broken else hatching

    def edge_ends(self, along: int, level: float) -> tuple[float, float] | None:
        """Return where a straight edge across a direction begins and ends, mm on paper; None where none is seen.

        Parameters
        ----------
        along
            0 for the direction across the view, 1 for that up it.
        level
            mm on paper, along it.
        """
        ends: list[float] = []
        for points in (piece for line in self.visible for piece in self.pieces(line)):
            if all(abs(point[along] - level) < ON_WALL * max(1.0, self.scale) for point in points):
                ends += [point[1 - along] for point in points]
        return (min(ends), max(ends)) if ends else None


def within_circle(
    points: Sequence[tuple[float, float]], middle: tuple[float, float], radius: float
) -> list[tuple[tuple[float, float], ...]]:
    """Return the pieces of a polyline that lie within a circle.

    Examples
    --------
    >>> within_circle([(-2.0, 0.0), (2.0, 0.0)], (0.0, 0.0), 1.0)
    [((-1.0, 0.0), (1.0, 0.0))]
    """
    pieces: list[list[tuple[float, float]]] = []
    for start, end in itertools.pairwise(np.array(points) - np.array(middle)):
        way = end - start
        a, b, c = float(way @ way), float(start @ way), float(start @ start) - radius**2
        root = b * b - a * c
        if a == 0 or root <= 0:
            continue
        first, last = max(0.0, (-b - root**0.5) / a), min(1.0, (-b + root**0.5) / a)
        if last <= first:
            continue
        p, q = (tuple((start + share * way + np.array(middle)).tolist()) for share in (first, last))
        if pieces and first == 0.0 and pieces[-1][-1] == p:
            pieces[-1].append(q)
        else:
            pieces.append([p, q])
    return [tuple(piece) for piece in pieces]


def _edges(ring: Sequence[Sequence[float]]) -> _Array:
    """Return the edges of a closed ring, (n, 2, 2)."""
    points = np.array(ring)
    return np.stack([points, np.roll(points, -1, axis=0)], axis=1)


def hatched_areas(
    view: PartView, areas: Sequence[Sequence[Polyline]], apart: float, *, is_mirrored: bool = False
) -> list[tuple[tuple[float, float], ...]]:
    """Return hatching lines over areas, at 45 degrees or mirrored at 135, so far apart on paper (ISO 128-3)."""
    turn = np.array([-1.0 if is_mirrored else 1.0, 1.0])
    hatched = []
    for area in areas:
        edges = np.concatenate([_edges(view.on_paper(ring)) for ring in area]) * turn
        hatched += [tuple((x * float(turn[0]), y) for x, y in line) for line in _hatched(edges, apart)]
    return hatched


def _hatched(edges: _Array, apart: float) -> list[tuple[tuple[float, float], ...]]:
    """Return the pieces of lines at 45 degrees that lie within edges, (n, 2, 2), every second crossing leaving them."""
    levels = (edges[..., 1] - edges[..., 0]) / np.sqrt(2)
    alongs = (edges[..., 1] + edges[..., 0]) / np.sqrt(2)
    strokes = []
    first, last = np.ceil(levels.min() / apart), np.floor(levels.max() / apart)
    for level in np.arange(first, last + 1) * apart + 1e-6:
        low, high = levels.min(axis=1), levels.max(axis=1)
        cut = (low <= level) & (level < high)
        share = (level - levels[cut, 0]) / (levels[cut, 1] - levels[cut, 0])
        crossings = np.sort(alongs[cut, 0] + share * (alongs[cut, 1] - alongs[cut, 0]))
        for start, end in zip(crossings[::2], crossings[1::2], strict=False):
            if end - start > 0.3:
                ends = [((own - level) / np.sqrt(2), (own + level) / np.sqrt(2)) for own in (start, end)]
                strokes.append(tuple((float(x), float(y)) for x, y in ends))
    return strokes


def cutting_line(view: PartView, section: SectionModel, letter: str) -> Drawing:
    """Draw where a part is cut, in a view in which the plane stands on edge.

    With arrows of the line of sight and letters (ISO 128-3); a stepped or half cut turns at its corners.
    """
    toward = axes_of(SQUARE_VIEWS[section.direction])[2]
    along = view.level_with(toward)
    assert along is not None
    sight = np.zeros(2)
    sight[along] = -1.0 if float(view.axes[along] @ toward) > 0 else 1.0
    corners = [np.array(view.at(point)) for point in section.path]
    if not corners:
        level, size = view.at(section.point)[along], view.size[1 - along]
        corners = [np.array([own, level] if along == 1 else [level, own]) for own in (0.0, size)]
    ways = [_unit(corners[0] - corners[1]), _unit(corners[-1] - corners[-2])]
    ends = [corners[0] + ways[0] * _CUT_BEYOND, corners[-1] + ways[1] * _CUT_BEYOND]
    lines = [Line(kind="cutting", points=tuple(_pair(point) for point in (ends[0], *corners[1:-1], ends[1])))]
    texts = []
    for end, way in zip(ends, ways, strict=True):
        beside = sight
        lines.append(Line(kind="cutting", points=(_pair(end), _pair(end - _CUT_END * way)), is_heavy=True))
        if abs(float(way @ sight)) < SQUARE:
            tip = end + sight * _CUT_ARROW
            lines.append(Line(kind="cutting", points=(_pair(end), _pair(tip))))
            lines.append(Line(kind="arrow", points=(_pair(tip - 3.0 * sight), _pair(tip))))
        else:  # the second leg of a half cut
            beside = np.array([-way[1], way[0]])
        texts.append(Text(role="label", text=letter, at=_pair(end + 3.0 * way + 4.0 * beside), height=5.0))
    return Drawing(lines=lines, texts=texts)


def _unit(vector: _Array) -> _Array:
    unit: _Array = vector / np.linalg.norm(vector)
    return unit


def _pair(point: _Array) -> tuple[float, float]:
    return float(point[0]), float(point[1])


def shows_cut(view: PartView, section: SectionModel) -> bool:
    """Say whether a view shows where the part is cut: the plane stands on edge, with all its corners."""
    _, up, toward = axes_of(SQUARE_VIEWS[section.direction])
    if view.section is not None or view.level_with(toward) is None:
        return False
    return not section.path or view.seen_along(up)
