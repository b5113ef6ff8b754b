"""A list of students is looked through before it is taken, once; sign-in cards can be loaded again by their maker."""

import io
import re
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
import zxingcpp
from axe_playwright_python.sync_playwright import Axe
from PIL import Image
from playwright.sync_api import Page
from sqlalchemy import func, select

from rigid_bench.core.formats.archive import read_zip, write_zip
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.demo.people import Person
from rigid_bench.store.class_settings import LANGUAGES, ClassSettings
from rigid_bench.store.database import Database
from rigid_bench.store.queries import class_queries, people_queries
from rigid_bench.store.tables import SignInCards, User
from rigid_bench.web.security.access import COOKIE
from rigid_bench.web.security.passwords import form_token
from rigid_bench.web.security.sealing import SignInCard, seal, unseal
from rigid_bench.web.student_lists import Order, UnderstoodList, understand_list
from tests.support import school as people
from tests.support.school import School, Visitor, add_student


def understood(database: Database, school: School, text: str, order: Order = "guess") -> UnderstoodList:
    teacher = people_queries.Person(id=school.teacher_id, name="", role="teacher")
    with database.session() as session:
        return understand_list(session, text, class_id=school.class_id, teacher=teacher, order=order)


@pytest.mark.parametrize(
    ("text", "order", "read"),
    [
        ("Nora Field", "guess", [("Nora Field", "nora.field")]),
        ("Field,Nora\nLane,Otis", "guess", [("Nora Field", "nora.field"), ("Otis Lane", "otis.lane")]),
        ("Nora Field, nora\nOtis Lane, otis.l", "guess", [("Nora Field", "nora"), ("Otis Lane", "otis.l")]),
        ("Surname;First name;Login\nField;Nora;nfi", "guess", [("Nora Field", "nfi")]),
        ("First name\tSurname\nNora\tField", "guess", [("Nora Field", "nora.field")]),
        ("Field;Nora;nfi\nLane;Otis;ola", "guess", [("Nora Field", "nfi"), ("Otis Lane", "ola")]),
        ("Нора Полева\nΝίκος Παπάς\n李 小龍", "guess",
         [("Нора Полева", "nora.poleva"), ("Νίκος Παπάς", "nikos.papas"), ("李 小龍", "li.xiaolong")]),
        ("Élodie Größe", "guess", [("Élodie Größe", "elodie.grosse")]),
        ("Ann Lee\nAnn Lee", "guess", [("Ann Lee", "ann.lee"), ("Ann Lee", "ann.lee2")]),
        ("\ufeffname\r\n  Bo   Li \r\n\r\n", "guess", [("Bo Li", "bo.li")]),
        ("le Roux, Ann", "surname first", [("Ann le Roux", "ann.le.roux")]),
    ],
)  # fmt: skip
def test_what_is_understood_of_a_list(
    database: Database, school: School, text: str, order: Order, read: list[tuple[str, str]]
) -> None:
    students = understood(database, school, text, order).students
    assert [(student.name, student.login) for student in students] == read
    assert not any(student.fault for student in students)


@pytest.mark.parametrize(
    ("text", "line", "fault"),
    [
        ("Nora, nora\nOtis, sam", 2, "'sam' is in the class already"),
        ("Nora, nora\nOtis, otto", 2, "'otto' is taken"),
        ("Nora, nora\nOtis, nora", 2, "stands twice"),
        ("Nora, nora\nOtis, o!s", 2, "'o!s' cannot be used"),
        (f"Nora\n{'x' * 81}", 2, "cannot be used"),
    ],
)
def test_a_line_that_cannot_be_taken_says_why(
    database: Database, school: School, text: str, line: int, fault: str
) -> None:
    students = understood(database, school, text).faults
    assert [(student.line, fault in student.fault) for student in students] == [(line, True)]


@pytest.mark.parametrize("text", ["", "\n \n", "name", "Surname,First name\n", "x\n" * 501])
def test_a_list_without_anybody_or_of_too_many_is_refused(database: Database, school: School, text: str) -> None:
    with pytest.raises(FormRejected) as caught:
        understood(database, school, text)
    assert caught.value.field == "names"


def take(teacher: Visitor, school: School, names: str) -> Any:
    shown = teacher.post(f"/classes/{school.class_id}/students", data={"names": names})
    lines = re.findall(r'name="line" value="(\d+)"', shown.text)
    token = form_token(teacher.http.cookies.get(COOKIE) or "")
    return shown.url.path, {"csrf": token, "line": lines}


def test_taking_a_list_twice_or_at_once_adds_nobody_twice(address: str, database: Database, school: School) -> None:
    teacher = Visitor(address, people.TEACHER)
    path, form = take(teacher, school, "Once Only\nTwice Never")
    with database.session() as session:
        before = session.scalar(select(func.count()).select_from(User)) or 0
    with ThreadPoolExecutor(4) as pool:
        answers = list(pool.map(lambda _: teacher.http.post(path, data=form), range(4)))
    assert {answer.status_code for answer in answers} == {200}
    cards = next(answer for answer in answers if "/sign-in-cards/" in answer.url.path)
    with database.session() as session:
        assert session.scalar(select(func.count()).select_from(User)) == before + 2
    # the page can be loaded again, by its maker's session alone
    again = teacher.get(cards.url.path).text
    passwords = re.findall(r'<dd class="typed">([a-z2-9]{4}-[a-z2-9]{4}-[a-z2-9]{4})</dd>', again)
    assert len(passwords) == 2
    Visitor(address, Person(login="once.only", name="", password=passwords[0]))
    elsewhere = Visitor(address, people.TEACHER).get(cards.url.path).text
    assert "not kept any more" in elsewhere
    assert Visitor(address, people.OTHER_TEACHER).get(cards.url.path).status_code == 404
    with database.session() as session:
        for kept in session.scalars(select(SignInCards)):
            assert not any(password.encode() in kept.sealed for password in passwords)


def test_cards_for_all_are_made_anew_at_any_time(address: str, database: Database, school: School) -> None:
    with database.session() as session:
        home, other = session.get_one(User, school.teacher_id), session.get_one(User, school.other_teacher_id)
        mine, theirs = add_student(session, "mine", home), add_student(session, "theirs", other)
        for user in (mine, theirs):
            class_queries.join(session, school.class_id, user.id)
    text = Visitor(address, people.TEACHER).post(f"/classes/{school.class_id}/sign-in-cards").text
    assert "Mine</strong>" in text
    assert "Theirs</strong>" not in text, "another teacher looks after that account"
    Visitor(address, Person(login="theirs", name="", password=people.NEW_PASSWORD))


def test_sealed_cards_are_read_with_their_own_token_alone() -> None:
    cards = [SignInCard(name="A", login="a", password="p")]
    sealed = seal(cards, token="one")
    assert unseal(sealed, token="one") == cards
    assert unseal(sealed, token="other") is None
    assert unseal(b"nonsense", token="one") is None


def test_names_are_sorted_by_the_rules_of_the_class_language(database: Database, school: School) -> None:
    names = ["Zoe", "Åsa", "Ola", "Öyvind", "Ann", "Émile", "emma"]
    with database.session() as session:
        home = session.get_one(User, school.teacher_id)
        room = class_queries.add_class(
            session, name="Sorted", teacher=home, students=[
                add_student(session, f"sorted{k}", home, name=name) for k, name in enumerate(names)
            ],
        )  # fmt: skip
        # Swedish ends its alphabet with Å, Ä, Ö (Unicode CLDR, sv); German puts them with A and O
        for language, order in (
            ("sv", ["Ann", "Émile", "emma", "Ola", "Zoe", "Åsa", "Öyvind"]),
            ("de", ["Ann", "Åsa", "Émile", "emma", "Ola", "Öyvind", "Zoe"]),
        ):
            room.settings = ClassSettings(language=language).model_dump(mode="json")
            session.flush()
            assert [student.name for student in class_queries.students_of_class(session, room.id)] == order
        for language in LANGUAGES:
            room.settings = ClassSettings(language=language).model_dump(mode="json")
            session.flush()
            assert len(class_queries.students_of_class(session, room.id)) == len(names)


def test_a_one_roster_zip_fills_the_class_of_its_name_and_marks_go_back_by_its_identifiers(
    address: str, database: Database, school: School
) -> None:
    teacher = Visitor(address, people.TEACHER)
    files = {
        "users.csv": "sourcedId,username,givenName,familyName\nid-7,Rosta.Field,Rosta,Field\nid-8,other,Other,Class\n",
        "classes.csv": "sourcedId,title\nk1,Class One\nk2,Elsewhere\n",
        "enrollments.csv": "classSourcedId,userSourcedId,role\nk1,id-7,student\nk2,id-8,student\n",
    }
    packed = write_zip({name: text.encode() for name, text in files.items()})
    path = f"/classes/{school.class_id}/students"
    shown = teacher.post_form(path, {"names": ""}, {"list_file": ("roster.zip", packed)})
    assert "Rosta Field" in shown.text
    assert "Other Class" not in shown.text
    line = re.findall(r'name="line" value="(\d+)"', shown.text)
    teacher.post(shown.url.path, data={"order": "guess", "line": line})
    with database.session() as session:
        added = people_queries.user_by_login(session, "rosta.field")
        assert added
        assert added.sourced_id == "id-7"
    other = write_zip({name: text.replace("Class One", "Third").encode() for name, text in files.items()})
    refused = teacher.post_form(path, {"names": ""}, {"list_file": ("roster.zip", other)})
    assert "there are Elsewhere, Third" in refused.text
    results = teacher.get(f"/classes/{school.class_id}/one-roster.zip")
    assert set(read_zip(results.content, name="results")) == {"manifest.csv", "lineItems.csv", "results.csv"}


def test_a_telephone_reads_a_cards_address_with_its_sign_in_name(teacher: Page, address: str, school: School) -> None:
    """The codes are read by zxing-cpp, which has no part in drawing them."""
    teacher.goto(f"{address}/classes/{school.class_id}/people")
    with teacher.expect_navigation():
        teacher.locator(f"form[action$='/classes/{school.class_id}/sign-in-cards'] button").click()
    cards = teacher.locator(".sign-in-card")
    logins = [cards.nth(k).locator("dd").nth(1).inner_text() for k in range(cards.count())]
    assert logins
    teacher.evaluate("document.documentElement.style.zoom = 2")  # as large as on a screen that draws all pixels
    pictures = [Image.open(io.BytesIO(code.screenshot())) for code in teacher.locator(".sign-in-code").all()]
    read = [zxingcpp.read_barcodes(picture)[0].text for picture in pictures]
    assert read == [f"{address}/sign-in?login={login}" for login in logins]
    teacher.evaluate("document.documentElement.style.zoom = 1")
    assert Axe().run(teacher).response["violations"] == []
    shown = Visitor(address).get(f"/sign-in?login={logins[0]}").text
    assert f'name="login" value="{logins[0]}"' in shown
