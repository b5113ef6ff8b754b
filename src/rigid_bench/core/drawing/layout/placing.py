"""Where dimensions stand beside a view, by the habits of ISO 129-1.

Shorter ones inside, longer ones outside, in rows that are 10 mm and then 7.5 mm apart; extension lines from the edge
that is measured, and from an axis its centre line; a leader at 45 or 60 degrees from one of the places that it speaks
of. A place is taken only where no text lies on a line or text; of those, the one with the fewest crossings.
"""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from rigid_bench.core.drawing.ink import (
    Array,
    Box,
    Drawing,
    Line,
    Segments,
    Text,
    boxes_meet,
    grown,
    meet,
    run_through,
)
from rigid_bench.core.drawing.layout.ends import Ends
from rigid_bench.core.drawing.layout.part_view import PartView
from rigid_bench.core.drawing.lettering import TEXT, text_width
from rigid_bench.core.drawing.notes.note import Linear, Pointed

#: mm on paper: from the outline to the first row, from row to row; how many rows are tried.
FIRST, ROW, _ROWS = 10.0, 7.5, 14
#: mm on paper: what an extension line leaves free at the part and reaches beyond; a centre line past the outline.
_FREE, _BEYOND, _PAST = 1.0, 2.0, 2.5
#: mm on paper: an arrow; air round texts; a text above its line.
ARROW, _AIR, _ABOVE = 3.0, 0.8, 1.0
#: What a crossing, a mm through the part, a row further out, the less usual side cost.
_CROSSING, _THROUGH, _FURTHER, _OTHER_SIDE = 40.0, 1.0, 2.0, 1.0
#: What it gains to go on from a size in a row.
_CHAINED = 1.5
#: mm on paper: the circle at the origin of running dimensions.
_ORIGIN = 1.0
#: mm on paper: between a theoretically exact size and its frame.
_FRAME = 0.7
#: mm on paper: extension lines that are nearer are one.
_SAME = 1e-3
#: What a leader costs over each line of the part, and a text that stands within its outline.
_OVER_INK, _INSIDE = 1.5, 15.0
#: What the place of a diameter may cost before it is written at a leader.
ACROSS = 20.0
#: Degrees of leaders, and mm by which they grow.
_ANGLES = (45, 60, 120, 135, 225, 240, 300, 315)
_GROW, _LONGEST, _SHOULDER = 3.0, 110.0, 2.0
#: So many leaders are looked at together.
_TOGETHER = 48
#: Width of the smallest text that fits between arrows.
_ROOM = 2 * ARROW + 1.0


@dataclass(slots=True)
class _Row:
    """What stands in one row beside a view: spans along it."""

    lines: list[tuple[float, float]] = field(default_factory=list)
    #: Of each line: between what it measures.
    spans: list[tuple[float, float]] = field(default_factory=list)
    texts: list[tuple[float, float]] = field(default_factory=list)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Candidate:
    cost: float
    side: int
    row: int
    span: tuple[float, float]
    ends: tuple[float, float]
    text_at: float
    starts: tuple[tuple[float, float], tuple[float, float]]


class ViewPlacing:
    """The dimensions of one view, placed one after the other.

    Parameters
    ----------
    view
        The view.
    ground
        Its own lines: outline, hatching, centre lines.
    """

    def __init__(self, view: PartView, ground: Drawing) -> None:
        self.view = view
        self.drawing = Drawing()
        self._ground = ground
        self._ink = Segments([line.points for line in ground.lines])
        #: By direction and side (-1 below or left, 1 above or right): rows from the outline out.
        self._rows: dict[tuple[int, int], list[_Row]] = {
            (along, side): [_Row() for _ in range(_ROWS)] for along in (0, 1) for side in (-1, 1)
        }
        #: By direction and side: where extension lines run, from what depth, and how many rows out.
        self._extensions: dict[tuple[int, int], list[tuple[float, int]]] = {key: [] for key in self._rows}
        #: Sizes that stand where lines cross, or run far through the part.
        self.crossed: list[str] = []

    def put_linear(
        self, name: str, note: Linear, ends: Ends, shift: Sequence[float] = (0.0, 0.0), *, within: float = math.inf
    ) -> bool:
        """Place a size between two places; False where no row is free, or none within a cost."""
        for best in sorted(self._candidates(note, ends), key=lambda candidate: candidate.cost):
            if best.cost > within:
                return False
            lines, text = self._drawn(name, note, ends, best, shift)
            if any(shift) or self._is_clear(lines, text):
                self._take(ends, best, note, lines, text, name)
                if best.cost >= _CROSSING:
                    self.crossed.append(name)
                return True
        return False

    def _is_clear(self, lines: Sequence[Line], text: Text) -> bool:
        """Say whether a size keeps clear of what runs the other way, and of the view itself."""
        box = grown(text.box, _AIR / 2)
        others = [other.box for other in (*self.drawing.texts, *self._ground.texts)]
        if any(meet(box, other) for other in others) or self._ink.meet_box(box):
            return False
        if Segments([line.points for line in self.drawing.lines]).meet_box(box):
            return False
        near = np.array([grown(other, 0.2) for other in others]).reshape(-1, 4)
        return not Segments([line.points for line in lines]).meet_boxes(near).any()

    def _candidates(self, note: Linear, ends: Ends) -> Iterator[_Candidate]:
        along, (low, high) = ends.along, ends.span
        wide = text_width(note.text, TEXT) + 2 * _AIR
        fits = high - low >= wide + _ROOM
        places = [(low + high) / 2] if fits else [high + _ROOM + wide / 2, low - _ROOM - wide / 2]
        usual = -1 if along == 0 else 1
        for side in (-1, 1):
            through, starts = self._starts(ends, side)
            for row in range(_ROWS):
                for middle in places:
                    reach = (
                        (low, high)
                        if fits
                        else (min(low - _ROOM, middle - wide / 2), max(high + _ROOM, middle + wide / 2))
                    )
                    text = (middle - wide / 2, middle + wide / 2)
                    crossings = self._crossings(along, side, row, (low, high), reach, text)
                    if crossings is None:
                        continue
                    cost = _CROSSING * crossings + _FURTHER * row + _THROUGH * through
                    cost += 0.0 if side == usual else _OTHER_SIDE
                    if fits and any(_meet((low, high), other) for other in self._rows[along, side][row].lines):
                        cost -= _CHAINED
                    yield _Candidate(cost=cost, side=side, row=row, span=(low, high), ends=reach, text_at=middle,
                                     starts=starts)  # fmt: skip

    def _starts(self, ends: Ends, side: int) -> tuple[float, tuple[tuple[float, float], tuple[float, float]]]:
        """Return how far extension lines run through the part, and from where to where each is a centre line."""
        size = self.view.size[1 - ends.along]
        edge = 0.0 if side < 0 else size
        through, starts = 0.0, []
        for place in ends.places:
            own = place.edge[0] if side < 0 else place.edge[1]
            own = min(max(own, 0.0), size) if not place.is_axis else own
            if not place.is_axis:
                through += abs(own - edge)
            starts.append((own, edge + side * _PAST if place.is_axis else own))
        return through, (starts[0], starts[1])

    def _crossings(
        self,
        along: int,
        side: int,
        row: int,
        span: tuple[float, float],
        reach: tuple[float, float],
        text: tuple[float, float],
    ) -> int | None:
        """Count the lines that a place crosses; None where it is taken."""
        rows, extensions = self._rows[along, side], self._extensions[along, side]
        if any(_overlap(reach, other) and not (reach == span and _meet(span, other)) for other in rows[row].lines):
            return None
        if any(text[0] < at < text[1] and until >= row for at, until in extensions):
            return None
        if any(other[0] < at < other[1] for inner in rows[: row + 1] for other in inner.texts for at in span):
            return None
        # an extension that coincides with one of the line's own begins where that ends
        crossed = sum(
            other[0] < at < other[1] and not _is_end(at, own)
            for inner in rows[:row]
            for other, own in zip(inner.lines, inner.spans, strict=True)
            for at in span
        )
        return crossed + sum(
            reach[0] < at < reach[1] and not _is_end(at, span) and until > row for at, until in extensions
        )

    def _drawn(
        self, name: str, note: Linear, ends: Ends, best: _Candidate, shift: Sequence[float]
    ) -> tuple[list[Line], Text]:
        along, side, row = ends.along, best.side, best.row
        edge = 0.0 if side < 0 else self.view.size[1 - along]
        out = ROW * round(shift[1 - along] / ROW)  # rows catch what is moved
        level = edge + side * (FIRST + ROW * row) + out

        def at(own: float, across: float) -> tuple[float, float]:
            return (own, across) if along == 0 else (across, own)

        lines = [Line(kind="dimension", points=(at(best.ends[0], level), at(best.ends[1], level)), dimension=name)]
        for own, place, (start, past) in zip(best.span, ends.places, best.starts, strict=True):
            if place.is_axis and abs(past - start) > 0.1:
                lines.append(Line(kind="centre", points=(at(own, start), at(own, past)), dimension=name))
            begin = past if place.is_axis else past + side * _FREE
            before = [until for other, until in self._extensions[along, side] if abs(other - own) < _SAME]
            if before:
                begin = edge + side * (FIRST + ROW * max(before) + _BEYOND)
            if side * (level - begin) > 0:
                points = (at(own, begin), at(own, level + side * _BEYOND))
                lines.append(Line(kind="extension", points=points, dimension=name))
        inside = best.ends == best.span
        for own, way in zip(best.span, (-1.0, 1.0) if inside else (1.0, -1.0), strict=True):
            lines.append(Line(kind="arrow", points=(at(own - way * ARROW, level), at(own, level)), dimension=name))
        lift = (TEXT / 2 + _ABOVE) * (1.0 if along == 0 else -1.0)
        middle = at(best.text_at + shift[along], level + lift)
        text = Text(role="dimension", text=note.text, at=middle, upright=along == 1, dimension=name)
        return [*lines, *_frame(text, note, name)], text

    def _take(self, ends: Ends, best: _Candidate, note: Linear, lines: Sequence[Line], text: Text, name: str) -> None:
        along, side, row = ends.along, best.side, best.row
        self.drawing.lines += lines
        self.drawing.texts.append(text)
        wide = text_width(note.text, TEXT) / 2 + _AIR
        self._rows[along, side][row].lines.append(best.ends)
        self._rows[along, side][row].spans.append(best.span)
        self._rows[along, side][row].texts.append((best.text_at - wide, best.text_at + wide))
        self._extensions[along, side] += [(own, row) for own in best.span]

    def put_running(
        self,
        names: Sequence[str],
        notes: Sequence[Linear],
        ends: Sequence[Ends],
        datum: float,
        levels: Sequence[float],
    ) -> bool:
        """Place sizes from one datum on one line, the shortest first; False where no row is free for them.

        Parameters
        ----------
        names, notes, ends
            Of the sizes.
        datum, levels
            mm on paper along them: where they begin, and where each ends.
        """
        along = ends[0].along
        wide = max(text_width(note.text, TEXT) for note in notes) + _BEYOND + 2 * _AIR
        deep = math.ceil(wide / ROW)
        for side in (-1, 1) if along == 0 else (1, -1):
            for row in range(_ROWS - deep):
                if not self._is_free(along, side, row, deep, datum, levels):
                    continue
                lines, texts = self._running(names, notes, ends, datum, levels, side, row)
                if all(self._is_clear([line for line in lines if line.kind != "centre"], text) for text in texts):
                    self.drawing.lines += lines
                    self.drawing.texts += texts
                    span = (min(datum, *levels), max(datum, *levels))
                    for taken in self._rows[along, side][row : row + deep + 1]:
                        taken.lines.append(span)
                        taken.spans.append(span)
                    self._extensions[along, side] += [(own, row + deep) for own in (datum, *levels)]
                    return True
        return False

    def _is_free(self, along: int, side: int, row: int, deep: int, datum: float, levels: Sequence[float]) -> bool:
        span = (min(datum, *levels) - TEXT, max(datum, *levels) + TEXT)
        rows, extensions = self._rows[along, side], self._extensions[along, side]
        if any(_overlap(span, other) for taken in rows[row : row + deep + 1] for other in taken.lines):
            return False
        if any(span[0] < at < span[1] and until >= row for at, until in extensions):
            return False
        return not any(
            other[0] < at < other[1] for inner in rows[:row] for other in inner.texts for at in (datum, *levels)
        )

    def _running(
        self,
        names: Sequence[str],
        notes: Sequence[Linear],
        ends: Sequence[Ends],
        datum: float,
        levels: Sequence[float],
        side: int,
        row: int,
    ) -> tuple[list[Line], list[Text]]:
        along = ends[0].along
        edge = 0.0 if side < 0 else self.view.size[1 - along]
        level = edge + side * (FIRST + ROW * row)

        def at(own: float, across: float) -> tuple[float, float]:
            return (own, across) if along == 0 else (across, own)

        turn = np.linspace(0, 2 * math.pi, 25)
        circle = tuple(at(datum + _ORIGIN * float(np.cos(a)), level + _ORIGIN * float(np.sin(a))) for a in turn)
        lines = [Line(kind="symbol", points=circle, dimension=names[0])]
        texts = []
        before = datum
        for k, (name, note, own, end) in enumerate(zip(names, notes, ends, levels, strict=True)):
            _, starts = self._starts(own, side)
            way = 1.0 if end > before else -1.0
            for place, (start, past), span_end in zip(own.places, starts, own.span, strict=True):
                is_datum = abs(span_end - end) > _SAME
                if is_datum and k:
                    continue
                if place.is_axis and abs(past - start) > 0.1:
                    lines.append(Line(kind="centre", points=(at(span_end, start), at(span_end, past)), dimension=name))
                begin = past if place.is_axis else past + side * _FREE
                if side * (level - begin) > 0:
                    points = (at(span_end, begin), at(span_end, level + side * _BEYOND))
                    lines.append(Line(kind="extension", points=points, dimension=name))
            lines.append(Line(kind="dimension", points=(at(before, level), at(end, level)), dimension=name))
            lines.append(Line(kind="arrow", points=(at(end - way * ARROW, level), at(end, level)), dimension=name))
            out = level + side * (_BEYOND + _AIR + text_width(note.text, TEXT) / 2)
            text = Text(role="dimension", text=note.text, at=at(end, out), upright=along == 0, dimension=name)
            lines += _frame(text, note, name)
            texts.append(text)
            before = end
        return lines, texts

    def put_pointed(self, name: str, note: Pointed, shift: Sequence[float] = (0.0, 0.0)) -> bool:
        """Place a note with a leader from one of its places; False where none is free."""
        free = [
            candidate for tip, radius in self._tips(note) for candidate in self._leaders(name, note, tip, radius, shift)
        ]
        best: tuple[float, Line, Line, Text] | None = None
        free.sort(key=lambda candidate: candidate[0])
        taken = _Taken(self.drawing, self._ground, self._ink, self.view.size)
        for first in range(0, len(free), _TOGETHER):
            together = free[first : first + _TOGETHER]
            if best is not None and together[0][0] >= best[0]:
                break
            for candidate, crossings in zip(together, taken.costs(together), strict=True):
                cost = candidate[0] + float(crossings)
                if math.isfinite(cost) and (best is None or cost < best[0]):
                    best = (cost, *candidate[1:])
        if best is None:
            return False
        _, leader, shoulder, text = best
        tip, foot = leader.points[0], leader.points[-1]
        length = math.dist(tip, foot)
        back = (tip[0] + (foot[0] - tip[0]) * ARROW / length, tip[1] + (foot[1] - tip[1]) * ARROW / length)
        self.drawing.lines += [leader, Line(kind="arrow", points=(back, tip), dimension=name)]
        self.drawing.lines += [shoulder, *_frame(text, note, name)]
        self.drawing.texts.append(text)
        return True

    def _tips(self, note: Pointed) -> list[tuple[tuple[float, float], float]]:
        """Return the places at which a leader may end, each with the radius of the circle round it."""
        if note.target == "hole" and self.view.seen_along(note.direction):
            return [(self.view.at(point), note.radius * self.view.scale) for point in note.points]
        if note.target == "arc" and self.view.seen_along(note.direction):
            middle = self.view.at(note.points[0])
            return [(point, 0.0) for point in self._on_arc(middle, note.radius * self.view.scale)]
        return [(self._nearest_ink(self.view.at(point)), 0.0) for point in note.points]

    def _on_arc(self, middle: tuple[float, float], radius: float) -> list[tuple[float, float]]:
        """Return the middle of the edge that runs round a point at a distance."""
        near = max(0.05, 0.01 * radius)
        points = [
            point
            for line in self.view.visible
            for point in self.view.on_paper(line)
            if abs(math.dist(point, middle) - radius) < near
        ]
        if not points:
            return [middle]
        mean = np.mean(points, axis=0)
        return [min(points, key=lambda point: math.dist(point, mean))]

    def _nearest_ink(self, point: tuple[float, float]) -> tuple[float, float]:
        """Return the place of the outline that is nearest to a point."""
        return Segments([piece for line in self.view.visible for piece in self.view.pieces(line)]).nearest(point)

    def _leaders(
        self, name: str, note: Pointed, tip: tuple[float, float], radius: float, shift: Sequence[float]
    ) -> Iterator[tuple[float, Line, Line, Text]]:
        """Yield leaders from a place outwards, shortest first in each direction, with their cost."""
        wide, room = text_width(note.text, TEXT), self._room()
        for angle in _ANGLES:
            x, y = math.cos(math.radians(angle)), math.sin(math.radians(angle))
            start = (tip[0] + radius * x, tip[1] + radius * y)
            side = 1.0 if x > 0 else -1.0
            for step in range(2, int(_LONGEST / _GROW)):
                foot = (start[0] + step * _GROW * x + shift[0], start[1] + step * _GROW * y + shift[1])
                shelf = foot[0] + side * (_SHOULDER + wide)
                middle = (foot[0] + side * (_SHOULDER + wide / 2), foot[1] + TEXT / 2 + _ABOVE)
                leader = Line(kind="leader", points=(start, foot), dimension=name)
                shoulder = Line(kind="leader", points=(foot, (shelf, foot[1])), dimension=name)
                text = Text(role="dimension", text=note.text, at=middle, dimension=name)
                yield step * _GROW + 0.5 * _beyond(text.box, room), leader, shoulder, text

    def _room(self) -> Box:
        """Return the box of the outline and all that stands beside it so far."""
        wide, high = self.view.size
        left, low, right, top = self.drawing.box()
        return min(0.0, left), min(0.0, low), max(wide, right), max(high, top)


def _frame(text: Text, note: Linear | Pointed, name: str) -> list[Line]:
    """Return the frame of a theoretically exact size (ISO 129-1)."""
    if not note.exact:
        return []
    left, low, right, high = grown(text.box, _FRAME)
    points = ((left, low), (right, low), (right, high), (left, high), (left, low))
    return [Line(kind="symbol", points=points, dimension=name)]


class _Taken:
    """What stands beside a view so far, to ask of many leaders at once what they cost."""

    def __init__(self, drawing: Drawing, ground: Drawing, ink: Segments, size: tuple[float, float]) -> None:
        texts = [grown(text.box, _AIR / 2) for text in (*drawing.texts, *ground.texts)]
        self._texts = np.array(texts).reshape(-1, 4)
        self._ink, self._outline = ink, np.array([[0.0, 0.0, *size]])
        self._lines = Segments([line.points for line in drawing.lines])
        self._leaders = Segments([line.points for line in drawing.lines if line.kind == "leader"])
        self._sizes = Segments([line.points for line in drawing.lines if line.kind == "dimension"])

    def costs(self, candidates: Sequence[tuple[float, Line, Line, Text]]) -> Array:
        """Return what leaders with their shoulders and texts cost by crossings, (m,); infinite where none can be."""
        boxes = np.array([grown(text.box, _AIR) for _, _, _, text in candidates])
        leaders = np.array([leader.points for _, leader, _, _ in candidates])
        shoulders = np.array([shoulder.points for _, _, shoulder, _ in candidates])
        is_taken = boxes_meet(boxes, self._texts) | self._lines.meet_boxes(boxes) | self._ink.meet_boxes(boxes)
        costs = np.where(is_taken, np.inf, 0.0)
        free = np.flatnonzero(~is_taken)
        for lines in (leaders[free], shoulders[free]):
            costs[free] += np.where(run_through(lines, self._texts).any(axis=1), np.inf, 0.0)
            costs[free] += np.where(self._leaders.crossings(lines) > 0, np.inf, 0.0)
            costs[free] += 22.0 * self._sizes.crossings(lines) + 8.0 * self._lines.crossings(lines)
        costs[free] += np.where(self._ink.crossings(shoulders[free]) > 0, np.inf, 0.0)
        costs[free] += _OVER_INK * self._ink.crossings(leaders[free])
        costs[free] += np.where(boxes_meet(boxes[free], self._outline), _INSIDE, 0.0)
        return costs


def _beyond(box: Box, room: Box) -> float:
    """Return by how much a box makes another larger, mm."""
    ways = (room[0] - box[0], room[1] - box[1], box[2] - room[2], box[3] - room[3])
    return sum(max(0.0, way) for way in ways)


def _is_end(at: float, span: tuple[float, float]) -> bool:
    return min(abs(at - end) for end in span) < _SAME


def _meet(a: tuple[float, float], b: tuple[float, float]) -> bool:
    """Say whether two lines of one row go on from each other, as in a chain: their arrows meet at one extension."""
    return abs(a[0] - b[1]) < _SAME or abs(a[1] - b[0]) < _SAME


def _overlap(a: tuple[float, float], b: tuple[float, float]) -> bool:
    return a[0] < b[1] + 2 * _AIR and b[0] < a[1] + 2 * _AIR


Shifts = Mapping[str, Sequence[float]]
