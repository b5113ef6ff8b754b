"""The exercise sheet on paper: each part in three views at a standard scale, with its sizes and a title block."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from markupsafe import Markup

from rigid_bench.core.exercise.cautions import cautions
from rigid_bench.core.exercise.exercise import ExerciseModel
from rigid_bench.core.exercise.pictures import ViewModel
from rigid_bench.core.grading.report import CheckText, Prepared
from rigid_bench.core.standards.scales import largest_scale, scale_text
from rigid_bench.store.tables import ExerciseVersion
from rigid_bench.web.figures.views import view_svg
from rigid_bench.web.print import to_pdf
from rigid_bench.web.render import templates

Paper = Literal["a4", "a3"]
Angle = Literal["third", "first"]
#: mm: what is left for views beside margins, sizes and title block.
_ROOM: dict[Paper, tuple[float, float]] = {"a4": (255.0, 95.0), "a3": (380.0, 180.0)}
#: CSS pixels in a millimetre; mm between views.
_PX, _BETWEEN = 96 / 25.4, 14.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawn:
    """One view on paper."""

    svg: Markup
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawnPart:
    """One part's page."""

    name: str
    scale: str
    #: Upper and lower row, left to right; None where there is nothing.
    rows: Sequence[Sequence[Drawn | None]]
    #: mm, of the two columns.
    widths: tuple[float, float]
    checks: Sequence[CheckText]


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawnAssembly:
    """The assembly's picture."""

    svg: Markup
    scale: str


def sheet_pdf(
    version: ExerciseVersion,
    exercise: ExerciseModel,
    prepared: Prepared,
    *,
    school: str,
    paper: Paper,
    angle: Angle,
    blanks: bool,
) -> bytes:
    """Return the sheet as PDF.

    Parameters
    ----------
    version, exercise, prepared
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
    """
    room = _ROOM[paper]
    processes = [part.process for part in exercise.parts if part.process and part.origin == "made"]
    text = templates.env.get_template("print_sheet.html").render(
        version=version,
        exercise=exercise,
        school=school,
        paper=paper,
        angle=angle,
        blanks=blanks,
        drawn=[
            _part(part.name, prepared.sheet.parts[part.id], _checks(prepared, part.id), room, angle)
            for part in exercise.parts
            if part.id in prepared.sheet.parts
        ],
        assembly=_assembly(prepared.sheet.assembly, room) if prepared.sheet.assembly else None,
        others=[each for each in prepared.checks if each.part is None],
        cautions=cautions(processes),
        symbol=projection_symbol(angle),
    )
    return to_pdf(text)


def _checks(prepared: Prepared, part: str) -> list[CheckText]:
    return [each for each in prepared.checks if each.part == part]


def _size(view: ViewModel) -> tuple[float, float]:
    (left, bottom), (right, top) = view.box
    return right - left, top - bottom


def _part(
    name: str, views: Sequence[ViewModel], checks: Sequence[CheckText], room: tuple[float, float], angle: Angle
) -> DrawnPart:
    front, top, side = views[:3]
    (wide, high), (deep, _) = _size(front), _size(side)
    scale = largest_scale(wide + deep, high + _size(top)[1], paper=(room[0] - 3 * _BETWEEN, room[1] - 2 * _BETWEEN))

    def drawn(view: ViewModel) -> Drawn:
        svg = view_svg(view, scale=scale * _PX, label=f"{name}, {view.name}")
        return Drawn(svg=svg, name=view.name)

    if angle == "third":
        rows: list[list[Drawn | None]] = [[drawn(top), None], [drawn(front), drawn(side)]]
        widths = (wide, deep)
    else:
        rows = [[drawn(side), drawn(front)], [None, drawn(top)]]
        widths = (deep, wide)
    return DrawnPart(
        name=name,
        scale=scale_text(scale),
        rows=rows,
        widths=(widths[0] * scale + _BETWEEN, widths[1] * scale + _BETWEEN),
        checks=checks,
    )


def _assembly(view: ViewModel, room: tuple[float, float]) -> DrawnAssembly:
    scale = largest_scale(*_size(view), paper=(room[0], room[1] - _BETWEEN))
    return DrawnAssembly(svg=view_svg(view, scale=scale * _PX, label="assembly"), scale=scale_text(scale))


def projection_symbol(angle: Angle) -> Markup:
    """Draw the symbol of the projection: a truncated cone in two views (ISO 128-3; from memory)."""
    cone = '<path d="M{} 8 l22 -4 v22 l-22 -4 z" class="symbol"/>'  # its small end to the left
    rings = '<circle cx="{0}" cy="15" r="11" class="symbol"/><circle cx="{0}" cy="15" r="7" class="symbol"/>'
    # seen from the left: in third angle that view stands on the left, in first angle on the right
    drawn = rings.format(15) + cone.format(34) if angle == "third" else cone.format(4) + rings.format(46)
    return Markup('<svg width="60" height="30" viewBox="0 0 60 30" role="img" aria-label="{} angle">{}</svg> ').format(
        angle, Markup(drawn)
    )
