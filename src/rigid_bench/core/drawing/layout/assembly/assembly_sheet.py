"""The assembly's sheet: its picture with balloons (ISO 6433) and the parts list over the title block (ISO 7573)."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from rigid_bench.core.drawing.ink import Box, Drawing, Line, Segments, Text, box_of
from rigid_bench.core.drawing.layout.assembly.assembly_views import SectionView, lay_out_section
from rigid_bench.core.drawing.layout.paper import BLOCK_HIGH, BLOCK_WIDE, Angle, Paper, frame_of, table
from rigid_bench.core.drawing.lettering import SMALL, TITLE, text_width
from rigid_bench.core.drawing.notes.written import Written
from rigid_bench.core.drawing.report import DimensionReport, ItemReport, ViewReport
from rigid_bench.core.formats.pictures import AssemblyPictures, ExplodedPictures
from rigid_bench.core.part.directions import PICTORIAL, axes_of
from rigid_bench.core.standards.scales import SCALES, scale_of, scale_text
from rigid_bench.core.wording import drawing as words
from rigid_bench.core.wording.language import translated

#: mm on paper: a balloon's radius, from the picture to the balloons, between balloons.
_BALLOON, _OUT, _APART = 4.5, 14.0, 3.0
#: mm: columns of the parts list.
_WIDTHS = (14.0, 14.0, 62.0, 60.0, 30.0)
_ROW, _INSIDE = 6.0, 6.0
#: mm by which a leader rises over the part that it crosses in a section.
_LIFT = 12.0
#: mm: a line of the step list.
_STEP = 4.2


@dataclass(frozen=True, slots=True, kw_only=True)
class ListedPart:
    """A line of the parts list (ISO 7573)."""

    id: str
    name: str
    material: str = ""
    #: How it is made, or that it is bought in.
    how: str = ""
    #: How many the exercise asks for.
    count: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class AssemblySheet:
    """An assembly's sheet, laid out."""

    scale: float
    #: Each view with what belongs to it, and what belongs to the sheet.
    views: tuple[tuple[ViewReport, Drawing], ...]
    own: Drawing
    items: tuple[ItemReport, ...]
    dimensions: tuple[DimensionReport, ...] = ()


def lay_out(
    pictures: AssemblyPictures,
    parts: Sequence[ListedPart],
    *,
    paper: Paper,
    angle: Angle,
    written: Written,
    lines: Sequence[str] = (),
) -> AssemblySheet:
    """Lay the assembly's sheet out, together with the section that shows its fits, or drawn apart.

    Parameters
    ----------
    pictures
        The assembly as it is seen.
    parts
        Of the exercise, in the order of the list.
    paper, angle
        Of the sheet.
    written
        How sizes are written.
    lines
        What is listed beside the parts list, such as how it goes together.
    """
    left, low, right, high = frame_of(paper)
    counted = {part.id: sum(seen.part == part.id for seen in pictures.instances) for part in parts}
    shown = [part for part in parts if counted[part.id]] or list(parts)
    items = tuple(
        ItemReport(item=number, part=part.id, quantity=counted[part.id] or part.count)
        for number, part in enumerate(shown, 1)
    )
    rows = [[translated(head) for head in words.PARTS_LIST]] + [
        [str(item.item), str(item.quantity), part.name, part.material, part.how]
        for item, part in zip(items, shown, strict=True)
    ]
    own = Drawing()
    own.add(table(rows, _WIDTHS, row_high=_ROW), right - BLOCK_WIDE, low + BLOCK_HIGH)
    top = low + BLOCK_HIGH + _ROW * len(rows)
    if lines:
        listed = _listed(lines, (left, low, right, top), is_beside=right - left > 1.4 * BLOCK_WIDE)
        own.add(listed)
        top = max(top, listed.box()[3])
    room: Box = (left + _INSIDE, top + _INSIDE, right - _INSIDE, high - _INSIDE)
    if top > (low + high) / 2 and right - left > 1.5 * BLOCK_WIDE:  # a long list leaves the place beside it
        room = (left + _INSIDE, low + _INSIDE, right - BLOCK_WIDE - _INSIDE, high - _INSIDE)
    if pictures.section is None:
        scale, view, picture = _drawn(pictures, items, room)
        return AssemblySheet(scale=scale, views=((view, picture),), own=own, items=items)
    pictorial_room, section_room = _parted(pictures, room)
    if pictorial_room[2] < right - BLOCK_WIDE - _INSIDE:  # beside the list
        pictorial_room = (pictorial_room[0], low + _INSIDE, *pictorial_room[2:])
    scale, sections = lay_out_section(pictures.section, section_room, angle, written)
    _, view, picture = _drawn(pictures, items, pictorial_room)
    sections[0].drawing.add(_balloons_of_hidden(pictures, items, sections[0]))
    views = ((view, picture), *((section.view, section.drawing) for section in sections))
    dimensions = tuple(own for section in sections for own in section.dimensions)
    return AssemblySheet(scale=scale, views=views, own=own, items=items, dimensions=dimensions)


def _listed(lines: Sequence[str], room: Box, *, is_beside: bool) -> Drawing:
    """Write lines beside the parts list, or over it."""
    left, low, right, top = room
    wide = (right - BLOCK_WIDE if is_beside else right) - left - 4.0
    bottom = low + 2.0 if is_beside else top + 2.0
    drawing = Drawing()
    for number, text in enumerate(lines, 1):
        height = min(SMALL, SMALL * wide / max(text_width(text, SMALL), 1e-9))
        at = (left + 2.0 + text_width(text, height) / 2, bottom + (len(lines) - number + 0.5) * _STEP)
        drawing.texts.append(Text(role="note", text=text, at=at, height=round(height, 3)))
    return drawing


def _balloons_of_hidden(pictures: AssemblyPictures, items: Sequence[ItemReport], section: SectionView) -> Drawing:
    """Draw balloons at the section for the parts that no edge shows in the pictorial view."""
    assert pictures.section
    seen = {own.part for own in pictures.instances if own.point is not None}
    scale = scale_of(section.view.scale)
    x, y = section.spot
    (left, low), _ = pictures.section.view.box
    points: dict[str, tuple[float, float]] = {}
    for own in pictures.section.cut:
        if own.part not in seen and own.areas:
            ring = np.array(own.areas[0][0])
            point = ring[int(np.abs(ring - ring.mean(axis=0)).sum(axis=1).argmax())]
            points.setdefault(own.part, (float((point[0] - left) * scale + x), float((point[1] - low) * scale + y)))
    hidden = [item for item in items if item.part in points]
    return _balloons(hidden, points, section.drawing.box(), lift=_LIFT)


def _parted(pictures: AssemblyPictures, room: Box) -> tuple[Box, Box]:
    """Part the room between the pictorial view at the left and the section with its view at the right."""
    left, low, right, high = room
    (a, _), (b, _) = pictures.view.box
    assert pictures.section
    (c, _), (d, _) = pictures.section.view.box
    share = min(max((b - a) / (b - a + 1.3 * (d - c)), 0.35), 0.6)
    middle = left + share * (right - left)
    return (left, low, middle - _INSIDE / 2, high), (middle + _INSIDE / 2, low, right, high)


def _drawn(pictures: AssemblyPictures, items: Sequence[ItemReport], room: Box) -> tuple[float, ViewReport, Drawing]:
    """Draw the pictorial view with its balloons; return its scale, what is reported of it, and its drawing."""
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
    return scale, view, picture


def _points(pictures: AssemblyPictures, scale: float, x: float, y: float) -> dict[str, tuple[float, float]]:
    """Return for each part a point of an edge of it that is seen."""
    points: dict[str, tuple[float, float]] = {}
    for seen in pictures.instances:
        if seen.point is not None:
            points.setdefault(seen.part, (seen.point[0] * scale + x, seen.point[1] * scale + y))
    return points


def _balloons(
    items: Sequence[ItemReport], points: Mapping[str, tuple[float, float]], box: Box, *, lift: float = 0.0
) -> Drawing:
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
        spots = [(x, y + lift) for y in _levels([points[item.part][1] for item in own])]
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
