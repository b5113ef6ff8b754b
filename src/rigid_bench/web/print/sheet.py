"""The exercise sheet on paper: each part in three views at a standard scale, with its sizes and a title block."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from markupsafe import Markup

from rigid_bench.core.drawing.dimension_layout import DrawnView, draw_dimensions
from rigid_bench.core.exercise.bundle import CheckModel, ExerciseModel, PartModel
from rigid_bench.core.exercise.cautions import cautions
from rigid_bench.core.formats.pictures import ViewModel
from rigid_bench.core.grading.report.models import CheckText, Prepared
from rigid_bench.core.standards.scales import SCALES, largest_scale, scale_text
from rigid_bench.core.values.datums import PlaneFeature
from rigid_bench.core.values.units import MM_PER_UNIT
from rigid_bench.core.wording.datums import symmetry_words
from rigid_bench.core.wording.quantities import number
from rigid_bench.web.figures.drawing import drawing_svg
from rigid_bench.web.figures.views import view_svg
from rigid_bench.web.print.cards import to_pdf
from rigid_bench.web.render import templates

Paper = Literal["a4", "a3"]
Angle = Literal["third", "first"]
#: mm: what is left between the margins, above the title block.
_ROOM: dict[Paper, tuple[float, float]] = {"a4": (275.0, 168.0), "a3": (398.0, 255.0)}
#: mm: the head of the list of sizes, and one of its lines.
_HEAD, _LINE = 12.0, 5.2
#: CSS pixels in a millimetre; mm between views.
_PX, _BETWEEN = 96 / 25.4, 8.0
#: Values that stand in a drawing; what is free or assumed stands in the list.
_DRAWN = ("required", "optional", "calculated", "shown")


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawn:
    """One view on paper."""

    svg: Markup
    name: str
    #: mm
    width: float
    height: float


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawnPart:
    """One part's page."""

    id: str
    name: str
    scale: str
    #: Upper and lower row, left to right; None where there is nothing.
    rows: Sequence[Sequence[Drawn | None]]
    #: mm, of the two columns.
    widths: tuple[float, float]
    #: What stands in the list: what no view shows, and sums and hints.
    checks: Sequence[CheckText]
    #: About which planes it is symmetric, or "".
    symmetry: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawnAssembly:
    """The assembly's picture."""

    svg: Markup
    scale: str


def sheet_pdf(
    version: str,
    exercise: ExerciseModel,
    prepared: Prepared,
    *,
    school: str,
    paper: Paper,
    angle: Angle,
    blanks: bool,
    both: bool = False,
) -> bytes:
    """Return the sheet as PDF.

    Parameters
    ----------
    version
        Stands in the title block, such as "v2".
    exercise, prepared
        What it shows.
    school
        Stands in the title block: the class.
    paper
        A4 or A3, landscape.
    angle
        Where the views stand: third angle puts the top view above and the right side to the right, first angle
        below and to the left (ISO 5456-2; from memory).
    blanks
        A variant for a test: the required sizes are left out.
    both
        Sizes in the other unit, too.
    """
    processes = [part.process for part in exercise.parts if part.process and part.origin == "made"]
    others = [each for each in prepared.checks if each.part is None]
    lines = len(exercise.parts) + len(others) + 3 * len(cautions(processes, exercise.uses))
    parts = drawn_parts(exercise, prepared, paper=paper, angle=angle, blanks=blanks, both=both)
    bought = {part.id for part in exercise.parts if part.origin == "bought"}
    text = templates.env.get_template("print_sheet.html").render(
        version=version,
        exercise=exercise,
        school=school,
        paper=paper,
        angle=angle,
        blanks=blanks,
        drawn=[each for each in parts if each.id not in bought],
        assembly=_assembly(prepared.sheet.assembly, _left(_ROOM[paper], lines)) if prepared.sheet.assembly else None,
        others=others,
        cautions=cautions(processes, exercise.uses),
        symbol=projection_symbol(angle),
    )
    return to_pdf(text)


def _left(room: tuple[float, float], lines: int) -> tuple[float, float]:
    """Return what so many lines of lists leave of a page for a picture, mm; at least a third of it."""
    return room[0], max(room[1] / 3, room[1] - 2 * _HEAD - _LINE * lines)


def drawn_parts(
    exercise: ExerciseModel,
    prepared: Prepared,
    *,
    paper: Paper = "a4",
    angle: Angle = "third",
    blanks: bool = False,
    both: bool = False,
) -> list[DrawnPart]:
    """Draw each part that has a model, at the largest standard scale at which views and dimensions fit."""
    return [
        _part(part, exercise, prepared, _ROOM[paper], angle, blanks=blanks, both=both)
        for part in exercise.parts
        if part.id in prepared.sheet.parts
    ]


def dimension_text(check: CheckModel, required: str, units: str, *, both: bool = False) -> str:
    """Write a dimension as it stands in a drawing: its sign, its nominal, its own tolerance; in both units where asked.

    Examples
    --------
    >>> from rigid_bench.core.exercise.bundle import CheckModel
    >>> given = {"id": "b", "title": "Bore", "kind": "dimension", "marks": 1, "measure": "diameter"}
    >>> dimension_text(CheckModel.model_validate({**given, "tolerance": "H7"}), "Ø6 H7 mm (5 + 1)", "mm")
    'Ø6 H7'
    >>> dimension_text(CheckModel.model_validate(given), "16 ±0.2 mm", "mm")
    'Ø16'
    >>> dimension_text(CheckModel.model_validate(given), "16 ±0.2 mm", "mm", both=True)
    'Ø16 [0.63]'
    """
    sign = {"diameter": "Ø", "pitch_circle": "hole circle Ø", "radius": "R", "chamfer": "chamfer ", "depth": "depth ",
            "pitch": "pitch "}.get(str(check.fields.get("measure")), "")  # fmt: skip
    words = required.partition(" (")[0].replace(f" {units}", "").lstrip("ØR").strip()
    if not check.fields.get("tolerance"):
        words = words.split(" ")[0]
        words += "°" if "°" in required and "°" not in words else ""
    return f"{sign}{words}{_other_unit(words, units) if both else ''}"


def _other_unit(words: str, units: str) -> str:
    """Write a length in the other unit, in square brackets: inches to three places, millimetres to two."""
    found = re.match(r"-?\d+(\.\d+)?", words)
    if found is None or "°" in words:
        return ""
    value, digits = float(found[0]), 3 if units == "mm" else 2
    return f" [{number(value / 25.4 if units == 'mm' else value * 25.4, digits)}]"


def _texts(checks: Sequence[CheckModel], required: Mapping[str, str], units: str, *, both: bool) -> dict[str, str]:
    """Write the dimensions of a part; a count of like holes stands before their diameter."""
    counts = {_key(each): each.fields.get("nominal") for each in checks if "count" in str(each.fields.get("measure"))}
    found = {}
    for each in checks:
        if each.id not in required or each.fields.get("value", "required") not in _DRAWN:
            continue
        many = counts.get(_key(each)) if each.fields.get("measure") == "diameter" else None
        before = f"{many:g} × " if isinstance(many, int | float) and many > 1 else ""
        found[each.id] = before + dimension_text(each, required[each.id], units, both=both)
    return found


def _key(check: CheckModel) -> str:
    return str(check.fields.get("of"))


def _part(
    part: PartModel,
    exercise: ExerciseModel,
    prepared: Prepared,
    room: tuple[float, float],
    angle: Angle,
    *,
    blanks: bool,
    both: bool,
) -> DrawnPart:
    views = prepared.sheet.parts[part.id][:3]
    own = [each for each in exercise.checks if each.kind == "dimension" and each.fields.get("part") == part.id]
    listed = [each for each in prepared.checks if each.part == part.id]
    texts = _texts(own, {each.id: each.required for each in listed}, exercise.units, both=both)
    mm = MM_PER_UNIT[exercise.units]
    planes = [each.feature(mm=mm) for each in part.symmetric]
    for scale in SCALES:
        found = _aligned(draw_dimensions(views, own, texts, scale=scale, mm=mm, shifts=exercise.shifts), views)
        columns, rows = _columns(views, found, scale, angle)
        rest = _in_list(own, listed, found, blanks=blanks)
        high = sum(rows) + _BETWEEN + (_HEAD + _LINE * len(rest) if rest else 0.0)
        if sum(columns) + _BETWEEN <= room[0] and high <= room[1]:
            break
    drawn = [
        Drawn(
            svg=drawing_svg(each, found[each.name], scale=scale, label=f"{part.name}, {each.name}", blanks=blanks),
            name=each.name,
            width=_size(each, found[each.name], scale)[0],
            height=_size(each, found[each.name], scale)[1],
        )
        for each in views
    ]
    front, top, side = drawn
    return DrawnPart(
        id=part.id,
        name=part.name,
        scale=scale_text(scale),
        rows=[[top, None], [front, side]] if angle == "third" else [[side, front], [None, top]],
        widths=(columns[0] + _BETWEEN, columns[1] + _BETWEEN),
        checks=rest,
        symmetry=symmetry_words([each for each in planes if isinstance(each, PlaneFeature)], mm),
    )


def _in_list(
    own: Sequence[CheckModel], listed: Sequence[CheckText], found: Mapping[str, DrawnView], *, blanks: bool
) -> list[CheckText]:
    """Return what stands in the list: what no view shows, sums and hints; on a test, all that is asked."""
    placed = {each.check for view in found.values() for each in view.dimensions}
    placed |= {each.id for each in own if "count" in str(each.fields.get("measure")) and each.fields.get("of")}
    return [
        each for each in listed if each.id not in placed or "(" in each.required or each.hint or (blanks and each.marks)
    ]


def _aligned(found: Mapping[str, DrawnView], views: Sequence[ViewModel]) -> dict[str, DrawnView]:
    """Leave as much beside views that stand above or beside each other, so that they are in line."""
    front, top, side = (each.name for each in views)
    reach = {name: list(each.reach) for name, each in found.items()}
    for names, sides in (((front, top), (0, 2)), ((front, side), (1, 3))):
        for k in sides:
            most = max(reach[name][k] for name in names)
            for name in names:
                reach[name][k] = most
    return {name: each.model_copy(update={"reach": reach[name]}) for name, each in found.items()}


def _size(view: ViewModel, drawn: DrawnView, scale: float) -> tuple[float, float]:
    """Return how large a view is on paper with its dimensions, mm."""
    (left, bottom), (right, top) = view.box
    before, below, after, above = drawn.reach
    return (right - left) * scale + before + after + 2.0, (top - bottom) * scale + below + above + 2.0


def _columns(
    views: Sequence[ViewModel], found: Mapping[str, DrawnView], scale: float, angle: Angle
) -> tuple[tuple[float, float], tuple[float, float]]:
    """Return the widths of the two columns of views, and the heights of the two rows, mm."""
    (front, front_high), (top, top_high), (side, side_high) = (_size(each, found[each.name], scale) for each in views)
    columns = (max(front, top), side) if angle == "third" else (side, max(front, top))
    rows = (top_high, max(front_high, side_high)) if angle == "third" else (max(front_high, side_high), top_high)
    return columns, rows


def _assembly(view: ViewModel, room: tuple[float, float]) -> DrawnAssembly:
    (left, bottom), (right, top) = view.box
    scale = largest_scale(right - left, top - bottom, paper=room)
    return DrawnAssembly(svg=view_svg(view, scale=scale * _PX, label="assembly"), scale=scale_text(scale))


def part_svg(part: DrawnPart) -> Markup:
    """Put a part's views together to one SVG, mm."""
    body, width, y = [], sum(part.widths), 0.0
    for row in part.rows:
        x = 0.0
        shown = [each for each in row if each]
        for view, column in zip(row, part.widths, strict=True):
            if view:
                placed = f'<svg x="{x:.2f}" y="{y + max(each.height for each in shown) - view.height:.2f}"'
                body.append(Markup(str(view.svg).replace('mm"', '"').replace("<svg", placed, 1)))
            x += column
        y += max(each.height for each in shown) + _BETWEEN
    return Markup(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {w:.1f} {h:.1f}" width="{w:.1f}mm" height="{h:.1f}mm">'
        "<title>{name}, {scale}</title>{body}</svg>"
    ).format(w=width, h=y, name=part.name, scale=part.scale, body=Markup("").join(body))


def projection_symbol(angle: Angle) -> Markup:
    """Draw the symbol of the projection: a truncated cone in two views (ISO 128-3; from memory)."""
    drawn_so = 'fill="none" stroke="#17242b"'
    cone = f'<path d="M{{}} 8 l22 -4 v22 l-22 -4 z" {drawn_so}/>'  # its small end to the left
    rings = "".join(f'<circle cx="{{0}}" cy="15" r="{radius}" {drawn_so}/>' for radius in (11, 7))
    # seen from the left: in third angle that view stands on the left, in first angle on the right
    symbol = rings.format(15) + cone.format(34) if angle == "third" else cone.format(4) + rings.format(46)
    return Markup('<svg width="60" height="30" viewBox="0 0 60 30" role="img" aria-label="{} angle">{}</svg> ').format(
        angle, Markup(symbol)
    )
