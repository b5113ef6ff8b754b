"""From a course platform and back (LTI 1.3): launch, choosing an exercise, people, marks; against a stand-in."""

import re
import time
from collections.abc import Iterator, Mapping
from datetime import UTC, datetime, timedelta
from typing import Any

import httpx2
import pytest
from fastapi import FastAPI

from rigid_bench.demo.stand_in.course_platform import CoursePerson, StandInCourse
from rigid_bench.jobs.course_marks import send_marks
from rigid_bench.settings import Settings
from rigid_bench.store.database import Database
from rigid_bench.store.queries import class_queries, exercise_queries, people_queries
from rigid_bench.store.tables import Course, CourseLink, OutsideAccount, SentMark, User
from tests.support import school as people
from tests.support.graded_builds import hand_in, row
from tests.support.program import serving_app
from tests.support.school import School, Visitor

#: A check of the seed drawer.
BORE = "knob.pilot"
NADIA = CoursePerson(subject="u1", name="Nadia Brink", role="Instructor")
LUDO = CoursePerson(subject="u2", name="Ludo Finn", role="Learner")
SAM = CoursePerson(subject="u3", name="Sam Sill", role="Learner")
#: More than one page of the roster.
OTHERS = [CoursePerson(subject=f"o{number}", name=f"Other {number}", role="Learner") for number in range(25)]


@pytest.fixture
def course(address: str) -> StandInCourse:
    return StandInCourse("Technology 9B", [NADIA, LUDO, SAM, *OTHERS], program=address)


@pytest.fixture
def platform(course: StandInCourse, address: str) -> Iterator[str]:
    """The address of the platform, once an administrator has registered it."""
    app = FastAPI()
    app.include_router(course.router())
    with serving_app(app) as course_address:
        administrator = Visitor(address, people.ADMINISTRATOR)
        assert "the course pages" in administrator.post("/school/platforms", data=course.agreed(course_address)).text
        yield course_address


def fields_of(shown: httpx2.Response) -> tuple[str, dict[str, str]]:
    """Return where the form of a page goes, and what it sends."""
    before = re.split(r'name="(?:id_token|JWT)"', shown.text)[0]
    action = re.findall(r'<form method="post" action="([^"]+)"', before)[-1]
    return action, dict(re.findall(r'name="(id_token|state|JWT)" value="([^"]+)"', shown.text))


def launched(visitor: Visitor, platform: str, person: CoursePerson, link: int = 0) -> httpx2.Response:
    """Open a link of the course, or, without one, ask to add an exercise."""
    action, fields = fields_of(visitor.get(f"{platform}/course/open?who={person.subject}&link={link}"))
    return visitor.http.post(action, data=fields)


@pytest.fixture
def link(course: StandInCourse, platform: str, address: str, school: School, database: Database) -> int:
    """The number of a link to the seed drawer, put into the course by its teacher, for whom the course is a class."""
    teacher = Visitor(address, people.TEACHER)
    asked = launched(teacher, platform, NADIA)
    assert ("Is that you?" in asked.text, "Nadia Brink" in asked.text) == (True, True)
    assert teacher.post(asked.url.path, data={"is_same": "true", "password": "wrong"}).status_code == 422
    which = teacher.post(asked.url.path, data={"is_same": "true", "password": people.TEACHER.password})
    assert "Which class is “Technology 9B”?" in which.text
    choose = teacher.post(which.url.path, data={"which": str(school.class_id)})
    assert "Which exercise goes into" in choose.text
    assert teacher.post(choose.url.path, data={"exercise": "another"}).status_code == 422
    exercise = re.findall(r'name="exercise" value="([^"]+)"', choose.text)[0]
    ready = teacher.post(choose.url.path, data={"exercise": exercise})
    assert f"form-action 'self' {platform};" in ready.headers["content-security-policy"]
    action, fields = fields_of(ready)
    assert "Mark book" in teacher.http.post(action, data=fields).text
    assert teacher.post(choose.url.path, data={"exercise": exercise}).status_code == 404, "it counts once"
    with database.session() as session:
        assert session.query(OutsideAccount).filter_by(subject="u1").one().user_id == school.teacher_id
        document = exercise_queries.version(session, school.version_id).document
    assert course.links[1].most == pytest.approx(sum(check.get("marks", 0) for check in document["checks"]))
    return 1


def test_a_link_leads_a_student_to_the_exercise_in_the_class(
    platform: str, address: str, link: int, school: School, database: Database
) -> None:
    for _ in range(2):
        visitor = Visitor(address)
        answer = launched(visitor, platform, LUDO, link)
        where = f"/classes/{school.class_id}/exercises/{school.version_id}/hand-in"
        assert (answer.status_code, answer.url.path) == (200, where)
    with database.session() as session:
        ludo = people_queries.user_by_login(session, "ludo.finn")
        assert ludo is not None
        assert (ludo.role, ludo.home_teacher_id) == ("student", school.teacher_id)
        assert ludo.id in {student.id for student in class_queries.students_of_class(session, school.class_id)}
        assert people_queries.user_by_login(session, "ludo.finn2") is None


@pytest.fixture
def joined(platform: str, address: str, link: int) -> str:
    """Where Sam is led, who said that his account here and the course's are one."""
    visitor = Visitor(address, people.STUDENT)
    asked = launched(visitor, platform, SAM, link)
    given = {"is_same": "true", "password": people.STUDENT.password}
    return visitor.post(asked.url.path, data=given).url.path


def test_a_student_who_has_an_account_here_joins_the_two(joined: str, school: School, database: Database) -> None:
    assert joined.endswith("/hand-in")
    with database.session() as session:
        assert session.query(OutsideAccount).filter_by(subject="u3").one().user_id == school.student_id


def test_the_teacher_comes_back_to_the_class(platform: str, address: str, link: int, school: School) -> None:
    assert launched(Visitor(address), platform, NADIA, link).url.path == f"/classes/{school.class_id}"


@pytest.mark.usefixtures("joined")
def test_the_courses_people_come_into_the_class_page_by_page(address: str, school: School, database: Database) -> None:
    teacher = Visitor(address, people.TEACHER)
    with database.session() as session:
        course_id = session.query(Course).one().id
        before = len(class_queries.students_of_class(session, school.class_id))
    for _ in range(2):
        shown = teacher.post(f"/classes/{school.class_id}/courses/{course_id}/people")
        assert "Technology 9B" in shown.text
    with database.session() as session:
        students = class_queries.students_of_class(session, school.class_id)
        assert {person.name for person in OTHERS} <= {student.name for student in students}
        assert len(students) >= before + 25
        assert len({student.name for student in students}) == len(students), "nobody twice"


def _score(course: StandInCourse, subject: str) -> dict[str, Any]:
    return dict(course.links[1].scores[subject])


@pytest.mark.usefixtures("joined")
def test_a_returned_mark_goes_to_the_course_and_again_when_it_changes(
    course: StandInCourse, address: str, school: School, database: Database
) -> None:
    """Sent when returned, sent again when changed, what was sent shown, failures tried again."""
    build_id = hand_in(database, school, school.version_id, school.student_id, [row(BORE, "met", 2)])
    assert send_marks(database) == 0, "nothing is returned"
    teacher = Visitor(address, people.TEACHER)
    course.refuses_with = 503
    assert teacher.post(f"/builds/{build_id}/return").status_code == 200
    assert send_marks(database) == 0
    page = f"/classes/{school.class_id}/courses"
    shown = teacher.get(page).text
    assert "refused with 503" in shown
    assert send_marks(database) == 0, "not before its wait is over"
    course.refuses_with = None
    with database.session() as session:
        course_id = session.query(Course).one().id
    teacher.post(f"{page}/{course_id}/again")
    assert send_marks(database) == 1
    assert send_marks(database) == 0, "it is known there"
    sent = _score(course, "u3")
    assert (sent["activityProgress"], sent["gradingProgress"]) == ("Completed", "FullyGraded")
    assert (sent["scoreGiven"], sent["scoreMaximum"]) == (2, 2)
    assert (
        teacher.post(
            f"/builds/{build_id}/checks/{BORE}", data={"marks": "0.5", "comment": "See the drawing"}
        ).status_code
        == 200
    )
    assert send_marks(database) == 1
    assert _score(course, "u3")["scoreGiven"] == 0.5
    assert teacher.post(f"/builds/{build_id}/take-back").status_code == 200
    assert send_marks(database) == 1
    assert "scoreGiven" not in _score(course, "u3"), "a card that was taken back has no mark"
    assert "taken back" in teacher.get(page).text


@pytest.mark.usefixtures("joined")
def test_a_platform_that_does_not_answer_is_waited_for_longer_each_time(school: School, database: Database) -> None:
    with database.session() as session:
        session.query(Course).update({"looked_at": None})
        session.query(CourseLink).update({"line_item": "http://127.0.0.1:9/columns/1"})
        session.add(
            SentMark(
                course_id=session.query(Course).one().id, exercise=session.query(CourseLink).one().exercise,
                student_id=school.student_id, awarded=1, available=2, sent_at=datetime.now(UTC),
            )
        )  # fmt: skip
    waits = []
    for _ in range(3):
        assert send_marks(database) == 0
        with database.session() as session:
            own = session.query(SentMark).one()
            assert own.try_again_at is not None
            waits.append(own.try_again_at - datetime.now(UTC))
            assert (own.refused_with, own.tries) == (0, len(waits))
            own.try_again_at = datetime.now(UTC)
    assert [round(wait / timedelta(minutes=1)) for wait in waits] == [1, 2, 4]


_OLD = int(time.time()) - 4_000


@pytest.mark.parametrize(
    "wrong",
    [
        {"iss": "https://elsewhere.example"}, {"aud": "another program"}, {"aud": ["bench-at-courses", "another"]},
        {"exp": _OLD, "iat": _OLD - 60}, {"nonce": "of another try"}, {"sub": None}, {"exp": None},
        {"https://purl.imsglobal.org/spec/lti/claim/deployment_id": "d-2"},
        {"https://purl.imsglobal.org/spec/lti/claim/version": "1.1.0"},
        {"https://purl.imsglobal.org/spec/lti/claim/context": None},
    ],
    ids=lambda wrong: next(iter(wrong)).rpartition("/")[2],
)  # fmt: skip
def test_a_launch_that_cannot_be_believed_lets_nobody_in(
    course: StandInCourse, platform: str, address: str, link: int, wrong: Mapping[str, Any]
) -> None:
    """LTI 1.3 security framework, authentication response validation: each claim that must hold, broken."""
    visitor = Visitor(address)
    course.alter = lambda claims: {name: value for name, value in {**claims, **wrong}.items() if value is not None}
    if wrong == {"exp": None}:
        course.alter = lambda claims: {**claims, "exp": None}
    try:
        answer = launched(visitor, platform, LUDO, link)
    finally:
        course.alter = dict
    assert (answer.status_code, visitor.get("/").url.path) == (422, "/sign-in"), answer.text


def test_a_launch_counts_once_and_in_the_browser_that_began_it(platform: str, address: str, link: int) -> None:
    visitor = Visitor(address)
    action, fields = fields_of(visitor.get(f"{platform}/course/open?who=u2&link={link}"))
    other = Visitor(address)
    assert other.http.post(action, data=fields).status_code == 422
    assert visitor.http.post(action, data=fields).status_code == 200
    assert visitor.http.post(action, data=fields).status_code == 422


def test_a_student_cannot_open_a_course_that_is_no_class_yet(settings: Settings, course: StandInCourse) -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("rigid_bench.demo.stand_in.course_platform.CONTEXT", "another")
        test = launched_in_new_course(settings, course)
    assert (test.status_code, "Ask your teacher" in test.text) == (422, True)


def launched_in_new_course(settings: Settings, course: StandInCourse) -> httpx2.Response:
    app = FastAPI()
    app.include_router(course.router())
    with serving_app(app) as platform:
        administrator = Visitor(course.program, people.ADMINISTRATOR)
        administrator.post("/school/platforms", data=course.agreed(platform))
        return launched(Visitor(course.program), platform, LUDO)


def test_who_is_no_teacher_of_a_class_cannot_make_a_course_of_it(
    course: StandInCourse, address: str, school: School, database: Database
) -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("rigid_bench.demo.stand_in.course_platform.CONTEXT", "a third")
        app = FastAPI()
        app.include_router(course.router())
        with serving_app(app) as platform:
            Visitor(address, people.ADMINISTRATOR).post("/school/platforms", data=course.agreed(platform))
            visitor = Visitor(address)
            which = launched(visitor, platform, NADIA)
            assert visitor.post(which.url.path, data={"which": str(school.class_id)}).status_code == 404
            assert launched(Visitor(address), platform, NADIA).url.path.startswith("/lti/class/")
            which = launched(visitor, platform, NADIA)
            made = visitor.post(which.url.path, data={"which": "new"})
    assert "The class works on none yet" in made.text
    with database.session() as session:
        assert session.query(User).filter_by(name="Nadia Brink").one().role == "teacher"


@pytest.mark.parametrize(
    ("field", "value", "says"),
    [("keys_url", "javascript:1", "does not begin with https://"), ("deployments", " , ", "something is missing")],
)
def test_a_platform_is_registered_whole(
    course: StandInCourse, address: str, platform: str, field: str, value: str, says: str
) -> None:
    administrator = Visitor(address, people.ADMINISTRATOR)
    answer = administrator.post("/school/platforms", data=course.agreed("https://x.example") | {field: value})
    assert (answer.status_code, says in answer.text) == (422, True)
    twice = administrator.post("/school/platforms", data=course.agreed(platform))
    assert "there is one of this issuer and client already" in twice.text
