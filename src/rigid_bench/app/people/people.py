"""People and their accounts: they join a class, are added, get new passwords, leave, are erased, administer the school.

Passwords come as hashes; whoever hands out a sign-in card knows the password itself.
"""

import io
import json
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from rigid_bench.app.people.account_fields import NewPerson
from rigid_bench.core.values.errors import FormRejected, NotAllowed
from rigid_bench.core.wording.language import _
from rigid_bench.store.log import log
from rigid_bench.store.queries import account_queries, class_queries, people_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import Build, Classroom, User


def join_class(session: Session, class_id: int, *, student_id: int) -> None:
    """Put a student into a class who has its code, or comes from its course; a second time changes nothing."""
    if class_queries.join(session, class_id, student_id):
        log(session, "joined", who_id=student_id, class_id=class_id)


def join_as_newcomer(session: Session, class_id: int, newcomer: NewPerson, *, password_hash: str) -> int:
    """Make an account for somebody new, for whom the owner of the class answers, and put them into it."""
    user = people_queries.add_user(
        session,
        login=newcomer.login,
        name=newcomer.name,
        role="student",
        password_hash=password_hash,
        home_teacher_id=class_queries.owner_of_class(session, class_id),
    )
    join_class(session, class_id, student_id=user.id)
    return user.id


@dataclass(frozen=True, slots=True, kw_only=True)
class StudentToAdd:
    """A student of a list, as it was understood."""

    name: str
    login: str
    #: None for somebody new.
    user_id: int | None
    #: By what another system knows them; "" where none does.
    sourced_id: str
    #: Of somebody new.
    password_hash: str = ""


def add_students(session: Session, class_id: int, students: Sequence[StudentToAdd], *, teacher: Person) -> None:
    """Put students of a list into a class; who is new gets an account, for which the teacher answers."""
    for student in students:
        user_id = student.user_id
        if user_id is None:
            added = people_queries.add_user(
                session,
                login=student.login,
                name=student.name,
                role="student",
                password_hash=student.password_hash,
                home_teacher_id=teacher.id,
            )
            user_id, added.sourced_id = added.id, student.sourced_id
        elif student.sourced_id:
            people_queries.user_by_id(session, user_id).sourced_id = student.sourced_id
        if class_queries.join(session, class_id, user_id):
            log(session, "student-added", who_id=teacher.id, class_id=class_id, person_id=user_id)


def remove_student(session: Session, classroom: Classroom, student: User, *, teacher: Person) -> None:
    """Take a student out of a class; the builds are kept."""
    class_queries.leave(session, classroom.id, student.id)
    log(session, "student-removed", who_id=teacher.id, class_id=classroom.id, person_id=student.id)


def put_back(session: Session, classroom: Classroom, student: User, *, teacher: Person) -> None:
    """Put a student who left a class, and whose work is still there, back into it."""
    if class_queries.join(session, classroom.id, student.id):
        log(session, "student-put-back", who_id=teacher.id, class_id=classroom.id, person_id=student.id)


def erase_work(session: Session, classroom: Classroom, student: User, *, teacher: Person, typed: str) -> None:
    """Erase what a student did in a class; the account is not the class's.

    Parameters
    ----------
    typed
        The student's sign-in name, so that nothing is erased by mistake.

    Raises
    ------
    FormRejected
        It is not that name.
    """
    if typed.strip().lower() != student.login:
        next_step = _(
            "Type '{login}' to erase the work of {name} in this class for good", login=student.login, name=student.name
        )
        raise FormRejected(_("erasing"), _("nothing was erased"), next_step, "sure")
    account_queries.erase_work(session, classroom.id, student.id)
    log(session, "work-erased", who_id=teacher.id, class_id=classroom.id, person_id=student.id)


def take_record(session: Session, classroom: Classroom, student: User, *, teacher: Person) -> bytes:
    """Return a student's whole record in a class as a zip: files, cards, marks and comments."""
    builds = class_queries.record_of_student(session, student.id, [classroom.id])
    log(session, "record-taken", who_id=teacher.id, class_id=classroom.id, person_id=student.id)
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        about = {"name": student.name, "sign_in": student.login, "class": classroom.name}
        archive.writestr("student.json", json.dumps(about, indent=1, ensure_ascii=False))
        for build in builds:
            for file in build.files:
                archive.writestr(f"build-{build.id}/{file.name}", file.content)
            archive.writestr(f"build-{build.id}/card.json", json.dumps(_facts(build), indent=1, ensure_ascii=False))
    return packed.getvalue()


def _facts(build: Build) -> dict[str, Any]:
    return {
        "handed_in": build.handed_in_at.isoformat(),
        "state": build.state,
        "reports": [run.report for run in build.runs],
        "changed": [
            {
                "check": override.check_id,
                "marks": override.marks,
                "comment": override.comment,
                "at": override.made_at.isoformat(),
            }
            for override in build.overrides
            if override.undone_at is None
        ],
        "returned": [returned.returned_at.isoformat() for returned in build.returns],
        "questions": [
            {"check": question.check_id, "text": question.text, "answer": question.answer}
            for question in build.questions
        ],
    }


# --- accounts ---


def add_teacher(session: Session, person: NewPerson, *, password_hash: str) -> User:
    """Make a teacher."""
    return people_queries.add_user(
        session, login=person.login, name=person.name, role="teacher", password_hash=password_hash
    )


def add_administrator_or_teacher(session: Session, person: NewPerson, *, password_hash: str) -> User:
    """Make a teacher; the first person of all administers the school, and no start code counts any more."""
    account_queries.lock_people(session)
    role = "teacher" if people_queries.people_exist(session) else "administrator"
    user = people_queries.add_user(
        session, login=person.login, name=person.name, role=role, password_hash=password_hash
    )
    account_queries.drop_start_codes(session)
    return user


def reset_password(session: Session, account: User, password_hash: str, *, who_id: int | None) -> None:
    """Give an account a new password, without a second step, and note it in the log of its classes.

    Parameters
    ----------
    who_id
        None for whoever runs the program.
    """
    account_queries.set_password(session, account.id, password_hash)
    account_queries.end_second_step(session, account.id)
    for touched in account_queries.touched_by_erasing(session, account.id):
        log(session, "password-reset", who_id=who_id, class_id=touched.class_id, person_id=account.id)


def erase_account(session: Session, account: User, *, who: Person, typed: str) -> None:
    """Erase a student's account in all classes.

    Parameters
    ----------
    typed
        The sign-in name, so that nothing is erased by mistake.

    Raises
    ------
    NotAllowed
        It is a teacher's.
    FormRejected
        What was typed is not its name.
    """
    if account.role != "student":
        problem = _("a teacher's account is not erased: marks are signed with it")
        raise NotAllowed(_("erasing"), problem, _("An administrator can disable it and hand over what it holds"))
    if typed.strip().lower() != account.login:
        next_step = _("Read what it takes away, then type '{login}'", login=account.login)
        raise FormRejected(_("erasing"), _("nothing was erased"), next_step, "sure")
    for touched in account_queries.touched_by_erasing(session, account.id):
        log(session, "account-erased", who_id=who.id, class_id=touched.class_id, person_id=account.id)
    session.flush()
    account_queries.erase_account(session, account.id)


def hand_over(session: Session, teacher: User, heir: User, *, who: Person) -> None:
    """Hand over a teacher's classes, drafts and pupils' accounts to another teacher."""
    for class_id in account_queries.hand_over(session, teacher, heir):
        log(session, "class-handed-over", who_id=who.id, class_id=class_id, person_id=heir.id)


def set_disabled(session: Session, teacher: User, *, is_disabled: bool) -> None:
    """Let a teacher sign in no more, or again."""
    account_queries.set_disabled(session, teacher, is_disabled=is_disabled)


def set_administrator(session: Session, teacher: User, *, is_administrator: bool) -> None:
    """Let a teacher administer the school, or no more."""
    account_queries.set_administrator(session, teacher, is_administrator=is_administrator)


def end_session(session: Session, number: int, *, who: Person) -> bool:
    """End somebody's session: they sign in again; False where there is none of this number."""
    whose = people_queries.end_sign_in_of(session, number)
    if whose is None:
        return False
    log(session, "session-ended", who_id=who.id, class_id=None, person_id=whose)
    return True
