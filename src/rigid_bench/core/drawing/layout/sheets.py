"""All sheets of an exercise: one for each part that is made or supplied, one for the assembly."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.drawing.ink import Drawing
from rigid_bench.core.drawing.layout import part_sheet
from rigid_bench.core.drawing.layout.assembly import assembly_sheet
from rigid_bench.core.drawing.layout.assembly.assembly_sheet import ListedPart
from rigid_bench.core.drawing.layout.paper import (
    Angle,
    Paper,
    TitleBlock,
    draw_paper,
    frame_of,
    is_upright,
    upright,
)
from rigid_bench.core.drawing.layout.sharing import NamedSheet, shared_sheets
from rigid_bench.core.drawing.layout.threads import drawn_threads
from rigid_bench.core.drawing.layout.view_dimensions import PartDrawing
from rigid_bench.core.drawing.notes.gather import notes_of
from rigid_bench.core.drawing.notes.note import Linear, Listed, Note
from rigid_bench.core.drawing.notes.signs import FLATS
from rigid_bench.core.drawing.notes.written import Written
from rigid_bench.core.drawing.report import DrawingReport, SheetReport
from rigid_bench.core.exercise.bundle import CheckModel, ExerciseModel, PartModel
from rigid_bench.core.formats.pictures import AskedSize, AssemblyPictures, ExplodedPictures, PartPictures, Sheet
from rigid_bench.core.standards.scales import scale_text
from rigid_bench.core.values.datums import PlaneFeature
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.units import MM_PER_UNIT
from rigid_bench.core.wording import drawing as words
from rigid_bench.core.wording.language import _, series, translated


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetOptions:
    """How sheets are asked for; what is None is as the exercise says."""

    #: None takes A4, or A3 where A4 would need a scale under 1:2.
    paper: Paper | None = None
    upright: bool | None = None
    angle: Angle | None = None
    #: For a test: rules to write on stand in the place of the values.
    blanks: bool = False
    #: Sizes in the other unit, too.
    both: bool = False
    #: The class's sign between whole and part.
    decimal: str = "."
    #: List at the exploded drawing how it goes together.
    steps: bool = False
    #: Parts share a paper where they fit at one scale.
    shared: bool = False
    #: Only this part, without the assembly.
    part: str | None = None
    #: Only the assembly.
    only_assembly: bool = False
    owner: str = ""
    version: str = ""
    date: str = ""


def make_sheets(
    exercise: ExerciseModel,
    pictures: Sheet,
    sizes: Mapping[str, AskedSize],
    options: SheetOptions,
    missing: Sequence[CheckModel] = (),
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
    missing
        Dimensions that a draft lacks: they are drawn in lines of their own kind, without a value.

    Returns
    -------
    DrawingReport

    Raises
    ------
    InvalidDocument
        There is no such part, or it has no model to draw.
    """
    drawn_parts = () if options.only_assembly else exercise.parts
    parts = [part for part in drawn_parts if part.id in pictures.parts and part.origin != "bought"]
    if options.part is not None:
        parts = [part for part in exercise.parts if part.id == options.part and part.id in pictures.parts]
        if not parts:
            known = series(part.id for part in exercise.parts if part.id in pictures.parts)
            raise InvalidDocument(
                _("sheet"),
                _("there is no part '{part}' to draw", part=options.part),
                _("Name one of: {known}", known=known),
            )
    whole = [pictures.assembly, pictures.exploded] if options.part is None else []
    assemblies = [drawn for drawn in whole if drawn is not None]
    angle, papers = options.angle or exercise.drawing.angle, _papers(exercise, options)
    alone = [_laid_out(exercise, part, pictures.parts[part.id], sizes, options, missing) for part in parts]
    groups = shared_sheets(alone, angle) if options.shared else [[own] for own in alone]
    total = len(groups) + len(assemblies)
    sheets = [_part_sheet(exercise, group, options, angle, (number, total)) for number, group in enumerate(groups, 1)]
    sheets += [
        _assembly(exercise, drawn, options, papers, angle, (number, total))
        for number, drawn in enumerate(assemblies, len(groups) + 1)
    ]
    return DrawingReport(sheets=sheets)


def _papers(exercise: ExerciseModel, options: SheetOptions) -> list[Paper]:
    """Return the papers that may be taken, the smaller first."""
    own = options.paper or exercise.drawing.paper
    papers: list[Paper] = [own] if own else ["A4", "A3"]
    is_up = exercise.drawing.upright if options.upright is None else options.upright
    return [upright(paper) for paper in papers] if is_up else papers


def _laid_out(
    exercise: ExerciseModel,
    part: PartModel,
    pictures: PartPictures,
    sizes: Mapping[str, AskedSize],
    options: SheetOptions,
    missing: Sequence[CheckModel],
) -> NamedSheet:
    mm = MM_PER_UNIT[exercise.units]
    own = [check for check in exercise.checks if check.fields.get("part") == part.id]
    written = _written(exercise, options)
    notes = notes_of(own, sizes, pictures, mm=mm, written=written)
    notes += _missing_notes([check for check in missing if check.fields.get("part") == part.id], pictures, written, mm)
    planes = [model.feature(mm=mm) for model in part.symmetric]
    drawn = PartDrawing(
        id=part.id, pictures=pictures, notes=notes, shifts=exercise.shifts,
        threads=drawn_threads(own, pictures.rounds, mm),
        symmetric=[plane for plane in planes if isinstance(plane, PlaneFeature)],
        legend=words.legend(_signs(own, notes, blanks=options.blanks)),
        running=exercise.drawing.arrangement == "running", views=exercise.drawing.views.get(part.id, ()),
    )  # fmt: skip
    angle, papers = options.angle or exercise.drawing.angle, _papers(exercise, options)
    return NamedSheet(name=part.name, part=drawn, sheet=part_sheet.lay_out(drawn, papers=papers, angle=angle))


def _written(exercise: ExerciseModel, options: SheetOptions) -> Written:
    return Written(units=exercise.units, both=options.both, blanks=options.blanks, decimal=options.decimal)


def _missing_notes(missing: Sequence[CheckModel], pictures: PartPictures, written: Written, mm: float) -> list[Note]:
    sizes = {check.id: AskedSize(nominal=0, minus=0, plus=0) for check in missing}
    notes = notes_of(missing, sizes, pictures, mm=mm, written=replace(written, unknown=True))
    return [replace(note, is_missing=True) for note in notes if not isinstance(note, Listed)]


def _part_sheet(
    exercise: ExerciseModel, group: Sequence[NamedSheet], options: SheetOptions, angle: Angle, place: tuple[int, int]
) -> SheetReport:
    """Return the sheet of one part, or of several that share it."""
    sheets = [own.sheet for own in group]
    paper, scale = sheets[0].paper, scale_text(sheets[0].scale)
    names = series(own.name for own in group)
    block = _block(exercise, options, names, translated(words.PART_DRAWING), scale, place)
    drawings = [drawing for sheet in sheets for drawing in sheet.drawings]
    drawings.append((None, draw_paper(paper, angle, block)))
    report = _report(place[0], [own.part.id for own in group], paper, scale, angle, drawings)
    return report.model_copy(
        update={
            "views": [view for sheet in sheets for view in sheet.views],
            "dimensions": [own for sheet in sheets for own in sheet.dimensions],
            "features": [own for sheet in sheets for own in sheet.features],
        }
    )


def _signs(checks: Sequence[CheckModel], notes: Sequence[Note], *, blanks: bool) -> set[str]:
    """Return what stands in a drawing that the legend explains; blanks leave only what is shown."""
    values = {str(check.fields.get("value")) for check in checks if check.kind == "dimension"}
    signs = values & {"shown"} if blanks else values
    used_signs = {
        "auxiliary": any(isinstance(note, Linear) and note.auxiliary for note in notes),
        "flats": any(FLATS in note.text for note in notes),
        "missing": any(not isinstance(note, Listed) and note.is_missing for note in notes),
    }
    return signs | {sign for sign, stands in used_signs.items() if stands}


def _assembly(
    exercise: ExerciseModel,
    pictures: AssemblyPictures,
    options: SheetOptions,
    papers: Sequence[Paper],
    angle: Angle,
    place: tuple[int, int],
) -> SheetReport:
    kind = words.EXPLODED_DRAWING if isinstance(pictures, ExplodedPictures) else words.ASSEMBLY_DRAWING
    lines = _step_lines(pictures, exercise) if options.steps and isinstance(pictures, ExplodedPictures) else []
    block = _block(exercise, options, "", translated(kind), "", place)
    written = _written(exercise, options)
    parts = [
        ListedPart(
            id=part.id, name=part.name, material=part.material,
            how=part.process or translated(words.ORIGINS[part.origin]),
            count=part.count,
        )
        for part in exercise.parts
    ]  # fmt: skip
    return assembly_report(
        pictures, parts, block, papers=papers, angle=angle, written=written, lines=lines, number=place[0]
    )


def _step_lines(pictures: ExplodedPictures, exercise: ExerciseModel) -> list[str]:
    names = {part.id: part.name for part in exercise.parts}
    return [
        words.step(
            number, names[step.part], [names[part] for part in step.onto], step.way,
            [Motion(kind=own.kind, direction=np.array(own.direction), point=np.array(own.point))
             for own in step.motions],
        )
        for number, step in enumerate(pictures.steps, 1)
    ]  # fmt: skip


def assembly_report(
    pictures: AssemblyPictures,
    parts: Sequence[ListedPart],
    block: TitleBlock,
    *,
    papers: Sequence[Paper],
    angle: Angle,
    written: Written,
    lines: Sequence[str] = (),
    number: int = 1,
) -> SheetReport:
    """Draw one sheet of an assembly, together or apart.

    Parameters
    ----------
    pictures
        How it is seen.
    parts
        Those that the parts list names.
    block
        What the title block says; its scale is that of the drawing.
    papers
        The second is taken where the first would need a scale under 1:2.
    angle, written
        How views are projected and sizes written.
    lines
        What is listed beside the parts list.
    number
        Of the sheet.
    """

    def laid_out(paper: Paper) -> assembly_sheet.AssemblySheet:
        return assembly_sheet.lay_out(pictures, parts, paper=paper, angle=angle, written=written, lines=lines)

    size = papers[0]
    sheet = laid_out(size)
    if len(papers) > 1 and sheet.scale < part_sheet.LEAST_ON_A4:
        size = papers[1]
        sheet = laid_out(size)
    scale = scale_text(sheet.scale)
    drawings: list[tuple[str | None, Drawing]] = [(view.id, drawing) for view, drawing in sheet.views]
    drawings += [(None, sheet.own), (None, draw_paper(size, angle, replace(block, scale=scale)))]
    report = _report(number, [item.part for item in sheet.items], size, scale, angle, drawings)
    return report.model_copy(
        update={
            "views": [view for view, _ in sheet.views],
            "items": list(sheet.items),
            "dimensions": list(sheet.dimensions),
        }
    )


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
        number=number, parts=list(parts), paper="A4" if paper.startswith("A4") else "A3",
        orientation="portrait" if is_upright(paper) else "landscape", scale=scale, angle=angle,
        frame=list(frame_of(paper)), views=[], lines=lines, texts=texts, dimensions=[], features=[], items=[],
    )  # fmt: skip
