"""Marking: a teacher's marks and comments beside what was measured, for one build or for all with the same slip."""

import uuid
from collections.abc import Sequence
from typing import Any

from sqlalchemy.orm import Session

from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.values.errors import FormRejected, ToBeConfirmed
from rigid_bench.core.wording.language import _
from rigid_bench.store.log import log
from rigid_bench.store.queries import build_queries, marking_queries, notice_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.standing import newest_overrides, newest_report
from rigid_bench.store.tables import Build


def give_marks(
    session: Session,
    build: Build,
    check: CheckResult,
    *,
    teacher: Person,
    marks: float | None,
    comment: str,
    for_alike: bool = False,
    seen: int = 0,
) -> str | None:
    """Keep a teacher's marks or comment for one check; those whose card was returned are told.

    Parameters
    ----------
    marks
        None leaves those that were measured: it is a comment.
    for_alike
        Also for all builds with the same slip that nobody has decided on.
    seen
        The id of another teacher's decision that is decided over on purpose.

    Returns
    -------
    str or None
        By what a decision for several builds can be undone at once; None where it is for one.

    Raises
    ------
    FormRejected
        There is no comment.
    ToBeConfirmed
        Another teacher has decided on it meanwhile.
    """
    words = comment.strip()
    if not words:
        raise FormRejected(_("comment"), _("marks are not changed without a reason"), _("Write a few words"), "comment")
    if marks is not None:
        _ask_if_decided(build, check, teacher, seen)
    ready = build_queries.ready_builds(session, build) if for_alike else []
    marking_queries.lock_builds(session, [ready_build.id for ready_build in ready])
    others = alike(check, ready)
    batch = uuid.uuid4().hex if others else None
    changed = [
        candidate
        for candidate in [build, *others]
        if marking_queries.add_override(
            session, candidate, check_id=check.id, marks=marks, comment=words, teacher_id=teacher.id, batch=batch
        )
    ]
    for changed_build in changed:
        _tell_if_returned(session, changed_build, check)
    if changed:
        marking_queries.bank_comment(session, teacher.id, words, check.cause.code if check.cause else "")
        _log_decision(session, teacher, build, check, marks, changed)
    return batch


def alike(check: CheckResult, others: Sequence[Build]) -> list[Build]:
    """List the builds with the same slip at a check: the same cause, or the same value without one."""
    return [
        other
        for other in others
        if any(result.id == check.id and _is_same_slip(result, check) for result in _checks(other))
        if check.id not in newest_overrides(other)
    ]


def _checks(build: Build) -> Sequence[CheckResult]:
    report = newest_report(build)
    return report.checks if report else ()


def _is_same_slip(a: CheckResult, b: CheckResult) -> bool:
    if a.verdict != b.verdict or a.verdict == "met":
        return False
    if a.cause or b.cause:
        return bool(a.cause and b.cause and a.cause.code == b.cause.code)
    return a.measured_message == b.measured_message


def _ask_if_decided(build: Build, check: CheckResult, teacher: Person, seen: int) -> None:
    """Show a teacher what another one decided since the page was loaded, before that is decided over."""
    last = newest_overrides(build).get(check.id)
    if last is None or last.teacher_id == teacher.id or last.id == seen:
        return
    line = _(
        "{name} gave {marks:g} of {available:g}: “{comment}”",
        name=last.teacher.name,
        marks=last.marks,
        available=check.available,
        comment=last.comment,
    )
    raise ToBeConfirmed(
        check.title,
        _("another teacher has decided on it meanwhile"),
        _("Give your marks all the same, or leave theirs"),
        (line,),
        (("seen", str(last.id)),),
    )


def _tell_if_returned(session: Session, build: Build, check: CheckResult) -> None:
    """Returned marks do not change silently."""
    if build.returns:
        text = _("Your card for {title} has changed at “{check}”.", title=build.version.title, check=check.title)
        notice_queries.notify(
            session, marking_queries.students_of(session, build), text, kind="changed", build_id=build.id
        )


def _log_decision(
    session: Session, teacher: Person, build: Build, check: CheckResult, marks: float | None, changed: Sequence[Build]
) -> None:
    numbers = ", ".join(str(changed_build.id) for changed_build in changed)
    about: dict[str, Any] = {"check": check.title, "build": numbers}
    if marks is None:
        log(session, "commented", who_id=teacher.id, class_id=build.class_id, **about)
    else:
        log(session, "marks-given", who_id=teacher.id, class_id=build.class_id, marks=f"{marks:g}", **about)


def undo(session: Session, build: Build, batch: str, *, teacher: Person) -> None:
    """Undo a decision that was made for several builds at once, one of them this."""
    if undone := marking_queries.undo_batch(session, batch, teacher.id):
        numbers = ", ".join(map(str, undone))
        log(session, "marks-undone", who_id=teacher.id, class_id=build.class_id, builds=numbers)


def answer_question(
    session: Session, build: Build, question_id: int, text: str, *, teacher: Person, is_sure: bool
) -> None:
    """Answer a student's question; the answer stays on the card, and the student is told.

    Raises
    ------
    FormRejected
        There are no words in it.
    NotFound
        The build has no such question.
    ToBeConfirmed
        It was answered otherwise meanwhile, and that is not overruled on purpose.
    """
    words = text.strip()
    if not words:
        raise FormRejected(_("answer"), _("there are no words in it"), _("Write a few"), "text")
    question = marking_queries.question_of(session, build, question_id)
    if question.answer == words:
        return
    if question.answer is not None and not is_sure:
        lines = (
            _("The question: “{text}”", text=question.text),
            _("The answer so far: “{text}”", text=question.answer),
        )
        problem = _("it was answered meanwhile")
        raise ToBeConfirmed(_("question"), problem, _("Put your answer in its place, or leave it"), lines)
    marking_queries.answer(session, question, words)
    told = _("Your question about {title} is answered on your card.", title=build.version.title)
    students = marking_queries.students_of(session, build)
    notice_queries.notify(session, students, told, kind="answered", build_id=build.id)
    log(session, "answered", who_id=teacher.id, class_id=build.class_id, person_id=build.student_id, build=build.id)


def note_read(session: Session, build: Build, *, teacher: Person) -> None:
    """Note in the log that a teacher read a card."""
    log(session, "card-read", who_id=teacher.id, class_id=build.class_id, person_id=build.student_id, build=build.id)


def note_opened(session: Session, build: Build, *, teacher: Person) -> None:
    """Note in the log that a teacher opened a build to mark it."""
    log(session, "build-opened", who_id=teacher.id, class_id=build.class_id, person_id=build.student_id, build=build.id)
