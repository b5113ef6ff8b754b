"""Setting exercises: from a solved model or a bundle to a draft, to a released version, to a class."""

import re
from collections.abc import Mapping
from typing import Annotated, Any

from fastapi import APIRouter, File, Form, Request, UploadFile
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError

from rigid_bench.core.archive import is_zip
from rigid_bench.core.documents import document_error
from rigid_bench.core.errors import FormRejected
from rigid_bench.core.exercise.exercise import ExerciseModel
from rigid_bench.core.grading.examine import Examined
from rigid_bench.core.grading.files import is_step
from rigid_bench.core.names import plain_name
from rigid_bench.jobs import tasks
from rigid_bench.store import class_queries, draft_queries, queries
from rigid_bench.store.releasing import release
from rigid_bench.store.tables import Draft
from rigid_bench.web.access import CheckedForm, DbSession, Id, OwnClass, OwnDraft, Teacher
from rigid_bench.web.render import page

of_all = APIRouter(prefix="/exercises")
of_class = APIRouter(prefix="/classes/{class_id}/exercises")
of_draft = APIRouter(prefix="/drafts/{draft_id}")

_LIMITS = re.compile(r"\+\s*([\d.,]+)\s*/\s*[-−]\s*([\d.,]+)")
_EITHER = re.compile(r"(?:±|\+-|\+/-)\s*([\d.,]+)")


@of_all.get("", name="exercises")
def exercises(request: Request, user: Teacher, session: DbSession) -> Response:
    """Show drafts and released exercises, and a form for a new one."""
    return page(
        request,
        "exercises.html",
        drafts=draft_queries.drafts_of(session, user.id),
        versions=draft_queries.all_versions(session),
        classes=queries.classes_of_teacher(session, user.id),
    )


@of_all.post("", name="add_draft", dependencies=[CheckedForm])
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
        raise FormRejected("file", "no file was chosen", "Choose a STEP file of the solved assembly, or a bundle")
    data = source.file.read()
    if not is_zip(data) and not is_step(name, data):
        raise FormRejected(name, "it is neither a STEP file nor an exercise bundle", "Export the model as STEP")
    words = " ".join(title.split()) or name.rsplit(".", 1)[0]
    draft = draft_queries.add_draft(session, teacher_id=user.id, title=words, source_name=name, source=data)
    tasks.examine_draft(session, request.app.state.queue, draft.id)
    return RedirectResponse(request.url_for("draft", draft_id=draft.id), status_code=303)


@of_draft.get("", name="draft")
def draft(request: Request, found: OwnDraft) -> Response:
    """Show a draft: its checks to keep, change or drop, and what is found of it."""
    is_fragment = "hx-request" in request.headers
    name = "_draft_state.html" if is_fragment else "draft.html"
    document = found.document or {}
    checks = document.get("checks", [])
    examined = Examined.model_validate(found.examined) if found.examined else None
    shown = page(
        request,
        name,
        draft=found,
        document=document,
        checks=checks,
        parts=document.get("parts", []),
        examined=examined,
        required={each.id: each.required for each in examined.prepared.checks} if examined else {},
        tolerance_words=tolerance_words,
    )
    if is_fragment and found.state != "waiting":
        shown.headers["HX-Refresh"] = "true"  # its checks and buttons may be others now
    return shown


def tolerance_words(check: Mapping[str, Any]) -> str:
    """Write a check's tolerance as a teacher types it."""
    given = check.get("tolerance")
    if isinstance(given, dict):
        minus, plus = given.get("minus", 0), given.get("plus", 0)
        return f"±{plus:g}" if minus == plus else f"+{plus:g}/-{minus:g}"
    return str(given or "")


@of_draft.post("", name="change_draft", dependencies=[CheckedForm])
def change_draft(
    request: Request,
    found: OwnDraft,
    session: DbSession,
    title: Annotated[str, Form(max_length=200)] = "",
    intro: Annotated[str, Form(max_length=4000)] = "",
    tolerance: Annotated[str, Form(max_length=40)] = "",
    flow: Annotated[str, Form(max_length=20)] = "either",
    part: Annotated[list[str], Form()] = [],  # noqa: B006 (FastAPI copies its defaults)
    part_name: Annotated[list[str], Form()] = [],  # noqa: B006
    origin: Annotated[list[str], Form()] = [],  # noqa: B006
    process: Annotated[list[str], Form()] = [],  # noqa: B006
    check: Annotated[list[str], Form()] = [],  # noqa: B006
    keep: Annotated[list[str], Form()] = [],  # noqa: B006
    check_title: Annotated[list[str], Form()] = [],  # noqa: B006
    nominal: Annotated[list[str], Form()] = [],  # noqa: B006
    limits: Annotated[list[str], Form()] = [],  # noqa: B006
    value: Annotated[list[str], Form()] = [],  # noqa: B006
    marks: Annotated[list[str], Form()] = [],  # noqa: B006
    hint: Annotated[list[str], Form()] = [],  # noqa: B006
) -> Response:
    """Keep the changes and look at the draft again."""
    if found.document is None:
        raise FormRejected("draft", "it is still being read", "Wait until its checks are there")
    document = dict(found.document)
    document |= {"title": title.strip() or document["title"], "intro": intro.strip(), "flow": flow}
    document["tolerance"] = tolerance.strip() or document.get("tolerance", "as modelled")
    changed = {
        name: {"name": called.strip() or name, "origin": way, "process": made.strip() or None}
        for name, called, way, made in zip(part, part_name, origin, process, strict=False)
    }
    document["parts"] = [{**each, **changed.get(each["id"], {})} for each in document["parts"]]
    rows = {
        name: (words, number, limit, kind, worth, help_)
        for name, words, number, limit, kind, worth, help_ in zip(
            check, check_title, nominal, limits, value, marks, hint, strict=False
        )
    }
    document["checks"] = [
        _changed(each, rows[each["id"]]) if each["id"] in rows else each
        for each in document["checks"]
        if each["id"] not in rows or each["id"] in keep
    ]
    known = {each["id"] for each in document["checks"]} | {"*"}
    document["stages"] = [
        {**each, "checks": kept}
        for each in document.get("stages", [])
        if (kept := [name for name in each["checks"] if name in known])
    ]
    if document != found.document:
        try:
            ExerciseModel.model_validate(document)
        except ValidationError as exc:
            raise document_error("exercise", exc) from exc
        draft_queries.change_draft(session, found, document)
        tasks.examine_draft(session, request.app.state.queue, found.id)
    return _to_draft(request, found)


def _changed(check: dict[str, Any], row: tuple[str, str, str, str, str, str]) -> dict[str, Any]:
    words, nominal, limits, value, marks, hint = (each.strip() for each in row)
    changed = {**check, "title": words or check["title"], "hint": hint, "marks": _marks(marks, words)}
    if check["kind"] != "dimension":
        return changed
    if nominal:
        changed["nominal"] = read_nominal(nominal)
    changed.pop("tolerance", None)
    if limits:
        changed["tolerance"] = read_tolerance(limits)
    changed.pop("value", None)
    return {**changed, "value": value} if value in ("free", "optional", "assumed") else changed


def read_nominal(text: str) -> float | str:
    """Read a nominal: a number, or a sum that stays one."""
    return float(text) if re.fullmatch(r"-?\d+(\.\d+)?", text) else text


def read_tolerance(text: str) -> str | dict[str, float]:
    """Read a tolerance as a teacher types it: limits, a class or a fit."""
    both, either = _LIMITS.fullmatch(text), _EITHER.fullmatch(text)
    if both:
        return {"plus": _number(both[1]), "minus": _number(both[2])}
    if either:
        return {"minus": _number(either[1]), "plus": _number(either[1])}
    return text


def _number(text: str) -> float:
    try:
        return float(text.replace(",", "."))
    except ValueError as exc:
        raise FormRejected("tolerance", f"'{text}' is no number", "Write ±0.1, +0.2/-0, a class or a fit") from exc


def _marks(text: str, title: str) -> float:
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = -1.0
    if not 0 <= value <= 1000:
        raise FormRejected(f"marks of {title}", f"'{text}' is not from 0 to 1000", "Go back and type such a number")
    return value


@of_draft.post("/undo", name="undo_draft", dependencies=[CheckedForm])
def undo_draft(request: Request, found: OwnDraft, session: DbSession) -> Response:
    """Go back to the draft before the last change."""
    if draft_queries.undo_draft(session, found):
        tasks.examine_draft(session, request.app.state.queue, found.id)
    return _to_draft(request, found)


@of_draft.post("/release", name="release_draft", dependencies=[CheckedForm])
def release_draft(
    request: Request,
    found: OwnDraft,
    user: Teacher,
    session: DbSession,
    all_the_same: Annotated[bool, Form()] = False,
) -> Response:
    """Release the draft as the next version of its exercise; where it is not sound only if that is meant."""
    if found.state != "ready" or found.examined is None:
        raise FormRejected("draft", "it cannot be released as it is", "Put right what is said of it first")
    if not Examined.model_validate(found.examined).is_sound and not all_the_same:
        raise FormRejected(
            "draft", "something on its sheet is missing or wrong", "Look at it, or release it all the same"
        )
    version = release(session, found)
    draft_queries.drop_draft(session, found)  # it goes on as a version, from which a new draft can be started
    class_queries.log(
        session, who=user.name, action="released", subject=f"{version.title} v{version.number}", class_id=None
    )
    return RedirectResponse(f"{request.url_for('exercises')}#version-{version.id}", status_code=303)


@of_draft.post("/drop", name="drop_draft", dependencies=[CheckedForm])
def drop_draft(request: Request, found: OwnDraft, session: DbSession) -> Response:
    """Forget the draft."""
    draft_queries.drop_draft(session, found)
    return RedirectResponse(request.url_for("exercises"), status_code=303)


@of_draft.get("/bundle.zip", name="draft_bundle")
def draft_bundle(found: OwnDraft) -> Response:
    """Give the draft as a bundle."""
    if found.bundle is None:
        raise FormRejected("draft", "nothing was made of it yet", "Wait until its checks are there")
    return _bundle(found.title, found.bundle)


@of_all.get("/versions/{version_id}/bundle.zip", name="version_bundle")
def version_bundle(version_id: Id, user: Teacher, session: DbSession) -> Response:
    """Give a released version as a bundle."""
    found = draft_queries.version_or_none(session, version_id)
    return _bundle(f"{found.exercise}-v{found.number}", found.bundle)


@of_all.post("/versions/{version_id}/draft", name="draft_of_version", dependencies=[CheckedForm])
def draft_of_version(request: Request, version_id: Id, user: Teacher, session: DbSession) -> Response:
    """Start a draft from a released version: it becomes the next one."""
    found = draft_queries.version_or_none(session, version_id)
    made = draft_queries.add_draft(
        session,
        teacher_id=user.id,
        title=found.title,
        source_name=f"{found.exercise}-v{found.number}.zip",
        source=found.bundle,
    )
    tasks.examine_draft(session, request.app.state.queue, made.id)
    return RedirectResponse(request.url_for("draft", draft_id=made.id), status_code=303)


@of_class.post("", name="give_exercise", dependencies=[CheckedForm])
def give_exercise(
    request: Request, classroom: OwnClass, user: Teacher, session: DbSession, version: Annotated[int, Form()] = 0
) -> Response:
    """Give a class a released exercise."""
    found = draft_queries.version_or_none(session, version)
    if draft_queries.give(session, classroom.id, found.id):
        class_queries.log(
            session, who=user.name, action="gave out", subject=f"{found.title} v{found.number}", class_id=classroom.id
        )
    return RedirectResponse(request.url_for("assignment", class_id=classroom.id, version_id=found.id), status_code=303)


def _bundle(name: str, content: bytes) -> Response:
    plain = re.sub(r"[^A-Za-z0-9._-]+", "-", name).strip("-") or "exercise"
    headers = {"Content-Disposition": f'attachment; filename="{plain}.zip"'}
    return Response(content, media_type="application/zip", headers=headers)


def _to_draft(request: Request, found: Draft) -> Response:
    return RedirectResponse(request.url_for("draft", draft_id=found.id), status_code=303)


router = APIRouter()
for each in (of_all, of_draft, of_class):
    router.include_router(each)
