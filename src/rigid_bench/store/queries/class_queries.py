"""What is asked of the database about classes and their people, by name."""

from collections.abc import Collection, Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import collate, delete, func, or_, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, selectinload

from rigid_bench.core.values.errors import NotAllowed, NotFound
from rigid_bench.core.wording.language import N_, _
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.codes import bare_code, new_code
from rigid_bench.store.queries import group_queries
from rigid_bench.store.tables import (
    Allowance,
    Assignment,
    Bench,
    Build,
    BuildFile,
    Classroom,
    ClassTeacher,
    Hand,
    Membership,
    StoredFile,
    Terms,
    User,
)

#: Of a class: all that its teachers may be, and those who may change its people and terms.
ANY_ROLE, TEACHES = ("owner", "teacher", "assistant"), ("owner", "teacher")
_LOOK = N_("Go back to your start page and follow the link there")


def add_class(
    session: Session,
    *,
    name: str,
    teacher: User,
    students: Sequence[User] = (),
    settings: ClassSettings | None = None,
) -> Classroom:
    """Add a class with its owner and students."""
    own = settings.model_dump(mode="json") if settings else {}
    classroom = Classroom(name=name, code=new_code(), settings=own)
    session.add(classroom)
    session.flush()
    session.add(ClassTeacher(class_id=classroom.id, teacher_id=teacher.id, role="owner"))
    session.add_all(Membership(class_id=classroom.id, student_id=student.id) for student in students)
    return classroom


def classes_of_teacher(
    session: Session, teacher_id: int, *, roles: Sequence[str] = ANY_ROLE, is_archived: bool = False
) -> Sequence[Classroom]:
    """List the classes in which a teacher has one of some roles: those of this year, or those in the archive."""
    query = select(Classroom).join(ClassTeacher, ClassTeacher.class_id == Classroom.id)
    own = (ClassTeacher.teacher_id == teacher_id, ClassTeacher.role.in_(roles))
    archive = Classroom.archived_at.is_not(None) if is_archived else Classroom.archived_at.is_(None)
    return session.scalars(query.where(*own, archive).order_by(Classroom.name, Classroom.id)).all()


def class_of_teacher(
    session: Session, class_id: int, teacher_id: int, *, roles: Sequence[str] = ANY_ROLE
) -> tuple[Classroom, str]:
    """Return one of a teacher's own classes, and what the teacher is in it.

    Raises
    ------
    NotFound
        There is none, or it is another teacher's.
    NotAllowed
        The teacher has another role in it than those asked for.
    """
    query = select(Classroom, ClassTeacher.role).join(ClassTeacher, ClassTeacher.class_id == Classroom.id)
    row = session.execute(query.where(Classroom.id == class_id, ClassTeacher.teacher_id == teacher_id)).first()
    if row is None:
        raise NotFound(_("class"), _("there is no such class among yours"), _LOOK)
    classroom, role = row
    if role not in roles:
        problem = _("only its owner does this") if roles == ("owner",) else _("only its teachers do this")
        raise NotAllowed(_("class"), problem, _("Ask them"))
    return classroom, role


def students_of_class(session: Session, class_id: int) -> Sequence[User]:
    """List a class's students by name, in the order of the class's language."""
    classroom = session.get(Classroom, class_id)  # who looks at a class has it in hand already
    settings = ClassSettings.model_validate(classroom.settings if classroom else {})
    order = collate(User.name, settings.collation)
    query = select(User).join(Membership, Membership.student_id == User.id).where(Membership.class_id == class_id)
    return session.scalars(query.order_by(order, User.id)).all()


def class_by_code(session: Session, code: str) -> Classroom | None:
    """Return the class that students join with a code, however it is typed; none that is in the archive."""
    is_meant = (func.replace(Classroom.code, "-", "") == bare_code(code), Classroom.archived_at.is_(None))
    return session.scalar(select(Classroom).where(*is_meant))


def change_code(session: Session, classroom: Classroom) -> None:
    """Give a class a new code: the old one joins nobody any more."""
    session.execute(update(Classroom).where(Classroom.id == classroom.id).values(code=new_code()))


def change_class(session: Session, classroom: Classroom, *, name: str, settings: dict[str, Any]) -> None:
    """Keep a class's name and settings."""
    session.execute(update(Classroom).where(Classroom.id == classroom.id).values(name=name, settings=settings))


def join(session: Session, class_id: int, student_id: int) -> bool:
    """Put a student into a class; False for one who is in it already."""
    row = insert(Membership).values(class_id=class_id, student_id=student_id).on_conflict_do_nothing()
    return session.execute(row.returning(Membership.student_id)).first() is not None


def leave(session: Session, class_id: int, student_id: int) -> None:
    """Take a student out of a class: in no group any more, no hand raised; the builds stay."""
    session.execute(delete(Membership).where(Membership.class_id == class_id, Membership.student_id == student_id))
    grouped = select(Terms.version_id).where(
        Terms.class_id == class_id, Terms.student_id == student_id, Terms.group_number.is_not(None)
    )
    for version_id in session.scalars(grouped).all():
        group_queries.keep_group(session, class_id, version_id, [student_id])
    session.execute(delete(Hand).where(Hand.class_id == class_id, Hand.student_id == student_id))


def lock_membership(session: Session, class_id: int, student_id: int) -> None:
    """Let nobody else hand in for a student, or take the student out, until this transaction ends.

    Raises
    ------
    NotFound
        The student is not in the class (any more).
    """
    query = select(Membership).where(Membership.class_id == class_id, Membership.student_id == student_id)
    if session.scalar(query.with_for_update()) is None:
        raise NotFound(
            _("class"), _("you are not in this class any more"), _("Ask your teacher, or join it with its code")
        )


def teachers_of_class(session: Session, class_id: int) -> Sequence[ClassTeacher]:
    """List a class's teachers with their roles: its owner first, then by name."""
    query = select(ClassTeacher).join(ClassTeacher.teacher).where(ClassTeacher.class_id == class_id)
    return session.scalars(query.order_by(ClassTeacher.role != "owner", User.name)).all()


def owner_of_class(session: Session, class_id: int) -> int | None:
    """Return the id of a class's owner; None for a class that nobody owns."""
    query = select(ClassTeacher.teacher_id).where(ClassTeacher.class_id == class_id, ClassTeacher.role == "owner")
    return session.scalar(query)


def share_class(session: Session, class_id: int, teacher_id: int, *, role: str = "teacher") -> None:
    """Let another teacher share a class as teacher or assistant; its owner stays that."""
    row = insert(ClassTeacher).values(class_id=class_id, teacher_id=teacher_id, role=role)
    again = row.on_conflict_do_update(
        index_elements=["class_id", "teacher_id"], set_={"role": role}, where=ClassTeacher.role != "owner"
    )
    session.execute(again)


def unshare_class(session: Session, class_id: int, teacher_id: int) -> bool:
    """End a teacher's share of a class; False for its owner, or one who has none."""
    own = delete(ClassTeacher).where(
        ClassTeacher.class_id == class_id, ClassTeacher.teacher_id == teacher_id, ClassTeacher.role != "owner"
    )
    return session.execute(own.returning(ClassTeacher.teacher_id)).first() is not None


def student_of_class(session: Session, class_id: int, student_id: int) -> User:
    """Return a student of a class.

    Raises
    ------
    NotFound
        The class has no such student.
    """
    query = select(User).join(Membership, Membership.student_id == User.id)
    user = session.scalar(query.where(Membership.class_id == class_id, User.id == student_id))
    if user is None:
        raise NotFound(_("student"), _("there is no such student in the class"), _LOOK)
    return user


def student_with_work(session: Session, class_id: int, student_id: int) -> User:
    """Return a student of a class, or one who left it and whose work it still holds.

    Raises
    ------
    NotFound
        There is neither.
    """
    if student_id in {former_student.id for former_student in former_students(session, class_id)}:
        return session.get_one(User, student_id)
    return student_of_class(session, class_id, student_id)


def former_students(session: Session, class_id: int) -> Sequence[User]:
    """List who left a class, by name, as long as it holds work of theirs."""
    has_work = or_(
        User.id.in_(select(Build.student_id).where(Build.class_id == class_id)),
        User.id.in_(select(Bench.student_id).where(Bench.class_id == class_id)),
    )
    members = select(Membership.student_id).where(Membership.class_id == class_id)
    return session.scalars(select(User).where(has_work, User.id.not_in(members)).order_by(User.name)).all()


def record_of_student(session: Session, student_id: int, class_ids: Sequence[int]) -> Sequence[Build]:
    """List all builds of a student in some classes, with their files, runs and what teachers added."""
    query = (
        select(Build)
        .where(Build.student_id == student_id, Build.class_id.in_(class_ids))
        .order_by(Build.id)
        .options(
            selectinload(Build.files).joinedload(BuildFile.stored).undefer(StoredFile.content),
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
    assignment = session.get(Assignment, (class_id, version_id))
    if assignment is None:
        raise NotFound(_("exercise"), _("the class does not work on it"), _LOOK)
    return assignment


def assignments_of_class(session: Session, class_id: int) -> dict[int, Assignment]:
    """Return how a class works on its exercises, by version."""
    assignments = session.scalars(select(Assignment).where(Assignment.class_id == class_id))
    return {assignment.version_id: assignment for assignment in assignments}


def terms_of_class(session: Session, class_id: int) -> dict[tuple[int, int], Terms]:
    """Return what is agreed with single students, by student and version."""
    class_terms = session.scalars(select(Terms).where(Terms.class_id == class_id))
    return {(terms.student_id, terms.version_id): terms for terms in class_terms}


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
) -> None:
    """Keep more time or absence of a student for an exercise."""
    values = {"due_at": due_at, "is_absent": is_absent}
    row = insert(Terms).values(class_id=class_id, version_id=version_id, student_id=student_id, **values)
    session.execute(row.on_conflict_do_update(index_elements=["class_id", "version_id", "student_id"], set_=values))


def settings_of_classes(session: Session, class_ids: Collection[int]) -> dict[int, ClassSettings]:
    """Return the settings of classes."""
    query = select(Classroom.id, Classroom.settings).where(Classroom.id.in_(class_ids))
    return {class_id: ClassSettings.model_validate(own) for class_id, own in session.execute(query)}


def allowances(session: Session) -> dict[str, dict[str, tuple[float, float]]]:
    """Return the school's own classroom values, gaps a side in mm, by process and by what the fit does."""
    by_process: dict[str, dict[str, tuple[float, float]]] = {}
    for allowance in session.scalars(select(Allowance)):
        by_process.setdefault(allowance.process, {})[allowance.action] = (allowance.least, allowance.most)
    return by_process


def set_allowance(session: Session, *, process: str, action: str, least: float, most: float) -> None:
    """Keep the school's own value for a fit."""
    values = {"least": least, "most": most}
    row = insert(Allowance).values(process=process, action=action, **values)
    session.execute(row.on_conflict_do_update(index_elements=["process", "action"], set_=values))
