"""Setting exercises: from a solved model or a bundle to a draft, to a released version, to a class."""

import re
from typing import Annotated

from fastapi import File, Form, Request, UploadFile
from fastapi.responses import RedirectResponse, Response

from rigid_bench.app.classes import assign
from rigid_bench.app.exercises import draft as drafting
from rigid_bench.app.exercises import release
from rigid_bench.core.formats.archive import is_zip
from rigid_bench.core.formats.model_formats import format_of
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.names import plain_name
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries import class_queries, draft_queries, exercise_queries
from rigid_bench.store.tables import ExerciseVersion
from rigid_bench.web.figures.views import thumbnail
from rigid_bench.web.forms import FormId
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, Id, SentOnce, TaughtClass, Teacher, own_settings

#: Pixels of an exercise's picture.
_PICTURE = 100.0
of_all = page_router("/exercises")
of_class = page_router("/classes/{class_id}/exercises")


@of_all.get("", name="exercises")
def exercises(request: Request, user: Teacher, session: DbSession) -> Response:
    """Show drafts and released exercises, each with its picture and where it is given, and a form for a new one."""
    versions = draft_queries.all_versions(session)
    released: dict[str, list[ExerciseVersion]] = {}
    for version in versions:
        released.setdefault(version.exercise, []).append(version)
    classes = class_queries.classes_of_teacher(session, user.id, roles=class_queries.TEACHES)
    archived = exercise_queries.archived(session)
    newest = [own[0].id for own in released.values()]
    return page(
        request,
        "exercises.html",
        drafts=draft_queries.drafts_of(session, user.id),
        released=[own for exercise, own in released.items() if exercise not in archived],
        archived=[own[0] for exercise, own in released.items() if exercise in archived],
        pictures={
            key: thumbnail(own, _PICTURE) for key, own in exercise_queries.pictures_of_versions(session, newest).items()
        },
        given=exercise_queries.classes_of_versions(session, [room.id for room in classes]),
        classes=classes,
        settings=own_settings(session, user.id),
    )


@of_all.post("", name="add_draft", dependencies=[CheckedForm, SentOnce])
def add_draft(
    request: Request,
    user: Teacher,
    session: DbSession,
    title: Annotated[str, Form(max_length=200)] = "",
    source: Annotated[UploadFile | None, File()] = None,
) -> Response:
    """Take a solved model, or a bundle, and make a draft of it."""
    name = plain_name((source.filename or "").replace("\\", "/").rsplit("/", 1)[-1]) if source else ""
    if source is None or not name:
        next_step = _("Choose a STEP file of the solved assembly, or a bundle")
        raise FormRejected(_("file"), _("no file was chosen"), next_step, "source")
    data = source.file.read()
    known = format_of(name, data)
    is_exact = known is not None and known.is_exact
    if not is_zip(data) and not is_exact and not name.lower().endswith(".csv"):
        problem = _("it is neither a STEP file, a table of values nor an exercise bundle")
        raise FormRejected(name, problem, _("Export the model as STEP"), "source")
    words = " ".join(title.split()) or name.rsplit(".", 1)[0]
    draft = drafting.start_draft(
        session, request.app.state.queue, teacher_id=user.id, title=words, source_name=name, source=data
    )
    return RedirectResponse(request.url_for("draft", draft_id=draft.id), status_code=303)


@of_all.get("/versions/{version_id}/bundle.zip", name="version_bundle")
def version_bundle(version_id: Id, user: Teacher, session: DbSession) -> Response:
    """Give a released version as a bundle."""
    version = draft_queries.get_version(session, version_id)
    return zipped(f"{version.exercise}-v{version.number}", version.bundle)


@of_all.post("/versions/{version_id}/draft", name="draft_of_version", dependencies=[CheckedForm, SentOnce])
def draft_of_version(request: Request, version_id: Id, user: Teacher, session: DbSession) -> Response:
    """Start a draft from a released version: it becomes the next one."""
    version = draft_queries.get_version(session, version_id)
    made = drafting.start_draft_of_version(session, request.app.state.queue, version, teacher_id=user.id)
    return RedirectResponse(request.url_for("draft", draft_id=made.id), status_code=303)


@of_all.post("/versions/{version_id}/archive", name="archive_exercise", dependencies=[CheckedForm])
def archive_exercise(
    request: Request, version_id: Id, user: Teacher, session: DbSession, back: Annotated[bool, Form()] = False
) -> Response:
    """Put an exercise out of the way, or take it back; classes that work on it go on."""
    exercise = draft_queries.get_version(session, version_id).exercise
    release.archive_exercise(session, exercise, is_back=back)
    return RedirectResponse(request.url_for("exercises"), status_code=303)


@of_class.post("", name="give_exercise", dependencies=[CheckedForm])
def give_exercise(
    request: Request, classroom: TaughtClass, user: Teacher, session: DbSession, version: FormId = 0
) -> Response:
    """Give a class a released exercise."""
    released = draft_queries.get_version(session, version)
    assign.give_exercise(session, classroom, released, teacher=user)
    return RedirectResponse(
        request.url_for("assignment", class_id=classroom.id, version_id=released.id), status_code=303
    )


def zipped(name: str, content: bytes) -> Response:
    """Give a zip with a plain name."""
    plain = re.sub(r"[^A-Za-z0-9._-]+", "-", name).strip("-") or "exercise"
    headers = {"Content-Disposition": f'attachment; filename="{plain}.zip"'}
    return Response(content, media_type="application/zip", headers=headers)


router = page_router()
for apirouter in (of_all, of_class):
    router.include_router(apirouter)
