"""A class goes out as a zip and comes back with every build, report, mark, question and date as it was."""

import json
import zipfile
from datetime import UTC, datetime, timedelta
from io import BytesIO
from typing import Any

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from rigid_bench.core.formats.archive import read_zip, write_zip
from rigid_bench.core.values.errors import InvalidDocument, RigidBenchError, UnreadableFile
from rigid_bench.store.class_archive.documents import FILE
from rigid_bench.store.class_archive.reading import read_class
from rigid_bench.store.class_archive.writing import write_class
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.database import Database
from rigid_bench.store.queries import (
    account_queries,
    build_queries,
    class_queries,
    group_queries,
    marking_queries,
    people_queries,
    plan_queries,
)
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import Classroom, User
from tests.support.graded_builds import hand_in_sample
from tests.support.school import School

NOW = datetime(2027, 7, 1, 12, tzinfo=UTC)


@pytest.fixture(scope="module")
def full(database: Database, school: School) -> School:
    """Two builds of a student, one returned, with a decision, a question, terms, a lesson and a withdrawn check."""
    own: dict[str, Any] = {"class_id": school.class_id, "version_id": school.version_id}
    with database.session() as session:
        for name in ("radius-for-diameter", "right"):
            build = hand_in_sample(session, school, name, evidence={"photo.png": b"png"})
        marking_queries.add_override(
            session, build, check_id="knob.pilot", marks=1.5, comment="Well found.", teacher_id=school.teacher_id
        )
        marking_queries.ask(session, build, check_id="knob.pilot", text="Is it Ø4?")
        marking_queries.return_build(session, build, teacher_id=school.teacher_id, total=38.5)
        marking_queries.withdraw(
            session, class_id=school.class_id, exercise="seed-drawer", check_id="gap.right", reason="unclear",
            teacher_id=school.teacher_id,
        )  # fmt: skip
        class_queries.agree(session, **own, student_id=school.student_id, due_at=NOW, is_absent=False)
        group_queries.keep_group(session, school.class_id, school.version_id, [school.student_id, school.classmate_id])
        plan_queries.add_lessons(session, school.class_id, [NOW], minutes=50, room="W2", title="Drawers")
        session.flush()
        assignment = class_queries.assignment_of(session, school.class_id, school.version_id)
        lesson = plan_queries.lessons_of_class(session, school.class_id)[0]
        plan_queries.plan_exercise(session, assignment, lesson_id=lesson.id, opens_at=NOW, after="")
        assignment.due_at = NOW + timedelta(days=3)
    return school


def person(session: Session, user_id: int) -> Person:
    user = session.get_one(User, user_id)
    return Person(id=user.id, name=user.name, role=user.role)


def content_of(packed: bytes) -> tuple[dict[str, Any], list[bytes]]:
    """Return what a zip says, and all that lies in it by content: names have numbers of their own."""
    files = dict(read_zip(packed, name="class"))
    document = json.loads(files.pop(FILE))
    text = json.dumps(document)
    document["settings"] = ClassSettings.model_validate(document["settings"]).model_dump(mode="json")
    for build in document["builds"]:
        for row in (*build["files"], *build["runs"]):
            row.pop("path", None)
            row.pop("report", None)
    assert "password" not in text
    return document, sorted(files.values())


def test_it_comes_back_as_it_went(database: Database, full: School) -> None:
    with database.session() as session:
        packed = write_class(session, session.get_one(Classroom, full.class_id))
    with database.session() as session:
        made = read_class(session, packed, name="class.zip", reader=person(session, full.teacher_id), now=NOW)
        assert made.archived_at == NOW
        assert made.id != full.class_id
        again = write_class(session, made)
        # students whom the teacher looks after are the same people
        members = {user.id for user in class_queries.students_of_class(session, made.id)}
        assert full.student_id in members
    before, after = content_of(packed), content_of(again)
    assert before[0]["builds"]
    assert before[0]["builds"][1]["overrides"][0]["comment"] == "Well found."
    assert after[0] == before[0]
    assert after[1] == before[1]


def test_another_teacher_gets_people_of_their_own(database: Database, full: School) -> None:
    with database.session() as session:
        packed = write_class(session, session.get_one(Classroom, full.class_id))
        reader = person(session, full.other_teacher_id)
        made = read_class(session, packed, name="class.zip", reader=reader, now=NOW)
        members = class_queries.students_of_class(session, made.id)
        assert full.student_id not in {user.id for user in members}
        assert all(account_queries.may_manage(reader, user) for user in members)
        logins = {user.login for user in members}
        assert all(people_queries.user_by_login(session, login) for login in logins)
        builds = build_queries.builds_of_exercise(session, made.id, full.version_id)
        assert {build.student.login for build in builds} <= logins


@pytest.mark.parametrize(
    "change", ["no-document", "no-report", "odd-json", "other-format", "odd-exercise", "twice", "odd-time", "no-zip"]
)
def test_what_is_no_class_is_refused_and_nothing_is_kept(database: Database, full: School, change: str) -> None:
    with database.session() as session:
        packed = write_class(session, session.get_one(Classroom, full.class_id))
    files = dict(read_zip(packed, name="class"))
    document = json.loads(files[FILE])
    if change == "no-document":
        del files[FILE]
    elif change == "no-report":
        files = {name: content for name, content in files.items() if "report" not in name}
    elif change == "odd-json":
        files[FILE] = b"{"
    elif change == "other-format":
        files[FILE] = json.dumps(document | {"format": "other"}).encode()
    elif change == "odd-exercise":
        document["builds"][0]["exercise"] = 99
        files[FILE] = json.dumps(document).encode()
    elif change == "twice":
        document["assignments"] *= 2
        files[FILE] = json.dumps(document).encode()
    elif change == "odd-time":
        document["builds"][1]["overrides"][0]["made_at"] = 7
        files[FILE] = json.dumps(document).encode()
    bad = b"text" if change == "no-zip" else write_zip(files)

    def count() -> int:
        with database.session() as session:
            return len(session.scalars(select(Classroom)).all())

    before = count()
    with pytest.raises(RigidBenchError) as refused, database.session() as session:
        read_class(session, bad, name="class.zip", reader=person(session, full.teacher_id), now=NOW)
    assert isinstance(refused.value, UnreadableFile | InvalidDocument)
    assert count() == before


def test_the_zip_is_an_open_one(database: Database, full: School) -> None:
    with database.session() as session:
        packed = write_class(session, session.get_one(Classroom, full.class_id))
    with zipfile.ZipFile(BytesIO(packed)) as archive:
        assert archive.testzip() is None
        assert FILE in archive.namelist()
