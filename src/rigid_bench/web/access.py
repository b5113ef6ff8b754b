"""Who may do what, in one place: every page takes its person, class or build from here."""

import secrets
from collections.abc import Iterator
from typing import Annotated

from fastapi import Depends, Form, Path, Request
from sqlalchemy.orm import Session

from rigid_bench.core.errors import NotAllowed
from rigid_bench.store import class_queries, draft_queries, queries
from rigid_bench.store.queries import Person
from rigid_bench.store.tables import Assignment, Build, Classroom, Draft, ExerciseVersion, User
from rigid_bench.web.passwords import digest, form_token

COOKIE = "rigid_bench_session"
#: PostgreSQL's largest integer; a longer number in an address is no id.
_LARGEST_ID = 2**31 - 1
Id = Annotated[int, Path(ge=0, le=_LARGEST_ID)]


class SignInNeeded(NotAllowed):
    """The page is for people who are signed in."""


def open_session(request: Request) -> Iterator[Session]:
    """Give the request one database session in one transaction."""
    with request.app.state.database.session() as session:
        yield session


# committed before the answer is sent, so that what a page says was kept is kept
DbSession = Annotated[Session, Depends(open_session, scope="function")]


def person(request: Request, session: DbSession) -> Person | None:
    """Return who is signed in, or None."""
    token = request.cookies.get(COOKIE)
    found = queries.signed_in_person(session, digest(token)) if token else None
    request.state.user = found
    return found


MaybePerson = Annotated[Person | None, Depends(person)]


def signed_in(found: MaybePerson) -> Person:
    """Return who is signed in.

    Raises
    ------
    SignInNeeded
        Nobody is.
    """
    if found is None:
        raise SignInNeeded("sign-in", "you are not signed in", "Sign in to go on")
    return found


SignedIn = Annotated[Person, Depends(signed_in)]


def teacher(user: SignedIn) -> Person:
    """Return the teacher who is signed in."""
    return _with_role(user, "teacher")


def student(user: SignedIn) -> Person:
    """Return the student who is signed in."""
    return _with_role(user, "student")


def _with_role(user: Person, role: str) -> Person:
    if user.role != role:
        raise NotAllowed("page", f"this page is for a {role}", "Go back to your start page")
    return user


Teacher = Annotated[Person, Depends(teacher)]
Student = Annotated[Person, Depends(student)]


def own_class(class_id: Id, user: Teacher, session: DbSession) -> Classroom:
    """Return a class of the teacher's own."""
    return queries.class_of_teacher(session, class_id, user.id)


OwnClass = Annotated[Classroom, Depends(own_class)]


def own_student(class_id: Id, student_id: Id, classroom: OwnClass, session: DbSession) -> User:
    """Return a student of a class of the teacher's own."""
    return class_queries.student_of_class(session, class_id, student_id)


def own_assignment(class_id: Id, version_id: Id, classroom: OwnClass, session: DbSession) -> Assignment:
    """Return how a class of the teacher's own works on an exercise."""
    return class_queries.assignment_of(session, class_id, version_id)


def assigned_exercise(class_id: Id, version_id: Id, user: SignedIn, session: DbSession) -> ExerciseVersion:
    """Return an exercise that a class of the person's works on."""
    return queries.assigned_version(session, class_id=class_id, version_id=version_id, user=user)


def visible_build(build_id: Id, user: SignedIn, session: DbSession) -> Build:
    """Return a build: a student's own, or of a teacher's class."""
    return queries.build_for(session, build_id, user)


def markable_build(build_id: Id, user: Teacher, session: DbSession) -> Build:
    """Return a build of a teacher's own class."""
    return queries.build_for(session, build_id, user)


OwnStudent = Annotated[User, Depends(own_student)]
OwnAssignment = Annotated[Assignment, Depends(own_assignment)]


def own_draft(draft_id: Id, user: Teacher, session: DbSession) -> Draft:
    """Return a teacher's own draft of an exercise."""
    return draft_queries.draft_of(session, draft_id, user.id)


OwnDraft = Annotated[Draft, Depends(own_draft)]
AssignedExercise = Annotated[ExerciseVersion, Depends(assigned_exercise)]
VisibleBuild = Annotated[Build, Depends(visible_build)]
MarkableBuild = Annotated[Build, Depends(markable_build)]


def check_form(request: Request, csrf: Annotated[str, Form()] = "") -> None:
    """Refuse a form that did not come from one of our own pages.

    Raises
    ------
    NotAllowed
        The form's token is not that of the session.
    """
    token = request.cookies.get(COOKIE, "")
    if not token or not secrets.compare_digest(csrf.encode(), form_token(token).encode()):
        raise NotAllowed(
            "form", "this form is out of date, or came from elsewhere", "Load the page again, then send it"
        )


#: For every route that changes something.
CheckedForm = Depends(check_form)
