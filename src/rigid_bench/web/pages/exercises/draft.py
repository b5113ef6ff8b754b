"""A draft of an exercise: its checks to keep, change or drop, and what is found of it."""

from typing import Annotated, Any

from fastapi import Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError

from rigid_bench.core.drawing.scheme import with_scheme
from rigid_bench.core.exercise.authoring.check_factory import relations
from rigid_bench.core.exercise.authoring.differences import differences
from rigid_bench.core.exercise.authoring.input_parsing import read_nominal, read_tolerance, tolerance_words
from rigid_bench.core.exercise.bundle import CAPS, ExerciseModel
from rigid_bench.core.exercise.cautions import USES
from rigid_bench.core.exercise.review.examined import Examined
from rigid_bench.core.formats.documents import document_error
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.jobs import enqueue
from rigid_bench.store.log import log
from rigid_bench.store.queries import draft_queries
from rigid_bench.store.releasing import release
from rigid_bench.store.tables import Draft
from rigid_bench.web.forms import FormId, number_between
from rigid_bench.web.pages.exercises.exercises import zipped
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, OwnDraft, Teacher

router = page_router("/drafts/{draft_id}")


@router.get("", name="draft")
def draft(request: Request, found: OwnDraft, session: DbSession) -> Response:
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
        relations={name: choice.words for name, (choice, _) in relations().items()},
        uses=list(USES),
        caps=CAPS,
        changed=_since_released(session, document),
        versions=draft_queries.all_versions(session),
    )
    if is_fragment and found.state != "waiting":
        shown.headers["HX-Refresh"] = "true"  # its checks and buttons may be others now
    return shown


def _since_released(session: DbSession, document: dict[str, Any]) -> tuple[int, list[str]] | None:
    """Return the number of the newest released version and what is otherwise in the draft; None before the first."""
    version = draft_queries.newest_version(session, str(document.get("id", "")))
    if version is None:
        return None
    before, after = (ExerciseModel.model_validate(each) for each in (version.document, document))
    return version.number, differences(before, after)


@router.post("", name="change_draft", dependencies=[CheckedForm])
def change_draft(
    request: Request,
    found: OwnDraft,
    session: DbSession,
    title: Annotated[str, Form(max_length=200)] = "",
    intro: Annotated[str, Form(max_length=4000)] = "",
    tolerance: Annotated[str, Form(max_length=40)] = "",
    flow: Annotated[str, Form(max_length=20)] = "either",
    slips: Annotated[str, Form(max_length=20)] = "first only",
    cap: Annotated[list[str], Form()] = [],  # noqa: B006 (FastAPI copies its defaults)
    suggestions: Annotated[bool, Form()] = True,
    stages: Annotated[str, Form(max_length=20_000)] = "",
    uses: Annotated[list[str], Form()] = [],  # noqa: B006 (FastAPI copies its defaults)
    grounding: Annotated[list[str], Form()] = [],  # noqa: B006 (FastAPI copies its defaults)
    part: Annotated[list[str], Form()] = [],  # noqa: B006
    part_name: Annotated[list[str], Form()] = [],  # noqa: B006
    origin: Annotated[list[str], Form()] = [],  # noqa: B006
    process: Annotated[list[str], Form()] = [],  # noqa: B006
    extras: Annotated[list[str], Form()] = [],  # noqa: B006
    material: Annotated[list[str], Form()] = [],  # noqa: B006
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
    document |= {"title": title.strip() or document["title"], "intro": intro.strip(), "flow": flow, "slips": slips}
    document["tolerance"] = tolerance.strip() or document.get("tolerance", "as modelled")
    if cap:
        document["caps"] = _caps(cap)
    document["uses"] = [each for each in uses if each in USES]
    document["suggestions"] = suggestions
    document["grounding"] = grounding or document.get("grounding", ["declared"])
    changed = {
        name: {
            "name": called.strip() or name,
            "origin": way,
            "process": made.strip() or None,
            "extras": extra,
            "material": of.strip(),
        }
        for name, called, way, made, extra, of in zip(part, part_name, origin, process, extras, material, strict=False)
    }
    document["parts"] = [{**each, **changed.get(each["id"], {})} for each in document["parts"]]
    rows = {
        name: (words, number, limit, kind, worth, help_)
        for name, words, number, limit, kind, worth, help_ in zip(
            check, check_title, nominal, limits, value, marks, hint, strict=False
        )
    }
    places = {name: number for number, name in enumerate(check)}
    document["checks"] = [
        _changed_at(each, rows[each["id"]], places[each["id"]]) if each["id"] in rows else each
        for each in document["checks"]
        if each["id"] not in rows or each["id"] in keep
    ]
    dropped = {each for each in rows if each not in keep}
    document["stages"] = [each for each in _stages(stages, dropped) if each["checks"]]
    return keep_draft(request, session, found, document)


def _caps(percents: list[str]) -> dict[str, float]:
    """Read how many percent of the marks each slip leaves at most, in the order of `CAPS`; nothing is no cap."""
    return {
        cap: number_between(percent, 0, 100, where=f"cap for {cap}", field="cap")
        for cap, percent in zip(CAPS, percents, strict=False)
        if percent.strip()
    }


def _stages(text: str, dropped: set[str]) -> list[dict[str, Any]]:
    """Read the stages, a line each; checks that were dropped leave them."""
    found = []
    for line in filter(None, map(str.strip, text.splitlines())):
        name, colon, checks = line.partition(":")
        if not colon or not name.strip():
            raise FormRejected("stages", f"'{line[:40]}' names no checks", "Write a name, a colon, and ids or *")
        names = [each.strip() for each in checks.split(",") if each.strip()]
        found.append({"name": name.strip(), "checks": [each for each in names if each not in dropped]})
    return found


def keep_draft(
    request: Request, session: DbSession, found: Draft, document: dict[str, Any], *, place: str = ""
) -> RedirectResponse:
    """Keep a changed document, look at it again, and go back to the draft, at a place of its page."""
    if document != found.document:
        try:
            ExerciseModel.model_validate(document)
        except ValidationError as exc:
            raise document_error("exercise", exc) from exc
        draft_queries.change_draft(session, found, document)
        enqueue.examine_draft(session, request.app.state.queue, found.id)
    return _to_draft(request, found, place)


def _to_draft(request: Request, found: Draft, place: str = "") -> RedirectResponse:
    url = str(request.url_for("draft", draft_id=found.id))
    return RedirectResponse(f"{url}#{place}" if place else url, status_code=303)


def _changed_at(check: dict[str, Any], row: tuple[str, str, str, str, str, str], number: int) -> dict[str, Any]:
    """Return a changed check; an error says of which, and which of the fields of one name it is."""
    try:
        return _changed(check, row)
    except FormRejected as exc:
        field = f"{exc.field}[{number}]" if exc.field else ""
        raise FormRejected(f"{check['title']}, {exc.where}", exc.problem, exc.next_step, field) from exc


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
    return {**changed, "value": value} if value in ("free", "optional", "assumed", "calculated", "shown") else changed


def _marks(text: str, title: str) -> float:
    return number_between(text, 0, 1000, where=f"marks of {title}", field="marks")


@router.post("/scheme", name="take_scheme", dependencies=[CheckedForm])
def take_scheme(request: Request, found: OwnDraft, session: DbSession, version: FormId = 0) -> Response:
    """Take marks, bands and rules from a released exercise."""
    if found.document is None:
        raise FormRejected("draft", "it is still being read", "Wait until its checks are there")
    scheme = draft_queries.get_version(session, version).document
    return keep_draft(request, session, found, with_scheme(dict(found.document), scheme))


@router.post("/undo", name="undo_draft", dependencies=[CheckedForm])
def undo_draft(request: Request, found: OwnDraft, session: DbSession) -> Response:
    """Go back to the draft before the last change."""
    if draft_queries.undo_draft(session, found):
        enqueue.examine_draft(session, request.app.state.queue, found.id)
    return _to_draft(request, found)


@router.post("/redo", name="redo_draft", dependencies=[CheckedForm])
def redo_draft(request: Request, found: OwnDraft, session: DbSession) -> Response:
    """Make the change again that was undone last."""
    if draft_queries.redo_draft(session, found):
        enqueue.examine_draft(session, request.app.state.queue, found.id)
    return _to_draft(request, found)


@router.post("/release", name="release_draft", dependencies=[CheckedForm])
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
    about: dict[str, Any] = {"title": version.title, "number": version.number}
    log(session, "exercise-released", who_id=user.id, class_id=None, **about)
    return RedirectResponse(f"{request.url_for('exercises')}#version-{version.id}", status_code=303)


@router.post("/drop", name="drop_draft", dependencies=[CheckedForm])
def drop_draft(request: Request, found: OwnDraft, session: DbSession) -> Response:
    """Forget the draft."""
    draft_queries.drop_draft(session, found)
    return RedirectResponse(request.url_for("exercises"), status_code=303)


@router.get("/bundle.zip", name="draft_bundle")
def draft_bundle(found: OwnDraft) -> Response:
    """Give the draft as a bundle."""
    if found.bundle is None:
        raise FormRejected("draft", "nothing was made of it yet", "Wait until its checks are there")
    return zipped(found.title, found.bundle)


def examined_of(found: Draft) -> Examined:
    """Return what was found of a draft; refused while it is being read."""
    if found.examined is None:
        raise FormRejected("draft", "it is still being read", "Wait until its checks are there")
    return Examined.model_validate(found.examined)
