"""The exercise's sheets given out: laid out as they are asked for, as SVG for pages, and on paper as PDF."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from pathlib import Path
from typing import Literal

from markupsafe import Markup

from rigid_bench.core.drawing.cutting_list import CuttingGroup, cutting_list
from rigid_bench.core.drawing.layout.sheets import SheetOptions, make_sheets
from rigid_bench.core.drawing.report import DrawingReport, SheetReport
from rigid_bench.core.drawing.writers.svg import sheet_svg
from rigid_bench.core.exercise.bundle import CheckModel, ExerciseModel
from rigid_bench.core.exercise.cautions import cautions
from rigid_bench.core.formats.pictures import AskedSize
from rigid_bench.core.formats.pointing import Pointable
from rigid_bench.core.grading.report.models import CheckText, Prepared
from rigid_bench.core.wording.language import translated
from rigid_bench.web.figures.sheet_points import sheet_points
from rigid_bench.web.figures.view_handles import view_handles
from rigid_bench.web.print.cards import to_pdf
from rigid_bench.web.render import rendered

#: As addresses write them.
Paper = Literal["a4", "a3"]
Angle = Literal["third", "first"]
_FONT = Path(__file__).parents[1] / "static" / "fonts" / "barlow-latin-500-normal.woff2"


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawnSheet:
    """One sheet on a page."""

    report: SheetReport
    svg: Markup

    @property
    def name(self) -> str:
        """The part that it shows, or "assembly" or "exploded"."""
        return name_of(self.report)


def name_of(sheet: SheetReport) -> str:
    """Return what a sheet is called in addresses: its part's id, "assembly" or "exploded"."""
    view = sheet.views[0]
    return view.part or view.kind


def sheets_of(
    exercise: ExerciseModel, prepared: Prepared, options: SheetOptions, missing: Sequence[CheckModel] = ()
) -> DrawingReport:
    """Lay an exercise's sheets out; those that were asked for last are remembered."""
    lacking = tuple(check.model_dump_json() for check in missing)
    return _laid_out(exercise.model_dump_json(), prepared.model_dump_json(), options, lacking)


@lru_cache(maxsize=24)
def _laid_out(exercise: str, prepared: str, options: SheetOptions, missing: tuple[str, ...]) -> DrawingReport:
    model, read = ExerciseModel.model_validate_json(exercise), Prepared.model_validate_json(prepared)
    sizes = {check.id: size for check in model.checks if (size := _plain_size(check))}
    sizes |= {check.id: check.size for check in read.checks if check.size}
    return make_sheets(model, read.sheet, sizes, options, [CheckModel.model_validate_json(own) for own in missing])


def _plain_size(check: CheckModel) -> AskedSize | None:
    """Return what a dimension asks by its own number: exercises that were prepared by an older version say no more."""
    nominal = check.fields.get("nominal")
    if check.kind != "dimension" or not isinstance(nominal, int | float):
        return None
    return AskedSize(nominal=nominal, minus=0, plus=0)


def drawn_sheets(
    exercise: ExerciseModel,
    prepared: Prepared,
    options: SheetOptions,
    missing: Sequence[CheckModel] = (),
    marks: Mapping[str, str] | None = None,
    *,
    trimmed: bool = True,
    points: Mapping[str, Sequence[Pointable]] | None = None,
    movable: bool = False,
) -> list[DrawnSheet]:
    """Draw an exercise's sheets for a page, which has the letters; on a screen without the paper's margin.

    Parameters
    ----------
    exercise, prepared, options
        What is drawn, and how.
    missing
        Dimensions that a draft lacks.
    marks
        By check: what the audit says of it, "missing" or "twice".
    trimmed
        Without the paper's margin.
    points
        By part: what can be pointed at in its views.
    movable
        Each view can be taken hold of.
    """
    names = {part.id: part.name for part in exercise.parts}
    return [
        DrawnSheet(
            report=sheet,
            svg=Markup(
                sheet_svg(
                    sheet,
                    label=_label(sheet, names, exercise.title),
                    trimmed=trimmed,
                    marks=marks,
                    over=view_handles(sheet, names) if movable else sheet_points(sheet, points or {}),
                )
            ),
        )
        for sheet in sheets_of(exercise, prepared, options, missing).sheets
    ]


def sheet_file(sheet: SheetReport, exercise: ExerciseModel) -> str:
    """Write one sheet as an SVG file that stands alone, its letters in it."""
    names = {part.id: part.name for part in exercise.parts}
    return sheet_svg(sheet, label=_label(sheet, names, exercise.title), font=drawing_font())


def sheet_pdf(exercise: ExerciseModel, prepared: Prepared, options: SheetOptions) -> bytes:
    """Return all sheets as PDF, and a page with what no drawing shows: sums, hints, the assembly's checks, cautions."""
    processes = [part.process for part in exercise.parts if part.process and part.origin == "made"]
    text = rendered(
        "print_sheet.html",
        exercise=exercise,
        blanks=options.blanks,
        drawn=drawn_sheets(exercise, prepared, options, trimmed=False),
        checks=_beside(exercise, prepared, blanks=options.blanks),
        cautions=cautions(processes, exercise.uses),
        cutting=cutting_of(exercise, prepared),
    )
    return to_pdf(text)


def cutting_of(exercise: ExerciseModel, prepared: Prepared) -> list[CuttingGroup]:
    """Return the cutting list of the parts that are sawn from bought lengths; empty where a piece is longer."""
    stock = {part: pictures.stock for part, pictures in prepared.sheet.parts.items() if pictures.stock}
    bought = max([exercise.drawing.stock_length, *(piece.length for piece in stock.values())])
    return cutting_list(exercise.parts, stock, bought=bought, kerf=exercise.drawing.kerf)


def drawings_pdf(report: DrawingReport, title: str) -> bytes:
    """Return drawings alone as PDF, one sheet on a page."""
    drawn = [DrawnSheet(report=sheet, svg=Markup(sheet_svg(sheet, label=title))) for sheet in report.sheets]
    return to_pdf(rendered("print_drawings.html", title=title, drawn=drawn))


def _beside(exercise: ExerciseModel, prepared: Prepared, *, blanks: bool) -> list[CheckText]:
    """Return the checks that a drawing does not show, or not wholly; on a test, all that is asked."""
    sums = {check.id for check in exercise.checks if isinstance(check.fields.get("nominal"), str)}
    return [
        check
        for check in prepared.checks
        if check.kind != "dimension" or check.id in sums or check.hint or (blanks and check.marks)
    ]


def _label(sheet: SheetReport, names: dict[str, str], title: str) -> str:
    shown = name_of(sheet)
    return f"{title}: {names.get(shown) or translated(shown)}, {sheet.scale}"


@cache
def drawing_font() -> bytes:
    """Return the file of the letters that drawings have."""
    return _FONT.read_bytes()
