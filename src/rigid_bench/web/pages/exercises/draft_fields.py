"""Fields of a draft that save themselves: a check, a part, and what holds for the whole exercise."""

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from fastapi import Form, Path, Request
from fastapi.responses import Response
from pydantic import Field

from rigid_bench.app.exercises import draft as drafting
from rigid_bench.core.exercise.authoring.input_parsing import read_nominal, read_tolerance
from rigid_bench.core.exercise.bundle import CAPS
from rigid_bench.core.exercise.cautions import USES
from rigid_bench.core.marking.weights import ASSEMBLY, part_of, weighted
from rigid_bench.core.values.errors import FormRejected, NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.store.tables import Draft
from rigid_bench.web.forms import FormModel, number_between
from rigid_bench.web.pages.exercises.desk_view import EXERCISE, seen_digest, settings_of, strip_of
from rigid_bench.web.pages.exercises.draft import desk_page, examined_of, to_draft
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, OwnDraft

router = page_router("/drafts/{draft_id}")
_VALUES = ("free", "optional", "assumed", "calculated", "shown", "auxiliary")
_Name = Annotated[str, Path(max_length=200)]
_Word = Annotated[str, Field(max_length=200)]


class CheckForm(FormModel):
    """One check as it is typed."""

    title: _Word = ""
    nominal: _Word = ""
    limits: _Word = ""
    value: _Word = ""
    marks: _Word = ""
    hint: Annotated[str, Field(max_length=4000)] = ""
    #: Of the check as it was when it was shown.
    seen: _Word = ""


class PartForm(FormModel):
    """One part as it is typed."""

    name: _Word = ""
    origin: _Word = "made"
    process: _Word = ""
    material: _Word = ""
    extras: _Word = "forbidden"
    seen: _Word = ""


class WeightsForm(FormModel):
    """How many marks each part, or each strip of the card, is to have, as it is typed."""

    #: Parts or strips, and in their order what is typed of each.
    of: list[_Word] = []
    marks: list[_Word] = []
    by: Literal["part", "strip"] = "part"

    def wanted(self) -> dict[str, float]:
        """Read the marks of each part or strip."""
        return {
            part: number_between(text, 0, 10_000, where=_("marks of {part}", part=part), field=f"marks[{place}]")
            for place, (part, text) in enumerate(zip(self.of, self.marks, strict=False))
        }


class SettingsForm(FormModel):
    """What holds for the whole exercise, as it is typed."""

    title: _Word = ""
    intro: Annotated[str, Field(max_length=4000)] = ""
    tolerance: _Word = ""
    flow: _Word = "either"
    slips: _Word = "first only"
    suggestions: bool = True
    grounding: list[str] = []
    uses: list[str] = []
    #: Percents in the order of `CAPS`.
    cap: list[str] = []
    stages: Annotated[str, Field(max_length=20_000)] = ""
    seen: _Word = ""


@router.post("/checks/{check_id}", name="change_check", dependencies=[CheckedForm])
def change_check(
    request: Request, draft: OwnDraft, session: DbSession, check_id: _Name, form: Annotated[CheckForm, Form()]
) -> Response:
    """Keep what was typed of one check."""
    document = drafting.document_of(draft)
    own = _check(document, check_id)
    _as_seen(own, form.seen, own["title"])
    changed = _changed(own, form)
    checks = [changed if kept["id"] == check_id else kept for kept in document["checks"]]
    return _saved(request, session, draft, {**document, "checks": checks}, own.get("part", ASSEMBLY), row=check_id)


@router.post("/checks/{check_id}/drop", name="drop_check", dependencies=[CheckedForm])
def drop_check(request: Request, draft: OwnDraft, session: DbSession, check_id: _Name) -> Response:
    """Drop a check, also out of its stages."""
    document = drafting.document_of(draft)
    own = _check(document, check_id)
    stages = [
        {**stage, "checks": [name for name in stage["checks"] if name != check_id]}
        for stage in document.get("stages", [])
    ]
    document["checks"] = [kept for kept in document["checks"] if kept["id"] != check_id]
    document["stages"] = [stage for stage in stages if stage["checks"]]
    return _saved(request, session, draft, document, own.get("part", ASSEMBLY))


@router.post("/checks/{check_id}/bracket", name="bracket_check", dependencies=[CheckedForm])
def bracket_check(request: Request, draft: OwnDraft, session: DbSession, check_id: _Name) -> Response:
    """Leave a dimension on the sheet in brackets, and ask it no more: it follows from others."""
    document = drafting.document_of(draft)
    own = _check(document, check_id)
    changed = {**own, "value": "auxiliary"}
    checks = [changed if kept["id"] == check_id else kept for kept in document["checks"]]
    return _saved(request, session, draft, {**document, "checks": checks}, own.get("part", ASSEMBLY), row=check_id)


@router.post("/parts/{part}", name="change_part", dependencies=[CheckedForm])
def change_part(
    request: Request, draft: OwnDraft, session: DbSession, part: _Name, form: Annotated[PartForm, Form()]
) -> Response:
    """Keep what was typed of one part."""
    document = drafting.document_of(draft)
    own = next((kept for kept in document["parts"] if kept["id"] == part), None)
    if own is None:
        raise NotFound(_("part"), _("the draft has no such part"), _("Go back to the draft"))
    _as_seen(own, form.seen, own["name"])
    changed = {
        **own,
        "name": form.name.strip() or part,
        "origin": form.origin,
        "process": form.process.strip() or None,
        "material": form.material.strip(),
        "extras": form.extras,
    }
    parts = [changed if kept["id"] == part else kept for kept in document["parts"]]
    return _saved(request, session, draft, {**document, "parts": parts}, EXERCISE)


@router.post("/settings", name="change_settings", dependencies=[CheckedForm])
def change_settings(
    request: Request, draft: OwnDraft, session: DbSession, form: Annotated[SettingsForm, Form()]
) -> Response:
    """Keep what was typed of the whole exercise."""
    document = drafting.document_of(draft)
    _as_seen(settings_of(document), form.seen, _("the exercise"))
    document |= {
        "title": form.title.strip() or document["title"],
        "intro": form.intro.strip(),
        "tolerance": form.tolerance.strip() or document.get("tolerance", "as modelled"),
        "flow": form.flow,
        "slips": form.slips,
        "suggestions": form.suggestions,
        "grounding": form.grounding or document.get("grounding", ["declared"]),
        "uses": [use for use in form.uses if use in USES],
        "stages": _stages(form.stages),
    }
    if form.cap:
        document["caps"] = _caps(form.cap)
    return _saved(request, session, draft, document, EXERCISE)


@router.post("/weights", name="change_weights", dependencies=[CheckedForm])
def change_weights(
    request: Request,
    draft: OwnDraft,
    session: DbSession,
    form: Annotated[WeightsForm, Form()],
) -> Response:
    """Give each part, or each strip of the card, so many marks in all: those of its checks are scaled."""
    document = drafting.document_of(draft)
    group_of = part_of if form.by == "part" else strip_of(examined_of(draft))
    try:
        document["checks"] = weighted(document["checks"], form.wanted(), group_of)
    except ZeroDivisionError as exc:
        problem = _("no check of it has marks that could be scaled")
        raise FormRejected(_("marks"), problem, _("Give its checks marks first, or leave it at 0"), "marks") from exc
    drafting.change_draft(session, request.app.state.queue, draft, document)
    return to_draft(request, draft, EXERCISE)


def _check(document: Mapping[str, Any], name: str) -> dict[str, Any]:
    own = next((kept for kept in document["checks"] if kept["id"] == name), None)
    if own is None:
        raise NotFound(_("check"), _("the draft has no such check any more"), _("Look at the draft again"))
    return dict(own)


def _as_seen(kept: Mapping[str, Any], seen: str, what: str) -> None:
    """Refuse what was typed over something that another window has changed since."""
    if seen and seen != seen_digest(kept):
        problem = _("it was changed in another window since you saw it")
        raise FormRejected(what, problem, _("What you typed is still here: note it, load the page again and look"))


def _saved(
    request: Request, session: DbSession, draft: Draft, document: dict[str, Any], at: str, row: str | None = None
) -> Response:
    """Keep a document; the desk is told what is another now, and a browser without scripts goes back to it."""
    drafting.change_draft(session, request.app.state.queue, draft, document)
    if "hx-request" not in request.headers:
        return to_draft(request, draft, at)
    return desk_page(request, session, draft, at, "_desk_saved.html", row)


def _changed(check: dict[str, Any], form: CheckForm) -> dict[str, Any]:
    title = form.title.strip() or check["title"]
    marks = number_between(form.marks, 0, 1000, where=_("{title}, marks", title=title), field="marks")
    changed = {**check, "title": title, "hint": form.hint.strip(), "marks": marks}
    if check["kind"] != "dimension":
        return changed
    if form.nominal.strip():
        changed["nominal"] = read_nominal(form.nominal.strip())
    changed.pop("tolerance", None)
    if form.limits.strip():
        try:
            changed["tolerance"] = read_tolerance(form.limits.strip())
        except FormRejected as exc:
            raise FormRejected(f"{title}, {exc.where}", exc.problem, exc.next_step, exc.field) from exc
    changed.pop("value", None)
    return {**changed, "value": form.value} if form.value in _VALUES else changed


def _caps(percents: list[str]) -> dict[str, float]:
    """Read how many percent of the marks each slip leaves at most, in the order of `CAPS`; nothing is no cap."""
    return {
        cap: number_between(percent, 0, 100, where=_("cap for {cap}", cap=cap), field=f"cap[{number}]")
        for number, (cap, percent) in enumerate(zip(CAPS, percents, strict=False))
        if percent.strip()
    }


def _stages(text: str) -> list[dict[str, Any]]:
    """Read the stages, a line each."""
    stages = []
    for line in filter(None, map(str.strip, text.splitlines())):
        name, colon, checks = line.partition(":")
        if not colon or not name.strip():
            problem = _("'{line}' names no checks", line=line[:40])
            raise FormRejected(_("stages"), problem, _("Write a name, a colon, and ids or *"), "stages")
        stages.append({"name": name.strip(), "checks": [own.strip() for own in checks.split(",") if own.strip()]})
    return stages
