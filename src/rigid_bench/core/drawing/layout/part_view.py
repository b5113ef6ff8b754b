"""One view of a part on paper: where points of the part fall, and which lines of it are drawn."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.drawing.layout.ink import Drawing, Line, Text
from rigid_bench.core.formats.pictures import PartPictures, Polyline, RoundModel, SectionModel, ViewModel
from rigid_bench.core.part.directions import SQUARE_VIEWS, axes_of

_Array = NDArray[np.float64]
_SQUARE = 1e-6
#: mm on paper: between the lines of a hatching; how far a cutting line reaches beyond the outline; its arrows.
_HATCH, _CUT_BEYOND, _CUT_ARROW = 2.5, 4.0, 5.0
#: A turned part that is so many times as high as wide lies.
_HIGH = 1.3
#: mm: edges of a round wall's outline are found so near to where they should be.
_ON_WALL = 0.02


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class PartView:
    """A view at a scale; its own coordinates begin at the lower left corner of its outline, mm on paper."""

    name: str
    #: Where it stands beside the others: "front", "top", "right side" or "left side".
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

    @property
    def size(self) -> tuple[float, float]:
        """Width and height of the outline, mm on paper."""
        wide, high = (self.box[1] - self.box[0]) * self.scale
        return float(wide), float(high)

    @property
    def origin(self) -> tuple[float, float]:
        """Where the part's origin falls."""
        x, y = -self.box[0] * self.scale
        return float(x), float(y)

    def at(self, point: Sequence[float] | _Array) -> tuple[float, float]:
        """Return where a point of the part falls."""
        x, y = (self.axes[:2] @ np.asarray(point, dtype=float) - self.box[0]) * self.scale
        return float(x), float(y)

    def seen_along(self, direction: Sequence[float] | _Array) -> bool:
        """Say whether a direction is the line of sight."""
        return abs(float(self.axes[2] @ np.asarray(direction, dtype=float))) > 1 - _SQUARE

    def level_with(self, direction: Sequence[float] | _Array) -> int | None:
        """Return 0 for a direction that runs across the view, 1 for one that runs up it, None for others."""
        along = np.abs(self.axes[:2] @ np.asarray(direction, dtype=float))
        return int(along.argmax()) if along.max() > 1 - _SQUARE else None

    def on_paper(self, line: Polyline) -> tuple[tuple[float, float], ...]:
        """Return a polyline of the view on paper."""
        points = (np.array(line) - self.box[0]) * self.scale
        return tuple((float(x), float(y)) for x, y in points)

    def outline(self) -> Drawing:
        """Draw the edges, and the hatching of what is cut."""
        lines = [Line(kind="outline", points=self.on_paper(line)) for line in self.visible]
        lines += [Line(kind="hidden", points=self.on_paper(line)) for line in self.hidden]
        if self.section:
            lines += [Line(kind="hatching", points=line) for line in self._hatching()]
        return Drawing(lines=lines)

    def _hatching(self) -> list[tuple[tuple[float, float], ...]]:
        """Return lines at 45 degrees over what is cut (ISO 128-3)."""
        assert self.section
        found = []
        for area in self.section.areas:
            edges = np.concatenate([_edges(self.on_paper(ring)) for ring in area])
            found += _hatched(edges, _HATCH)
        return found

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
        for line in self.visible:
            points = self.on_paper(line)
            if all(abs(point[along] - level) < _ON_WALL * max(1.0, self.scale) for point in points):
                ends += [point[1 - along] for point in points]
        return (min(ends), max(ends)) if ends else None


def _edges(ring: Sequence[Sequence[float]]) -> _Array:
    """Return the edges of a closed ring, (n, 2, 2)."""
    points = np.array(ring)
    return np.stack([points, np.roll(points, -1, axis=0)], axis=1)


def _hatched(edges: _Array, apart: float) -> list[tuple[tuple[float, float], ...]]:
    """Return the pieces of lines at 45 degrees that lie within edges, (n, 2, 2), every second crossing leaving them."""
    levels = (edges[..., 1] - edges[..., 0]) / np.sqrt(2)
    alongs = (edges[..., 1] + edges[..., 0]) / np.sqrt(2)
    found = []
    first, last = np.ceil(levels.min() / apart), np.floor(levels.max() / apart)
    for level in np.arange(first, last + 1) * apart + 1e-6:
        low, high = levels.min(axis=1), levels.max(axis=1)
        cut = (low <= level) & (level < high)
        share = (level - levels[cut, 0]) / (levels[cut, 1] - levels[cut, 0])
        crossings = np.sort(alongs[cut, 0] + share * (alongs[cut, 1] - alongs[cut, 0]))
        for start, end in zip(crossings[::2], crossings[1::2], strict=False):
            if end - start > 0.3:
                ends = [((own - level) / np.sqrt(2), (own + level) / np.sqrt(2)) for own in (start, end)]
                found.append(tuple((float(x), float(y)) for x, y in ends))
    return found


def part_views(pictures: PartPictures, letter: str) -> list[PartView]:
    """Return the views of a part that are drawn, at 1:1, the cut one in the place of the view whose sight it has.

    A turned part lies with its axis level, its end view beside it.
    """
    names = _chosen_views(pictures)
    found = []
    for own in pictures.views:
        if own.name not in names:
            continue
        axes = axes_of(SQUARE_VIEWS[own.name])
        section = pictures.section if pictures.section and pictures.section.direction == own.name else None
        shown = section.view if section else own
        hidden = [] if section else [line for line in shown.hidden if not _is_of_round(line, pictures, axes)]
        found.append(
            PartView(
                name=own.name, slot=own.name, axes=axes, box=np.array(own.box), scale=1.0, visible=tuple(shown.visible),
                hidden=tuple(hidden), section=section, letter=letter if section else "",
            )
        )  # fmt: skip
    return [_lying(view) for view in found] if _lies_down(pictures, names) else found


def _lies_down(pictures: PartPictures, names: Sequence[str]) -> bool:
    """Say whether a part was turned about an upright axis, and is higher than wide."""
    by_name = {view.name: view for view in pictures.views}
    wide, tall = np.ptp(np.array(by_name["front"].box), axis=0)
    is_bare = not {"right side", "left side"} & set(names)
    return bool(tall > _HIGH * wide) and is_bare and _is_like(by_name["right side"], by_name["front"])


def _lying(view: PartView) -> PartView:
    """Turn a view by a quarter, so that what stood upright runs from left to right."""

    def turned(line: Polyline) -> Polyline:
        return [[y, -x] for x, y in line]

    section = view.section
    if section:
        section = section.model_copy(update={"areas": [[turned(ring) for ring in area] for area in section.areas]})
    (left, low), (right, high) = view.box
    return replace(
        view,
        slot="right side" if view.name == "top" else view.slot,
        axes=np.array([view.axes[1], -view.axes[0], view.axes[2]]),
        box=np.array([[low, -right], [high, -left]]),
        visible=tuple(turned(line) for line in view.visible),
        hidden=tuple(turned(line) for line in view.hidden),
        section=section,
    )


def _is_of_round(line: Polyline, pictures: PartPictures, axes: _Array) -> bool:
    """Say whether a hidden line shows a hole's or boss's side, which its note and its other view say already."""
    points = np.array(line)
    for found in pictures.rounds:
        start, end = np.array(found.start), np.array(found.end)
        way = (end - start) @ axes[:2].T
        length = float(np.linalg.norm(way))
        if length < _ON_WALL:
            continue
        way = way / length
        off = (points - start @ axes[:2].T) @ np.array([-way[1], way[0]])
        along = (points - start @ axes[:2].T) @ way
        radius = found.diameter / 2
        is_within = along.min() > -_ON_WALL and along.max() < length + _ON_WALL
        if is_within and np.abs(off).max() < radius + _ON_WALL:
            return True
    return False


def cutting_line(view: PartView, section: SectionModel, letter: str) -> Drawing:
    """Draw where a part is cut, in a view in which the plane stands on edge.

    With arrows of the line of sight and letters (ISO 128-3).
    """
    toward = axes_of(SQUARE_VIEWS[section.direction])[2]
    along = view.level_with(toward)
    assert along is not None
    level, size = view.at(section.point)[along], view.size[1 - along]
    sight = -1.0 if float(view.axes[along] @ toward) > 0 else 1.0
    low, high = -_CUT_BEYOND, size + _CUT_BEYOND

    def at(a: float, out: float) -> tuple[float, float]:
        return (out, a) if along == 0 else (a, out)

    lines = [Line(kind="cutting", points=(at(low, level), at(high, level)))]
    texts = []
    for end in (low, high):
        tip = at(end, level + sight * _CUT_ARROW)
        lines.append(Line(kind="cutting", points=(at(end, level), tip)))
        lines.append(Line(kind="arrow", points=(at(end, level + sight * (_CUT_ARROW - 3.0)), tip)))
        beyond = end + (-3.0 if end < 0 else 3.0)
        texts.append(Text(role="label", text=letter, at=at(beyond, level + sight * 4.0), height=5.0))
    return Drawing(lines=lines, texts=texts)


def _chosen_views(pictures: PartPictures) -> list[str]:
    """Choose as few views as show everything: front, and those that show a shape or a hole that it does not.

    A view that is a bare rectangle and sees no hole end on says nothing that the others do not; nor does one that
    shows a round part as the front does.
    """
    by_name = {view.name: view for view in pictures.views}
    front, top, side = by_name["front"], by_name["top"], _clearer_side(by_name)
    kept = ["front"]
    for view in (top, side):
        is_edge_on = pictures.section is not None and view is top and pictures.section.direction != "top"
        if is_edge_on or (_says_something(view, pictures) and not _is_like(view, front)):
            kept.append(view.name)
    if len(kept) == 1 and not _is_round_bar(pictures):
        kept.append("top")
    if pictures.section and pictures.section.direction not in kept:
        kept.append(pictures.section.direction)
    return [view.name for view in pictures.views if view.name in kept]


def _clearer_side(by_name: Mapping[str, ViewModel]) -> ViewModel:
    """Return the side with fewer hidden lines; the right one where they are alike."""
    right, left = by_name["right side"], by_name.get("left side")
    if left is None:
        return right
    hidden = [sum(_length(line) for line in side.hidden) for side in (right, left)]
    return left if hidden[1] < hidden[0] - _ON_WALL else right


def _is_round_bar(pictures: PartPictures) -> bool:
    front = next(view for view in pictures.views if view.name == "front")
    width = front.box[1][0] - front.box[0][0]
    return any(found.kind == "boss" and abs(found.diameter - width) < _ON_WALL for found in pictures.rounds)


def _says_something(view: ViewModel, pictures: PartPictures) -> bool:
    axes = axes_of(SQUARE_VIEWS[view.name])
    (left, low), (right, high) = view.box
    inner = [
        line
        for line in view.visible
        if not all(
            min(abs(x - left), abs(x - right)) < _ON_WALL or min(abs(y - low), abs(y - high)) < _ON_WALL
            for x, y in line
        )
    ]
    return bool(inner) or any(found.kind != "ball" and _is_end_on(found, axes) for found in pictures.rounds)


def _is_end_on(found: RoundModel, axes: _Array) -> bool:
    along = np.array(found.end) - np.array(found.start)
    length = float(np.linalg.norm(along))
    return length > 0 and abs(float(along @ axes[2])) > (1 - _SQUARE) * length


def _is_like(view: ViewModel, other: ViewModel) -> bool:
    """Say whether two views show the same lines, as those of a turned part do."""
    if np.abs(np.ptp(np.array(view.box), axis=0) - np.ptp(np.array(other.box), axis=0)).max() > _ON_WALL:
        return False
    lengths = [sum(_length(line) for line in shown.visible) for shown in (view, other)]
    return abs(lengths[0] - lengths[1]) < 1e-3 * max(*lengths, 1.0)


def _length(line: Polyline) -> float:
    return float(np.linalg.norm(np.diff(np.array(line), axis=0), axis=1).sum())
