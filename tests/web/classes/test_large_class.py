"""A class of two hundred: lists are searched and come in pages, and no page holds everybody for everybody."""

import re

import pytest

from rigid_bench.store.database import Database
from rigid_bench.store.queries import class_queries, exercise_queries, people_queries
from rigid_bench.store.tables import User
from rigid_bench.web.security.passwords import hash_password
from tests.support import school as people
from tests.support.school import School, Visitor

MANY = 200


@pytest.fixture(scope="module")
def large(database: Database, school: School) -> int:
    """A class of two hundred that works on the exercise; its id."""
    with database.session() as session:
        home, secret = session.get_one(User, school.teacher_id), hash_password(people.NEW_PASSWORD)
        students = [
            people_queries.add_user(
                session, login=f"many{k:03}", name=f"Pupil {k:03}", role="student", password_hash=secret,
                home_teacher_id=home.id,
            )
            for k in range(MANY)
        ]  # fmt: skip
        room = class_queries.add_class(session, name="Large", teacher=home, students=students)
        exercise_queries.assign(session, class_id=room.id, version_id=school.version_id)
        return room.id


@pytest.mark.parametrize("path", ["", "/people", "/exercises/{version}"])
def test_a_page_of_a_list_holds_fifty_and_words_find_the_others(
    address: str, school: School, large: int, path: str
) -> None:
    teacher = Visitor(address, people.TEACHER)
    page = f"/classes/{large}{path.format(version=school.version_id)}"

    def shown(query: str) -> list[str]:
        text = re.sub(r"<datalist.*?</datalist>", "", teacher.get(f"{page}?{query}").text, flags=re.DOTALL)
        return sorted(set(re.findall(r"Pupil \d{3}", text)))

    assert shown("") == [f"Pupil {k:03}" for k in range(50)]
    assert shown("at=4") == [f"Pupil {k:03}" for k in range(150, 200)]
    assert shown("q=pupil+19") == [f"Pupil {k:03}" for k in range(MANY) if "19" in f"{k:03}"]
    assert shown("q=nobody") == []
    text = teacher.get(page).text
    assert "page 1 of 4" in text
    assert text.count("<option") < 1.5 * MANY, "a list of classmates stands on a page once, not in every row"
    assert len(text) < 400_000
