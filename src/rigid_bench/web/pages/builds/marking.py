"""Marking: the card beside what it is about; one decision for one build, or for all that have the same slip."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Annotated

from fastapi import Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import Field
from sqlalchemy.orm import Session

from rigid_bench.app.builds import mark as marking
from rigid_bench.app.builds import return_cards
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries import bench_queries, build_queries, class_queries, marking_queries
from rigid_bench.store.standing import check_of
from rigid_bench.store.tables import BankComment, Build
from rigid_bench.web.forms import LARGEST_ID, FormModel, IdField, number_between
from rigid_bench.web.pages.builds.card import to_check
from rigid_bench.web.pages.builds.card_view import CardView, view_card
from rigid_bench.web.pages.builds.scene_answer import scene_answer
from rigid_bench.web.pages.classes.class_table import Table, read_table
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, Id, LockedBuild, MarkableBuild, Teacher

router = page_router()
of_build = page_router("/builds/{build_id}")


@dataclass(frozen=True, slots=True, kw_only=True)
class MarkingView:
    """A card to be marked, its place among the others, and what is offered."""

    card: CardView
    #: Builds of the same exercise that are ready, and whether each needs a person: those that do first.
    line: dict[int, bool]
    bank: Sequence[BankComment]
    #: How many other builds have the same slip at a check, by check.
    alike: dict[str, int]

    @property
    def place(self) -> int:
        """Its place in the line, from 1; 0 where it is not in it."""
        own = self.card.build.id
        return list(self.line).index(own) + 1 if own in self.line else 0

    @property
    def next_id(self) -> int | None:
        """The next one that needs a person, else the one after it, else the first one left."""
        rest = [build_id for build_id in self.line if build_id != self.card.build.id]
        doubtful = [build_id for build_id in rest if self.line[build_id]]
        after = [build_id for build_id in rest if build_id > self.card.build.id]
        return next(iter([*doubtful, *after, *rest]), None)


def marking_line(table: Table, version_id: int) -> dict[int, bool]:
    """List the builds of an exercise that are ready and not returned: those that need a person first."""
    place = next((k for k, version in enumerate(table.versions) if version.id == version_id), None)
    if place is None:
        return {}
    cells = [cells[place] for _, cells in table.rows if cells[place].state.key in ("graded", "failed")]
    ready = [cell for cell in cells if cell.build]
    ready.sort(key=lambda cell: (not cell.state.review_reasons, cell.build.id if cell.build else 0))
    return {cell.build.id: bool(cell.state.review_reasons) for cell in ready if cell.build}


@of_build.get("/mark", name="mark")
def mark(
    request: Request,
    build: MarkableBuild,
    user: Teacher,
    session: DbSession,
    undo: Annotated[str, Query(max_length=40)] = "",
    returned: Annotated[int, Query(ge=0, le=LARGEST_ID)] = 0,
) -> Response:
    """Show the marking view; after a return also of which build, so that it can be taken back."""
    card = view_card(session, build, user)
    classroom, _ = class_queries.class_of_teacher(session, build.class_id, user.id)
    view = MarkingView(
        card=card,
        line=marking_line(read_table(session, classroom, build.version_id), build.version_id),
        bank=marking_queries.bank_of(session, user.id),
        alike=_alike_counts(session, build, card),
    )
    marking.note_opened(session, build, teacher=user)
    mine = {"class_id": build.class_id, "version_id": build.version_id, "student_id": build.student_id}
    bench = bench_queries.newest_bench(session, **mine)
    just_returned = build_queries.build_for(session, returned, user) if returned else None
    return page(request, "marking.html", view=view, card=card, undo=undo, bench=bench, just_returned=just_returned)


@of_build.get("/scene.json", name="scene")
def scene(build: MarkableBuild, user: Teacher, session: DbSession) -> Response:
    """Give the triangles of the build and of its reference, for the comparison in 3D."""
    return scene_answer(session, build.id)


def _alike_counts(session: Session, build: Build, card: CardView) -> dict[str, int]:
    others = build_queries.ready_builds(session, build)
    return {
        row.check.id: count
        for row in card.rows
        if row.check.verdict != "met" and not row.check.levels and (count := len(marking.alike(row.check, others)))
    }


class MarksForm(FormModel):
    """Marks or a comment for one check, as typed."""

    marks: str = Field(default="", max_length=20)
    comment: str = Field(default="", max_length=2000)
    alike: bool = False
    #: Another teacher's decision that is decided over on purpose.
    seen: IdField = 0
    #: To where it goes back.
    route: str = Field(default="card", max_length=10)


@of_build.post("/checks/{check_id}", name="override_check", dependencies=[CheckedForm])
def override_check(
    request: Request,
    check_id: str,
    build: LockedBuild,
    user: Teacher,
    session: DbSession,
    form: Annotated[MarksForm, Form()],
) -> Response:
    """Keep the teacher's marks or comment for one check beside what was measured; for all alike if that is meant."""
    check = check_of(build, check_id)
    batch = marking.give_marks(
        session,
        build,
        check,
        teacher=user,
        marks=_marks(form.marks, check),
        comment=form.comment,
        for_alike=form.alike,
        seen=form.seen,
    )
    if form.route != "mark":
        return to_check(request, build, check_id)
    address = request.url_for("mark", build_id=build.id)
    address = address.include_query_params(undo=batch) if batch else address
    return RedirectResponse(f"{address}#{check_id}", status_code=303)


def _marks(text: str, check: CheckResult) -> float | None:
    """Read marks; an empty field leaves those that were measured."""
    if not text.strip():
        return None
    where = _("marks for {title}", title=check.title)
    return number_between(text, 0, check.available, where=where, field="marks")


@of_build.post("/undo/{batch}", name="undo", dependencies=[CheckedForm])
def undo(request: Request, batch: str, build: LockedBuild, user: Teacher, session: DbSession) -> Response:
    """Undo a decision that was made for several builds at once."""
    marking.undo(session, build, batch, teacher=user)
    return RedirectResponse(request.url_for("mark", build_id=build.id), status_code=303)


class AnswerForm(FormModel):
    """An answer to a question, as typed."""

    text: Annotated[str, Field(max_length=2000)] = ""
    route: Annotated[str, Field(max_length=10)] = "card"
    sure: bool = False


@of_build.post("/questions/{question_id}", name="answer", dependencies=[CheckedForm])
def answer(
    request: Request,
    question_id: Id,
    build: LockedBuild,
    user: Teacher,
    session: DbSession,
    form: Annotated[AnswerForm, Form()],
) -> Response:
    """Answer a student's question; the answer stays on the card."""
    marking.answer_question(session, build, question_id, form.text, teacher=user, is_sure=form.sure)
    return _back(request, build, form.route)


class ReturnForm(FormModel):
    """How a card is returned, and where it goes on."""

    again: bool = False
    go_to: IdField = 0
    sure: bool = False


@of_build.post("/return", name="return_card", dependencies=[CheckedForm])
def return_card(
    request: Request,
    build: LockedBuild,
    user: Teacher,
    session: DbSession,
    form: Annotated[ReturnForm, Form()],
) -> Response:
    """Return the card to the student, and go on to the next where that is meant."""
    return_cards.return_card(session, build, teacher=user, again=form.again, is_sure=form.sure)
    if form.go_to and form.go_to != build.id:
        address = request.url_for("mark", build_id=form.go_to).include_query_params(returned=build.id)
        return RedirectResponse(address, status_code=303)
    return _back(request, build, "card")


@of_build.post("/take-back", name="take_back", dependencies=[CheckedForm])
def take_back(
    request: Request,
    build: LockedBuild,
    user: Teacher,
    session: DbSession,
    note: Annotated[str, Form(max_length=500)] = "",
    route: Annotated[str, Form(max_length=10)] = "card",
) -> Response:
    """Take a returned card back: at once without trace, later with a note to the student."""
    return_cards.take_back(session, build, teacher=user, note=note, now=datetime.now(UTC))
    return _back(request, build, route)


def _back(request: Request, build: Build, route: str) -> Response:
    return RedirectResponse(request.url_for("mark" if route == "mark" else "card", build_id=build.id), status_code=303)


router.include_router(of_build)
