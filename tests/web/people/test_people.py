"""First start, classes, lists, codes, passwords, terms: who comes in and how, and what is refused."""

import html
import re
from datetime import UTC, datetime, timedelta

from rigid_bench.demo.people import Person
from rigid_bench.settings import Settings
from rigid_bench.web.security.access import COOKIE
from rigid_bench.web.security.passwords import form_token
from rigid_bench.web.server import start_code
from tests.support import school as people
from tests.support.school import School, Visitor


def test_the_first_start_makes_somebody_who_makes_a_class_that_students_join(
    empty_address: str, empty_settings: Settings
) -> None:
    teacher = Visitor(empty_address)
    assert teacher.get("/").url.path == "/start"
    first = {"name": "Ms New", "login": "new", "code": start_code(empty_settings) or ""}
    short = teacher.post("/start", data={**first, "password": "short"})
    assert (short.status_code, "Use at least 8" in short.text) == (422, True)
    assert "You have no class yet" in teacher.post("/start", data={**first, "password": "long enough"}).text
    assert Visitor(empty_address).get("/start").status_code == 403
    shown = teacher.post("/classes", data={"name": "Bench 1"})
    code = re.search(r'class="code">([A-Z2-9]{3}-[A-Z2-9]{3})<', shown.text)
    assert code
    student = Visitor(empty_address)
    student.get("/join")
    form = {"name": "Nora Field", "login": "nora", "password": "a sentence"}
    wrong = student.post("/join", data={**form, "code": "AAA-AAA"})
    assert (wrong.status_code, "there is no class" in wrong.text, 'value="nora"' in wrong.text) == (422, True, True)
    student.get("/join")
    joined = student.post("/join", data={**form, "code": code[1].lower().replace("-", " ")})
    assert "Your exercises" in joined.text
    assert "Nora Field" in teacher.get("/classes/1").text
    teacher.post("/classes/1/code")
    late = Visitor(empty_address)
    late.get("/join")
    assert late.post("/join", data={**form, "login": "late", "code": code[1]}).status_code == 422


def listed(address: str, school: School, names: str) -> str:
    """Give a list, take all that is understood of it, and return the sign-in cards."""
    teacher = Visitor(address, people.TEACHER)
    shown = teacher.post(f"/classes/{school.class_id}/students", data={"names": names})
    lines = re.findall(r'name="line" value="(\d+)"', shown.text)
    token = form_token(teacher.http.cookies.get(COOKIE) or "")
    return teacher.http.post(shown.url.path, data={"csrf": token, "line": lines}).text


def test_a_list_of_students_is_taken_whole_or_not_at_all(address: str, school: School) -> None:
    text = listed(address, school, "name;sign-in\nÉlodie Marsh;\nOtto Lane;otto.l\n")
    assert "elodie.marsh" in text
    passwords = re.findall(r'<dd class="typed">([a-z2-9]{4}-[a-z2-9]{4}-[a-z2-9]{4})</dd>', text)
    assert len(passwords) == 2
    assert "Your exercises" in Visitor(address, Person(login="otto.l", name="", password=passwords[1])).get("/").text
    text = html.unescape(listed(address, school, "Good Name\nBad Login, ü?!"))
    assert "line 2 of the list" in text
    assert "Good Name" not in Visitor(address, people.TEACHER).get(f"/classes/{school.class_id}/people").text


def test_a_reset_password_replaces_the_old_one_and_can_be_changed(address: str, school: School) -> None:
    listed(address, school, "Forget Ful, forget")
    teacher = Visitor(address, people.TEACHER)
    shown = teacher.get(f"/classes/{school.class_id}/people").text
    match = re.search(r"/students/(\d+)/password", shown.split("Forget Ful", 1)[1])
    assert match
    text = teacher.post(f"/classes/{school.class_id}/students/{match[1]}/password").text
    password = re.findall(r'<dd class="typed">([a-z2-9-]{14})</dd>', text)[0]
    student = Visitor(address, Person(login="forget", name="", password=password))
    assert student.post("/password", data={"old": "no", "new": "my own words"}).status_code == 422
    student.post("/password", data={"old": password, "new": "my own words"})
    assert "Your exercises" in student.get("/").text
    Visitor(address, Person(login="forget", name="", password="my own words"))


def test_a_second_teacher_shares_the_class(address: str, school: School) -> None:
    other = Visitor(address, people.OTHER_TEACHER)
    assert other.get(f"/classes/{school.class_id}").status_code == 404
    teacher = Visitor(address, people.TEACHER)
    assert teacher.post(f"/classes/{school.class_id}/teachers", data={"login": "sam"}).status_code == 422
    teacher.post(f"/classes/{school.class_id}/teachers", data={"login": people.OTHER_TEACHER.login})
    assert other.get(f"/classes/{school.class_id}").status_code == 200
    assert "shared the class with" in teacher.get(f"/classes/{school.class_id}/log").text


def test_terms_refuse_late_builds_and_give_single_students_more_time(address: str, school: School) -> None:
    teacher, student = Visitor(address, people.TEACHER), Visitor(address, people.STUDENT)
    path = f"/classes/{school.class_id}/exercises/{school.version_id}"
    past = (datetime.now(UTC) - timedelta(days=1)).strftime("%Y-%m-%dT%H:%M")
    later = (datetime.now(UTC) + timedelta(days=1)).strftime("%Y-%m-%dT%H:%M")
    assert teacher.post(f"{path}/terms", data={"due_at": "soon"}).status_code == 422
    teacher.post(f"{path}/terms", data={"due_at": past, "late": "refused"})
    refused = student.get(f"{path}/hand-in")
    assert (refused.status_code, "it was due already" in refused.text) == (422, True)
    teacher.post(f"{path}/students/{school.student_id}", data={"due_at": later})
    assert student.get(f"{path}/hand-in").status_code == 200
    assert Visitor(address, people.CLASSMATE).get(f"{path}/hand-in").status_code == 422
    teacher.post(f"{path}/terms", data={"late": "taken"})


def test_a_class_says_numbers_and_mates_in_its_own_way(address: str, school: School) -> None:
    teacher = Visitor(address, people.TEACHER)
    settings = {
        "name": "Class One",
        "mate_word": "constraint",
        "time_zone": "Mars/Base",
        "decimal": "comma",
        "grades": "",
    }
    path = f"/classes/{school.class_id}/settings"
    assert "no time zone" in html.unescape(teacher.post(path, data=settings).text)
    assert teacher.post(path, data={**settings, "time_zone": "Europe/Berlin", "grades": "A eighty"}).status_code == 422
    teacher.post(path, data={**settings, "time_zone": "Europe/Berlin", "grades": "A 80\nB 50"})
    shown = teacher.get(f"/classes/{school.class_id}/people").text
    assert all(words in shown for words in ('value="constraint"', "Europe/Berlin", "A 80"))
    assert teacher.get(f"/classes/{school.class_id}/marks.csv").text.splitlines()[0].count(";") == 12
    teacher.post(path, data={**settings, "mate_word": "mate", "time_zone": "UTC", "decimal": "point"})


def test_the_schools_gaps_are_kept_and_wrong_ones_refused(address: str, school: School) -> None:
    teacher = Visitor(address, people.TEACHER)
    for least, most, status in (("0.6", "0.4", 422), ("wide", "1", 422), ("0,35", "0,6", 200)):
        assert teacher.post("/allowances/printed/turn", data={"least": least, "most": most}).status_code == status
    assert 'value="0.35"' in teacher.get("/allowances").text
    assert teacher.post("/allowances/printed/hover", data={"least": "0", "most": "1"}).status_code == 422
