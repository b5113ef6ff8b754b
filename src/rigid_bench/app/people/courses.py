"""Courses elsewhere that are classes here: joined, left, their people taken, marks sent to them again."""

from collections.abc import Iterable
from dataclasses import replace

from sqlalchemy.orm import Session

from rigid_bench.app.people.account_fields import check_name, free_login
from rigid_bench.core.values.errors import NotAllowed
from rigid_bench.store.log import log
from rigid_bench.store.outside import accounts, courses, sent_marks
from rigid_bench.store.outside.accounts import OutsidePerson
from rigid_bench.store.queries import class_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import Classroom, Course


def admit(
    session: Session, person: OutsidePerson, *, home_teacher_id: int | None, taken: set[str] | None = None
) -> int:
    """Return the account of somebody who comes from elsewhere; who is new gets one.

    Parameters
    ----------
    home_teacher_id
        Who answers for a new account; None for a teacher's.
    taken
        Sign-in names that others of the same list get; a new one is added.

    Raises
    ------
    NotAllowed
        The account is disabled, or of another role.
    """
    newcomer = replace(person, name=check_name(person.name or person.subject))
    login = free_login(session, newcomer.name, set() if taken is None else taken)
    return accounts.admit(session, newcomer, login=login, home_teacher_id=home_teacher_id)


def join_course(
    session: Session, *, platform_id: int, context: str, title: str, class_id: int, teacher: Person
) -> None:
    """Let a course of a platform be a class from now on."""
    courses.set_course(session, platform_id=platform_id, context=context, title=title, class_id=class_id)
    log(session, "course-joined", who_id=teacher.id, class_id=class_id, title=title)


def take_people(
    session: Session, classroom: Classroom, course: Course, people: Iterable[OutsidePerson], *, teacher: Person
) -> None:
    """Put everybody who learns in a course into the class; who is new gets an account, and nobody is taken out."""
    owner_id, taken, joined = class_queries.owner_of_class(session, classroom.id), set[str](), 0
    for person in people:
        try:
            student_id = admit(session, person, home_teacher_id=owner_id, taken=taken)
        except NotAllowed:  # a teacher here, or disabled: the others come all the same
            continue
        joined += class_queries.join(session, classroom.id, student_id)
    log(session, "course-people-taken", who_id=teacher.id, class_id=classroom.id, count=joined, title=course.title)


def send_marks_again(session: Session, course: Course) -> None:
    """Have what a platform did not take sent again at once."""
    sent_marks.try_again_now(session, course.id)


def leave_course(session: Session, classroom: Classroom, course: Course, *, teacher: Person) -> None:
    """Let a course be the class no more."""
    log(session, "course-left", who_id=teacher.id, class_id=classroom.id, title=course.title)
    courses.end_course(session, course)
