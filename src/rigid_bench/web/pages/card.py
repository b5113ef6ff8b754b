"""The travelling card: a build's checks with what was required and measured, marks and a stamp."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from rigid_bench.core.errors import FormRejected, NotFound
from rigid_bench.core.grading.report import CheckResult, Report
from rigid_bench.store import queries
from rigid_bench.store.tables import UNCOUNTED, Build, Override
from rigid_bench.web.access import CheckedForm, DbSession, MarkableBuild, SignedIn, Teacher, VisibleBuild
from rigid_bench.web.pages.state import WORDS, awarded, newest_overrides, newest_report
from rigid_bench.web.render import page

router = APIRouter(prefix="/builds/{build_id}")

STRIPS = (("parts", "Parts"), ("assembly", "Assembly"), ("fit", "Fit"))


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """One check on the card: what was measured, and the teacher's word where there is one."""

    check: CheckResult
    override: Override | None

    @property
    def marks(self) -> float:
        """The marks that count."""
        return self.override.marks if self.override else self.check.awarded


@dataclass(frozen=True, slots=True, kw_only=True)
class CardView:
    """A card as the page shows it."""

    build: Build
    report: Report | None
    strips: list[tuple[str, list[Row]]]
    total: float
    state: str
    #: How many builds are measured before this one.
    before: int
    attempts: int

    @property
    def is_waiting(self) -> bool:
        """The page looks again by itself."""
        return self.build.state in ("queued", "measuring")

    @property
    def open_rows(self) -> list[Row]:
        """The checks that are not met, in the order of the card; not those that follow from another."""
        rows = [row for _, rows in self.strips for row in rows]
        return [row for row in rows if row.check.verdict != "met" and not row.check.follows]

    @property
    def next_stage(self) -> str:
        """The first stage that is not reached, or ""."""
        stages = self.report.stages if self.report else []
        return next((each.name for each in stages if not each.complete), "")


def view_card(session: Session, build: Build) -> CardView:
    """Gather what the card shows."""
    report, overrides = newest_report(build), newest_overrides(build)
    rows = [Row(check=each, override=overrides.get(each.id)) for each in report.checks] if report else []
    strips = [(title, [row for row in rows if row.check.strip == key]) for key, title in STRIPS]
    return CardView(
        build=build,
        report=report if build.state == "graded" else None,
        strips=[(title, found) for title, found in strips if found],
        total=awarded(report, overrides) if report else 0.0,
        state=WORDS["returned" if build.returns else build.state],
        before=queries.builds_before(session, build),
        attempts=queries.count_attempts(session, build),
    )


@router.get("")
def card(request: Request, build: VisibleBuild, user: SignedIn, session: DbSession) -> Response:
    """Show the card, or where the build is in the queue; what does not count yet has a page of its own."""
    if build.state in UNCOUNTED:
        return RedirectResponse(request.url_for("look", build_id=build.id), status_code=303)
    return page(request, "card.html", card=view_card(session, build))


@router.get("/progress")
def card_progress(request: Request, build: VisibleBuild, session: DbSession) -> Response:
    """Show the live line while the build waits or is measured, then the card in its place."""
    return page(request, "_card.html", card=view_card(session, build))


@router.post("/checks/{check_id}", name="override_check", dependencies=[CheckedForm])
def override_check(
    request: Request,
    check_id: str,
    build: MarkableBuild,
    user: Teacher,
    session: DbSession,
    marks: Annotated[str, Form(max_length=20)] = "",
    comment: Annotated[str, Form(max_length=2000)] = "",
) -> Response:
    """Keep the teacher's marks for one check beside what was measured."""
    report = newest_report(build)
    check = next((each for each in report.checks if each.id == check_id), None) if report else None
    if check is None:
        raise NotFound("check", "this build has no such check", "Open the card again")
    queries.add_override(
        session,
        build,
        check_id=check_id,
        marks=_marks(marks, check),
        comment=_comment(comment),
        teacher_id=user.id,
    )
    return RedirectResponse(f"{request.url_for('card', build_id=build.id)}#{check_id}", status_code=303)


def _marks(text: str, check: CheckResult) -> float:
    try:
        value = float(text.strip().replace(",", "."))
    except ValueError:
        value = -1.0
    if not 0 <= value <= check.available:
        raise FormRejected(
            f"marks for {check.title}",
            f"'{text}' is not from 0 to {check.available:g}",
            "Go back and type such a number",
        )
    return value


def _comment(text: str) -> str:
    if not text.strip():
        raise FormRejected("comment", "marks are not changed without a reason", "Go back and write a few words")
    return text.strip()


@router.post("/return", dependencies=[CheckedForm])
def return_card(request: Request, build: MarkableBuild, user: Teacher, session: DbSession) -> Response:
    """Return the card to the student."""
    if build.state in ("queued", "measuring"):
        raise FormRejected("card", "the build is still being measured", "Wait until its card is there")
    queries.return_build(session, build, teacher_id=user.id)
    return RedirectResponse(request.url_for("card", build_id=build.id), status_code=303)
