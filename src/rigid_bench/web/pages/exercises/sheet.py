"""The exercise sheet: a drawing of each part and of the assembly; supplied files."""

import io
import zipfile
from typing import Any, Literal
from zoneinfo import ZoneInfo

from fastapi import Request
from fastapi.responses import Response

from rigid_bench.core.drawing.layout.paper import PAPERS
from rigid_bench.core.drawing.layout.sheets import SheetOptions
from rigid_bench.core.drawing.writers.dxf import sheet_dxf
from rigid_bench.core.exercise.bundle import ExerciseModel
from rigid_bench.core.exercise.cautions import cautions
from rigid_bench.core.formats.archive import read_zip
from rigid_bench.core.grading.report.models import Prepared
from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.tables import Classroom, ExerciseVersion
from rigid_bench.web.print.sheet import (
    Angle,
    Paper,
    cutting_of,
    drawn_sheets,
    name_of,
    sheet_file,
    sheet_pdf,
    sheets_of,
)
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import AssignedExercise, DbSession, Id

router = page_router("/classes/{class_id}/exercises/{version_id}")


def read_version(version: ExerciseVersion) -> tuple[ExerciseModel, Prepared]:
    """Return an exercise version's document, and what pages show of it."""
    return ExerciseModel.model_validate(version.document), Prepared.model_validate(version.prepared)


def options_of(paper: Paper | None, angle: Angle | None, **more: Any) -> SheetOptions:
    """Return how sheets are asked for in an address, else as the exercise says; `more` as `SheetOptions` names it."""
    return SheetOptions(paper=PAPERS[paper] if paper else None, angle=angle, **more)


def _block_of(session: DbSession, class_id: int, version: ExerciseVersion) -> dict[str, str]:
    """Return what the title block says of a version in a class."""
    classroom = session.get_one(Classroom, class_id)
    settings = ClassSettings.model_validate(classroom.settings)
    released = version.released_at.astimezone(ZoneInfo(settings.time_zone)) if version.released_at else None
    return {
        "owner": classroom.name,
        "version": f"v{version.number}",
        "date": released.date().isoformat() if released else "",
        "decimal": "," if settings.decimal == "comma" else ".",
    }


@router.get("/sheet")
def sheet(
    request: Request, class_id: Id, version: AssignedExercise, session: DbSession, paper: Paper | None = None,
    angle: Angle | None = None,
) -> Response:  # fmt: skip
    """Show the sheet."""
    exercise, prepared = read_version(version)
    processes = [part.process for part in exercise.parts if part.process and part.origin == "made"]
    options = options_of(paper, angle, **_block_of(session, class_id, version))
    drawn = drawn_sheets(exercise, prepared, options)
    return page(
        request,
        "sheet.html",
        class_id=class_id,
        version=version,
        exercise=exercise,
        prepared=prepared,
        drawn={own.name: own for own in drawn},
        cutting=cutting_of(exercise, prepared),
        cautions=cautions(processes, exercise.uses),
    )


@router.get("/sheet.pdf")
def sheet_as_pdf(
    class_id: Id,
    version: AssignedExercise,
    session: DbSession,
    paper: Paper | None = None,
    angle: Angle | None = None,
    blanks: bool = False,
    both: bool = False,
    steps: bool = False,
) -> Response:
    """Give the sheet as PDF: on A4 or A3, in third or first angle, or with blanks for a test."""
    exercise, prepared = read_version(version)
    options = options_of(
        paper, angle, blanks=blanks, both=both, steps=steps, shared=True, **_block_of(session, class_id, version)
    )
    headers = {"Content-Disposition": f'attachment; filename="{version.exercise}-sheet.pdf"'}
    return Response(sheet_pdf(exercise, prepared, options), media_type="application/pdf", headers=headers)


@router.get("/sheet/{part}.{ending}")
def one_sheet(
    class_id: Id,
    version: AssignedExercise,
    session: DbSession,
    part: str,
    ending: Literal["svg", "dxf"],
    paper: Paper | None = None,
    angle: Angle | None = None,
) -> Response:
    """Give one part's drawing, or the assembly's, as SVG or DXF."""
    exercise, prepared = read_version(version)
    options = options_of(paper, angle, **_block_of(session, class_id, version))
    sheets = {name_of(own): own for own in sheets_of(exercise, prepared, options).sheets}
    if part not in sheets:
        raise NotFound(_("sheet"), _("there is no part '{part}'", part=part[:40]), _("Go back to the sheet"))
    if ending == "svg":
        return Response(sheet_file(sheets[part], exercise), media_type="image/svg+xml")
    headers = {"Content-Disposition": f'attachment; filename="{version.exercise}-{part}.dxf"'}
    return Response(sheet_dxf(sheets[part]), media_type="image/vnd.dxf", headers=headers)


@router.get("/supplied.zip")
def supplied(version: AssignedExercise) -> Response:
    """Give the STEP files of the parts that are supplied."""
    exercise, _ = read_version(version)
    files = read_zip(version.bundle, name="exercise")
    wanted = [part.file for part in exercise.parts if part.file and part.origin != "made"]
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for name in wanted:
            archive.writestr(name, files[name])
    headers = {"Content-Disposition": f'attachment; filename="{version.exercise}-supplied.zip"'}
    return Response(packed.getvalue(), media_type="application/zip", headers=headers)
