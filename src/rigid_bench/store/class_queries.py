"""What is asked of the database about classes and their people, by name."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import delete, func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, selectinload, undefer

from rigid_bench.core.errors import NotFound
from rigid_bench.store.codes import new_code
from rigid_bench.store.tables import (
    Allowance,
    Assignment,
    Build,
    BuildFile,
    Classroom,
    ClassTeacher,
    LogEntry,
    Membership,
    Notice,
    SignIn,
    Terms,
    User,
)

_LOOK = "Go back to your start page and follow the link there"


def class_by_code(session: Session, code: str) -> Classroom | None:
    """Return the class that students join with a code, however it is typed."""
    bare = "".join(each for each in code.upper() if each.isalnum())
    return session.scalar(select(Classroom).where(func.replace(Classroom.code, "-", "") == bare))


def change_code(session: Session, classroom: Classroom) -> None:
    """Give a class a new code: the old one joins nobody any more."""
    session.execute(update(Classroom).where(Classroom.id == classroom.id).values(code=new_code()))


def change_class(session: Session, classroom: Classroom, *, name: str, settings: dict[str, Any]) -> None:
    """Keep a class's name and settings."""
    session.execute(update(Classroom).where(Classroom.id == classroom.id).values(name=name, settings=settings))


def join(session: Session, class_id: int, student_id: int) -> None:
    """Put a student into a class; a second time changes nothing."""
    row = insert(Membership).values(class_id=class_id, student_id=student_id)
    session.execute(row.on_conflict_do_nothing())


def leave(session: Session, class_id: int, student_id: int) -> None:
    """Take a student out of a class; the builds stay."""
    session.execute(delete(Membership).where(Membership.class_id == class_id, Membership.student_id == student_id))


def teachers_of_class(session: Session, class_id: int) -> Sequence[User]:
    """List a class's teachers."""
    query = select(User).join(ClassTeacher, ClassTeacher.teacher_id == User.id)
    return session.scalars(query.where(ClassTeacher.class_id == class_id).order_by(User.name)).all()


def share_class(session: Session, class_id: int, teacher_id: int) -> None:
    """Let another teacher share a class; a second time changes nothing."""
    row = insert(ClassTeacher).values(class_id=class_id, teacher_id=teacher_id)
    session.execute(row.on_conflict_do_nothing())


def student_of_class(session: Session, class_id: int, student_id: int) -> User:
    """Return a student of a class.

    Raises
    ------
    NotFound
        The class has no such student.
    """
    query = select(User).join(Membership, Membership.student_id == User.id)
    found = session.scalar(query.where(Membership.class_id == class_id, User.id == student_id))
    if found is None:
        raise NotFound("student", "there is no such student in the class", _LOOK)
    return found


def set_password(session: Session, user: User, password_hash: str) -> None:
    """Change a password; whoever is signed in with the old one is signed out."""
    session.execute(update(User).where(User.id == user.id).values(password_hash=password_hash))
    session.execute(delete(SignIn).where(SignIn.user_id == user.id))


def erase_student(session: Session, user: User) -> None:
    """Erase a student with all builds, cards and notices; the name goes from the log, too."""
    gone = {each: func.replace(getattr(LogEntry, each), user.name, "(erased)") for each in ("who", "subject")}
    session.execute(update(LogEntry).values(**gone))
    session.execute(delete(User).where(User.id == user.id))


def record_of_student(session: Session, student_id: int, class_ids: Sequence[int]) -> Sequence[Build]:
    """List all builds of a student in some classes, with their files, runs and what teachers added."""
    query = (
        select(Build)
        .where(Build.student_id == student_id, Build.class_id.in_(class_ids))
        .order_by(Build.id)
        .options(
            selectinload(Build.files).options(undefer(BuildFile.content)),
            selectinload(Build.runs),
            selectinload(Build.overrides),
            selectinload(Build.returns),
            selectinload(Build.questions),
        )
    )
    return session.scalars(query).all()


def assignment_of(session: Session, class_id: int, version_id: int) -> Assignment:
    """Return how a class works on an exercise.

    Raises
    ------
    NotFound
        It does not work on it.
    """
    found = session.get(Assignment, (class_id, version_id))
    if found is None:
        raise NotFound("exercise", "the class does not work on it", _LOOK)
    return found


def assignments_of_class(session: Session, class_id: int) -> dict[int, Assignment]:
    """Return how a class works on its exercises, by version."""
    found = session.scalars(select(Assignment).where(Assignment.class_id == class_id))
    return {each.version_id: each for each in found}


def terms_of_class(session: Session, class_id: int) -> dict[tuple[int, int], Terms]:
    """Return what is agreed with single students, by student and version."""
    found = session.scalars(select(Terms).where(Terms.class_id == class_id))
    return {(each.student_id, each.version_id): each for each in found}


def terms_of_student(session: Session, class_id: int, version_id: int, student_id: int) -> Terms | None:
    """Return what is agreed with a student for an exercise, or None."""
    return session.get(Terms, (class_id, version_id, student_id))


def agree(
    session: Session,
    *,
    class_id: int,
    version_id: int,
    student_id: int,
    due_at: datetime | None,
    is_absent: bool,
    partner_id: int | None,
) -> None:
    """Keep what is agreed with a student for an exercise; a pair is agreed with both."""
    session.execute(
        update(Terms)
        .where(Terms.class_id == class_id, Terms.version_id == version_id, Terms.partner_id == student_id)
        .values(partner_id=None)
    )
    values = {"due_at": due_at, "is_absent": is_absent, "partner_id": partner_id}
    _keep_terms(session, class_id, version_id, student_id, values)
    if partner_id is not None:
        _keep_terms(session, class_id, version_id, partner_id, {"partner_id": student_id})


def _keep_terms(session: Session, class_id: int, version_id: int, student_id: int, values: dict[str, Any]) -> None:
    row = insert(Terms).values(class_id=class_id, version_id=version_id, student_id=student_id, **values)
    session.execute(row.on_conflict_do_update(index_elements=["class_id", "version_id", "student_id"], set_=values))


def notify(session: Session, user_ids: Sequence[int], text: str, *, build_id: int | None = None) -> None:
    """Tell people something on their start page."""
    session.add_all(Notice(user_id=each, text=text, build_id=build_id) for each in user_ids)


def notices_of(session: Session, user_id: int) -> Sequence[Notice]:
    """List what a person has not marked as read, newest first."""
    query = select(Notice).where(Notice.user_id == user_id, Notice.seen_at.is_(None))
    return session.scalars(query.order_by(Notice.id.desc()).limit(20)).all()


def see_notices(session: Session, user_id: int) -> None:
    """Mark a person's notices as read."""
    unseen = update(Notice).where(Notice.user_id == user_id, Notice.seen_at.is_(None))
    session.execute(unseen.values(seen_at=func.now()))


def log(session: Session, *, who: str, action: str, subject: str, class_id: int | None) -> None:
    """Note who saw or changed what."""
    session.add(LogEntry(class_id=class_id, who=who, action=action, subject=subject))


def log_of_class(session: Session, class_id: int, *, limit: int = 500) -> Sequence[LogEntry]:
    """List a class's log, newest first."""
    query = select(LogEntry).where(LogEntry.class_id == class_id).order_by(LogEntry.id.desc())
    return session.scalars(query.limit(limit)).all()


def allowances(session: Session) -> dict[str, dict[str, tuple[float, float]]]:
    """Return the school's own classroom values, gaps a side in mm, by process and by what the fit does."""
    found: dict[str, dict[str, tuple[float, float]]] = {}
    for each in session.scalars(select(Allowance)):
        found.setdefault(each.process, {})[each.action] = (each.least, each.most)
    return found


def set_allowance(session: Session, *, process: str, action: str, least: float, most: float) -> None:
    """Keep the school's own value for a fit."""
    values = {"least": least, "most": most}
    row = insert(Allowance).values(process=process, action=action, **values)
    session.execute(row.on_conflict_do_update(index_elements=["process", "action"], set_=values))
