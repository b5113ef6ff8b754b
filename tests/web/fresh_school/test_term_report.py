"""A student's report is a PDF that another library reads; several students are given time at once."""

import io
from datetime import UTC, date, datetime, timedelta

import pytest
from pypdf import PdfReader

from rigid_bench.store.database import Database
from rigid_bench.store.queries import class_queries, group_queries, marking_queries
from tests.support import school as people
from tests.support.graded_builds import hand_in_sample
from tests.support.school import School, Visitor

#: Days ago, and the sample that was handed in then.
WORK = ((9, "radius-for-diameter"), (2, "right"))


@pytest.fixture
def worked(database: Database, school: School) -> School:
    """The student typed a radius first, put it right, and has the card back."""
    with database.session() as session:
        for days, name in WORK:
            build = hand_in_sample(session, school, name, ago=timedelta(days=days))
        marking_queries.return_build(session, build, teacher_id=school.teacher_id, total=39.0)
    return school


def report(address: str, school: School, student_id: int, query: str = "") -> tuple[int, str]:
    path = f"/classes/{school.class_id}/students/{student_id}/report.pdf{query}"
    answer = Visitor(address, people.TEACHER).get(path)
    if answer.status_code != 200:
        return answer.status_code, answer.text
    pages = PdfReader(io.BytesIO(answer.content)).pages
    return 200, " ".join(" ".join(page.extract_text() for page in pages).split())


def test_it_says_what_was_done_and_what_was_put_right(address: str, worked: School) -> None:
    status, text = report(address, worked, worked.student_id)
    assert status == 200
    assert people.STUDENT.name in text
    assert "Seed drawer" in text
    assert "2 builds" in text
    assert "Found and put right: radius typed for the diameter." in text
    assert "39/39" in text.replace(" / ", "/")


@pytest.mark.parametrize(("since", "until", "status"), [(-3, 0, 200), (-30, -20, 404), (1, 9, 404)])
def test_only_what_was_handed_in_in_the_time(address: str, worked: School, since: int, until: int, status: int) -> None:
    first, last = (date.today() + timedelta(days=days) for days in (since, until))
    assert report(address, worked, worked.student_id, f"?since={first}&until={last}")[0] == status


def test_who_has_no_card_back_has_no_report(address: str, worked: School) -> None:
    status, text = report(address, worked, worked.classmate_id)
    assert status == 404
    assert "no card was returned" in text


def test_several_students_are_given_time_at_once_and_keep_their_groups(
    address: str, database: Database, worked: School
) -> None:
    pair = (worked.student_id, worked.classmate_id)
    with database.session() as session:
        group_queries.keep_group(session, worked.class_id, worked.version_id, pair)
    teacher = Visitor(address, people.TEACHER)
    path = f"/classes/{worked.class_id}/exercises/{worked.version_id}/students"
    assert "none was chosen" in teacher.post(path, data={"due_at": "2027-05-03T12:00"}).text
    form: dict[str, str | list[str]] = {
        "students": [str(student) for student in (*pair, 2**30)],
        "due_at": "2027-05-03T12:00",
        "sure": "true",
    }
    assert teacher.post(path, data=form).status_code == 200
    with database.session() as session:
        terms = class_queries.terms_of_class(session, worked.class_id)
    assert set(terms) == {(student, worked.version_id) for student in pair}
    assert {agreed.due_at for agreed in terms.values()} == {datetime(2027, 5, 3, 12, tzinfo=UTC)}
    assert group_queries.groups_of(terms) == {
        (pair[0], worked.version_id): [pair[1]],
        (pair[1], worked.version_id): [pair[0]],
    }
