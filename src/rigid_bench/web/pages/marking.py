"""Marking: the card beside what it is about; one decision for one build, or for all that have the same slip."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from rigid_bench.core.errors import FormRejected
from rigid_bench.core.grading.report import CheckResult
from rigid_bench.store import bench_queries, class_queries, marking_queries, queries
from rigid_bench.store.standing import newest_overrides, newest_report
from rigid_bench.store.tables import BankComment, Build, Scene
from rigid_bench.web.access import CheckedForm, DbSession, Id, MarkableBuild, Teacher
from rigid_bench.web.pages.card import find_check, to_check
from rigid_bench.web.pages.card_view import CardView, view_card
from rigid_bench.web.pages.class_table import Table, read_table
from rigid_bench.web.render import page

router = APIRouter()
of_build = APIRouter(prefix="/builds/{build_id}")


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
        rest = [each for each in self.line if each != self.card.build.id]
        doubtful = [each for each in rest if self.line[each]]
        after = [each for each in rest if each > self.card.build.id]
        return next(iter([*doubtful, *after, *rest]), None)


def marking_line(table: Table, version_id: int) -> dict[int, bool]:
    """List the builds of an exercise that are ready and not returned: those that need a person first."""
    place = next((k for k, version in enumerate(table.versions) if version.id == version_id), None)
    if place is None:
        return {}
    cells = [cells[place] for _, cells in table.rows if cells[place].state.key in ("graded", "failed")]
    ready = [cell for cell in cells if cell.build]
    ready.sort(key=lambda cell: (not cell.state.doubts, cell.build.id if cell.build else 0))
    return {cell.build.id: bool(cell.state.doubts) for cell in ready if cell.build}


@of_build.get("/mark", name="mark")
def mark(request: Request, build: MarkableBuild, user: Teacher, session: DbSession, undo: str = "") -> Response:
    """Show the marking view."""
    found = view_card(session, build, user)
    classroom = queries.class_of_teacher(session, build.class_id, user.id)
    view = MarkingView(
        card=found,
        line=marking_line(read_table(session, classroom), build.version_id),
        bank=marking_queries.bank_of(session, user.id),
        alike=_alike_counts(session, build, found),
    )
    class_queries.log(
        session,
        who=user.name,
        action="opened",
        subject=f"{build.student.name}, build {build.id}",
        class_id=build.class_id,
    )
    mine = {"class_id": build.class_id, "version_id": build.version_id, "student_id": build.student_id}
    bench = bench_queries.newest_bench(session, **mine)
    return page(request, "marking.html", view=view, card=found, undo=undo, bench=bench)


@of_build.get("/scene.json", name="scene")
def scene(build: MarkableBuild, user: Teacher, session: DbSession) -> Response:
    """Give the triangles of the build and of its reference, for the comparison in 3D."""
    found = session.get(Scene, build.id)
    if found is None:
        return Response('{"parts": []}', media_type="application/json")
    headers = {"Content-Encoding": "gzip", "Cache-Control": "private, no-store"}
    return Response(found.content, media_type="application/json", headers=headers)


def _alike_counts(session: Session, build: Build, found: CardView) -> dict[str, int]:
    others = queries.ready_builds(session, build)
    return {
        row.check.id: count
        for row in found.rows
        if row.check.verdict != "met" and not row.check.levels and (count := len(_alike(row.check, others)))
    }


def _alike(check: CheckResult, others: Sequence[Build]) -> list[Build]:
    """List the builds with the same slip at a check: the same cause, or the same value without one."""
    return [
        other
        for other in others
        if any(each.id == check.id and _is_same_slip(each, check) for each in _report(other))
        if check.id not in newest_overrides(other)
    ]


def _report(build: Build) -> Sequence[CheckResult]:
    report = newest_report(build)
    return report.checks if report else ()


def _is_same_slip(a: CheckResult, b: CheckResult) -> bool:
    if a.verdict != b.verdict or a.verdict == "met":
        return False
    if a.cause or b.cause:
        return bool(a.cause and b.cause and a.cause.code == b.cause.code)
    return a.measured == b.measured


@of_build.post("/checks/{check_id}", name="override_check", dependencies=[CheckedForm])
def override_check(
    request: Request,
    check_id: str,
    build: MarkableBuild,
    user: Teacher,
    session: DbSession,
    marks: Annotated[str, Form(max_length=20)] = "",
    comment: Annotated[str, Form(max_length=2000)] = "",
    alike: Annotated[bool, Form()] = False,
    route: Annotated[str, Form(max_length=10)] = "card",
) -> Response:
    """Keep the teacher's marks or comment for one check beside what was measured; for all alike if that is meant."""
    check = find_check(build, check_id)
    given, words = _marks(marks, check), comment.strip()
    if not words:
        raise FormRejected("comment", "marks are not changed without a reason", "Go back and write a few words")
    others = _alike(check, queries.ready_builds(session, build)) if alike else []
    batch = uuid.uuid4().hex if others else None
    for each in [build, *others]:
        marking_queries.add_override(
            session, each, check_id=check.id, marks=given, comment=words, teacher_id=user.id, batch=batch
        )
        _tell_if_returned(session, each, check)
    marking_queries.bank_comment(session, user.id, words, check.cause.code if check.cause else "")
    what = "commented on" if given is None else f"gave {given:g} for"
    subject = f"{check.title}, build{'s' if others else ''} {', '.join(str(each.id) for each in [build, *others])}"
    class_queries.log(session, who=user.name, action=what, subject=subject, class_id=build.class_id)
    if route != "mark":
        return to_check(request, build, check_id)
    address = request.url_for("mark", build_id=build.id)
    address = address.include_query_params(undo=batch) if batch else address
    return RedirectResponse(f"{address}#{check_id}", status_code=303)


def _tell_if_returned(session: Session, build: Build, check: CheckResult) -> None:
    """Returned marks do not change silently."""
    if build.returns:
        text = f"Your card for {build.version.title} has changed at “{check.title}”."
        class_queries.notify(session, marking_queries.students_of(session, build), text, build_id=build.id)


def _marks(text: str, check: CheckResult) -> float | None:
    """Read marks; an empty field leaves those that were measured."""
    if not text.strip():
        return None
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


@of_build.post("/undo/{batch}", name="undo", dependencies=[CheckedForm])
def undo(request: Request, batch: str, build: MarkableBuild, user: Teacher, session: DbSession) -> Response:
    """Undo a decision that was made for several builds at once."""
    undone = marking_queries.undo_batch(session, batch, user.id)
    subject = f"a decision for builds {', '.join(map(str, undone))}"
    class_queries.log(session, who=user.name, action="undid", subject=subject, class_id=build.class_id)
    return RedirectResponse(request.url_for("mark", build_id=build.id), status_code=303)


@of_build.post("/questions/{question_id}", name="answer", dependencies=[CheckedForm])
def answer(
    request: Request,
    question_id: Id,
    build: MarkableBuild,
    user: Teacher,
    session: DbSession,
    text: Annotated[str, Form(max_length=2000)] = "",
    route: Annotated[str, Form(max_length=10)] = "card",
) -> Response:
    """Answer a student's question; the answer stays on the card."""
    if not text.strip():
        raise FormRejected("answer", "there are no words in it", "Go back and write a few")
    marking_queries.answer(session, build, question_id, text.strip())
    words = f"Your question about {build.version.title} is answered on your card."
    class_queries.notify(session, marking_queries.students_of(session, build), words, build_id=build.id)
    class_queries.log(
        session, who=user.name, action="answered", subject=f"a question on build {build.id}", class_id=build.class_id
    )
    shown = "mark" if route == "mark" else "card"
    return RedirectResponse(request.url_for(shown, build_id=build.id), status_code=303)


@of_build.post("/return", name="return_card", dependencies=[CheckedForm])
def return_card(
    request: Request,
    build: MarkableBuild,
    user: Teacher,
    session: DbSession,
    again: Annotated[bool, Form()] = False,
    go_to: Annotated[str, Form(max_length=20)] = "",
) -> Response:
    """Return the card to the student, and go on to the next where that is meant."""
    if build.state in ("queued", "measuring"):
        raise FormRejected("card", "the build is still being measured", "Wait until its card is there")
    total = view_card(session, build, user).state.awarded
    if marking_queries.return_build(session, build, teacher_id=user.id, total=total, again=again):
        subject = f"{build.student.name}, build {build.id}"
        class_queries.log(session, who=user.name, action="returned", subject=subject, class_id=build.class_id)
    if go_to.isdigit() and int(go_to) != build.id:
        return RedirectResponse(request.url_for("mark", build_id=int(go_to)), status_code=303)
    return RedirectResponse(request.url_for("card", build_id=build.id), status_code=303)


router.include_router(of_build)
