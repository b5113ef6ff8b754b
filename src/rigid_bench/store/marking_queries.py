"""What is asked of the database while builds are marked, by name."""

from collections.abc import Sequence

from sqlalchemy import func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, joinedload

from rigid_bench.core.errors import NotFound
from rigid_bench.store import class_queries
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


def add_override(
    session: Session,
    build: Build,
    *,
    check_id: str,
    marks: float | None,
    comment: str,
    teacher_id: int,
    batch: str | None = None,
) -> Override:
    """Keep a teacher's marks or comment for one check, beside what was measured."""
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


def return_build(session: Session, build: Build, *, teacher_id: int, total: float | None, again: bool = False) -> bool:
    """Return a build's card to its student, with a notice; a second time only if that is meant.

    Returns
    -------
    bool
        It was returned now.
    """
    if build.returns and not again:
        return False
    session.add(Return(build_id=build.id, teacher_id=teacher_id, total=total))
    session.flush()
    words = "was returned again: its marks have changed" if again else "was returned"
    class_queries.notify(
        session, students_of(session, build), f"Your card for {build.version.title} {words}.", build_id=build.id
    )
    return True


def students_of(session: Session, build: Build) -> list[int]:
    """List whose build it is: the student, and the partner where two work together."""
    terms = class_queries.terms_of_student(session, build.class_id, build.version_id, build.student_id)
    return [build.student_id] + ([terms.partner_id] if terms and terms.partner_id else [])


def bank_of(session: Session, teacher_id: int, code: str = "") -> Sequence[BankComment]:
    """List a teacher's comments: those written for the same cause first, then the most used."""
    query = select(BankComment).where(BankComment.teacher_id == teacher_id)
    return session.scalars(query.order_by((BankComment.code == code).desc(), BankComment.used.desc()).limit(40)).all()


def bank_comment(session: Session, teacher_id: int, text: str, code: str) -> None:
    """Keep a comment for the next time."""
    row = insert(BankComment).values(teacher_id=teacher_id, text=text, code=code)
    again = {"used": BankComment.used + 1}
    session.execute(row.on_conflict_do_update(index_elements=["teacher_id", "text"], set_=again))


def ask(session: Session, build: Build, *, check_id: str, text: str) -> None:
    """Keep a student's question about a check."""
    session.add(Question(build_id=build.id, check_id=check_id, text=text))


def answer(session: Session, build: Build, question_id: int, text: str) -> None:
    """Keep the teacher's answer to a question.

    Raises
    ------
    NotFound
        The build has no such question.
    """
    changed = session.execute(
        update(Question)
        .where(Question.id == question_id, Question.build_id == build.id)
        .values(answer=text, answered_at=func.now())
        .returning(Question.id)
    )
    if changed.scalar() is None:
        raise NotFound("question", "this build has no such question", "Open the card again")


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


def reports_since(session: Session, class_id: int) -> Sequence[tuple[int, int, Run]]:
    """List all runs over a class's builds, as (student, version, run), in their order."""
    query = (
        select(Build.student_id, Build.version_id, Run)
        .join(Run, Run.build_id == Build.id)
        .where(Build.class_id == class_id, Run.is_trial.is_(False))
        .order_by(Run.id)
    )
    return [(student, version, run) for student, version, run in session.execute(query)]


def withdraw(session: Session, *, class_id: int, exercise: str, check_id: str, reason: str, teacher_id: int) -> None:
    """Let a check of an exercise count for nobody of a class any more."""
    row = insert(Withdrawal).values(
        class_id=class_id, exercise=exercise, check_id=check_id, reason=reason, teacher_id=teacher_id
    )
    session.execute(row.on_conflict_do_nothing())


def reinstate(session: Session, *, class_id: int, exercise: str, check_id: str) -> None:
    """Let a withdrawn check count again."""
    found = session.get(Withdrawal, (class_id, exercise, check_id))
    if found:
        session.delete(found)


def withdrawn_of_class(session: Session, class_id: int) -> dict[str, dict[str, str]]:
    """Return the withdrawn checks of a class with their reasons, by exercise."""
    found: dict[str, dict[str, str]] = {}
    for each in session.scalars(select(Withdrawal).where(Withdrawal.class_id == class_id)):
        found.setdefault(each.exercise, {})[each.check_id] = each.reason
    return found


def apply_trials(session: Session, build_ids: Sequence[int]) -> None:
    """Let the newest trial of each build count from now on."""
    newest = select(func.max(Run.id)).where(Run.build_id.in_(build_ids), Run.is_trial).group_by(Run.build_id)
    session.execute(update(Run).where(Run.id.in_(newest)).values(is_trial=False))
    drop_trials(session, build_ids)


def drop_trials(session: Session, build_ids: Sequence[int]) -> None:
    """Forget trials that were not applied."""
    for run in session.scalars(select(Run).where(Run.build_id.in_(build_ids), Run.is_trial)):
        session.delete(run)
