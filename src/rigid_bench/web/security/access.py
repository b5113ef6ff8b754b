"""Who may do what, in one place: every page takes its person, class or build from here."""

import secrets
from collections.abc import Callable, Iterator
from typing import Annotated, TypeVar

from fastapi import Depends, Form, Path, Request
from fastapi.concurrency import run_in_threadpool
from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import NotAllowed
from rigid_bench.core.wording.language import _
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.queries import (
    account_queries,
    build_queries,
    class_queries,
    draft_queries,
    exercise_queries,
    marking_queries,
    people_queries,
)
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import Assignment, Build, Classroom, Draft, ExerciseVersion, User
from rigid_bench.web.security.passwords import digest, form_token

COOKIE = "rigid_bench_session"
#: By HTTPS a browser takes the cookie from this host alone, and gives it to no other (RFC 6265bis, 4.1.3.2).
HOST_COOKIE = f"__Host-{COOKIE}"
#: PostgreSQL's largest integer; a longer number in an address is no id.
_LARGEST_ID = 2**31 - 1
Id = Annotated[int, Path(ge=0, le=_LARGEST_ID)]


class SignInNeeded(NotAllowed):
    """The page is for people who are signed in."""


def cookie_name(request: Request) -> str:
    """Return what the session's cookie is called, by the way in which the request came."""
    return HOST_COOKIE if request.url.scheme == "https" else COOKIE


def session_token(request: Request) -> str:
    """Return the token of the session that a request belongs to; "" for none."""
    return request.cookies.get(cookie_name(request), "")


def open_session(request: Request) -> Iterator[Session]:
    """Give the request one database session in one transaction."""
    with request.app.state.database.session() as session:
        yield session


# committed before the answer is sent, so that what a page says was kept is kept
DbSession = Annotated[Session, Depends(open_session, scope="function")]


def person(request: Request, session: DbSession) -> Person | None:
    """Return who is signed in, or None."""
    token, idle_minutes = session_token(request), request.app.state.settings.idle_minutes
    signed_in = people_queries.signed_in_person(session, digest(token), idle_minutes=idle_minutes) if token else None
    request.state.user = signed_in
    return signed_in


MaybePerson = Annotated[Person | None, Depends(person)]


def require_signed_in(request: Request) -> None:
    """Refuse somebody who is not signed in, in a transaction of its own: before anything that was sent is read.

    Raises
    ------
    SignInNeeded
        Nobody is.
    """
    with request.app.state.database.session() as session:
        signed_in(person(request, session))


def signed_in(person: MaybePerson) -> Person:
    """Return who is signed in.

    Raises
    ------
    SignInNeeded
        Nobody is.
    """
    if person is None:
        raise SignInNeeded(_("sign-in"), _("you are not signed in"), _("Sign in to go on"))
    return person


SignedIn = Annotated[Person, Depends(signed_in)]


def teacher(user: SignedIn) -> Person:
    """Return the teacher who is signed in."""
    return _if(user.is_teacher, user, _("a teacher"))


def student(user: SignedIn) -> Person:
    """Return the student who is signed in."""
    return _if(user.is_student, user, _("a student"))


def administrator(user: SignedIn) -> Person:
    """Return the administrator who is signed in."""
    return _if(user.is_administrator, user, _("an administrator of the school"))


def _if(has_role: bool, user: Person, who: str) -> Person:
    if not has_role:
        raise NotAllowed(_("page"), _("this page is for {who}", who=who), _("Go back to your start page"))
    return user


Teacher = Annotated[Person, Depends(teacher)]
Student = Annotated[Person, Depends(student)]
Administrator = Annotated[Person, Depends(administrator)]


def own_class(class_id: Id, user: Teacher, session: DbSession, request: Request) -> Classroom:
    """Return a class of the teacher's own, be it as an assistant."""
    classroom, request.state.class_role = class_queries.class_of_teacher(session, class_id, user.id)
    return classroom


def taught_class(class_id: Id, user: Teacher, session: DbSession, request: Request) -> Classroom:
    """Return a class whose people and terms the teacher may change."""
    classroom, request.state.class_role = class_queries.class_of_teacher(
        session, class_id, user.id, roles=class_queries.TEACHES
    )
    return classroom


def owned_class(class_id: Id, user: Teacher, session: DbSession, request: Request) -> Classroom:
    """Return a class that the teacher owns."""
    classroom, request.state.class_role = class_queries.class_of_teacher(session, class_id, user.id, roles=("owner",))
    return classroom


OwnClass = Annotated[Classroom, Depends(own_class)]
TaughtClass = Annotated[Classroom, Depends(taught_class)]
OwnedClass = Annotated[Classroom, Depends(owned_class)]


def own_student(class_id: Id, student_id: Id, classroom: TaughtClass, session: DbSession) -> User:
    """Return a student of a class that the teacher teaches."""
    return class_queries.student_of_class(session, class_id, student_id)


def student_with_work(class_id: Id, student_id: Id, classroom: TaughtClass, session: DbSession) -> User:
    """Return a student of a class that the teacher teaches, or one who left it and whose work is there."""
    return class_queries.student_with_work(session, class_id, student_id)


def managed_account(user_id: Id, user: SignedIn, session: DbSession) -> User:
    """Return an account for which the person answers: one's own, of a pupil, or any for an administrator."""
    return account_queries.account_of(session, user_id, user)


ManagedAccount = Annotated[User, Depends(managed_account)]
StudentWithWork = Annotated[User, Depends(student_with_work)]


def own_assignment(class_id: Id, version_id: Id, classroom: TaughtClass, session: DbSession) -> Assignment:
    """Return how a class that the teacher teaches works on an exercise."""
    return class_queries.assignment_of(session, class_id, version_id)


def assigned_exercise(class_id: Id, version_id: Id, user: SignedIn, session: DbSession) -> ExerciseVersion:
    """Return an exercise that a class of the person's works on."""
    return exercise_queries.assigned_version(session, class_id=class_id, version_id=version_id, user=user)


def visible_build(build_id: Id, user: SignedIn, session: DbSession) -> Build:
    """Return a build: a student's own, or of a teacher's class."""
    return build_queries.build_for(session, build_id, user)


def own_build(build_id: Id, user: Student, session: DbSession) -> Build:
    """Return a student's build, as long as the student is in its class."""
    build = build_queries.build_for(session, build_id, user)
    class_queries.lock_membership(session, build.class_id, user.id)
    return build


def markable_build(build_id: Id, user: Teacher, session: DbSession) -> Build:
    """Return a build of a teacher's own class."""
    return build_queries.build_for(session, build_id, user)


MarkableBuild = Annotated[Build, Depends(markable_build)]


def locked_build(build: MarkableBuild, session: DbSession) -> Build:
    """Return a build of a teacher's own class, on which nobody else decides meanwhile."""
    marking_queries.lock_builds(session, [build.id])
    return build


OwnStudent = Annotated[User, Depends(own_student)]
OwnAssignment = Annotated[Assignment, Depends(own_assignment)]


def own_draft(draft_id: Id, user: Teacher, session: DbSession, request: Request) -> Draft:
    """Return a teacher's own draft of an exercise; for a change nobody else changes it meanwhile."""
    return draft_queries.draft_of(session, draft_id, user.id, is_locked=request.method == "POST")


OwnDraft = Annotated[Draft, Depends(own_draft)]
AssignedExercise = Annotated[ExerciseVersion, Depends(assigned_exercise)]
VisibleBuild = Annotated[Build, Depends(visible_build)]
#: Of a student who hands in, asks or raises a hand.
OwnBuild = Annotated[Build, Depends(own_build)]
LockedBuild = Annotated[Build, Depends(locked_build)]


def check_form(request: Request, csrf: Annotated[str, Form()] = "") -> None:
    """Refuse a form that did not come from one of our own pages.

    Raises
    ------
    NotAllowed
        The form's token is not that of the session.
    """
    token = session_token(request)
    if not token or not secrets.compare_digest(csrf.encode(errors="replace"), form_token(token).encode()):
        raise NotAllowed(
            _("form"), _("this form is out of date, or came from elsewhere"), _("Load the page again, then send it")
        )


#: For every route that changes something.
CheckedForm = Depends(check_form)


class SentAlready(Exception):
    """A form was sent a second time, by a second press: what it asked for is done."""


def send_once(session: DbSession, once: Annotated[str, Form(max_length=64)] = "") -> None:
    """Let each form that a page gave out be done once.

    A second press waits for the first one's transaction; where that failed, the form may be sent again.

    Raises
    ------
    SentAlready
        It is done.
    """
    if once and not people_queries.keep_sent(session, once):
        raise SentAlready


#: For routes that make something new.
SentOnce = Depends(send_once)


def own_settings(session: Session, teacher_id: int) -> ClassSettings:
    """Return the settings of a teacher's first class: what belongs to no class is said by its clock."""
    classes = class_queries.classes_of_teacher(session, teacher_id)
    return ClassSettings.model_validate(classes[0].settings) if classes else ClassSettings()


_T = TypeVar("_T")


async def in_session(request: Request, work: Callable[[Session], _T]) -> _T:
    """Do something in a short transaction of its own, off the event loop.

    For what works out a hash between two looks at the database: no transaction waits for it.
    """

    def run() -> _T:
        with request.app.state.database.session() as session:
            return work(session)

    return await run_in_threadpool(run)


def client_address(request: Request) -> str:
    """Return the network address that a request came from, as far as the server knows."""
    return request.client.host if request.client else "unknown"
