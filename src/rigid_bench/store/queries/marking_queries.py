"""What is asked of the database while builds are marked, by name."""

from collections.abc import Sequence
from datetime import datetime, timedelta

from sqlalchemy import delete, func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, joinedload
from sqlalchemy.orm.util import identity_key

from rigid_bench.core.values.errors import FormRejected, NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries import group_queries, notice_queries
from rigid_bench.store.tables import (
    BankComment,
    Build,
    Hand,
    Override,
    Question,
    Return,
    Run,
    Withdrawal,
)

#: So soon after a return it is taken back without trace, where nobody has seen the card.
AT_ONCE = timedelta(minutes=10)


def lock_builds(session: Session, build_ids: Sequence[int]) -> None:
    """Let nobody else decide on builds until this transaction ends; what was read of them is read again."""
    session.execute(select(Build.id).where(Build.id.in_(build_ids)).order_by(Build.id).with_for_update())
    for build_id in build_ids:
        if build := session.identity_map.get(identity_key(Build, build_id)):
            session.expire(build, ["returns", "overrides", "questions"])


def add_override(
    session: Session,
    build: Build,
    *,
    check_id: str,
    marks: float | None,
    comment: str,
    teacher_id: int,
    batch: str | None = None,
) -> Override | None:
    """Keep a teacher's marks or comment for one check, beside what was measured.

    Returns
    -------
    Override or None
        None where the same teacher's newest decision is the same: the button was pressed twice.
    """
    same = select(Override).where(
        Override.build_id == build.id,
        Override.check_id == check_id,
        Override.undone_at.is_(None),
        Override.marks.is_(None) if marks is None else Override.marks.is_not(None),
    )
    last = session.scalars(same.order_by(Override.id.desc()).limit(1)).first()
    if last and (last.teacher_id, last.marks, last.comment) == (teacher_id, marks, comment):
        return None
    override = Override(
        build_id=build.id, check_id=check_id, marks=marks, comment=comment, teacher_id=teacher_id, batch=batch
    )
    session.add(override)
    session.flush()
    return override


def undo_batch(session: Session, batch: str, teacher_id: int) -> list[int]:
    """Undo decisions that were made at once; return the builds that they were for."""
    query = (
        update(Override)
        .where(Override.batch == batch, Override.teacher_id == teacher_id, Override.undone_at.is_(None))
        .values(undone_at=func.now())
        .returning(Override.build_id)
    )
    return list(session.scalars(query))


def return_build(
    session: Session,
    build: Build,
    *,
    teacher_id: int,
    total: float | None,
    again: bool = False,
    batch: str | None = None,
) -> bool:
    """Return a build's card to its student, with a notice; a second time only if that is meant and marks changed.

    Returns
    -------
    bool
        It was returned now.
    """
    lock_builds(session, [build.id])
    past = session.scalars(select(Return).where(Return.build_id == build.id).order_by(Return.number)).all()
    standing = [returned for returned in past if returned.taken_back_at is None]
    if standing and (not again or standing[-1].total == total):
        return False
    number = past[-1].number + 1 if past else 1
    returned = Return(build_id=build.id, teacher_id=teacher_id, total=total, number=number, batch=batch)
    session.add(returned)
    session.flush()
    session.expire(build, ["returns"])
    title = build.version.title
    text = _("Your card for {title} was returned.", title=title)
    if again and standing:
        text = _("Your card for {title} was returned again: its marks have changed.", title=title)
    notice_queries.notify(
        session,
        students_of(session, build),
        text,
        kind="returned",
        build_id=build.id,
        return_id=returned.id,
    )
    return True


def note_seen(session: Session, build_ids: Sequence[int]) -> None:
    """Note that a student has seen returned cards: they are not taken back without trace any more."""
    unseen = update(Return).where(Return.build_id.in_(build_ids), Return.seen_at.is_(None))
    session.execute(unseen.values(seen_at=func.now()))


def is_fresh(build: Build, *, now: datetime) -> bool:
    """Say whether a returned card can be taken back without trace: nobody has seen it, and it was just returned."""
    return all(returned.seen_at is None and now - returned.returned_at <= AT_ONCE for returned in build.returns)


def take_back(session: Session, build: Build, *, note: str, now: datetime) -> bool:
    """Take a returned card back: without trace at once, later with a note to its students; False if none is returned.

    Raises
    ------
    FormRejected
        It needs a note, and there is none.
    """
    lock_builds(session, [build.id])
    if not build.returns:
        return False
    if is_fresh(build, now=now):
        # the rows go for good, and the notices with them
        session.execute(delete(Return).where(Return.id.in_([returned.id for returned in build.returns])))
    else:
        if not note:
            problem = _("{name} may have seen the card", name=build.student.name)
            raise FormRejected(_("note"), problem, _("Write a few words that say why it is taken back"), "note")
        session.execute(
            update(Return)
            .where(Return.build_id == build.id, Return.taken_back_at.is_(None))
            .values(taken_back_at=func.now())
        )
        text = _("Your card for {title} was taken back: {note}", title=build.version.title, note=note)
        notice_queries.notify(session, students_of(session, build), text, kind="returned", build_id=build.id)
    session.expire(build, ["returns"])
    return True


def builds_of_batch(session: Session, class_id: int, batch: str) -> Sequence[Build]:
    """List the builds of a class whose cards were returned at once and were not taken back."""
    query = select(Build).join(Return, Return.build_id == Build.id)
    is_its = (Build.class_id == class_id, Return.batch == batch, Return.taken_back_at.is_(None))
    return session.scalars(query.where(*is_its).order_by(Build.id)).all()


def students_of(session: Session, build: Build) -> list[int]:
    """List whose build it is: the student, and all who work with them as a group."""
    return [build.student_id, *group_queries.others_of(session, build.class_id, build.version_id, build.student_id)]


def bank_of(session: Session, teacher_id: int, code: str = "") -> Sequence[BankComment]:
    """List a teacher's comments: those written for the same cause first, then the most used."""
    query = select(BankComment).where(BankComment.teacher_id == teacher_id)
    return session.scalars(query.order_by((BankComment.code == code).desc(), BankComment.used.desc()).limit(40)).all()


def bank_comment(session: Session, teacher_id: int, text: str, code: str) -> None:
    """Keep a comment for the next time."""
    row = insert(BankComment).values(teacher_id=teacher_id, text=text, code=code)
    again = {"used": BankComment.used + 1}
    session.execute(row.on_conflict_do_update(index_elements=["teacher_id", "text"], set_=again))


def ask(session: Session, build: Build, *, check_id: str, text: str) -> bool:
    """Keep a student's question about a check; False if the same was asked already."""
    row = insert(Question).values(build_id=build.id, check_id=check_id, text=text)
    return session.execute(row.on_conflict_do_nothing().returning(Question.id)).scalar() is not None


def question_of(session: Session, build: Build, question_id: int) -> Question:
    """Return a question of a build, which nobody else answers until this transaction ends.

    Raises
    ------
    NotFound
        The build has no such question.
    """
    query = select(Question).where(Question.id == question_id, Question.build_id == build.id)
    question = session.scalar(query.with_for_update().execution_options(populate_existing=True))
    if question is None:
        raise NotFound(_("question"), _("this build has no such question"), _("Open the card again"))
    return question


def answer(session: Session, question: Question, text: str) -> None:
    """Keep the teacher's answer to a question."""
    answered = update(Question).where(Question.id == question.id).values(answer=text, answered_at=func.now())
    session.execute(answered)


def raise_hand(session: Session, build: Build, *, student_id: int, check_id: str) -> None:
    """Note a raised hand; a hand that is up already stays, on the new check."""
    lower_hands(session, build.class_id, student_id)
    session.add(Hand(class_id=build.class_id, build_id=build.id, student_id=student_id, check_id=check_id))


def lower_hands(session: Session, class_id: int, student_id: int) -> None:
    """Lower a student's hand."""
    up = update(Hand).where(Hand.class_id == class_id, Hand.student_id == student_id, Hand.lowered_at.is_(None))
    session.execute(up.values(lowered_at=func.now()))


def hands_up(session: Session, class_id: int) -> Sequence[Hand]:
    """List the raised hands of a class, longest waiting first."""
    query = select(Hand).where(Hand.class_id == class_id, Hand.lowered_at.is_(None)).options(joinedload(Hand.student))
    return session.scalars(query.order_by(Hand.raised_at)).all()


def hand_of(session: Session, class_id: int, student_id: int) -> Hand | None:
    """Return a student's raised hand, or None."""
    up = (Hand.class_id == class_id, Hand.student_id == student_id, Hand.lowered_at.is_(None))
    return session.scalar(select(Hand).where(*up).limit(1))


def hands_of_student(session: Session, student_id: int) -> Sequence[Hand]:
    """List a student's raised hands, one a class at most."""
    return session.scalars(select(Hand).where(Hand.student_id == student_id, Hand.lowered_at.is_(None))).all()


def withdraw(session: Session, *, class_id: int, exercise: str, check_id: str, reason: str, teacher_id: int) -> None:
    """Let a check of an exercise count for nobody of a class any more."""
    row = insert(Withdrawal).values(
        class_id=class_id, exercise=exercise, check_id=check_id, reason=reason, teacher_id=teacher_id
    )
    session.execute(row.on_conflict_do_nothing())


def reinstate(session: Session, *, class_id: int, exercise: str, check_id: str) -> None:
    """Let a withdrawn check count again."""
    withdrawal = session.get(Withdrawal, (class_id, exercise, check_id))
    if withdrawal:
        session.delete(withdrawal)


def withdrawn_of_class(session: Session, class_id: int) -> dict[str, dict[str, str]]:
    """Return the withdrawn checks of a class with their reasons, by exercise."""
    withdrawn: dict[str, dict[str, str]] = {}
    for withdrawal in session.scalars(select(Withdrawal).where(Withdrawal.class_id == class_id)):
        withdrawn.setdefault(withdrawal.exercise, {})[withdrawal.check_id] = withdrawal.reason
    return withdrawn


def apply_trials(session: Session, build_ids: Sequence[int]) -> None:
    """Let the newest trial of each build count from now on."""
    newest = select(func.max(Run.id)).where(Run.build_id.in_(build_ids), Run.is_trial).group_by(Run.build_id)
    session.execute(update(Run).where(Run.id.in_(newest)).values(is_trial=False))
    drop_trials(session, build_ids)


def drop_trials(session: Session, build_ids: Sequence[int]) -> None:
    """Forget trials that were not applied."""
    for run in session.scalars(select(Run).where(Run.build_id.in_(build_ids), Run.is_trial)):
        session.delete(run)
