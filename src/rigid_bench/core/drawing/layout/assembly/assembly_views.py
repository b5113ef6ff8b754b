"""The section of an assembly, hatched by part, with its fits and overall sizes, and the view that shows the cut."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from rigid_bench.core.drawing.ink import Box, Drawing, Line, Text
from rigid_bench.core.drawing.layout.ends import ends_in
from rigid_bench.core.drawing.layout.paper import Angle
from rigid_bench.core.drawing.layout.part_view import PartView, cutting_line, hatched_areas
from rigid_bench.core.drawing.layout.placing import ViewPlacing
from rigid_bench.core.drawing.lettering import TITLE
from rigid_bench.core.drawing.notes.note import Linear
from rigid_bench.core.drawing.notes.written import Written
from rigid_bench.core.drawing.report import DimensionReport, ViewReport
from rigid_bench.core.formats.pictures import AssemblySection, SectionModel, ViewModel
from rigid_bench.core.part.directions import SQUARE_VIEWS, axes_of
from rigid_bench.core.standards.scales import SCALES, scale_text

_LETTER = "A"
#: mm on paper: between the two views; from the section to its label; a centre line past a fit.
_BETWEEN, _LABEL, _BEYOND = 12.0, 4.0, 4.0
#: mm on paper between hatching lines of one part and the next.
_HATCHES = (2.5, 1.8, 3.2)


@dataclass(frozen=True, slots=True, kw_only=True)
class SectionView:
    """One of the two views with all that belongs to it."""

    view: ViewReport
    drawing: Drawing
    #: Where the lower left corner of its outline falls.
    spot: tuple[float, float]
    dimensions: tuple[DimensionReport, ...] = ()


def lay_out_section(
    section: AssemblySection, room: Box, angle: Angle, written: Written
) -> tuple[float, list[SectionView]]:
    """Lay out the section and the view beside it at the largest standard scale that fits.

    Parameters
    ----------
    section
        The assembly, cut.
    room
        Where both stand.
    angle
        Third angle puts what is seen from above above, first angle below (ISO 5456-2).
    written
        How sizes are written.

    Returns
    -------
    scale : float
    views : list of SectionView
        The section, then the view that shows where it is cut.
    """
    is_row = section.beside.name != "top" and section.direction != "top"
    across, along = (1, 0) if is_row else (0, 1)
    size = (room[2] - room[0], room[3] - room[1])
    for scale in SCALES:
        bare = [np.ptp(np.array(view.box), axis=0) * scale for view in (section.view, section.beside)]
        is_too_large = bare[0][along] + bare[1][along] > size[along] or max(own[across] for own in bare) > size[across]
        if is_too_large and scale > SCALES[-1]:
            continue
        drawn = [_section(section, scale, written), _beside(section, scale)]
        boxes = [drawing.box() for _, drawing, _ in drawn]
        taken = sum(box[along + 2] - box[along] for box in boxes) + _BETWEEN
        reach = max(box[across + 2] for box in boxes) - min(box[across] for box in boxes)
        if (taken <= size[along] and reach <= size[across]) or scale == SCALES[-1]:
            break
    first, second = (0, 1) if _is_section_first(section, angle) else (1, 0)
    spare = max(0.0, (size[along] - taken) / 3)
    at = {first: room[along] + spare - boxes[first][along]}
    at[second] = at[first] + boxes[first][along + 2] + _BETWEEN + spare - boxes[second][along]
    middle = (room[across] + room[across + 2]) / 2
    level = middle - (min(box[across] for box in boxes) + max(box[across + 2] for box in boxes)) / 2
    sections = []
    for number, (view, drawing, dimensions) in enumerate(drawn):
        spot = (at[number], level) if is_row else (level, at[number])
        moved = Drawing()
        moved.add(drawing, *spot)
        sections.append(
            SectionView(view=_report(view, spot, number), drawing=moved, spot=spot, dimensions=tuple(dimensions))
        )
    return scale, sections


def _is_section_first(section: AssemblySection, angle: Angle) -> bool:
    """Say whether the section stands below, or left of, the view beside it."""
    in_third = {("front", "top"): True, ("front", "right side"): True, ("right side", "top"): True,
                ("right side", "front"): False, ("top", "front"): False}  # fmt: skip
    return in_third[section.direction, section.beside.name] == (angle == "third")


def _report(view: PartView, spot: tuple[float, float], number: int) -> ViewReport:
    (x, y), (wide, high) = spot, view.size
    is_section = number == 0
    return ViewReport(
        id=f"v{number + 2}", part=None, of="v3" if is_section else None, kind="section" if is_section else "view",
        form="full" if is_section else None, letter=_LETTER if is_section else None, scale=scale_text(view.scale),
        right=np.round(view.axes[0], 9).tolist(), up=np.round(view.axes[1], 9).tolist(),
        origin=[round(view.origin[0] + x, 3), round(view.origin[1] + y, 3)],
        box=[round(value, 3) for value in (x, y, x + wide, y + high)],
    )  # fmt: skip


def _view(name: str, model: ViewModel, scale: float) -> PartView:
    return PartView(
        name=name, slot="front", axes=axes_of(SQUARE_VIEWS[name]), box=np.array(model.box), scale=scale,
        visible=tuple(model.visible), hidden=(),
    )  # fmt: skip


def _section(
    section: AssemblySection, scale: float, written: Written
) -> tuple[PartView, Drawing, list[DimensionReport]]:
    view = _view(section.direction, section.view, scale)
    ground = view.outline()
    for number, own in enumerate(section.cut):
        apart = _HATCHES[number // 2 % len(_HATCHES)]
        lines = hatched_areas(view, own.areas, apart, is_mirrored=number % 2 == 1)
        ground.lines += [Line(kind="hatching", points=points) for points in lines]
    ground.add(_axes(section, view))
    placer = ViewPlacing(view, ground)
    dimensions = []
    for number, note in enumerate(_notes(section, written), 1):
        ends = ends_in(view, note)
        if ends is not None and placer.put_linear(f"d{number}", note, ends):
            dimensions.append(DimensionReport(id=f"d{number}", checks=list(note.checks), text=note.text, view="v2"))
    ground.add(placer.drawing)
    *_, top = ground.box()
    label = Text(role="label", text=f"{_LETTER}–{_LETTER}", at=(view.size[0] / 2, top + _LABEL), height=TITLE)
    ground.texts.append(label)
    return view, ground, dimensions


def _axes(section: AssemblySection, view: PartView) -> Drawing:
    """Draw the axes of the fits."""
    drawing = Drawing()
    spans: set[tuple[int, float]] = set()
    for fit in section.fits:
        along = view.level_with(fit.direction)
        if along is None:
            continue
        level = view.at(fit.point)[1 - along]
        if (along, round(level, 1)) in spans:
            continue
        spans.add((along, round(level, 1)))
        ends = [(own, level) if along == 0 else (level, own) for own in (-_BEYOND, view.size[along] + _BEYOND)]
        drawing.lines.append(Line(kind="centre", points=(ends[0], ends[1])))
    return drawing


def _notes(section: AssemblySection, written: Written) -> Iterator[Linear]:
    """Yield the overall sizes of the section, then the fits that are asked for."""
    axes = axes_of(SQUARE_VIEWS[section.direction])
    low, high = (np.array(end) @ axes[:2] for end in section.view.box)
    for axis in axes[:2]:
        size = abs(float((high - low) @ axis))
        ends = [_point(low), _point(low + axis * float((high - low) @ axis))]
        yield Linear(
            checks=(), text=written.number(size / written.mm, 2), way=_point(axis), points=(ends[0], ends[1]),
            axes=(None, None), is_extent=True,
        )  # fmt: skip
    for fit in section.fits:
        shaft, hole = (written.number(size / written.mm, 2) for size in (fit.shaft, fit.hole))
        text = f"Ø{shaft} {fit.fit}" if fit.fit else f"Ø{hole}/Ø{shaft}"
        point = _point(np.array(fit.point))
        yield Linear(
            checks=(fit.check,), text=text, way=(0.0, 0.0, 0.0), points=(point, point), axes=(None, None),
            across=_point(np.array(fit.direction)), diameter=fit.hole,
        )  # fmt: skip


def _point(vector: np.ndarray) -> tuple[float, float, float]:
    x, y, z = (float(value) for value in vector)
    return x, y, z


def _beside(section: AssemblySection, scale: float) -> tuple[PartView, Drawing, Sequence[DimensionReport]]:
    view = _view(section.beside.name, section.beside, scale)
    drawing = view.outline()
    model = SectionModel(direction=section.direction, point=section.point, view=section.view, areas=[])
    drawing.add(cutting_line(view, model, _LETTER))
    return view, drawing, ()
