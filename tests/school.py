"""A small school for tests: two teachers, who must not see each other's classes."""

from collections.abc import Mapping
from dataclasses import dataclass

import httpx
from playwright.sync_api import Page, expect

from rigid_bench.core.grading.report import Prepared
from rigid_bench.demo.people import Person
from rigid_bench.jobs.sandbox import Sandbox
from rigid_bench.store import queries
from rigid_bench.store.database import Database
from rigid_bench.store.releasing import keep_version
from rigid_bench.store.tables import ExerciseVersion, User
from rigid_bench.web.access import COOKIE
from rigid_bench.web.passwords import form_token, hash_password

TEACHER = Person(login="tara", name="Tara Thorn", password="tara-pass")
OTHER_TEACHER = Person(login="otto", name="Otto Other", password="otto-pass")
STUDENT = Person(login="sam", name="Sam Sill", password="sam-pass")
CLASSMATE = Person(login="cleo", name="Cleo <b>Crook</b>", password="cleo-pass")


def add_exercise(database: Database, sandbox: Sandbox, files: Mapping[str, bytes]) -> ExerciseVersion:
    """Check an exercise, draw its sheet and keep it as a version.

    Raises
    ------
    RigidBenchError
        The exercise cannot be used.
    """
    prepared: Prepared = sandbox.run("prepare_exercise", dict(files), name="exercise")
    with database.session() as session:
        return keep_version(session, files, prepared.model_dump(mode="json"))


@dataclass(frozen=True, kw_only=True)
class School:
    class_id: int
    other_class_id: int
    version_id: int
    student_id: int
    classmate_id: int
    teacher_id: int


def make_school(database: Database, sandbox: Sandbox, bundle: Mapping[str, bytes]) -> School:
    version = add_exercise(database, sandbox, bundle)
    with database.session() as session:

        def add(person: Person, role: str) -> User:
            password = hash_password(person.password)
            return queries.add_user(session, login=person.login, name=person.name, role=role, password_hash=password)

        teacher, other = add(TEACHER, "teacher"), add(OTHER_TEACHER, "teacher")
        student, classmate = add(STUDENT, "student"), add(CLASSMATE, "student")
        mine = queries.add_class(session, name="Class One", teacher=teacher, students=[student, classmate])
        others = queries.add_class(session, name="Class Two", teacher=other, students=[])
        for classroom in (mine, others):
            queries.assign(session, class_id=classroom.id, version_id=version.id)
        return School(
            class_id=mine.id,
            other_class_id=others.id,
            version_id=version.id,
            student_id=student.id,
            classmate_id=classmate.id,
            teacher_id=teacher.id,
        )


class Visitor:
    """A browser without scripts: keeps cookies, and sends the form token with what it posts."""

    def __init__(self, address: str, person: Person | None = None) -> None:
        # no connection is kept, so none is left open
        limits = httpx.Limits(max_keepalive_connections=0)
        self.http = httpx.Client(base_url=address, follow_redirects=True, timeout=30, limits=limits)
        if person is not None:
            self.http.get("/sign-in")
            answer = self.post("/sign-in", data={"login": person.login, "password": person.password})
            assert answer.url.path != "/sign-in", "sign-in failed"

    def get(self, path: str) -> httpx.Response:
        return self.http.get(path)

    def post(
        self, path: str, *, data: dict[str, str] | None = None, files: dict[str, bytes] | None = None
    ) -> httpx.Response:
        token = form_token(self.http.cookies.get(COOKIE) or "")
        sent = [("files", (name, content)) for name, content in (files or {}).items()]
        return self.http.post(path, data={"csrf": token, **(data or {})}, files=sent or None)


def sign_in(page: Page, address: str, person: Person) -> None:
    """Sign a person in, in a real browser."""
    page.goto(f"{address}/sign-in")
    page.get_by_label("Sign-in name").fill(person.login)
    page.get_by_label("Password").fill(person.password)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_text(person.name)).to_be_visible()
