"""Handing in: files are chosen, what was understood is shown, and then the student lets them count.

What can be known to be wrong without measuring is refused at once.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from types import MappingProxyType
from typing import Annotated

from fastapi import Form, Request, UploadFile
from fastapi.responses import RedirectResponse, Response
from markupsafe import Markup
from pydantic import Field

from rigid_bench.app.builds import hand_in as handing_in
from rigid_bench.core.formats.message import Message
from rigid_bench.core.formats.preview import Preview
from rigid_bench.core.grading.intake.files import check_files
from rigid_bench.core.grading.intake.statements import FILE as STATEMENTS
from rigid_bench.core.grading.intake.statements import MENDED, write_statements
from rigid_bench.core.values.errors import FormRejected, RigidBenchError
from rigid_bench.core.values.names import plain_name
from rigid_bench.core.wording.language import N_, _
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.files import FileStoreSilent
from rigid_bench.store.queries import build_queries, class_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import COUNTED, Build, ExerciseVersion
from rigid_bench.web.figures.part_pictures import part_pictures
from rigid_bench.web.figures.views import thumbnail
from rigid_bench.web.files import split_evidence
from rigid_bench.web.forms import FormModel
from rigid_bench.web.pages.builds.scene_answer import scene_answer
from rigid_bench.web.pages.exercises.sheet import read_version
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import (
    AssignedExercise,
    CheckedForm,
    DbSession,
    Id,
    OwnBuild,
    Student,
    VisibleBuild,
)

chosen = page_router("/classes/{class_id}/exercises/{version_id}/hand-in")
looked = page_router("/builds/{build_id}")

_NOTHING = FormRejected(
    N_("files"), N_("no file was chosen"), N_("Choose STEP files or meshes, a build file, or a zip of them")
)


@chosen.get("")
def hand_in(request: Request, class_id: Id, version: AssignedExercise, user: Student, session: DbSession) -> Response:
    """Show the form."""
    _check_may(session, class_id, version, user)
    return page(request, "hand_in.html", class_id=class_id, version=version, notes=_notes(version), error=None)


class HandInForm(FormModel):
    """Files, and what is said about them."""

    files: list[UploadFile] = []
    #: Checks, and in their order what is said about each.
    note_for: list[str] = []
    note: list[str] = []
    #: What was found and mended.
    mended: str = Field(default="", max_length=1000)

    def said(self) -> dict[str, str]:
        """Return what is said, by check."""
        said = {check: text for check, text in zip(self.note_for, self.note, strict=False) if text.strip()}
        return said | ({MENDED: self.mended.strip()} if self.mended.strip() else {})


@chosen.post("", name="take_build", dependencies=[CheckedForm])
def take_build(
    request: Request,
    class_id: Id,
    version: AssignedExercise,
    user: Student,
    session: DbSession,
    form: Annotated[HandInForm, Form(media_type="multipart/form-data")],
) -> Response:
    """Keep the files and queue a look at them, or say what is wrong and keep nothing."""
    _check_may(session, class_id, version, user)
    said = form.said()
    try:
        contents, evidence = split_evidence(_contents(form.files))
        if said and STATEMENTS not in contents:
            contents[STATEMENTS] = write_statements(said)
        check_files(contents)
        build_id = handing_in.choose_files(
            session,
            request.app.state.queue,
            class_id=class_id,
            version_id=version.id,
            student_id=user.id,
            files=contents,
            evidence=evidence,
            class_bytes=request.app.state.settings.class_bytes,
        )
    except FileStoreSilent:
        raise  # no fault of the files
    except RigidBenchError as exc:
        if "hx-request" in request.headers:
            raise  # said below the form, which keeps the files that were chosen
        notes = _notes(version, said)
        return page(request, "hand_in.html", status=422, class_id=class_id, version=version, notes=notes, error=exc)
    return RedirectResponse(request.url_for("look", build_id=build_id), status_code=303)


def _check_may(session: DbSession, class_id: int, version: ExerciseVersion, user: Person) -> None:
    handing_in.check_may_hand_in(session, class_id=class_id, version=version, student_id=user.id, now=datetime.now(UTC))


#: Pixels of a part's picture.
_PICTURE = 90.0


@dataclass(frozen=True, slots=True, kw_only=True)
class NoteView:
    """A check for which the student may say something."""

    id: str
    title: str
    required: Message
    text: str


def _notes(version: ExerciseVersion, said: Mapping[str, str] = MappingProxyType({})) -> list[NoteView]:
    _, prepared = read_version(version)
    return [
        NoteView(id=check.id, title=check.title, required=check.required_message, text=said.get(check.id, ""))
        for check in prepared.checks
        if check.takes_note
    ]


@dataclass(frozen=True, slots=True, kw_only=True)
class LookView:
    """What was understood of files that do not count yet."""

    build: Build
    understood: Preview | None
    #: How many builds are looked at or measured before this one.
    before: int
    #: What a student sees before the card is returned; with "nothing" there is nothing to check for.
    can_check: bool
    attempts_left: int | None
    #: By the part's name: how it looks as it is asked.
    references: Mapping[str, Markup]
    #: The parts where they stand can be looked at in 3D.
    has_scene: bool
    #: The class's own words.
    settings: ClassSettings

    @property
    def pictures(self) -> list[Markup]:
        """The parts that were handed in, as far as they have a shape to draw, in their order."""
        parts = self.understood.parts if self.understood else []
        return [thumbnail(part.picture.model_dump(), _PICTURE) for part in parts if part.picture]

    @property
    def is_waiting(self) -> bool:
        """The page looks again by itself."""
        return self.build.state == "looking"


def _view(session: DbSession, build: Build) -> LookView:
    terms = class_queries.assignment_of(session, build.class_id, build.version_id)
    used = build_queries.count_attempts(
        session, class_id=build.class_id, version_id=build.version_id, student_id=build.student_id
    )
    return LookView(
        build=build,
        understood=Preview.model_validate(build.understood) if build.understood else None,
        before=build_queries.builds_before(session, build),
        can_check=terms.shows != "nothing",
        attempts_left=None if terms.attempts is None else max(0, terms.attempts - used),
        references=_references(build) if build.understood else {},
        settings=class_queries.settings_of_classes(session, [build.class_id])[build.class_id],
        has_scene=build.state == "looked" and build_queries.has_scene(session, build.id),
    )


def _references(build: Build) -> dict[str, Markup]:
    drawn = part_pictures(build.version)
    return {part["name"]: drawn[part["id"]] for part in build.version.document["parts"] if part["id"] in drawn}


@looked.get("/look")
def look(request: Request, build: VisibleBuild, user: Student, session: DbSession) -> Response:
    """Show what was understood; a build that counts already has its card instead."""
    if build.state in COUNTED:
        return RedirectResponse(request.url_for("card", build_id=build.id), status_code=303)
    return page(request, "look.html", look=_view(session, build))


@looked.get("/look/progress")
def look_progress(request: Request, build: VisibleBuild, user: Student, session: DbSession) -> Response:
    """Show the live line while the files are looked at, then what was understood in its place."""
    return page(request, "_look.html", look=_view(session, build))


@looked.get("/look/scene.json", name="look_scene")
def look_scene(build: VisibleBuild, user: Student, session: DbSession) -> Response:
    """Give the triangles of what was handed in; of a build that counts only a teacher sees them."""
    return scene_answer(session, build.id if build.state == "looked" else 0)


@looked.post("/hand-in", name="count_build", dependencies=[CheckedForm])
def count_build(request: Request, build: OwnBuild, user: Student, session: DbSession) -> Response:
    """Let the build count from now on; one that counts already has its card."""
    if build.state == "refused":
        return RedirectResponse(request.url_for("look", build_id=build.id), status_code=303)
    if build.state in COUNTED and build.counts:
        return RedirectResponse(request.url_for("card", build_id=build.id), status_code=303)
    handing_in.count_build(session, request.app.state.queue, build, now=datetime.now(UTC))
    return RedirectResponse(request.url_for("card", build_id=build.id), status_code=303)


@looked.post("/check", name="check_build", dependencies=[CheckedForm])
def check_build(request: Request, build: OwnBuild, user: Student, session: DbSession) -> Response:
    """Measure the build for a card that does not count yet."""
    handing_in.check_build(session, request.app.state.queue, build)
    return RedirectResponse(request.url_for("card", build_id=build.id), status_code=303)


def _contents(files: list[UploadFile]) -> dict[str, bytes]:
    """Read what was uploaded, by name; a name is shown, never used as a path."""
    contents: dict[str, bytes] = {}
    for file in files:
        name = plain_name((file.filename or "").replace("\\", "/").rsplit("/", 1)[-1])
        if not name:
            continue  # the browser sends an empty field where nothing was chosen
        if name in contents:
            raise FormRejected(name, _("two files have this name"), _("Give each file its own name"))
        contents[name] = file.file.read()
    if not contents:
        raise _NOTHING
    return contents


router = page_router()
router.include_router(chosen)
router.include_router(looked)
