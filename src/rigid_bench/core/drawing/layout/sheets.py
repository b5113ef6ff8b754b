"""All sheets of an exercise: one for each part that is made or supplied, one for the assembly."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from rigid_bench.core.drawing.layout import assembly_sheet, part_sheet
from rigid_bench.core.drawing.layout.ink import Drawing
from rigid_bench.core.drawing.layout.notes import Linear, Note, Written, notes_of
from rigid_bench.core.drawing.layout.paper import Angle, Paper, TitleBlock, draw_paper, frame_of
from rigid_bench.core.drawing.layout.threads import drawn_threads
from rigid_bench.core.drawing.report import DrawingReport, SheetReport
from rigid_bench.core.exercise.bundle import CheckModel, ExerciseModel, PartModel
from rigid_bench.core.formats.pictures import AskedSize, AssemblyPictures, ExplodedPictures, PartPictures, Sheet
from rigid_bench.core.part.directions import SQUARE_VIEWS, axes_of
from rigid_bench.core.standards.scales import scale_text
from rigid_bench.core.values.datums import PlaneFeature
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.units import MM_PER_UNIT
from rigid_bench.core.wording import drawing as words


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetOptions:
    """How sheets are asked for."""

    #: None takes A4, or A3 where A4 would need a scale under 1:2.
    paper: Paper | None = None
    angle: Angle = "third"
    #: For a test: rules to write on stand in the place of the values.
    blanks: bool = False
    #: Sizes in the other unit, too.
    both: bool = False
    #: Only this part, without the assembly.
    part: str | None = None
    owner: str = ""
    version: str = ""
    date: str = ""


def make_sheets(
    exercise: ExerciseModel, pictures: Sheet, sizes: Mapping[str, AskedSize], options: SheetOptions
) -> DrawingReport:
    """Draw an exercise's sheets.

    Parameters
    ----------
    exercise
        Its document.
    pictures
        What is seen of its parts and assembly.
    sizes
        By check: what each dimension asks.
    options
        Paper, projection, and what stands in the title block.

    Returns
    -------
    DrawingReport

    Raises
    ------
    InvalidDocument
        There is no such part, or it has no model to draw.
    """
    parts = [part for part in exercise.parts if part.id in pictures.parts and part.origin != "bought"]
    if options.part is not None:
        parts = [part for part in exercise.parts if part.id == options.part and part.id in pictures.parts]
        if not parts:
            known = ", ".join(part.id for part in exercise.parts if part.id in pictures.parts)
            raise InvalidDocument("sheet", f"there is no part '{options.part}' to draw", f"Name one of: {known}")
    whole = [pictures.assembly, pictures.exploded] if options.part is None else []
    assemblies = [drawn for drawn in whole if drawn is not None]
    total = len(parts) + len(assemblies)
    sheets = [
        _part(exercise, part, pictures.parts[part.id], sizes, options, (number, total))
        for number, part in enumerate(parts, 1)
    ]
    sheets += [
        _assembly(exercise, drawn, options, (number, total)) for number, drawn in enumerate(assemblies, len(parts) + 1)
    ]
    return DrawingReport(sheets=sheets)


def _part(
    exercise: ExerciseModel,
    part: PartModel,
    pictures: PartPictures,
    sizes: Mapping[str, AskedSize],
    options: SheetOptions,
    place: tuple[int, int],
) -> SheetReport:
    mm = MM_PER_UNIT[exercise.units]
    own = [check for check in exercise.checks if check.fields.get("part") == part.id]
    written = Written(units=exercise.units, both=options.both, blanks=options.blanks)
    notes = notes_of(own, sizes, pictures.rounds, _box(pictures), mm=mm, written=written)
    planes = [model.feature(mm=mm) for model in part.symmetric]
    sheet = part_sheet.lay_out(
        part_sheet.PartDrawing(
            id=part.id, pictures=pictures, notes=notes, shifts=exercise.shifts,
            threads=drawn_threads(own, pictures.rounds, mm),
            symmetric=[plane for plane in planes if isinstance(plane, PlaneFeature)],
            legend=words.legend(_signs(own, notes, blanks=options.blanks)),
        ),
        paper=options.paper, angle=options.angle,
    )  # fmt: skip
    block = _block(exercise, options, part.name, words.PART_DRAWING, scale_text(sheet.scale), place)
    paper = draw_paper(sheet.paper, options.angle, block)
    return _report(
        place[0], [part.id], sheet.paper, scale_text(sheet.scale), options.angle, [*sheet.drawings, (None, paper)]
    ).model_copy(update={"views": sheet.views, "dimensions": sheet.dimensions, "features": sheet.features})


def _signs(checks: Sequence[CheckModel], notes: Sequence[Note], *, blanks: bool) -> set[str]:
    """Return what stands in a drawing that the legend explains; blanks leave only what is shown."""
    values = {str(check.fields.get("value")) for check in checks if check.kind == "dimension"}
    signs = values & {"shown"} if blanks else values
    is_bracketed = any(isinstance(note, Linear) and note.auxiliary for note in notes)
    return signs | {"auxiliary"} if is_bracketed else signs


def _assembly(
    exercise: ExerciseModel, pictures: AssemblyPictures, options: SheetOptions, place: tuple[int, int]
) -> SheetReport:
    size: Paper = options.paper or "A4"
    sheet = assembly_sheet.lay_out(pictures, exercise.parts, paper=size)
    if options.paper is None and sheet.scale < part_sheet.LEAST_ON_A4:
        size = "A3"
        sheet = assembly_sheet.lay_out(pictures, exercise.parts, paper=size)
    kind = words.EXPLODED_DRAWING if isinstance(pictures, ExplodedPictures) else words.ASSEMBLY_DRAWING
    block = _block(exercise, options, "", kind, scale_text(sheet.scale), place)
    drawings = [("v1", sheet.picture), (None, sheet.own), (None, draw_paper(size, options.angle, block))]
    parts = [item.part for item in sheet.items]
    report = _report(place[0], parts, size, scale_text(sheet.scale), options.angle, drawings)
    return report.model_copy(update={"views": [sheet.view], "items": list(sheet.items)})


def _block(
    exercise: ExerciseModel, options: SheetOptions, part: str, kind: str, scale: str, place: tuple[int, int]
) -> TitleBlock:
    return TitleBlock(
        owner=options.owner, title=exercise.title, part=part, kind=kind, version=options.version, date=options.date,
        scale=scale, units=exercise.units, tolerance=exercise.tolerance, sheet=words.sheet_of(*place),
    )  # fmt: skip


def _report(
    number: int,
    parts: Sequence[str],
    paper: Paper,
    scale: str,
    angle: Angle,
    drawings: Sequence[tuple[str | None, Drawing]],
) -> SheetReport:
    lines, texts = [], []
    for view, drawing in drawings:
        own_lines, own_texts = drawing.report(view)
        lines += own_lines
        texts += own_texts
    return SheetReport(
        number=number, parts=list(parts), paper=paper, orientation="landscape", scale=scale, angle=angle,
        frame=list(frame_of(paper)), views=[], lines=lines, texts=texts, dimensions=[], features=[], items=[],
    )  # fmt: skip


def _box(pictures: PartPictures) -> np.ndarray:
    """Return the part's least and greatest corner, (2, 3) mm, from its views."""
    box = np.zeros((2, 3))
    for view in pictures.views:
        if view.name not in SQUARE_VIEWS:
            continue
        axes = axes_of(SQUARE_VIEWS[view.name])
        for k in (0, 1):
            axis = int(np.abs(axes[k]).argmax())
            ends = sorted(float(axes[k][axis]) * view.box[side][k] for side in (0, 1))
            box[:, axis] = ends
    return box
