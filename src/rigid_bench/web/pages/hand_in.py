"""Handing in: a STEP assembly, a build file, or both; refused at once where that can be known."""

from typing import Annotated

from fastapi import APIRouter, File, Request, UploadFile
from fastapi.responses import RedirectResponse, Response

from rigid_bench.core.errors import FormRejected, RigidBenchError
from rigid_bench.core.grading.files import check_files
from rigid_bench.core.names import plain_name
from rigid_bench.jobs import tasks
from rigid_bench.web.access import AssignedExercise, CheckedForm, DbSession, Student
from rigid_bench.web.render import page

router = APIRouter(prefix="/classes/{class_id}/exercises/{version_id}/hand-in")

_NOTHING = FormRejected("files", "no file was chosen", "Choose a STEP file, a build file, or a zip of both")


@router.get("")
def hand_in(request: Request, class_id: int, version: AssignedExercise, user: Student) -> Response:
    """Show the form."""
    return page(request, "hand_in.html", class_id=class_id, version=version, error=None)


@router.post("", name="take_build", dependencies=[CheckedForm])
def take_build(
    request: Request,
    class_id: int,
    version: AssignedExercise,
    user: Student,
    session: DbSession,
    files: Annotated[list[UploadFile], File()] = [],  # noqa: B006 (FastAPI copies its defaults)
) -> Response:
    """Keep the files and queue the build, or say what is wrong and keep nothing."""
    try:
        contents = _contents(files)
        check_files(contents)
    except RigidBenchError as exc:
        return page(request, "hand_in.html", status=422, class_id=class_id, version=version, error=exc)
    build_id = tasks.hand_in(
        session,
        request.app.state.queue,
        class_id=class_id,
        version_id=version.id,
        student_id=user.id,
        files=contents,
    )
    return RedirectResponse(request.url_for("card", build_id=build_id), status_code=303)


def _contents(files: list[UploadFile]) -> dict[str, bytes]:
    """Read what was uploaded, by name; a name is shown, never used as a path."""
    contents: dict[str, bytes] = {}
    for file in files:
        name = plain_name((file.filename or "").replace("\\", "/").rsplit("/", 1)[-1])
        if not name:
            continue  # the browser sends an empty field where nothing was chosen
        if name in contents:
            raise FormRejected(name, "two files have this name", "Give each file its own name")
        contents[name] = file.file.read()
    if not contents:
        raise _NOTHING
    return contents
