"""Whose account it is, whose class, and what ends with a class; the log names people by id."""

import ast
import re
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest
from argon2 import PasswordHasher
from sqlalchemy import select

from rigid_bench.demo.people import Person
from rigid_bench.settings import Settings
from rigid_bench.store.database import Database
from rigid_bench.store.log import log
from rigid_bench.store.queries import account_queries, build_queries, class_queries
from rigid_bench.store.tables import Build, LogEntry, Membership, User
from rigid_bench.web.security.passwords import OWASP, is_outdated
from rigid_bench.web.server import start_code
from rigid_bench.web.words.log_words import ACTIONS
from tests.support import school as people
from tests.support.school import School, Visitor, add_student

RIGHT = {"kit.step": b"ISO-10303-21;", "b.build.json": b"{}"}


def kept_builds(database: Database, student_id: int) -> list[int]:
    with database.session() as session:
        return list(session.scalars(select(Build.class_id).where(Build.student_id == student_id)))


def give_build(database: Database, school: School, class_id: int, student_id: int) -> int:
    with database.session() as session:
        given: dict[str, Any] = {"class_id": class_id, "version_id": school.version_id, "student_id": student_id}
        return build_queries.add_build(session, **given, files={"a": b""}).id


@pytest.fixture
def shared_student(database: Database, school: School) -> User:
    """A pupil of the first teacher's, who has joined the other teacher's class, too, and has a build in each."""
    with database.session() as session:
        home = session.get_one(User, school.teacher_id)
        user = add_student(session, f"both{len(class_queries.students_of_class(session, school.class_id))}", home)
        for class_id in (school.class_id, school.other_class_id):
            class_queries.join(session, class_id, user.id)
    for class_id in (school.class_id, school.other_class_id):
        give_build(database, school, class_id, user.id)
    return user


def test_a_teacher_of_another_class_of_a_student_has_no_power_over_the_account(
    address: str, database: Database, school: School, shared_student: User
) -> None:
    other = Visitor(address, people.OTHER_TEACHER)
    path = f"/classes/{school.other_class_id}/students/{shared_student.id}"
    assert other.post(f"{path}/password").status_code == 404
    for action in ("password", "erase"):
        sure = {"sure": shared_student.login}
        assert other.post(f"/accounts/{shared_student.id}/{action}", data=sure).status_code == 404
    assert "Another teacher looks after this account" in other.get(f"/classes/{school.other_class_id}/people").text
    assert other.post(f"{path}/erase", data={"sure": shared_student.login}).status_code == 200
    assert kept_builds(database, shared_student.id) == [school.class_id], "only what is in the own class"
    Visitor(address, Person(login=shared_student.login, name="", password=people.NEW_PASSWORD))


@pytest.mark.parametrize("who", [people.TEACHER, people.ADMINISTRATOR])
def test_home_teacher_and_administrator_reset_a_password_and_it_is_logged_in_every_class(
    address: str, database: Database, school: School, shared_student: User, who: Person
) -> None:
    shown = Visitor(address, who).post(f"/accounts/{shared_student.id}/password")
    password = re.findall(r'typed">([a-z2-9]{4}-[a-z2-9]{4}-[a-z2-9]{4})<', shown.text)[0]
    Visitor(address, Person(login=shared_student.login, name="", password=password))
    with database.session() as session:
        logged = session.scalars(select(LogEntry.class_id).where(LogEntry.person_id == shared_student.id))
        assert set(logged) == {school.class_id, school.other_class_id}


def test_erasing_an_account_lists_first_what_it_touches_and_takes_it_all(
    address: str, database: Database, school: School, shared_student: User
) -> None:
    student = Visitor(address, Person(login=shared_student.login, name="", password=people.NEW_PASSWORD))
    shown = student.get(f"/accounts/{shared_student.id}").text
    assert "Class One: 1 build with its card" in shown
    assert "Class Two: 1 build with its card" in shown
    assert student.post(f"/accounts/{shared_student.id}/erase", data={"sure": "yes"}).status_code == 422
    gone = student.post(f"/accounts/{shared_student.id}/erase", data={"sure": shared_student.login})
    assert gone.url.path == "/sign-in"
    assert kept_builds(database, shared_student.id) == []
    for teacher, class_id in ((people.TEACHER, school.class_id), (people.OTHER_TEACHER, school.other_class_id)):
        assert "erased a student&#39;s account" in Visitor(address, teacher).get(f"/classes/{class_id}/log").text


def test_erasing_somebody_with_a_name_of_one_letter_leaves_the_log_of_others_as_it_was(
    address: str, database: Database, school: School
) -> None:
    with database.session() as session:
        user = add_student(session, "ee", session.get_one(User, school.teacher_id), name="e")
        class_queries.join(session, school.class_id, user.id)
        log(session, "settings-changed", who_id=school.teacher_id, class_id=school.class_id)
        log(session, "student-added", who_id=school.teacher_id, class_id=school.class_id, person_id=user.id)
    teacher = Visitor(address, people.TEACHER)
    before = teacher.get(f"/classes/{school.class_id}/log").text
    assert "<td>added e</td>" in before
    teacher.post(f"/accounts/{user.id}/erase", data={"sure": "ee"})
    after = teacher.get(f"/classes/{school.class_id}/log").text
    assert "<td>added somebody who was erased</td>" in after
    assert "changed the settings of the class" in after
    assert people.TEACHER.name in after


def test_a_share_ends_and_a_removed_student_hands_in_no_more(
    address: str, database: Database, school: School, seed_drawer: dict[str, bytes]
) -> None:
    owner, other = Visitor(address, people.TEACHER), Visitor(address, people.OTHER_TEACHER)
    end = f"/classes/{school.class_id}/teachers/{school.other_teacher_id}/end"
    owner.post(f"/classes/{school.class_id}/teachers", data={"login": people.OTHER_TEACHER.login})
    assert other.get(f"/classes/{school.class_id}").status_code == 200
    assert other.post(f"/classes/{school.class_id}/teachers/{school.teacher_id}/end").status_code == 403
    owner.post(end)
    assert other.get(f"/classes/{school.class_id}").status_code == 404
    assert owner.post(f"/classes/{school.class_id}/teachers/{school.teacher_id}/end").status_code == 422
    student = Visitor(address, people.CLASSMATE)
    path = f"/classes/{school.class_id}/exercises/{school.version_id}/hand-in"
    model = {name: data for name, data in seed_drawer.items() if name.endswith(".step")}
    looked = student.post(path, files=dict([next(iter(model.items()))])).url.path
    owner.post(f"/classes/{school.class_id}/students/{school.classmate_id}/leave")
    for answer in (student.post(looked.replace("look", "hand-in")), student.post(path, files=model), student.get(path)):
        assert answer.status_code == 404, answer.text[:200]
    assert people.CLASSMATE.login in owner.get(f"/classes/{school.class_id}/people").text, "work of theirs is there"
    owner.post(f"/classes/{school.class_id}/students/{school.classmate_id}/back")
    assert student.get(path).status_code == 200


def test_an_assistant_marks_and_changes_nothing_of_the_class(address: str, school: School) -> None:
    helper = Visitor(address, people.ASSISTANT)
    table = helper.get(f"/classes/{school.class_id}").text
    assert "as assistant" in table
    assert f"/classes/{school.class_id}/people" not in table
    refused = helper.post(f"/classes/{school.class_id}/code")
    assert (refused.status_code, "its teachers do" in refused.text) == (403, True)


def test_administrators_make_disable_and_hand_over_teachers(address: str, database: Database, school: School) -> None:
    alma = Visitor(address, people.ADMINISTRATOR)
    made = alma.post("/school/teachers", data={"name": "Nils New", "login": "nils"})
    password = re.findall(r'typed">([a-z2-9]{4}-[a-z2-9]{4}-[a-z2-9]{4})<', made.text)[0]
    nils = Visitor(address, Person(login="nils", name="", password=password))
    nils.post("/classes", data={"name": "Left over"})
    with database.session() as session:
        nils_id = session.scalars(select(User.id).where(User.login == "nils")).one()
    alma.post(f"/school/teachers/{nils_id}/disabled")
    assert nils.get("/").url.path == "/sign-in"
    guest = Visitor(address)
    guest.get("/sign-in")
    assert guest.post("/sign-in", data={"login": "nils", "password": password}).status_code == 422
    alma.post(f"/school/teachers/{nils_id}/hand-over", data={"login": people.OTHER_TEACHER.login})
    assert "Left over" in Visitor(address, people.OTHER_TEACHER).get("/classes").text
    alma_id = school.administrator_id
    for action in ("disabled", "administrator"):
        kept = alma.post(f"/school/teachers/{alma_id}/{action}", data={"back": str(action != "disabled").lower()})
        assert (kept.status_code, "the only one who administers" in kept.text) == (422, True)


def test_the_first_person_needs_the_printed_code_and_is_one(empty_address: str, empty_settings: Settings) -> None:
    code = start_code(empty_settings)
    assert code
    form = {"name": "Ms New", "login": "new", "password": "long enough words"}
    visitors = [Visitor(empty_address) for _ in range(4)]
    for visitor in visitors:
        visitor.get("/start")
    wrong = visitors[0].post("/start", data={**form, "code": "AAAA-BBBB-CCCC"})
    assert (wrong.status_code, "is not the one that the server printed" in wrong.text) == (422, True)

    def start(number: int) -> int:
        given: dict[str, Any] = {**form, "login": f"new{number}", "code": code.lower()}
        return visitors[number].post("/start", data=given).status_code

    with ThreadPoolExecutor(4) as pool:
        answers = sorted(pool.map(start, range(4)))
    assert answers == [200, 403, 403, 403]
    database = Database(empty_settings.database_url)
    with database.session() as session:
        assert session.scalars(select(User.role)).all() == ["administrator"]
        assert not account_queries.is_start_code(session, "anything")
    database.close()
    assert start_code(empty_settings) is None, "once somebody is there, no code is printed"


def test_two_windows_at_once_do_not_take_the_last_attempt_twice(
    address: str, database: Database, school: School
) -> None:
    with database.session() as session:
        user = add_student(session, "twice", session.get_one(User, school.teacher_id))
        class_queries.join(session, school.class_id, user.id)
        class_queries.assignment_of(session, school.class_id, school.version_id).attempts = 1
        given: dict[str, Any] = {"class_id": school.class_id, "version_id": school.version_id, "student_id": user.id}
        # two windows in which files were chosen: the second of them put the first aside in the page, not in the table
        ids = []
        for _ in range(2):
            build = Build(**given, state="looked", counts=False)
            session.add(build)
            session.flush()
            ids.append(build.id)
    who = Person(login="twice", name="", password=people.NEW_PASSWORD)
    windows = [Visitor(address, who), Visitor(address, who)]
    with ThreadPoolExecutor(2) as pool:
        answers = list(pool.map(lambda k: windows[k].post(f"/builds/{ids[k]}/hand-in").status_code, range(2)))
    assert sorted(answers) == [200, 422]
    with database.session() as session:
        counted = session.scalars(select(Build.id).where(Build.student_id == user.id, Build.counts))
        assert len(counted.all()) == 1
        class_queries.assignment_of(session, school.class_id, school.version_id).attempts = None


def test_a_removal_and_a_hand_in_at_once_leave_no_build_of_somebody_outside(
    address: str, database: Database, school: School
) -> None:
    with database.session() as session:
        user = add_student(session, "outside", session.get_one(User, school.teacher_id))
        class_queries.join(session, school.class_id, user.id)
        given: dict[str, Any] = {"class_id": school.class_id, "version_id": school.version_id, "student_id": user.id}
        build = Build(**given, state="looked", counts=False)
        session.add(build)
        session.flush()
    student = Visitor(address, Person(login="outside", name="", password=people.NEW_PASSWORD))
    with database.session() as session:
        class_queries.leave(session, school.class_id, user.id)
        session.flush()
        with ThreadPoolExecutor(1) as pool:
            waiting = pool.submit(student.post, f"/builds/{build.id}/hand-in")
            session.commit()
            assert waiting.result().status_code == 404
    with database.session() as session:
        assert session.get(Membership, (school.class_id, user.id)) is None
        assert not session.get_one(Build, build.id).counts


def test_every_code_of_the_log_has_its_words_and_every_word_its_code() -> None:
    source = Path(build_queries.__file__).parents[2]
    paths = [path for path in source.rglob("*.py") if path.name != "log_words.py"]
    nodes = [node for path in paths for node in ast.walk(ast.parse(path.read_text()))]
    texts = {node.value for node in nodes if isinstance(node, ast.Constant) and isinstance(node.value, str)}
    logged = {
        node.args[1].value
        for node in nodes
        if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "log" and len(node.args) > 1
        if isinstance(node.args[1], ast.Constant)
    }
    assert logged <= set(ACTIONS)
    assert set(ACTIONS) - texts == {"earlier"}, "of entries of an earlier version alone"


def test_an_old_hash_is_renewed_when_its_owner_signs_in(address: str, database: Database, school: School) -> None:
    with database.session() as session:
        user = add_student(session, "oldhash", session.get_one(User, school.teacher_id))
        old = PasswordHasher(time_cost=1, memory_cost=16, parallelism=1).hash(people.NEW_PASSWORD)
        account_queries.set_password(session, user.id, old)
    Visitor(address, Person(login="oldhash", name="", password=people.NEW_PASSWORD))
    with database.session() as session:
        renewed = session.get_one(User, user.id).password_hash
        assert renewed != old
        assert not is_outdated(renewed)


def test_hashes_have_the_parameters_that_are_advised() -> None:
    # OWASP Password Storage Cheat Sheet, Argon2id, minimum configurations (from memory)
    assert PasswordHasher(**OWASP).hash("x").split("$")[3] == "m=19456,t=2,p=1"
