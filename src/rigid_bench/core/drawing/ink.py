"""Lines and texts of a drawing before they are written down: mm on paper, y upwards."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.drawing.lettering import TEXT, text_width
from rigid_bench.core.drawing.report import LineKind, LineReport, Point, TextReport, TextRole

Array = NDArray[np.float64]
#: Left, low, right, high.
Box = tuple[float, float, float, float]
#: mm: wide and narrow lines, line group 0.5 (ISO 128-2).
WIDE, NARROW = 0.5, 0.25
_WIDE_KINDS = {"outline", "frame"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """A polyline."""

    kind: LineKind
    points: tuple[tuple[float, float], ...]
    dimension: str | None = None
    #: Wide, though its kind is narrow: the ends of a cutting line.
    is_heavy: bool = False

    @property
    def width(self) -> float:
        """Mm."""
        return WIDE if self.is_heavy or self.kind in _WIDE_KINDS else NARROW

    def moved(self, dx: float, dy: float) -> "Line":
        """Return the line elsewhere."""
        return replace(self, points=tuple((x + dx, y + dy) for x, y in self.points))


@dataclass(frozen=True, slots=True, kw_only=True)
class Text:
    """A text, by the middle of its box."""

    role: TextRole
    text: str
    at: tuple[float, float]
    height: float = TEXT
    #: Read from the right.
    upright: bool = False
    dimension: str | None = None

    @property
    def box(self) -> Box:
        """The box of its letters."""
        (x, y), wide, high = self.at, text_width(self.text, self.height) / 2, self.height / 2
        wide, high = (high, wide) if self.upright else (wide, high)
        return x - wide, y - high, x + wide, y + high

    @property
    def corners(self) -> list[Point]:
        """Its corners, counter-clockwise from lower left in reading direction."""
        left, low, right, high = self.box
        corners = [[left, low], [right, low], [right, high], [left, high]]
        return corners[1:] + corners[:1] if self.upright else corners

    def moved(self, dx: float, dy: float) -> "Text":
        """Return the text elsewhere."""
        return replace(self, at=(self.at[0] + dx, self.at[1] + dy))


@dataclass(slots=True)
class Drawing:
    """Lines and texts that belong together."""

    lines: list[Line] = field(default_factory=list)
    texts: list[Text] = field(default_factory=list)

    def add(self, other: "Drawing", dx: float = 0.0, dy: float = 0.0) -> None:
        """Take another drawing in, moved."""
        self.lines += [line.moved(dx, dy) for line in other.lines]
        self.texts += [text.moved(dx, dy) for text in other.texts]

    def box(self) -> Box:
        """Return the box of everything; all 0 where there is nothing."""
        return around([*(box_of(line.points) for line in self.lines), *(text.box for text in self.texts)])

    def report(self, view: str | None) -> tuple[list[LineReport], list[TextReport]]:
        """Write it down as what belongs to a view."""
        lines = [
            LineReport(
                kind=line.kind, view=view, width=line.width, dimension=line.dimension,
                points=[[round(x, 3), round(y, 3)] for x, y in line.points],
            )
            for line in self.lines
        ]  # fmt: skip
        texts = [
            TextReport(
                role=text.role, view=view, dimension=text.dimension, text=text.text, height=text.height,
                corners=[[round(x, 3), round(y, 3)] for x, y in text.corners],
            )
            for text in self.texts
        ]  # fmt: skip
        return lines, texts


def box_of(points: Iterable[Sequence[float]]) -> Box:
    """Return the box of points."""
    xs, ys = zip(*points, strict=True)
    return min(xs), min(ys), max(xs), max(ys)


def around(boxes: Sequence[Box]) -> Box:
    """Return the box of boxes; all 0 for none."""
    if not boxes:
        return 0.0, 0.0, 0.0, 0.0
    lefts, lows, rights, highs = zip(*boxes, strict=True)
    return min(lefts), min(lows), max(rights), max(highs)


def grown(box: Box, by: float) -> Box:
    """Return a box that reaches further on every side."""
    return box[0] - by, box[1] - by, box[2] + by, box[3] + by


def meet(a: Box, b: Box) -> bool:
    """Say whether two boxes have something in common."""
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]


class Segments:
    """Many straight pieces of lines, to ask quickly what meets one of them.

    Parameters
    ----------
    lines
        Polylines.
    """

    def __init__(self, lines: Iterable[Sequence[Sequence[float]]]) -> None:
        pieces = [np.stack([np.array(line)[:-1], np.array(line)[1:]], axis=1) for line in lines if len(line) > 1]
        #: (n, 2, 2): from and to, x and y.
        self._ends = np.concatenate([*pieces, np.zeros((0, 2, 2))])

    def meet_box(self, box: Box) -> bool:
        """Say whether any piece runs through a box."""
        return bool(self.meet_boxes(np.array([box]))[0])

    def meet_boxes(self, boxes: Array) -> NDArray[np.bool_]:
        """Say through which boxes, (m, 4), some piece runs, (m,)."""
        return np.asarray(run_through(self._ends, boxes).any(axis=0))

    def crossings(self, lines: Array) -> NDArray[np.int64]:
        """Count the pieces that each of some straight lines, (m, 2, 2), crosses, (m,)."""
        a, b = lines[:, None, 0], lines[:, None, 1]
        c, d = self._ends[None, :, 0], self._ends[None, :, 1]

        def side(p: Array, q: Array, r: Array) -> Array:
            first, second = q - p, r - p
            return np.asarray(first[..., 0] * second[..., 1] - first[..., 1] * second[..., 0])

        crossed = (side(a, b, c) * side(a, b, d) < -1e-9) & (side(c, d, a) * side(c, d, b) < -1e-9)
        return np.asarray(crossed.sum(axis=1), dtype=np.int64)

    def nearest(self, point: tuple[float, float]) -> tuple[float, float]:
        """Return the place on a piece that is nearest to a point; the point itself where there are none."""
        if not len(self._ends):
            return point
        start, way = self._ends[:, 0], self._ends[:, 1] - self._ends[:, 0]
        lengths = np.maximum((way**2).sum(axis=1), 1e-12)
        share = np.clip(((np.array(point) - start) * way).sum(axis=1) / lengths, 0.0, 1.0)
        places = start + share[:, None] * way
        x, y = places[((places - np.array(point)) ** 2).sum(axis=1).argmin()]
        return float(x), float(y)


def run_through(lines: Array, boxes: Array) -> NDArray[np.bool_]:
    """Say of straight lines, (n, 2, 2), through which boxes, (m, 4), each runs, (n, m)."""
    start, way = lines[:, None, 0], (lines[:, 1] - lines[:, 0])[:, None]
    first, last = np.zeros((len(lines), len(boxes))), np.ones((len(lines), len(boxes)))
    for k in (0, 1):
        level = np.abs(way[..., k]) < 1e-12
        steps = np.where(level, 1.0, way[..., k])
        a, b = (boxes[:, k] - start[..., k]) / steps, (boxes[:, k + 2] - start[..., k]) / steps
        outside = level & ((start[..., k] <= boxes[:, k]) | (start[..., k] >= boxes[:, k + 2]))
        near = np.where(level, np.where(outside, np.inf, -np.inf), np.minimum(a, b))
        far = np.where(level, np.inf, np.maximum(a, b))
        first, last = np.maximum(first, near), np.minimum(last, far)
    crosses: NDArray[np.bool_] = first < last
    return crosses


def boxes_meet(boxes: Array, others: Array) -> NDArray[np.bool_]:
    """Say which boxes, (m, 4), have something in common with any of others, (k, 4)."""
    a, b = boxes[:, None], others[None]
    meets: NDArray[np.bool_] = np.any(
        (a[..., 0] < b[..., 2]) & (b[..., 0] < a[..., 2]) & (a[..., 1] < b[..., 3]) & (b[..., 1] < a[..., 3]), axis=1
    )
    return meets
