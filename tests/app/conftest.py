"""What tests of what people do share: a session whose changes nobody keeps, and the class's people in it."""

from collections.abc import Iterator

import pytest
from sqlalchemy.orm import Session

from rigid_bench.store.database import Database
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import Classroom
from tests.support import school as people
from tests.support.school import School


@pytest.fixture
def session(database: Database, school: School) -> Iterator[Session]:
    """A session of the school's database; all that is done in it is undone afterwards."""
    with Session(database.engine, expire_on_commit=False) as own:
        yield own
        own.rollback()


@pytest.fixture
def classroom(session: Session, school: School) -> Classroom:
    return session.get_one(Classroom, school.class_id)


@pytest.fixture
def teacher(school: School) -> Person:
    return Person(id=school.teacher_id, name=people.TEACHER.name, role="teacher")


@pytest.fixture
def student(school: School) -> Person:
    return Person(id=school.student_id, name=people.STUDENT.name, role="student")
