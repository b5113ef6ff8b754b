"""What the desk shows of a draft: a card for each part, the drawing and rows of the one that is open."""

import hashlib
import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from markupsafe import Markup

from rigid_bench.core.drawing.layout.sheets import SheetOptions
from rigid_bench.core.exercise.authoring.differences import differences
from rigid_bench.core.exercise.authoring.input_parsing import tolerance_words
from rigid_bench.core.exercise.bundle import CheckModel, ExerciseModel
from rigid_bench.core.exercise.review.examined import Examined
from rigid_bench.core.formats.audit import PartAuditReport
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.formats.pointing import Pointable
from rigid_bench.core.marking.weights import ASSEMBLY, marks_by, part_of
from rigid_bench.core.wording.language import N_, _, series
from rigid_bench.store.queries import draft_queries
from rigid_bench.store.tables import Draft
from rigid_bench.web.figures.views import thumbnail, thumbnails
from rigid_bench.web.print.sheet import DrawnSheet, drawn_sheets
from rigid_bench.web.security.access import DbSession

#: The tab of the exercise itself, as `ASSEMBLY` is that of its assembly: they are no parts.
EXERCISE = "exercise"
_SETTINGS = (
    "title", "intro", "tolerance", "flow", "slips", "suggestions", "grounding", "uses", "stages", "caps",
)  # fmt: skip
#: Strips of the card in their order, with what they are called.
STRIPS = {
    "parts": N_("Sizes and shapes"),
    "assembly": N_("Assembly"),
    "fit": N_("Fit"),
    "by hand": N_("Marked by hand"),
}
#: Pixels of the picture on a tab.
_PICTURE = 56.0


@dataclass(frozen=True, slots=True, kw_only=True)
class DeskTab:
    """One card at the desk's left edge."""

    id: str
    name: str
    picture: Markup | None
    #: "met", "missed", or "" for what no audit is made of.
    mark: str
    words: str
    marks: float


@dataclass(frozen=True, slots=True, kw_only=True)
class DeskRow:
    """One check of what is open."""

    check: Mapping[str, Any]
    #: What it asks, in words; its kind while that is not known.
    required: Message
    limits: str
    #: The places of what it speaks of among what can be pointed at.
    features: list[int]
    is_twice: bool
    #: Of what is kept: a change is made of what was seen.
    seen: str

    @property
    def is_size(self) -> bool:
        """It has a nominal."""
        return bool(self.check["kind"] == "dimension")


@dataclass(frozen=True, slots=True, kw_only=True)
class Desk:
    """All of it."""

    at: str
    tabs: list[DeskTab]
    rows: list[DeskRow]
    #: Dimensions that would fix what is still loose, as offered.
    missing: list[dict[str, Any]]
    drawn: list[DrawnSheet]
    features: list[Pointable]
    marks: float
    #: The newest released version's number and what is otherwise; None before the first.
    changed: tuple[int, list[str]] | None


def settings_of(document: Mapping[str, Any]) -> dict[str, Any]:
    """Return what of a draft holds for the whole exercise."""
    return {name: kept for name, kept in document.items() if name in _SETTINGS}


def seen_digest(kept: Mapping[str, Any]) -> str:
    """Return what tells whether something kept is still as it was seen."""
    return hashlib.sha256(json.dumps(kept, sort_keys=True).encode()).hexdigest()[:12]


def desk_of(draft: Draft, at: str, session: DbSession) -> Desk:
    """Gather what the desk shows with one of its cards open; the first part where there is none of that name."""
    document = draft.document or {}
    examined = Examined.model_validate(draft.examined) if draft.examined else None
    tabs = _tabs(document, examined)
    parts = [tab.id for tab in tabs if tab.id not in (EXERCISE, ASSEMBLY)]
    at = at if any(tab.id == at for tab in tabs) else next(iter(parts), EXERCISE)
    return Desk(
        at=at,
        tabs=tabs,
        rows=_rows(document, examined, at),
        missing=_missing(examined, at),
        drawn=drawn_for(draft, at) if examined else [],
        features=examined.pointable.get(at, []) if examined else [],
        marks=sum(check.get("marks", 0) for check in document.get("checks", [])),
        changed=_since_released(session, document),
    )


def strips_of(document: Mapping[str, Any], examined: Examined | None) -> dict[str, float]:
    """Return the marks of each strip of the card, in its order, as far as the draft was looked at."""
    if examined is None:
        return {}
    marks = marks_by(strip_of(examined), document.get("checks", []))
    return {strip: marks[strip] for strip in STRIPS if strip in marks}


def strip_of(examined: Examined) -> Callable[[Mapping[str, Any]], str]:
    """Return what says on which strip of the card a check's row stands; "" for one that was not looked at yet."""
    strips = {text.id: text.strip for text in examined.prepared.checks}
    return lambda check: strips.get(check["id"], "")


def _tabs(document: Mapping[str, Any], examined: Examined | None) -> list[DeskTab]:
    checks = document.get("checks", [])
    marks = marks_by(part_of, checks)
    pictures = thumbnails(examined.prepared.model_dump()) if examined else {}
    desk_tabs = [
        DeskTab(id=EXERCISE, name=_("The exercise"), picture=None, mark="", words=_("title, rules, parts"), marks=0)
    ]
    for part in document.get("parts", []):
        name = part["id"]
        report = examined.audit.parts.get(name) if examined else None
        if not (part.get("file") or name in marks):
            continue
        mark = "" if report is None else "met" if report.complete and not report.redundant else "missed"
        words = audit_words(report) if report else _origin_words(part)
        desk_tabs.append(
            DeskTab(
                id=name, name=part["name"], picture=pictures.get(name), mark=mark, words=words, marks=marks.get(name, 0)
            )
        )
    is_assembly = bool(examined and examined.places)
    whole = examined.prepared.sheet.assembly if examined else None
    picture = thumbnail(whole.view.model_dump(), _PICTURE) if whole else None
    own = [check for check in checks if "part" not in check]
    words = _("{count} asked", count=len(own)) if own else _("nothing asked")
    name = _("Assembly") if is_assembly else _("The whole")
    return [
        *desk_tabs,
        DeskTab(id=ASSEMBLY, name=name, picture=picture, mark="", words=words, marks=marks.get(ASSEMBLY, 0)),
    ]


def _origin_words(part: Mapping[str, Any]) -> str:
    return {"supplied": _("supplied"), "bought": _("bought in")}.get(part.get("origin", "made"), "")


def audit_words(report: PartAuditReport) -> str:
    """Say whether a part's dimensions fix it.

    Examples
    --------
    >>> audit_words(PartAuditReport(complete=True, verdict="rigid", missing=[], redundant=[]))
    'fully dimensioned'
    """
    words = [_("{count} missing", count=len(report.missing))] if report.missing else []
    words += [_("{count} given twice", count=len(report.redundant))] if report.redundant else []
    return series(words) or _("fully dimensioned")


def _rows(document: Mapping[str, Any], examined: Examined | None, at: str) -> list[DeskRow]:
    required = {text.id: text.required_message for text in examined.prepared.checks} if examined else {}
    speaks_of = examined.speaks_of if examined else {}
    twice = {own.check for report in examined.audit.parts.values() for own in report.redundant} if examined else set()
    return [
        DeskRow(
            check=check,
            required=required.get(check["id"]) or phrase("as-said", text=check["kind"]),
            limits=tolerance_words(check),
            features=speaks_of.get(check["id"], []),
            is_twice=check["id"] in twice,
            seen=seen_digest(check),
        )
        for check in document.get("checks", [])
        if check.get("part", ASSEMBLY) == at
    ]


def _missing(examined: Examined | None, at: str) -> list[dict[str, Any]]:
    offers = examined.offered.get(at, []) if examined else []
    return [offer for offer in offers if offer.get("kind") == "dimension"]


def drawn_for(draft: Draft, at: str) -> list[DrawnSheet]:
    """Draw what is open: a part's sheet, with what it lacks and what can be pointed at, or the assembly's."""
    examined = Examined.model_validate(draft.examined)
    exercise = ExerciseModel.model_validate(draft.document)
    options = SheetOptions(version="draft")
    if at == EXERCISE:
        return []
    if at == ASSEMBLY:
        return drawn_sheets(exercise, examined.prepared, replace(options, only_assembly=True))
    if at not in examined.prepared.sheet.parts:
        return []
    lacking = [
        CheckModel.model_validate({**offer, "id": missing_id(number)})
        for number, offer in enumerate(_missing(examined, at), 1)
    ]
    twice = {own.check for report in examined.audit.parts.values() for own in report.redundant}
    marks = {check.id: "missing" for check in lacking} | dict.fromkeys(twice, "twice")
    points = {at: examined.pointable.get(at, [])}
    return drawn_sheets(exercise, examined.prepared, replace(options, part=at), lacking, marks, points=points)


def missing_id(number: int) -> str:
    """Return what a dimension is called that a draft lacks, by its place among those offered, from 1."""
    return f"missing-{number}"


def _since_released(session: DbSession, document: Mapping[str, Any]) -> tuple[int, list[str]] | None:
    version = draft_queries.newest_version(session, str(document.get("id", "")))
    if version is None:
        return None
    before, after = (ExerciseModel.model_validate(kept) for kept in (version.document, document))
    return version.number, differences(before, after)
