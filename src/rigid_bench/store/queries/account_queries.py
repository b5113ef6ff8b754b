"""What is asked of the database about accounts, by name: who answers for them, passwords, teachers, erasing."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta

from sqlalchemy import delete, func, or_, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import FormRejected, NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import (
    TEACHING,
    Bench,
    Build,
    Classroom,
    ClassTeacher,
    Draft,
    Membership,
    SignIn,
    SignInCards,
    StartCode,
    StudentList,
    User,
)

#: Any number that only this program takes: whoever makes the first person, or changes who administers, holds it.
_PEOPLE_LOCK = 7_301


def lock_people(session: Session) -> None:
    """Let nobody else make the first person, or change who administers, until this transaction ends."""
    session.execute(select(func.pg_advisory_xact_lock(_PEOPLE_LOCK)))


def may_manage(person: Person, account: User) -> bool:
    """Say whether a person answers for an account: administrators do, a home teacher for the pupils, all for theirs."""
    is_home_teacher = account.role == "student" and account.home_teacher_id == person.id
    return person.is_administrator or account.id == person.id or is_home_teacher


def account_of(session: Session, user_id: int, person: Person) -> User:
    """Return an account for which a person answers.

    Raises
    ------
    NotFound
        There is none, or somebody else answers for it.
    """
    user = session.get(User, user_id)
    if user is None or not may_manage(person, user):
        raise NotFound(
            _("account"), _("there is no such account that you look after"), _("Ask an administrator of the school")
        )
    return user


def end_second_step(session: Session, user_id: int) -> None:
    """Let a person sign in by password alone again: the telephone is gone."""
    session.execute(update(User).where(User.id == user_id).values(totp_secret=None))


def set_password(session: Session, user_id: int, password_hash: str) -> None:
    """Change a password; whoever is signed in with the old one is signed out."""
    session.execute(update(User).where(User.id == user_id).values(password_hash=password_hash))
    session.execute(delete(SignIn).where(SignIn.user_id == user_id))


@dataclass(frozen=True, slots=True, kw_only=True)
class Touched:
    """What erasing an account takes away in one class."""

    class_id: int
    class_name: str
    builds: int
    benches: int


def touched_by_erasing(session: Session, user_id: int) -> list[Touched]:
    """List the classes that hold something of a student's, by name, with how much."""
    builds = select(func.count()).where(Build.class_id == Classroom.id, Build.student_id == user_id).scalar_subquery()
    benches = select(func.count()).where(Bench.class_id == Classroom.id, Bench.student_id == user_id).scalar_subquery()
    is_member = Classroom.id.in_(select(Membership.class_id).where(Membership.student_id == user_id))
    query = select(Classroom.id, Classroom.name, builds, benches).where(or_(is_member, builds > 0, benches > 0))
    return [
        Touched(class_id=class_id, class_name=name, builds=built, benches=registered)
        for class_id, name, built, registered in session.execute(query.order_by(Classroom.name))
    ]


def erase_account(session: Session, user_id: int) -> None:
    """Erase a student with all builds, cards and notices; log entries keep what was done, by nobody in particular."""
    session.execute(delete(User).where(User.id == user_id))


def erase_work(session: Session, class_id: int, student_id: int) -> None:
    """Erase what a student did in one class: builds with their cards, and benches."""
    for table in (Bench, Build):
        session.execute(delete(table).where(table.class_id == class_id, table.student_id == student_id))


def teachers(session: Session) -> Sequence[User]:
    """List all who teach, by name."""
    return session.scalars(select(User).where(User.role.in_(TEACHING)).order_by(User.name)).all()


def count_classes_of(session: Session) -> dict[int, int]:
    """Count the classes that each teacher owns."""
    query = select(ClassTeacher.teacher_id, func.count()).where(ClassTeacher.role == "owner")
    return {row[0]: row[1] for row in session.execute(query.group_by(ClassTeacher.teacher_id))}


def search_students(session: Session, words: str, *, offset: int, limit: int) -> tuple[Sequence[User], int]:
    """Search students by name or sign-in name; return one page of them, and how many there are."""
    query = select(User).where(User.role == "student")
    if words:
        query = query.where(or_(User.name.icontains(words, autoescape=True), User.login.contains(words.lower())))
    count = session.scalar(select(func.count()).select_from(query.subquery())) or 0
    return session.scalars(query.order_by(User.name, User.id).offset(offset).limit(limit)).all(), count


def teacher_by_id(session: Session, user_id: int) -> User:
    """Return somebody who teaches.

    Raises
    ------
    NotFound
        There is no such teacher.
    """
    user = session.get(User, user_id)
    if user is None or not user.is_teacher:
        raise NotFound(_("teacher"), _("there is no such teacher"), _("Go back to the school's people"))
    return user


def teacher_by_login(session: Session, login: str) -> User:
    """Return somebody who teaches, by sign-in name.

    Raises
    ------
    FormRejected
        There is no such teacher who may sign in.
    """
    user = session.scalar(select(User).where(User.login == login.strip().lower()))
    if user is None or not user.is_teacher or user.disabled_at:
        problem = _("there is no teacher '{login}'", login=login.strip()[:40])
        raise FormRejected(_("teacher"), problem, _("Ask for their sign-in name"), "login")
    return user


def set_disabled(session: Session, teacher: User, *, is_disabled: bool) -> None:
    """Let a teacher sign in no more, or again.

    Raises
    ------
    FormRejected
        Nobody would administer the school any more.
    """
    lock_people(session)
    if is_disabled:
        _check_another_administers(session, teacher)
        session.execute(delete(SignIn).where(SignIn.user_id == teacher.id))
    disabled_at = func.now() if is_disabled else None
    session.execute(update(User).where(User.id == teacher.id).values(disabled_at=disabled_at))


def set_administrator(session: Session, teacher: User, *, is_administrator: bool) -> None:
    """Let a teacher administer the school, or no more.

    Raises
    ------
    FormRejected
        Nobody would administer the school any more.
    """
    lock_people(session)
    if not is_administrator:
        _check_another_administers(session, teacher)
    role = "administrator" if is_administrator else "teacher"
    session.execute(update(User).where(User.id == teacher.id).values(role=role))


def _check_another_administers(session: Session, teacher: User) -> None:
    others = select(func.count()).where(User.role == "administrator", User.disabled_at.is_(None), User.id != teacher.id)
    if teacher.role == "administrator" and not session.scalar(others):
        problem = _("{name} is the only one who administers the school", name=teacher.name)
        raise FormRejected(_("administrator"), problem, _("Let another teacher administer it first"))


def hand_over(session: Session, teacher: User, to: User) -> list[int]:
    """Hand over a teacher's classes, drafts and pupils' accounts to another; return the ids of the classes.

    Raises
    ------
    FormRejected
        It is the same teacher.
    """
    if teacher.id == to.id:
        raise FormRejected(_("teacher"), _("{name} has them already", name=to.name), _("Name another teacher"), "login")
    owned = select(ClassTeacher.class_id).where(ClassTeacher.teacher_id == teacher.id, ClassTeacher.role == "owner")
    class_ids = list(session.scalars(owned))
    session.execute(delete(ClassTeacher).where(ClassTeacher.teacher_id == teacher.id))
    for class_id in class_ids:
        row = insert(ClassTeacher).values(class_id=class_id, teacher_id=to.id, role="owner")
        session.execute(row.on_conflict_do_update(index_elements=["class_id", "teacher_id"], set_={"role": "owner"}))
    session.execute(update(Draft).where(Draft.teacher_id == teacher.id).values(teacher_id=to.id))
    session.execute(update(User).where(User.home_teacher_id == teacher.id).values(home_teacher_id=to.id))
    return class_ids


def keep_start_code(session: Session, code_hash: str) -> None:
    """Keep a code with which the first person may be made."""
    session.add(StartCode(code_hash=code_hash))


def is_start_code(session: Session, code_hash: str) -> bool:
    """Say whether a code is one with which the first person may be made."""
    return session.get(StartCode, code_hash) is not None


def drop_start_codes(session: Session) -> None:
    """Let no code make a first person any more."""
    session.execute(delete(StartCode))


def keep_sign_in_cards(session: Session, *, maker_id: int, class_id: int | None, sealed: bytes) -> int:
    """Keep sealed sign-in cards, and return their id; those of yesterday are forgotten."""
    session.execute(delete(SignInCards).where(SignInCards.made_at < func.now() - timedelta(days=1)))
    kept = SignInCards(maker_id=maker_id, class_id=class_id, sealed=sealed)
    session.add(kept)
    session.flush()
    return kept.id


def sign_in_cards(session: Session, cards_id: int, *, maker_id: int) -> SignInCards | None:
    """Return sealed sign-in cards that a person made, or None."""
    query = select(SignInCards).where(SignInCards.id == cards_id, SignInCards.maker_id == maker_id)
    return session.scalar(query)


def keep_student_list(session: Session, *, class_id: int, teacher_id: int, content: str) -> int:
    """Keep a list of students that is looked through before it is taken; those of yesterday are forgotten."""
    session.execute(delete(StudentList).where(StudentList.made_at < func.now() - timedelta(days=1)))
    kept = StudentList(class_id=class_id, teacher_id=teacher_id, content=content)
    session.add(kept)
    session.flush()
    return kept.id


def student_list(session: Session, list_id: int, *, class_id: int, teacher_id: int) -> StudentList | None:
    """Return a list of students that a teacher typed for a class, and nobody takes meanwhile; None once it is taken."""
    own = (StudentList.id == list_id, StudentList.class_id == class_id, StudentList.teacher_id == teacher_id)
    return session.scalar(select(StudentList).where(*own).with_for_update())


def drop_student_list(session: Session, listed: StudentList) -> None:
    """Forget a list: it was taken."""
    session.execute(delete(StudentList).where(StudentList.id == listed.id))
