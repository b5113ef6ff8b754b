"""Classes: made, shared, with settings of their own; put away, rolled over and read back in at the year's end."""

from datetime import datetime
from typing import Literal

from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _
from rigid_bench.store.class_archive.reading import read_class as read_archive
from rigid_bench.store.class_archive.writing import write_class
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.log import log
from rigid_bench.store.queries import account_queries, class_queries, marking_queries, people_queries, plan_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import Classroom, User


def make_class(session: Session, name: str, *, teacher: Person, settings: ClassSettings | None = None) -> Classroom:
    """Make a class, owned by its teacher."""
    owner = people_queries.user_by_id(session, teacher.id)
    classroom = class_queries.add_class(session, name=name, teacher=owner, settings=settings or ClassSettings())
    log(session, "class-made", who_id=teacher.id, class_id=classroom.id)
    return classroom


def change_settings(
    session: Session, classroom: Classroom, *, name: str, settings: ClassSettings, teacher: Person
) -> None:
    """Keep a class's name and what it has of its own."""
    class_queries.change_class(session, classroom, name=name, settings=settings.model_dump(mode="json"))
    log(session, "settings-changed", who_id=teacher.id, class_id=classroom.id)


def change_code(session: Session, classroom: Classroom, *, teacher: Person) -> None:
    """Give a class a new code: nobody joins by the old one any more."""
    class_queries.change_code(session, classroom)
    log(session, "code-changed", who_id=teacher.id, class_id=classroom.id)


def share_class(
    session: Session, classroom: Classroom, login: str, *, role: Literal["teacher", "assistant"], teacher: Person
) -> None:
    """Let another teacher share a class, or mark and help in it.

    Raises
    ------
    FormRejected
        No teacher has this sign-in name.
    """
    colleague = account_queries.teacher_by_login(session, login)
    class_queries.share_class(session, classroom.id, colleague.id, role=role)
    log(session, "class-shared", who_id=teacher.id, class_id=classroom.id, person_id=colleague.id, role=role)


def unshare_class(session: Session, classroom: Classroom, user_id: int, *, teacher: Person) -> None:
    """End a share: the owner anybody's, all others their own.

    Raises
    ------
    NotFound
        It is somebody else's, and the class is not the teacher's.
    FormRejected
        It is the owner's.
    """
    if teacher.id != user_id:
        class_queries.class_of_teacher(session, classroom.id, teacher.id, roles=("owner",))
    if not class_queries.unshare_class(session, classroom.id, user_id):
        problem = _("the owner of a class does not leave it")
        raise FormRejected(_("share"), problem, _("Let an administrator of the school hand the class over"))
    log(session, "class-unshared", who_id=teacher.id, class_id=classroom.id, person_id=user_id)


def lower_hand(session: Session, classroom: Classroom, student: User, *, teacher: Person) -> None:
    """Lower a student's hand: the teacher was there."""
    marking_queries.lower_hands(session, classroom.id, student.id)
    log(session, "hand-lowered", who_id=teacher.id, class_id=classroom.id, person_id=student.id)


# --- the year's end ---


def archive_class(session: Session, classroom: Classroom, *, teacher: Person, now: datetime) -> None:
    """Put a class into the archive: it takes no builds any more."""
    plan_queries.archive_class(session, classroom, now)
    log(session, "class-archived", who_id=teacher.id, class_id=classroom.id)


def take_out_of_archive(session: Session, classroom: Classroom, *, teacher: Person) -> None:
    """Take a class out of the archive."""
    plan_queries.take_out_of_archive(session, classroom)
    log(session, "class-unarchived", who_id=teacher.id, class_id=classroom.id)


def roll_over(
    session: Session, classroom: Classroom, *, name: str, days: int, with_students: bool, teacher: Person
) -> Classroom:
    """Begin the next year's class from this one, with its plan so many days later."""
    following = plan_queries.roll_over(session, classroom, name=name, days=days, with_students=with_students)
    log(session, "class-rolled-over", who_id=teacher.id, class_id=classroom.id, name=following.name)
    log(session, "class-made", who_id=teacher.id, class_id=following.id)
    return following


def take_class(session: Session, classroom: Classroom, *, teacher: Person) -> bytes:
    """Return a whole class as a zip: people, exercises, plan, builds, reports, marks and comments."""
    content = write_class(session, classroom)
    log(session, "class-taken", who_id=teacher.id, class_id=classroom.id)
    return content


def read_class(session: Session, content: bytes, *, name: str, teacher: Person, now: datetime) -> Classroom:
    """Read a class back in from its zip; it is in the archive then.

    Raises
    ------
    RigidBenchError
        It is no class's zip.
    """
    classroom = read_archive(session, content, name=name, reader=teacher, now=now)
    log(session, "class-read", who_id=teacher.id, class_id=classroom.id)
    return classroom
