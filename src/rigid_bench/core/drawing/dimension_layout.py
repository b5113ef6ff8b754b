"""Dimensions drawn in the views of a part: dimension lines outside the view, leaders to what is round.

By the habits of ISO 129-1 (from memory): the shorter dimension stands nearer to the part, extension lines reach a
little beyond the dimension line, texts stand above it and are read from below or from the right. A place is taken
only if no text lies on another text or line; what finds none stays in the list beside the drawing.
"""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.exercise.bundle import CheckModel, features_of
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.pictures import Polyline, ViewModel
from rigid_bench.core.part.directions import VIEWS, axes_of
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, PlaneFeature

_Array = NDArray[np.float64]
#: mm on paper: height of texts (ISO 3098), width of one letter, from the view to the first line, from line to line.
TEXT, _LETTER, _FIRST, _TIER = 3.5, 2.1, 9.0, 7.0
#: mm on paper: what an extension line leaves free at the part and reaches beyond; between texts and what is beside.
_FREE, _BEYOND, _AIR = 1.0, 1.5, 0.7
#: So many lines outside each other are tried on a side, and so many places round a view for a leader.
_TIERS, _ROWS = 7, 40
_LINEAR = ("length", "thickness", "position", "extent", "across_flats")
_ROUND = ("diameter", "radius", "chamfer", "angle", "chamfer_angle", "depth", "pitch", "pitch_circle")
_SQUARE = 1e-6


class DrawnDimension(Document):
    """One dimension as drawn, mm on paper from the view's lower left corner, y upwards."""

    check: str
    text: str
    #: The middle of the text.
    at: list[float]
    #: The text is read from the right.
    upright: bool = False
    #: The dimension line, or the leader.
    line: Polyline
    extensions: list[Polyline] = []
    #: Tips of arrows, each with the way in which it points.
    arrows: list[list[float]]


class DrawnView(Document):
    """The dimensions of one view, and how far they reach beyond it: left, below, right, above, mm on paper."""

    dimensions: list[DrawnDimension]
    reach: list[float]


@dataclass(slots=True)
class _Paper:
    """What stands beside a view so far: boxes (left, low, right, high) and lines, mm on paper."""

    width: float
    height: float
    texts: list[tuple[float, float, float, float]] = field(default_factory=list)
    lines: list[Polyline] = field(default_factory=list)
    extensions: list[Polyline] = field(default_factory=list)
    done: list[DrawnDimension] = field(default_factory=list)

    def is_free(self, text: tuple[float, float, float, float], line: Polyline, extensions: Sequence[Polyline]) -> bool:
        """Say whether a dimension can stand here."""
        if any(_meet(text, each) for each in self.texts):
            return False
        if any(crosses(each, text) for each in (*self.lines, *self.extensions)):
            return False
        if any(crosses(each, other) for each in (line, *extensions) for other in self.texts):
            return False
        # two lines on one level need room between them; a leader may cross an extension
        return not any(_meet(box_of(line), box_of(each)) for each in self.lines if _is_level(line) and _is_level(each))

    def put(self, drawn: DrawnDimension, text: tuple[float, float, float, float]) -> None:
        self.texts.append(text)
        self.lines.append(drawn.line)
        self.extensions += drawn.extensions
        self.done.append(drawn)

    def reach(self) -> list[float]:
        """Return how far all this reaches beyond the view."""
        boxes = [*self.texts, *(box_of(each) for each in (*self.lines, *self.extensions))]
        return [
            max([0.0, *(-each[0] for each in boxes)]),
            max([0.0, *(-each[1] for each in boxes)]),
            max([0.0, *(each[2] - self.width for each in boxes)]),
            max([0.0, *(each[3] - self.height for each in boxes)]),
        ]


def text_box(drawn: DrawnDimension) -> tuple[float, float, float, float]:
    """Return the box of a drawn text: left, low, right, high, mm on paper."""
    (x, y), wide, high = drawn.at, len(drawn.text) * _LETTER / 2, TEXT / 2
    if drawn.upright:
        wide, high = high, wide
    return x - wide, y - high, x + wide, y + high


def box_of(line: Polyline) -> tuple[float, float, float, float]:
    """Return the box of a line."""
    xs, ys = [each[0] for each in line], [each[1] for each in line]
    return min(xs), min(ys), max(xs), max(ys)


def draw_dimensions(
    views: Sequence[ViewModel],
    checks: Sequence[CheckModel],
    texts: Mapping[str, str],
    *,
    scale: float,
    mm: float = 1.0,
    shifts: Mapping[str, Sequence[float]] = {},
) -> dict[str, DrawnView]:
    """Place the dimensions of a part in its views.

    Parameters
    ----------
    views
        Front, top and right side, mm; a pictorial view is left alone.
    checks
        Dimensions of the part.
    texts
        By check: what is written.
    scale
        mm on paper for one in nature.
    mm
        Millimetres in the exercise's unit.
    shifts
        By check: how far a person has moved it, mm on paper.

    Returns
    -------
    dict of str to DrawnView
        By the view's name. A check that is in none found no place, or has none in a drawing.
    """
    known = {each.name: each for each in VIEWS[:3]}
    shown = [each for each in views if each.name in known]
    papers = {
        each.name: _Paper((each.box[1][0] - each.box[0][0]) * scale, (each.box[1][1] - each.box[0][1]) * scale)
        for each in shown
    }
    frames = {name: axes_of(known[name]) for name in papers}
    corners = {each.name: np.array(each.box[0]) for each in shown}
    waiting: list[tuple[float, _Placing]] = []
    for check in checks:
        if check.id not in texts:
            continue
        wanted = _placing(check, texts[check.id], features_of(check, mm), frames, corners, scale, papers)
        if wanted is not None:
            waiting.append(wanted)
    for _, placing in sorted(waiting, key=lambda each: each[0]):
        placing.put(papers[placing.view], shifts.get(placing.check, (0.0, 0.0)))
    return {
        name: DrawnView(dimensions=paper.done, reach=[round(each, 3) for each in paper.reach()])
        for name, paper in papers.items()
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class _Placing:
    """A dimension that looks for its place in one view, mm on paper."""

    check: str
    text: str
    view: str
    #: Where its two ends are, or the middle of what is round.
    points: tuple[tuple[float, float], ...]
    #: 0 along the view's width, 1 along its height; None for a leader.
    along: int | None
    #: Of what is round.
    radius: float = 0.0
    #: Whether an end is an axis, whose extension begins at it and not at the part's edge.
    from_axis: tuple[bool, ...] = ()

    def put(self, paper: _Paper, shift: Sequence[float]) -> None:
        places = self._leaders(paper) if self.along is None else self._lines(paper, self.along)
        for drawn in places:
            moved = _shifted(drawn, shift, self.along)
            box = text_box(moved)
            if any(shift) or paper.is_free(box, moved.line, moved.extensions):
                paper.put(moved, box)
                return

    def _lines(self, paper: _Paper, along: int) -> Iterator[DrawnDimension]:
        """Yield the places of a dimension line: below and above, or left and right, nearest first."""
        (low, high), size = sorted(each[along] for each in self.points), (paper.width, paper.height)[1 - along]
        width = len(self.text) * _LETTER + 1.0
        fits = high - low >= width + 5.0
        middles = [(low + high) / 2] if fits else [high + 3.0 + width / 2, low - 3.0 - width / 2]
        for tier in range(_TIERS):
            for level in (-_FIRST - tier * _TIER, size + _FIRST + tier * _TIER):
                for middle in middles:
                    ends = [low, high] if fits else [min(low, middle - width / 2), max(high, middle + width / 2)]
                    yield self._line(along, level, size, (low, high), ends, middle, inside=fits)

    def _line(
        self,
        along: int,
        level: float,
        size: float,
        span: tuple[float, float],
        ends: Sequence[float],
        middle: float,
        *,
        inside: bool,
    ) -> DrawnDimension:
        def at(a: float, out: float) -> list[float]:
            return [a, out] if along == 0 else [out, a]

        away = 1.0 if level > 0 else -1.0
        edge = size + _FREE if level > 0 else -_FREE
        extensions = []
        for point, is_axis in zip(self.points, self.from_axis, strict=True):
            start = point[1 - along] if is_axis else edge
            extensions.append([at(point[along], start), at(point[along], level + away * _BEYOND)])
        tips = [(span[0], -1.0), (span[1], 1.0)] if inside else [(span[0], 1.0), (span[1], -1.0)]
        arrows = [[*at(a, level), *at(way, 0.0)] for a, way in tips]
        # above its line, as read from below or from the right
        lift = (TEXT / 2 + _AIR) * (1.0 if along == 0 else -1.0)
        return DrawnDimension(
            check=self.check,
            text=self.text,
            at=at(middle, level + lift),
            upright=along == 1,
            line=[at(ends[0], level), at(ends[1], level)],
            extensions=extensions,
            arrows=arrows,
        )

    def _leaders(self, paper: _Paper) -> Iterator[DrawnDimension]:
        """Yield the places of a leader's text round the view, nearest first."""
        x, y = self.points[0]
        half = (len(self.text) * _LETTER + 1.0) / 2
        columns = [paper.width + 6.0 + half, -6.0 - half]
        spots = [(column, paper.height + 6.0 - 1.5 * TEXT * row) for row in range(_ROWS) for column in columns]
        spots += [(x + 4.0 * step, paper.height + 6.0 + 6.0 * row) for row in range(4) for step in range(-8, 9)]
        for spot in sorted(spots, key=lambda each: math.hypot(each[0] - x, each[1] - y)):
            if spot[1] < -2.0:
                continue
            near = spot[0] - math.copysign(half, spot[0] - x) if abs(spot[0] - x) > half else spot[0]
            foot = spot[1] if near != spot[0] else spot[1] - TEXT / 2 - _AIR
            apart = math.hypot(near - x, foot - y)
            if apart < self.radius + 2.0:
                continue
            tip = [x + self.radius * (near - x) / apart, y + self.radius * (foot - y) / apart]
            way = [(x - near) / apart, (y - foot) / apart]
            yield DrawnDimension(
                check=self.check, text=self.text, at=list(spot), line=[tip, [near, foot]], arrows=[[*tip, *way]]
            )


def _placing(
    check: CheckModel,
    text: str,
    features: Sequence[Feature],
    frames: Mapping[str, _Array],
    corners: Mapping[str, _Array],
    scale: float,
    papers: Mapping[str, _Paper],
) -> tuple[float, _Placing] | None:
    """Choose the view for a dimension; None where a drawing shows it in none."""
    measure = check.fields.get("measure")

    def flat(name: str, point: _Array) -> tuple[float, float]:
        x, y = (frames[name][:2] @ point - corners[name]) * scale
        return float(x), float(y)

    if measure == "extent":
        return _overall(check, text, frames, papers)
    if measure in _LINEAR and len(features) == 2:
        first, second = features
        if not isinstance(first, PlaneFeature | AxisFeature) or not isinstance(second, PlaneFeature | AxisFeature):
            return None
        way = _way(first, second, check.fields.get("axis"))
        axes = [each for each in features if isinstance(each, AxisFeature)]
        seen = _seen_along(way, axes, frames)
        if seen is None:
            return None
        name, along = seen
        points = (flat(name, first.point), flat(name, second.point))
        placing = _Placing(
            check=check.id, text=text, view=name, points=points, along=along,
            from_axis=tuple(isinstance(each, AxisFeature) for each in features),
        )  # fmt: skip
        return abs(points[0][along] - points[1][along]), placing
    if measure in _ROUND and features:
        own = features[-1]
        if not isinstance(own, PlaneFeature | AxisFeature):
            return None
        radius = own.radius * scale if isinstance(own, CylinderFeature) else 0.0
        name = _best_for(own, frames)
        # leaders come after the lines, the small round things first
        placing = _Placing(
            check=check.id, text=text, view=name, points=(flat(name, own.point),), along=None,
            radius=radius if _is_end_on(own, frames[name]) else 0.0,
        )  # fmt: skip
        return 1e6 + radius, placing
    return None


def _overall(
    check: CheckModel, text: str, frames: Mapping[str, _Array], papers: Mapping[str, _Paper]
) -> tuple[float, _Placing] | None:
    """An overall size runs from edge to edge of a view."""
    way = np.eye(3)["xyz".index(str(check.fields.get("axis", "x")))]
    seen = _seen_along(way, [], frames)
    if seen is None:
        return None
    name, along = seen
    size = (papers[name].width, papers[name].height)
    points = ((0.0, 0.0), (size[0], 0.0) if along == 0 else (0.0, size[1]))
    placing = _Placing(check=check.id, text=text, view=name, points=points, along=along, from_axis=(False, False))
    return size[along], placing


def _way(first: PlaneFeature | AxisFeature, second: PlaneFeature | AxisFeature, axis: object) -> _Array:
    """Return the direction along which a distance is measured."""
    if axis in ("x", "y", "z"):
        named: _Array = np.eye(3)["xyz".index(str(axis))]
        return named
    flat = next((each for each in (first, second) if isinstance(each, PlaneFeature)), None)
    if flat is not None:
        return flat.normal
    apart = second.point - first.point
    apart = apart - float(apart @ first.direction) * first.direction
    length = float(np.linalg.norm(apart))
    return apart / length if length > _SQUARE else apart


def _seen_along(way: _Array, axes: Sequence[AxisFeature], frames: Mapping[str, _Array]) -> tuple[str, int] | None:
    """Choose a view in which a direction lies along width (0) or height (1), best one that sees the axes end on."""
    fitting = [
        (name, along)
        for name, frame in frames.items()
        for along in (0, 1)
        if abs(float(way @ frame[along])) > 1 - _SQUARE
    ]
    return max(fitting, key=lambda each: sum(_is_end_on(axis, frames[each[0]]) for axis in axes), default=None)


def _best_for(own: PlaneFeature | AxisFeature, frames: Mapping[str, _Array]) -> str:
    """Choose the view that shows a round wall end on, or a slanted face on edge."""

    def score(name: str) -> float:
        along = abs(float(own.direction @ frames[name][2]))
        return along if isinstance(own, AxisFeature) else -along

    return max(frames, key=score)


def _is_end_on(own: PlaneFeature | AxisFeature, frame: _Array) -> bool:
    return isinstance(own, AxisFeature) and abs(float(own.direction @ frame[2])) > 1 - _SQUARE


def _shifted(drawn: DrawnDimension, shift: Sequence[float], along: int | None) -> DrawnDimension:
    """Move a dimension as a person did: a line stays with its extensions, a leader with its tip."""
    dx, dy = float(shift[0]), float(shift[1])
    if not dx and not dy:
        return drawn
    if along is None:
        line = [drawn.line[0], [drawn.line[1][0] + dx, drawn.line[1][1] + dy]]
        return drawn.model_copy(update={"at": [drawn.at[0] + dx, drawn.at[1] + dy], "line": line})
    out = (0.0, dy) if along == 0 else (dx, 0.0)
    aside = (dx, dy)

    def moved(point: Sequence[float], by: tuple[float, float]) -> list[float]:
        return [point[0] + by[0], point[1] + by[1], *point[2:]]

    return drawn.model_copy(
        update={
            "at": moved(drawn.at, aside),
            "line": [moved(each, out) for each in drawn.line],
            "extensions": [[each[0], moved(each[1], out)] for each in drawn.extensions],
            "arrows": [moved(each, out) for each in drawn.arrows],
        }
    )


def _meet(a: tuple[float, float, float, float], b: tuple[float, float, float, float]) -> bool:
    return a[0] < b[2] + _AIR and b[0] < a[2] + _AIR and a[1] < b[3] + _AIR and b[1] < a[3] + _AIR


def _is_level(line: Polyline) -> bool:
    return line[0][0] == line[-1][0] or line[0][1] == line[-1][1]


def crosses(line: Polyline, box: tuple[float, float, float, float]) -> bool:
    """Say whether a straight line runs through a box, or nearer to it than texts need (Liang and Barsky's clipping)."""
    (x, y), (to_x, to_y) = line[0], line[-1]
    first, last = 0.0, 1.0
    for start, way, low, high in ((x, to_x - x, box[0], box[2]), (y, to_y - y, box[1], box[3])):
        low, high = low - _AIR / 2, high + _AIR / 2
        if abs(way) < 1e-12:
            if not low <= start <= high:
                return False
            continue
        near, far = sorted(((low - start) / way, (high - start) / way))
        first, last = max(first, near), min(last, far)
    return first <= last
