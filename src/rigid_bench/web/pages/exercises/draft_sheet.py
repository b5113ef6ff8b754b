"""The sheet of a draft: its dimensions moved, its views chosen, what is missing or said twice shown on it."""

from collections.abc import Sequence
from typing import Annotated, Any, get_args

from fastapi import Form, Request
from fastapi.responses import Response
from pydantic import Field, ValidationError

from rigid_bench.app.exercises import draft as drafting
from rigid_bench.core.drawing.report import view_name
from rigid_bench.core.exercise.authoring.dimension_order import chain_sums, reordered
from rigid_bench.core.exercise.bundle import CheckModel, DrawingModel, ExerciseModel, SquareView, ViewChoice
from rigid_bench.core.exercise.cautions import cautions
from rigid_bench.core.exercise.review.examined import Examined
from rigid_bench.core.formats.documents import document_error
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.names import slug
from rigid_bench.core.wording.language import _
from rigid_bench.store.tables import Draft
from rigid_bench.web.forms import FormModel, TypedForm, number_between
from rigid_bench.web.pages.exercises.draft import desk_page, examined_of, keep_draft
from rigid_bench.web.pages.exercises.sheet import options_of
from rigid_bench.web.print.sheet import Angle, DrawnSheet, Paper, cutting_of, drawn_sheets, sheet_pdf
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, OwnDraft

router = page_router("/drafts/{draft_id}")
_VIEWS: tuple[SquareView, ...] = get_args(SquareView)
#: mm on paper by which views and dimensions may be moved.
_FURTHEST = 400.0


@router.get("/sheet", name="draft_sheet")
def draft_sheet(request: Request, draft: OwnDraft) -> Response:
    """Show the sheet as students will see it, with what is missing or said twice; its dimensions can be moved."""
    return _sheet(request, draft)


class ShiftForm(FormModel):
    """By how much a dimension is moved on the sheet, mm on paper."""

    check: Annotated[str, Field(max_length=200)] = ""
    x: Annotated[float, Field(ge=-_FURTHEST, le=_FURTHEST)] = 0.0
    y: Annotated[float, Field(ge=-_FURTHEST, le=_FURTHEST)] = 0.0
    at: Annotated[str, Field(max_length=200)] = ""


@router.post("/shifts", name="shift_dimension", dependencies=[CheckedForm])
def shift_dimension(
    request: Request,
    draft: OwnDraft,
    session: DbSession,
    form: Annotated[ShiftForm, Form()],
) -> Response:
    """Move a dimension on the sheet, from where it stands, mm on paper; the desk shows its drawing again."""
    document = dict(draft.document or {})
    shifts = dict(document.get("shifts", {}))
    before = shifts.get(form.check, (0.0, 0.0))
    shifts[form.check] = [round(before[0] + form.x, 2), round(before[1] + form.y, 2)]
    if any(known_check["id"] == form.check for known_check in document.get("checks", [])):
        drafting.change_drawing(session, request.app.state.queue, draft, {**document, "shifts": shifts})
    if form.at:
        return desk_page(request, session, draft, form.at, "_desk_drawing.html")
    return _sheet(request, draft)


class ViewShiftForm(FormModel):
    """By how much a view is moved on the sheet, mm on paper."""

    part: Annotated[str, Field(max_length=200)]
    view: SquareView
    x: Annotated[float, Field(ge=-_FURTHEST, le=_FURTHEST)] = 0.0
    y: Annotated[float, Field(ge=-_FURTHEST, le=_FURTHEST)] = 0.0


@router.post("/view-moved", name="move_view", dependencies=[CheckedForm])
def move_view(
    request: Request,
    draft: OwnDraft,
    session: DbSession,
    form: Annotated[ViewShiftForm, Form()],
) -> Response:
    """Move a view on the sheet, from where it stands, mm on paper; the views of its part are a person's choice then."""
    document = dict(draft.document or {})
    exercise = ExerciseModel.model_validate(document)
    drawn = drawn_sheets(exercise, examined_of(draft).prepared, options_of(None, None, version="draft"))
    shown = {name: own for name, (is_shown, own) in _choices(exercise, drawn).get(form.part, {}).items() if is_shown}
    if form.view in shown:
        right, up = shown[form.view].moved
        moved = [min(max(round(at + by, 1), -_FURTHEST), _FURTHEST) for at, by in ((right, form.x), (up, form.y))]
        views = [own.model_dump() | ({"moved": moved} if name == form.view else {}) for name, own in shown.items()]
        drawing = document.get("drawing", {})
        drawing = {**drawing, "views": {**drawing.get("views", {}), form.part: views}}
        drafting.change_drawing(session, request.app.state.queue, draft, {**document, "drawing": drawing})
    return _sheet(request, draft, is_moved=True)


@router.post("/drawing", name="draw_otherwise", dependencies=[CheckedForm])
def draw_otherwise(request: Request, draft: OwnDraft, session: DbSession, form: TypedForm) -> Response:
    """Keep how the sheets are drawn: paper, projection, arrangement of sizes, and each part's views."""
    document = dict(draft.document or {})
    drawing = {**document.get("drawing", {}), **_drawing(form, [part["id"] for part in document.get("parts", [])])}
    try:
        DrawingModel.model_validate(drawing)
    except ValidationError as exc:
        raise document_error("drawing", exc) from exc
    drafting.change_drawing(session, request.app.state.queue, draft, {**document, "drawing": drawing})
    return _sheet(request, draft)


def _drawing(form: dict[str, list[str]], parts: list[str]) -> dict[str, Any]:
    def first(name: str, otherwise: str) -> str:
        return next(iter(form.get(name, [])), otherwise)

    views = {part: own for part in parts if (own := _views(form, part))}
    return {
        "angle": first("angle", "third"),
        "paper": first("paper", "") or None,
        "upright": first("upright", "") == "on",
        "arrangement": first("arrangement", "parallel"),
        "views": views,
    }


def _views(form: dict[str, list[str]], part: str) -> list[dict[str, Any]]:
    """Read which views of a part are drawn; none where the program chooses."""
    if form.get(f"{part}:chosen", [""])[0] != "on":
        return []
    shown = [name for name in _VIEWS if name in form.get(f"{part}:view", [])]
    if not shown:
        raise FormRejected(
            _("views"), _("no view of '{part}' is left", part=part), _("Tick at least one, or leave the choice to us")
        )
    return [_view(form, part, name) for name in shown]


def _view(form: dict[str, list[str]], part: str, name: str) -> dict[str, Any]:
    def value(what: str) -> str:
        return form.get(f"{part}:{name}:{what}", [""])[0].strip() or "0"

    where = _("{name} view", name=name)
    moved = [number_between(value(way), -_FURTHEST, _FURTHEST, where=where, field=f"{part}:{name}:{way}")
             for way in ("right", "up")]  # fmt: skip
    turn = int(number_between(value("turn"), 0, 270, where=where, field=f"{part}:{name}:turn"))
    return {"view": name, "turn": turn, "moved": moved, "cut": form.get(f"{part}:{name}:cut", [""])[0] == "on"}


@router.post("/order", name="order_dimensions", dependencies=[CheckedForm])
def order_dimensions(
    request: Request,
    draft: OwnDraft,
    session: DbSession,
    part: Annotated[str, Form(max_length=200)] = "",
    order: Annotated[str, Form(max_length=20)] = "datum",
) -> Response:
    """Put a part's sizes in a chain, or take them from one datum, and look at the draft again."""
    document = drafting.document_of(draft)
    checks = reordered(document.get("checks", []), part, "chain" if order == "chain" else "datum")
    return keep_draft(request, session, draft, {**document, "checks": checks}, at=part)


@router.get("/sheet.pdf", name="draft_pdf")
def draft_pdf(
    draft: OwnDraft, paper: Paper | None = None, angle: Angle | None = None, blanks: bool = False, both: bool = False,
    steps: bool = False,
) -> Response:  # fmt: skip
    """Give the draft's sheet as PDF."""
    prepared = examined_of(draft).prepared
    exercise = ExerciseModel.model_validate(draft.document)
    options = options_of(paper, angle, blanks=blanks, both=both, steps=steps, shared=True, version="draft")
    pdf = sheet_pdf(exercise, prepared, options)
    headers = {"Content-Disposition": f'attachment; filename="{slug(draft.title)}-sheet.pdf"'}
    return Response(pdf, media_type="application/pdf", headers=headers)


def _sheet(request: Request, draft: Draft, *, is_moved: bool = False) -> Response:
    examined, exercise = examined_of(draft), ExerciseModel.model_validate(draft.document)
    processes = [part.process for part in exercise.parts if part.process and part.origin == "made"]
    name = "_draft_drawings.html" if "hx-request" in request.headers else "draft_sheet.html"
    missing = _missing(examined, exercise)
    twice = {own.check for report in examined.audit.parts.values() for own in report.redundant}
    marks = {check.id: "missing" for check in missing} | dict.fromkeys(twice, "twice")
    sizes = {check.id: check.size for check in examined.prepared.checks if check.size}
    options = options_of(None, None, version="draft")
    drawn = drawn_sheets(exercise, examined.prepared, options, missing, marks, movable=True)
    return page(
        request,
        name,
        draft=draft,
        exercise=exercise,
        prepared=examined.prepared,
        drawn=drawn,
        choices=_choices(exercise, drawn),
        is_moved=is_moved,
        twice=[check for check in exercise.checks if check.id in twice],
        missing=missing,
        sums=chain_sums(exercise.checks, [part.id for part in exercise.parts], sizes),
        cutting=cutting_of(exercise, examined.prepared),
        cautions=cautions(processes, exercise.uses),
    )


def _choices(exercise: ExerciseModel, drawn: Sequence[DrawnSheet]) -> dict[str, dict[str, tuple[bool, ViewChoice]]]:
    """Return by part and view whether the sheet has it, and how it is drawn."""
    choices: dict[str, dict[str, tuple[bool, ViewChoice]]] = {}
    for part in exercise.parts:
        shown = {view_name(view) for sheet in drawn for view in sheet.report.views if view.part == part.id}
        chosen = {own.view: own for own in exercise.drawing.views.get(part.id, ())}
        choices[part.id] = {name: (name in shown, chosen.get(name, ViewChoice(view=name))) for name in _VIEWS}
    return choices


def _missing(examined: Examined, exercise: ExerciseModel) -> list[CheckModel]:
    """Return the dimensions that the draft lacks and are offered, by ids of their own."""
    known = {check.id for check in exercise.checks}
    return [
        CheckModel.model_validate({**offer, "id": f"missing-{number}"})
        for part, offers in examined.offered.items()
        for number, offer in enumerate(offers, 1)
        if offer.get("kind") == "dimension" and offer.get("id") not in known and part
    ]
