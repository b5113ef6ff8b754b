"""New checks of a draft: by pointing, as the audit offers them, by the form of any kind, or as JSON."""

from typing import Annotated, Any

from fastapi import Form, Path, Query, Request
from fastapi.responses import Response
from pydantic import Field, ValidationError

from rigid_bench.core.exercise.authoring import check_factory
from rigid_bench.core.exercise.authoring.check_factory import Picked
from rigid_bench.core.exercise.authoring.kind_form import answers
from rigid_bench.core.exercise.authoring.offers import Offer, offers
from rigid_bench.core.exercise.bundle import CheckModel
from rigid_bench.core.exercise.review.examined import Examined
from rigid_bench.core.formats.documents import document_error, read_json
from rigid_bench.core.marking.weights import ASSEMBLY
from rigid_bench.core.values.errors import FormRejected, NotFound
from rigid_bench.core.values.names import slug, unique
from rigid_bench.core.wording.language import _, series
from rigid_bench.store.tables import Draft
from rigid_bench.web.forms import FormModel, IdField, TypedForm, number_or_none
from rigid_bench.web.pages.exercises.draft import examined_of, keep_draft
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, OwnDraft

router = page_router("/drafts/{draft_id}")
_LONGEST = 20_000
_Text = Annotated[str, Form(max_length=200)]


@router.get("/offers", name="draft_offers")
def draft_offers(
    request: Request,
    draft: OwnDraft,
    part: Annotated[str, Query(max_length=200)],
    a: Annotated[str, Query(max_length=9)] = "",
    b: Annotated[str, Query(max_length=9)] = "",
) -> Response:
    """Show the dimensions that one or two pointed-at features have."""
    given = _offers(examined_of(draft), part, a, b) if a else []
    return page(request, "_offers.html", draft=draft, part=part, a=a, b=b, offers=given)


def _offers(examined: Examined, part: str, a: str, b: str) -> list[Offer]:
    listed = examined.pointable.get(part, [])
    chosen = [int(instance) for instance in (a, b) if instance.isdecimal() and int(instance) < len(listed)]
    return offers(*(listed[number] for number in dict.fromkeys(chosen))) if chosen else []


class OfferedForm(FormModel):
    """A dimension that was offered for one or two features."""

    part: Annotated[str, Field(max_length=200)]
    a: Annotated[str, Field(max_length=200)] = ""
    b: Annotated[str, Field(max_length=200)] = ""
    offer: IdField = 0


@router.post("/dimensions", name="add_dimension", dependencies=[CheckedForm])
def add_dimension(
    request: Request,
    draft: OwnDraft,
    session: DbSession,
    form: Annotated[OfferedForm, Form()],
) -> Response:
    """Add one of the dimensions that were shown."""
    given = _offers(examined_of(draft), form.part, form.a, form.b)
    if not 0 <= form.offer < len(given):
        raise FormRejected(_("dimension"), _("there is no such dimension"), _("Point at the faces again"))
    taken = given[form.offer]
    check = {"title": taken.title, "kind": "dimension", "marks": 1, "part": form.part, "measure": taken.measure}
    return _add(request, session, draft, {**check, **taken.fields, "nominal": taken.nominal}, prefix=form.part)


@router.post("/offered", name="add_offered", dependencies=[CheckedForm])
def add_offered(request: Request, draft: OwnDraft, session: DbSession, part: _Text, check: _Text = "") -> Response:
    """Add one of the dimensions that the audit offers, or all."""
    given = examined_of(draft).offered.get(part, [])
    wanted = [check_document for check_document in given if not check or check_document["id"] == check]
    if not wanted:
        raise FormRejected(_("dimension"), _("it is not offered any more"), _("Look at the draft again"))
    return _add(request, session, draft, *wanted, prefix=part)


class RelationForm(FormModel):
    """What two features do, as typed."""

    doing: Annotated[str, Field(max_length=200)]
    a: Annotated[str, Field(max_length=200)] = ""
    b: Annotated[str, Field(max_length=200)] = ""
    value: Annotated[str, Field(max_length=200)] = ""


@router.post("/relations", name="add_relation", dependencies=[CheckedForm])
def add_relation(
    request: Request,
    draft: OwnDraft,
    session: DbSession,
    form: Annotated[RelationForm, Form()],
) -> Response:
    """Add what two features do."""
    examined = examined_of(draft)
    one, other = _picked(examined, form.a), _picked(examined, form.b)
    return _add(
        request,
        session,
        draft,
        check_factory.relation(form.doing, one, other, examined.places, value=number_or_none(form.value)),
    )


class FreedomForm(FormModel):
    """What a part may still do, as typed."""

    instance: Annotated[str, Field(max_length=200)] = ""
    to: Annotated[str, Field(max_length=200)] = ""
    slide: list[str] = []
    turn: list[str] = []
    through: Annotated[str, Field(max_length=200)] = ""


@router.post("/freedoms", name="add_freedom", dependencies=[CheckedForm])
def add_freedom(
    request: Request,
    draft: OwnDraft,
    session: DbSession,
    form: Annotated[FreedomForm, Form()],
) -> Response:
    """Add what a part may still do."""
    examined = examined_of(draft)
    ways = [[axis for axis in given if axis in "xyz"] for given in (form.slide, form.turn)]
    check = check_factory.freedom(
        _instance(examined, form.instance),
        _instance(examined, form.to),
        slides=ways[0],
        turns=ways[1],
        through=_picked(examined, form.through) if form.through else None,
        places=examined.places,
    )
    return _add(request, session, draft, check)


class GapForm(FormModel):
    """A gap between two parts, or a face of each, as typed."""

    a: Annotated[str, Field(max_length=200)] = ""
    b: Annotated[str, Field(max_length=200)] = ""
    least: Annotated[str, Field(max_length=200)] = ""
    most: Annotated[str, Field(max_length=200)] = ""
    fit: Annotated[str, Field(max_length=200)] = ""


@router.post("/gaps", name="add_gap", dependencies=[CheckedForm])
def add_gap(
    request: Request,
    draft: OwnDraft,
    session: DbSession,
    form: Annotated[GapForm, Form()],
) -> Response:
    """Add a gap between two parts, or between a face of each."""
    examined, given = examined_of(draft), (form.a, form.b)
    between = (_picked(examined, form.a), _picked(examined, form.b)) if all(":" in picked for picked in given) else None
    names = [_instance(examined, picked.partition(":")[0]) for picked in given]
    check = check_factory.gap(
        names[0],
        names[1],
        examined.places,
        least=number_or_none(form.least),
        most=number_or_none(form.most),
        fit=form.fit.strip(),
        between=between,
    )
    return _add(request, session, draft, check)


@router.post("/changes", name="add_change", dependencies=[CheckedForm])
def add_change(request: Request, draft: OwnDraft, session: DbSession, size: _Text = "", value: _Text = "") -> Response:
    """Add a change test: one size set to another value, and the model handed in again."""
    sizes = [check for check in (draft.document or {}).get("checks", []) if check["kind"] == "dimension"]
    check = next((candidate for candidate in sizes if candidate["id"] == size), None)
    if check is None:
        raise FormRejected(_("change"), _("no size was chosen"), _("Choose a dimension"))
    return _add(request, session, draft, check_factory.change(check, number_or_none(value)))


@router.post("/kinds/{kind}", name="add_kind", dependencies=[CheckedForm])
def add_kind(
    request: Request, draft: OwnDraft, session: DbSession, kind: Annotated[str, Path(max_length=60)], form: TypedForm
) -> Response:
    """Add a check of any kind by the form that is made from its fields."""
    examined = examined_of(draft)
    if kind not in examined.forms:
        raise NotFound(
            _("check"),
            _("there is no kind '{kind}'", kind=kind[:40]),
            _("The kinds are: {forms}", forms=series(sorted(examined.forms))),
        )
    features = {
        f"{name}:{number}": Picked(instance=name, feature=listed.feature, part=place.part)
        for name, place in examined.places.items()
        for number, listed in enumerate(examined.pointable.get(place.part, []))
    }
    given = {
        "title": " ".join(" ".join(form.get("title", [])).split()) or kind.replace("_", " ").capitalize(),
        "kind": kind,
        "marks": number_or_none(" ".join(form.get("marks", []))) or 1,
        **answers(examined.forms[kind], form, features=features, places=examined.places),
    }
    return _add(request, session, draft, given)


@router.post("/checks", name="add_check", dependencies=[CheckedForm])
def add_check(
    request: Request, draft: OwnDraft, session: DbSession, text: Annotated[str, Form(max_length=_LONGEST)] = ""
) -> Response:
    """Add a check of any kind as JSON, or put it in the place of the one with its id."""
    given = read_json(text.encode(errors="replace"), name="check")
    try:
        CheckModel.model_validate({"id": "x", **given})
    except ValidationError as exc:
        raise document_error("check", exc) from exc
    return _add(request, session, draft, given, replaces=True)


def _add(
    request: Request,
    session: DbSession,
    draft: Draft,
    *checks: dict[str, Any],
    prefix: str = "",
    replaces: bool = False,
) -> Response:
    """Add checks to the draft, under ids that are free."""
    document = dict(draft.document or {})
    own = list(document.get("checks", []))
    for check in checks:
        taken = {known_check["id"] for known_check in own}
        if replaces and check.get("id") in taken:
            own = [check if known_check["id"] == check["id"] else known_check for known_check in own]
            continue
        words = slug(str(check["title"]))
        wanted = check.get("id") or (f"{prefix}.{words}" if prefix else words)
        own.append({**check, "id": unique(wanted, taken)})
    last = own[-1] if not replaces else next(kept for kept in own if kept["id"] in (check.get("id"), own[-1]["id"]))
    at, place = last.get("part", ASSEMBLY), f"check-{last['id']}"
    return keep_draft(request, session, draft, {**document, "checks": own}, at=at, place=place)


def _instance(examined: Examined, name: str) -> str:
    if name not in examined.places:
        raise FormRejected(_("part"), _("none was chosen"), _("Choose a part of the assembly"))
    return name


def _picked(examined: Examined, text: str) -> Picked:
    """Read "instance:number", as the lists of features write it."""
    name, _unused, number = text.rpartition(":")
    listed = examined.pointable.get(examined.places[_instance(examined, name)].part, [])
    if not number.isdecimal() or int(number) >= len(listed):
        raise FormRejected(_("feature"), _("none was chosen"), _("Choose a face or hole of a part"))
    return Picked(instance=name, feature=listed[int(number)].feature)
