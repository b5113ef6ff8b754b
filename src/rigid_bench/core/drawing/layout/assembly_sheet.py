"""The assembly's sheet: its picture with balloons (ISO 6433) and the parts list over the title block (ISO 7573)."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from rigid_bench.core.drawing.ink import Box, Drawing, Line, Segments, Text, box_of
from rigid_bench.core.drawing.layout.paper import BLOCK_HIGH, BLOCK_WIDE, Paper, frame_of, table
from rigid_bench.core.drawing.lettering import TITLE
from rigid_bench.core.drawing.report import ItemReport, ViewReport
from rigid_bench.core.exercise.bundle import PartModel
from rigid_bench.core.formats.pictures import AssemblyPictures, ExplodedPictures
from rigid_bench.core.part.directions import PICTORIAL, axes_of
from rigid_bench.core.standards.scales import SCALES, scale_text
from rigid_bench.core.wording import drawing as words

#: mm on paper: a balloon's radius, from the picture to the balloons, between balloons.
_BALLOON, _OUT, _APART = 4.5, 14.0, 3.0
#: mm: columns of the parts list.
_WIDTHS = (14.0, 14.0, 62.0, 60.0, 30.0)
_ROW, _INSIDE = 6.0, 6.0
#: Lines of the list that fit beside the picture.
_MOST_ROWS = 18


@dataclass(frozen=True, slots=True, kw_only=True)
class AssemblySheet:
    """An assembly's sheet, laid out."""

    scale: float
    view: ViewReport
    #: What belongs to the view, and what to the sheet.
    picture: Drawing
    own: Drawing
    items: tuple[ItemReport, ...]


def lay_out(pictures: AssemblyPictures, parts: Sequence[PartModel], *, paper: Paper) -> AssemblySheet:
    """Lay the assembly's sheet out, together or drawn apart.

    Parameters
    ----------
    pictures
        The assembly as it is seen.
    parts
        Of the exercise, in the order of the list.
    paper
        A4 or A3.
    """
    left, low, right, high = frame_of(paper)
    counted = {part.id: sum(seen.part == part.id for seen in pictures.instances) for part in parts}
    shown = [part for part in parts if counted[part.id]] or list(parts)
    items = tuple(
        ItemReport(item=number, part=part.id, quantity=counted[part.id] or part.count)
        for number, part in enumerate(shown, 1)
    )
    rows = [list(words.PARTS_LIST)] + [
        [str(item.item), str(item.quantity), part.name, part.material, part.process or words.ORIGINS[part.origin]]
        for item, part in zip(items, shown, strict=True)
    ]
    listed = table(rows, _WIDTHS, row_high=_ROW)
    own = Drawing()
    own.add(listed, right - BLOCK_WIDE, low + BLOCK_HIGH)
    top = low + BLOCK_HIGH + _ROW * len(rows)
    room: Box = (left + _INSIDE, top + _INSIDE, right - _INSIDE, high - _INSIDE)
    if top > (low + high) / 2:  # a long list leaves the picture the place beside it
        room = (left + _INSIDE, low + _INSIDE, right - BLOCK_WIDE - _INSIDE, high - _INSIDE)
    return _drawn(pictures, items, own, room)


def _drawn(pictures: AssemblyPictures, items: tuple[ItemReport, ...], own: Drawing, room: Box) -> AssemblySheet:
    (left, low), (right, high) = pictures.view.box
    around = 2 * (_OUT + 2 * _BALLOON)
    wide, tall = room[2] - room[0] - around, room[3] - room[1] - around / 2
    scale = next(
        (scale for scale in SCALES if (right - left) * scale <= wide and (high - low) * scale <= tall), SCALES[-1]
    )
    x = (room[0] + room[2] - (left + right) * scale) / 2
    y = (room[1] + room[3] - (low + high) * scale) / 2
    lines = [
        Line(kind="outline", points=tuple((px * scale + x, py * scale + y) for px, py in line))
        for line in pictures.view.visible
    ]
    if isinstance(pictures, ExplodedPictures):
        lines += [
            Line(kind="trail", points=tuple((px * scale + x, py * scale + y) for px, py in trail))
            for trail in pictures.trails
        ]
    box = box_of([(left * scale + x, low * scale + y), (right * scale + x, high * scale + y)])
    points = _points(pictures, scale, x, y)
    picture = Drawing(lines=lines)
    picture.add(_balloons(items, points, box))
    axes = axes_of(PICTORIAL)
    view = ViewReport(
        id="v1", part=None, kind="exploded" if isinstance(pictures, ExplodedPictures) else "assembly",
        scale=scale_text(scale), right=np.round(axes[0], 9).tolist(),
        up=np.round(axes[1], 9).tolist(), origin=[round(x, 3), round(y, 3)], box=[round(value, 3) for value in box],
    )  # fmt: skip
    return AssemblySheet(scale=scale, view=view, picture=picture, own=own, items=items)


def _points(pictures: AssemblyPictures, scale: float, x: float, y: float) -> dict[str, tuple[float, float]]:
    """Return for each part a point of an edge of it that is seen."""
    points: dict[str, tuple[float, float]] = {}
    for seen in pictures.instances:
        if seen.point is not None:
            points.setdefault(seen.part, (seen.point[0] * scale + x, seen.point[1] * scale + y))
    return points


def _balloons(items: Sequence[ItemReport], points: Mapping[str, tuple[float, float]], box: Box) -> Drawing:
    """Draw balloons in columns left and right of the picture, their leaders so that none crosses another."""
    middle = (box[0] + box[2]) / 2
    drawing = Drawing()
    shown = [item for item in items if item.part in points]
    sides: dict[float, list[ItemReport]] = {-1.0: [], 1.0: []}
    for item in sorted(shown, key=lambda own: points[own.part][0]):
        sides[-1.0 if points[item.part][0] < middle else 1.0].append(item)
    while abs(len(sides[-1.0]) - len(sides[1.0])) > 1:
        many, few = (-1.0, 1.0) if len(sides[-1.0]) > len(sides[1.0]) else (1.0, -1.0)
        nearest = min(sides[many], key=lambda item: abs(points[item.part][0] - middle))
        sides[many].remove(nearest)
        sides[few].append(nearest)
    for side, own in sides.items():
        x = box[0] - _OUT if side < 0 else box[2] + _OUT
        spots = [(x, y) for y in _levels([points[item.part][1] for item in own])]
        order = _uncrossed(sorted(own, key=lambda item: points[item.part][1]), spots, points)
        for item, spot in zip(order, spots, strict=True):
            drawing.add(_balloon(item, spot, points[item.part]))
    return drawing


def _levels(wanted: Sequence[float]) -> list[float]:
    """Return levels near the ones that are wanted, lowest first, none too near to the next."""
    step = 2 * _BALLOON + _APART
    levels = sorted(wanted)
    for k in range(1, len(levels)):
        levels[k] = max(levels[k], levels[k - 1] + step)
    shift = (sum(wanted) - sum(levels)) / max(len(levels), 1)
    return [level + shift for level in levels]


def _uncrossed(
    items: Sequence[ItemReport], spots: Sequence[tuple[float, float]], points: Mapping[str, tuple[float, float]]
) -> list[ItemReport]:
    """Exchange items until no two leaders cross: each exchange makes them shorter, so that it ends."""
    order = list(items)
    changed = True
    while changed:
        changed = False
        for a in range(len(order)):
            for b in range(a):
                one, two = (points[order[k].part] for k in (a, b))
                if Segments([[one, spots[a]]]).crossings(np.array([[two, spots[b]]]))[0]:
                    order[a], order[b] = order[b], order[a]
                    changed = True
    return order


def _balloon(item: ItemReport, spot: tuple[float, float], point: tuple[float, float]) -> Drawing:
    length = math.dist(spot, point)
    way = ((point[0] - spot[0]) / length, (point[1] - spot[1]) / length)
    start = (spot[0] + way[0] * _BALLOON, spot[1] + way[1] * _BALLOON)
    turn = np.linspace(0, 2 * math.pi, 49)
    circle = tuple((spot[0] + _BALLOON * float(np.cos(a)), spot[1] + _BALLOON * float(np.sin(a))) for a in turn)
    back = (point[0] - 2.5 * way[0], point[1] - 2.5 * way[1])
    return Drawing(
        lines=[
            Line(kind="balloon", points=circle),
            Line(kind="leader", points=(point, start)),
            Line(kind="arrow", points=(back, point)),
        ],
        texts=[Text(role="balloon", text=str(item.item), at=spot, height=TITLE - 1.0)],
    )
