"""Marking: the card beside what it is about; one decision for one build, or for all that have the same slip."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Annotated, Any

from fastapi import Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.values.errors import FormRejected, ToBeConfirmed
from rigid_bench.core.wording.language import _
from rigid_bench.store.log import log
from rigid_bench.store.queries import bench_queries, build_queries, class_queries, marking_queries, notice_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.returning import unfinished
from rigid_bench.store.rules import ClassRules, rules_of_class
from rigid_bench.store.standing import newest_overrides, newest_report
from rigid_bench.store.tables import BankComment, Build
from rigid_bench.web.forms import LARGEST_ID, FormId, number_between
from rigid_bench.web.pages.builds.card import find_check, to_check
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
    log(session, "build-opened", who_id=user.id, class_id=build.class_id, person_id=build.student_id, build=build.id)
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
        if row.check.verdict != "met" and not row.check.levels and (count := len(_alike(row.check, others)))
    }


def _alike(check: CheckResult, others: Sequence[Build]) -> list[Build]:
    """List the builds with the same slip at a check: the same cause, or the same value without one."""
    return [
        other
        for other in others
        if any(result.id == check.id and _is_same_slip(result, check) for result in _report(other))
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
    return a.measured_message == b.measured_message


@of_build.post("/checks/{check_id}", name="override_check", dependencies=[CheckedForm])
def override_check(
    request: Request,
    check_id: str,
    build: LockedBuild,
    user: Teacher,
    session: DbSession,
    marks: Annotated[str, Form(max_length=20)] = "",
    comment: Annotated[str, Form(max_length=2000)] = "",
    alike: Annotated[bool, Form()] = False,
    route: Annotated[str, Form(max_length=10)] = "card",
    seen: FormId = 0,
) -> Response:
    """Keep the teacher's marks or comment for one check beside what was measured; for all alike if that is meant."""
    check = find_check(build, check_id)
    given, words = _marks(marks, check), comment.strip()
    if not words:
        raise FormRejected(_("comment"), _("marks are not changed without a reason"), _("Write a few words"), "comment")
    if given is not None:
        _ask_if_decided(build, check, user, seen)
    ready = build_queries.ready_builds(session, build) if alike else []
    marking_queries.lock_builds(session, [known_build.id for known_build in ready])
    others = _alike(check, ready)
    batch = uuid.uuid4().hex if others else None
    kept = [
        candidate
        for candidate in [build, *others]
        if marking_queries.add_override(
            session, candidate, check_id=check.id, marks=given, comment=words, teacher_id=user.id, batch=batch
        )
    ]
    for known_build in kept:
        _tell_if_returned(session, known_build, check)
    if kept:
        marking_queries.bank_comment(session, user.id, words, check.cause.code if check.cause else "")
        _log_decision(session, user, build, check, given, kept)
    if route != "mark":
        return to_check(request, build, check_id)
    address = request.url_for("mark", build_id=build.id)
    address = address.include_query_params(undo=batch) if batch else address
    return RedirectResponse(f"{address}#{check_id}", status_code=303)


def _ask_if_decided(build: Build, check: CheckResult, user: Person, seen: int) -> None:
    """Show a teacher what another one decided since the page was loaded, before that is decided over."""
    last = newest_overrides(build).get(check.id)
    if last is None or last.teacher_id == user.id or last.id == seen:
        return
    line = f"{last.teacher.name} gave {last.marks:g} of {check.available:g}: “{last.comment}”"
    raise ToBeConfirmed(
        check.title,
        _("another teacher has decided on it meanwhile"),
        _("Give your marks all the same, or leave theirs"),
        (line,),
        (("seen", str(last.id)),),
    )


def _log_decision(
    session: Session, user: Person, build: Build, check: CheckResult, given: float | None, kept: Sequence[Build]
) -> None:
    about: dict[str, Any] = {"check": check.title, "build": ", ".join(str(known_build.id) for known_build in kept)}
    if given is None:
        log(session, "commented", who_id=user.id, class_id=build.class_id, **about)
    else:
        log(session, "marks-given", who_id=user.id, class_id=build.class_id, marks=f"{given:g}", **about)


def _tell_if_returned(session: Session, build: Build, check: CheckResult) -> None:
    """Returned marks do not change silently."""
    if build.returns:
        text = _("Your card for {title} has changed at “{check}”.", title=build.version.title, check=check.title)
        notice_queries.notify(
            session, marking_queries.students_of(session, build), text, kind="changed", build_id=build.id
        )


def _marks(text: str, check: CheckResult) -> float | None:
    """Read marks; an empty field leaves those that were measured."""
    if not text.strip():
        return None
    return number_between(text, 0, check.available, where=f"marks for {check.title}", field="marks")


@of_build.post("/undo/{batch}", name="undo", dependencies=[CheckedForm])
def undo(request: Request, batch: str, build: LockedBuild, user: Teacher, session: DbSession) -> Response:
    """Undo a decision that was made for several builds at once."""
    if undone := marking_queries.undo_batch(session, batch, user.id):
        numbers = ", ".join(map(str, undone))
        log(session, "marks-undone", who_id=user.id, class_id=build.class_id, builds=numbers)
    return RedirectResponse(request.url_for("mark", build_id=build.id), status_code=303)


@of_build.post("/questions/{question_id}", name="answer", dependencies=[CheckedForm])
def answer(
    request: Request,
    question_id: Id,
    build: LockedBuild,
    user: Teacher,
    session: DbSession,
    text: Annotated[str, Form(max_length=2000)] = "",
    route: Annotated[str, Form(max_length=10)] = "card",
    sure: Annotated[bool, Form()] = False,
) -> Response:
    """Answer a student's question; the answer stays on the card."""
    words = text.strip()
    if not words:
        raise FormRejected(_("answer"), _("there are no words in it"), _("Write a few"), "text")
    question = marking_queries.question_of(session, build, question_id)
    if question.answer is not None and question.answer != words and not sure:
        lines = (f"The question: “{question.text}”", f"The answer so far: “{question.answer}”")
        problem = _("it was answered meanwhile")
        raise ToBeConfirmed(_("question"), problem, _("Put your answer in its place, or leave it"), lines)
    if question.answer != words:
        marking_queries.answer(session, question, words)
        told = f"Your question about {build.version.title} is answered on your card."
        notice_queries.notify(
            session, marking_queries.students_of(session, build), told, kind="answered", build_id=build.id
        )
        log(session, "answered", who_id=user.id, class_id=build.class_id, person_id=build.student_id, build=build.id)
    shown = "mark" if route == "mark" else "card"
    return RedirectResponse(request.url_for(shown, build_id=build.id), status_code=303)


@of_build.post("/return", name="return_card", dependencies=[CheckedForm])
def return_card(
    request: Request,
    build: LockedBuild,
    user: Teacher,
    session: DbSession,
    again: Annotated[bool, Form()] = False,
    go_to: FormId = 0,
    sure: Annotated[bool, Form()] = False,
) -> Response:
    """Return the card to the student, and go on to the next where that is meant."""
    if build.state in ("queued", "measuring"):
        raise FormRejected(_("card"), _("the build is still being measured"), _("Wait until its card is there"))
    if not sure:
        ask_if_unfinished([build], rules_of_class(session, build.class_id))
    total = view_card(session, build, user).state.awarded
    if marking_queries.return_build(session, build, teacher_id=user.id, total=total, again=again):
        who = {"who_id": user.id, "person_id": build.student_id}
        log(session, "card-returned", class_id=build.class_id, build=build.id, **who)
    if go_to and go_to != build.id:
        address = request.url_for("mark", build_id=go_to).include_query_params(returned=build.id)
        return RedirectResponse(address, status_code=303)
    return RedirectResponse(request.url_for("card", build_id=build.id), status_code=303)


def ask_if_unfinished(builds: Sequence[Build], rules: ClassRules) -> None:
    """Name what still waits for a person on cards that are to be returned.

    Raises
    ------
    ToBeConfirmed
        A question has no answer, or a row no judgement.
    """
    lines = []
    for unfinished_card in unfinished(builds, rules):
        waiting = [f"a question about {title}" for title in unfinished_card.questions]
        waiting += [f"{title} to be judged" for title in unfinished_card.unjudged]
        lines.append(f"{unfinished_card.build.student.name}: {', '.join(waiting)}")
    if lines:
        problem = _("{count} card{value} not done with", count=len(lines), value=" is" if len(lines) == 1 else "s are")
        raise ToBeConfirmed(_("return"), problem, _("Return all the same, or look at them first"), tuple(lines))


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
    if marking_queries.take_back(session, build, note=note.strip(), now=datetime.now(UTC)):
        who = {"who_id": user.id, "person_id": build.student_id}
        log(session, "card-taken-back", class_id=build.class_id, build=build.id, **who)
    return RedirectResponse(request.url_for("mark" if route == "mark" else "card", build_id=build.id), status_code=303)


router.include_router(of_build)
