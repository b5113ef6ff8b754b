"""A second step of signing in: set up with an app's code, asked for, each code once; a new password ends it."""

import re
import time
from collections.abc import Iterator

import pyotp
import pytest

from rigid_bench.store.database import Database
from rigid_bench.store.queries import account_queries, people_queries
from rigid_bench.store.tables import User
from tests.support import school as people
from tests.support.school import School, Visitor


@pytest.fixture
def app_of_teacher(address: str, database: Database, school: School) -> Iterator[pyotp.TOTP]:
    """The teacher's app, once it is set up."""
    teacher = Visitor(address, people.TEACHER)
    assert "Set it up" in teacher.get("/password").text
    shown = teacher.post("/password/second-step").text
    secret = re.findall(r'name="secret" value="([A-Z2-7]{32})"', shown)[0]
    wrong = teacher.post("/password/second-step/confirm", data={"secret": secret, "code": "000000"})
    assert (wrong.status_code, "not that of the app" in wrong.text, secret in wrong.text) == (422, True, True)
    app = pyotp.TOTP(secret)
    earlier = app.at(int(time.time()) - 30)
    assert (
        "Ask for codes no more"
        in teacher.post("/password/second-step/confirm", data={"secret": secret, "code": earlier}).text
    )
    yield app
    with database.session() as session:
        account_queries.end_second_step(session, school.teacher_id)


def by_password(address: str) -> Visitor:
    visitor = Visitor(address)
    visitor.get("/sign-in")
    answer = visitor.post("/sign-in", data={"login": people.TEACHER.login, "password": people.TEACHER.password})
    assert answer.url.path == "/sign-in/code"
    return visitor


def test_the_password_alone_lets_nobody_in_and_a_code_does_once(address: str, app_of_teacher: pyotp.TOTP) -> None:
    visitor = by_password(address)
    assert visitor.get("/").url.path == "/sign-in", "the password was right, and that is not enough"
    code = app_of_teacher.now()
    assert visitor.post("/sign-in/code", data={"code": "12 34 56"}).status_code == 422
    assert visitor.post("/sign-in/code", data={"code": f"{code[:3]} {code[3:]}"}).url.path == "/"
    again = by_password(address).post("/sign-in/code", data={"code": code})
    assert (again.status_code, "used already" in again.text) == (422, True)


def test_codes_cannot_be_tried_without_end(address: str, app_of_teacher: pyotp.TOTP) -> None:
    visitor = by_password(address)
    answers = [visitor.post("/sign-in/code", data={"code": f"{number:06}"}).status_code for number in range(12)]
    assert answers[-1] == 429
    assert set(answers) == {422, 429}
    assert visitor.post("/sign-in/code", data={"code": app_of_teacher.at(int(time.time()) + 30)}).status_code == 429


def test_who_was_asked_for_no_password_is_asked_for_no_code(address: str, school: School) -> None:
    visitor = Visitor(address)
    assert visitor.get("/sign-in/code").url.path == "/sign-in"
    assert visitor.post("/sign-in/code", data={"code": "123456"}).url.path == "/sign-in"


def test_a_new_password_from_an_administrator_ends_it(
    address: str, database: Database, school: School, app_of_teacher: pyotp.TOTP
) -> None:
    administrator = Visitor(address, people.ADMINISTRATOR)
    with database.session() as session:
        kept = people_queries.user_by_id(session, school.teacher_id).password_hash
    assert administrator.post(f"/accounts/{school.teacher_id}/password").status_code == 200
    with database.session() as session:
        user = session.get_one(User, school.teacher_id)
        assert user.totp_secret is None
        user.password_hash = kept
    Visitor(address, people.TEACHER)


def test_students_have_none(address: str, school: School) -> None:
    student = Visitor(address, people.STUDENT)
    assert "second step" not in student.get("/password").text
    assert student.post("/password/second-step").status_code == 403
