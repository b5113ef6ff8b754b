"""A small school for tests: two teachers, who must not see each other's classes."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import httpx2
from playwright.sync_api import Page, expect
from sqlalchemy.orm import Session

from rigid_bench.core.grading.report.models import Prepared
from rigid_bench.demo.graded import read_graded
from rigid_bench.demo.people import Person
from rigid_bench.jobs.sandbox import Sandbox
from rigid_bench.store.database import Database
from rigid_bench.store.queries import class_queries, exercise_queries, people_queries
from rigid_bench.store.tables import ExerciseVersion, User
from rigid_bench.store.versions import keep_version
from rigid_bench.web.security.access import COOKIE
from rigid_bench.web.security.passwords import form_token, hash_password
from tests.support.patience import PATIENCE_S

TEACHER = Person(login="tara", name="Tara Thorn", password="tara-pass")
OTHER_TEACHER = Person(login="otto", name="Otto Other", password="otto-pass")
ADMINISTRATOR = Person(login="alma", name="Alma Ames", password="alma-pass")
ASSISTANT = Person(login="hugo", name="Hugo Help", password="hugo-pass")
STUDENT = Person(login="sam", name="Sam Sill", password="sam-pass")
CLASSMATE = Person(login="cleo", name="Cleo <b>Crook</b>", password="cleo-pass")


#: Of everybody whom `add_student` makes.
NEW_PASSWORD = "three plain words"


def add_student(session: Session, login: str, home_teacher: User, *, name: str = "") -> User:
    """Add a student who is in no class yet."""
    return people_queries.add_user(
        session,
        login=login,
        name=name or login.title(),
        role="student",
        password_hash=hash_password(NEW_PASSWORD),
        home_teacher_id=home_teacher.id,
    )


def add_exercise(database: Database, sandbox: Sandbox, files: Mapping[str, bytes]) -> ExerciseVersion:
    """Check an exercise, draw its sheet and keep it as a version.

    Raises
    ------
    RigidBenchError
        The exercise cannot be used.
    """
    prepared: Prepared = sandbox.run("grading.prepare_exercise", dict(files), name="exercise")
    with database.session() as session:
        return keep_version(session, files, prepared.model_dump(mode="json"))


#: Cookies of browsers that were signed in, by address and login.
_sessions: dict[tuple[str, str], Any] = {}


@dataclass(frozen=True, kw_only=True)
class School:
    class_id: int
    other_class_id: int
    version_id: int
    student_id: int
    classmate_id: int
    teacher_id: int
    other_teacher_id: int
    administrator_id: int


def make_school(database: Database) -> School:
    """Fill a database; the seed drawer is taken as it ships, prepared: no kernel is needed."""
    drawer = read_graded()[1]
    with database.session() as session:
        version = keep_version(session, drawer.bundle, drawer.prepared)

        def add(person: Person, role: str, home_teacher: User | None = None) -> User:
            return people_queries.add_user(
                session,
                login=person.login,
                name=person.name,
                role=role,
                password_hash=hash_password(person.password),
                home_teacher_id=home_teacher.id if home_teacher else None,
            )

        administrator = add(ADMINISTRATOR, "administrator")
        teacher, other, helper = (add(person, "teacher") for person in (TEACHER, OTHER_TEACHER, ASSISTANT))
        student, classmate = add(STUDENT, "student", teacher), add(CLASSMATE, "student", teacher)
        mine = class_queries.add_class(session, name="Class One", teacher=teacher, students=[student, classmate])
        others = class_queries.add_class(session, name="Class Two", teacher=other, students=[])
        for classroom in (mine, others):
            exercise_queries.assign(session, class_id=classroom.id, version_id=version.id)
        class_queries.share_class(session, mine.id, helper.id, role="assistant")
        return School(
            class_id=mine.id,
            other_class_id=others.id,
            version_id=version.id,
            student_id=student.id,
            classmate_id=classmate.id,
            teacher_id=teacher.id,
            other_teacher_id=other.id,
            administrator_id=administrator.id,
        )


class Visitor:
    """A browser without scripts: keeps cookies, and sends the form token with what it posts."""

    def __init__(self, address: str, person: Person | None = None) -> None:
        # no connection is kept, so none is left open; certificates, which take long to read, are none of ours
        limits = httpx2.Limits(max_keepalive_connections=0)
        self.http = httpx2.Client(
            base_url=address, follow_redirects=True, timeout=PATIENCE_S, limits=limits, verify=False
        )
        if person is not None:
            self.http.get("/sign-in")
            answer = self.post("/sign-in", data={"login": person.login, "password": person.password})
            assert answer.url.path != "/sign-in", "sign-in failed"

    def get(self, path: str) -> httpx2.Response:
        return self.http.get(path)

    def post_form(self, path: str, form: Mapping[str, str], files: Mapping[str, tuple[str, bytes]]) -> httpx2.Response:
        """Send a form with any fields and files."""
        token = form_token(self.http.cookies.get(COOKIE) or "")
        return self.http.post(path, data={**form, "csrf": token}, files=dict(files) or None)

    def post(
        self, path: str, *, data: Mapping[str, str | list[str]] | None = None, files: dict[str, bytes] | None = None
    ) -> httpx2.Response:
        token = form_token(self.http.cookies.get(COOKIE) or "")
        sent = [("files", (name, content)) for name, content in (files or {}).items()]
        return self.http.post(path, data={"csrf": token, **(data or {})}, files=sent or None)


def sign_in(page: Page, address: str, person: Person) -> None:
    """Sign a person in, in a real browser: by the form the first time, then by its cookie as long as that lasts."""
    own = page.get_by_text(person.name)
    if cookies := _sessions.get((address, person.login)):
        page.context.add_cookies(cookies)
        page.goto(address)
        if "/sign-in" not in page.url:
            expect(own).to_be_visible()
            return
    page.goto(f"{address}/sign-in")
    page.get_by_label("Sign-in name").fill(person.login)
    page.get_by_label("Password").fill(person.password)
    page.get_by_role("button", name="Sign in").click()
    expect(own).to_be_visible()
    _sessions[address, person.login] = page.context.cookies()
