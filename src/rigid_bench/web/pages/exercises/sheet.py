"""The exercise sheet: each part in three views with its dimensions, the assembly in one; supplied files."""

import io
import zipfile

from fastapi import Request
from fastapi.responses import Response

from rigid_bench.core.exercise.bundle import ExerciseModel
from rigid_bench.core.exercise.cautions import cautions
from rigid_bench.core.formats.archive import read_zip
from rigid_bench.core.grading.report.models import Prepared
from rigid_bench.core.values.errors import NotFound
from rigid_bench.store.tables import Classroom, ExerciseVersion
from rigid_bench.web.print.sheet import Angle, Paper, drawn_parts, part_svg, sheet_pdf
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import AssignedExercise, DbSession, Id

router = page_router("/classes/{class_id}/exercises/{version_id}")


def read_version(version: ExerciseVersion) -> tuple[ExerciseModel, Prepared]:
    """Return an exercise version's document, and what pages show of it."""
    return ExerciseModel.model_validate(version.document), Prepared.model_validate(version.prepared)


@router.get("/sheet")
def sheet(request: Request, class_id: Id, version: AssignedExercise) -> Response:
    """Show the sheet."""
    exercise, prepared = read_version(version)
    processes = [part.process for part in exercise.parts if part.process and part.origin == "made"]
    return page(
        request,
        "sheet.html",
        class_id=class_id,
        version=version,
        exercise=exercise,
        prepared=prepared,
        drawn={each.id: each for each in drawn_parts(exercise, prepared)},
        cautions=cautions(processes, exercise.uses),
    )


@router.get("/sheet.pdf")
def sheet_as_pdf(
    class_id: Id,
    version: AssignedExercise,
    session: DbSession,
    paper: Paper = "a4",
    angle: Angle = "third",
    blanks: bool = False,
    both: bool = False,
) -> Response:
    """Give the sheet as PDF: on A4 or A3, in third or first angle, or with blanks for a test."""
    exercise, prepared = read_version(version)
    room = session.get_one(Classroom, class_id).name
    pdf = sheet_pdf(
        f"v{version.number}", exercise, prepared, school=room, paper=paper, angle=angle, blanks=blanks, both=both
    )
    headers = {"Content-Disposition": f'attachment; filename="{version.exercise}-sheet.pdf"'}
    return Response(pdf, media_type="application/pdf", headers=headers)


@router.get("/sheet/{part}.svg")
def sheet_as_svg(version: AssignedExercise, part: str, paper: Paper = "a4", angle: Angle = "third") -> Response:
    """Give one part's drawing as SVG."""
    exercise, prepared = read_version(version)
    found = next((each for each in drawn_parts(exercise, prepared, paper=paper, angle=angle) if each.id == part), None)
    if found is None:
        raise NotFound("sheet", f"there is no part '{part[:40]}'", "Go back to the sheet")
    return Response(str(part_svg(found)), media_type="image/svg+xml")


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
