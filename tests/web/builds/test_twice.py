"""What is done twice, or by two at once, counts once; a return is taken back; what is unfinished asks first."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from sqlalchemy import func, select, update

from rigid_bench.app.builds.return_cards import return_due
from rigid_bench.core.formats.archive import read_zip
from rigid_bench.jobs import enqueue
from rigid_bench.store.database import Database
from rigid_bench.store.queries import (
    build_queries,
    class_queries,
    draft_queries,
    exercise_queries,
    marking_queries,
    work_queries,
)
from rigid_bench.store.tables import Build, Classroom, Draft, LogEntry, Notice, Override, Question, Return, User
from tests.support import school as people
from tests.support.school import School, Visitor

Measure = Callable[[int], int]
LEVELS = [{"name": "Shown", "text": "", "marks": 2}, {"name": "Not shown", "text": "", "marks": 0}]


def check(name: str, **other: object) -> dict[str, object]:
    made = {"id": name, "title": name.title(), "kind": "dimension", "verdict": "missed", "awarded": 0, "available": 2}
    return {**made, "required": "8", "measured": "4", **other}


@pytest.fixture
def measured(database: Database, school: School) -> Measure:
    """A function that keeps a measured build of a student with a bore that is missed and a row to be judged."""

    def make(student_id: int) -> int:
        given: dict[str, Any] = {"class_id": school.class_id, "version_id": school.version_id, "student_id": student_id}
        checks = [check("bore"), check("idea", kind="judged", verdict="unchecked", strip="by hand", levels=LEVELS)]
        report = {"exercise": "e", "awarded": 0, "available": 4, "percent": 0, "stage": "", "checks": checks}
        with database.session() as session:
            build = build_queries.add_build(session, **given, files={"a": b""})
            result: dict[str, Any] = {"version_id": school.version_id, "engine_version": "1", "report": report}
            work_queries.finish_measuring(session, build.id, **result)
            return build.id

    return make


def count(database: Database, table: type, build_id: int) -> int:
    with database.session() as session:
        own = select(func.count()).select_from(table).where(table.build_id == build_id)  # type: ignore[attr-defined]
        return session.scalar(own) or 0


def two_teachers(address: str, database: Database, school: School) -> tuple[Visitor, Visitor]:
    with database.session() as session:
        class_queries.share_class(session, school.class_id, school.other_teacher_id)
    return Visitor(address, people.TEACHER), Visitor(address, people.OTHER_TEACHER)


def test_eight_presses_by_two_teachers_return_a_card_once(
    address: str, database: Database, school: School, measured: Measure
) -> None:
    build_id = measured(school.student_id)
    teachers = two_teachers(address, database, school)
    with ThreadPoolExecutor(8) as pool:
        sent = [
            pool.submit(teachers[k % 2].post, f"/builds/{build_id}/return", data={"sure": "true"}) for k in range(8)
        ]
        assert {future.result().status_code for future in sent} == {200}
    assert (count(database, Return, build_id), count(database, Notice, build_id)) == (1, 1)
    again = teachers[0].post(f"/builds/{build_id}/return", data={"sure": "true", "again": "true"})
    assert again.status_code == 200
    assert count(database, Return, build_id) == 1, "nothing has changed, so nothing is returned again"


def test_two_teachers_on_one_check_the_second_sees_the_first_decision(
    address: str, database: Database, school: School, measured: Measure
) -> None:
    build_id = measured(school.student_id)
    one, other = two_teachers(address, database, school)
    path = f"/builds/{build_id}/checks/bore"
    for _ in range(3):
        one.post(path, data={"marks": "1", "comment": "half right"})
    assert count(database, Override, build_id) == 1, "the same decision is kept once"
    asked = other.post(path, data={"marks": "2", "comment": "right enough"})
    assert asked.status_code == 409
    for words in ("Tara Thorn gave 1 of 2", "half right", 'name="seen"', 'value="right enough"'):
        assert words in asked.text
    assert count(database, Override, build_id) == 1
    with database.session() as session:
        seen = session.scalars(select(Override.id).where(Override.build_id == build_id)).one()
    other.post(path, data={"marks": "2", "comment": "right enough", "seen": str(seen)})
    assert count(database, Override, build_id) == 2
    with ThreadPoolExecutor(8) as pool:
        parallel = [
            pool.submit(who.post, path, data={"marks": "0", "comment": "no", "seen": "0"}) for who in (one, other) * 4
        ]
        codes = sorted(future.result().status_code for future in parallel)
    assert codes[0] == 200
    assert 409 in codes, "of two at once one sees the other's decision"
    assert count(database, Override, build_id) == 3


def test_a_question_is_asked_once_and_answered_once(
    address: str, database: Database, school: School, measured: Measure
) -> None:
    build_id = measured(school.student_id)
    student = Visitor(address, people.STUDENT)
    with ThreadPoolExecutor(5) as pool:
        list(
            pool.map(lambda _: student.post(f"/builds/{build_id}/checks/bore/question", data={"text": "Why?"}), "12345")
        )
    assert count(database, Question, build_id) == 1
    one, other = two_teachers(address, database, school)
    with database.session() as session:
        question = session.scalars(select(Question.id).where(Question.build_id == build_id)).one()
    for _ in range(3):
        one.post(f"/builds/{build_id}/questions/{question}", data={"text": "It is a radius."})
    with database.session() as session:
        told = session.execute(select(Notice.kind, Notice.user_id).where(Notice.build_id == build_id)).all()
    # the student is told once of the answer; the class's teachers were told once each of the question
    assert [user_id for kind, user_id in told if kind == "answered"] == [school.student_id]
    assert {kind for kind, _ in told} == {"answered", "asked"}
    assert len(told) == len(set(told))
    second = other.post(f"/builds/{build_id}/questions/{question}", data={"text": "See the sheet."})
    assert (second.status_code, "It is a radius." in second.text) == (409, True)


def test_a_form_that_a_page_gave_out_is_done_once(address: str, database: Database, school: School) -> None:
    teacher = Visitor(address, people.TEACHER)
    with ThreadPoolExecutor(6) as pool:
        form = {"name": "Only One", "once": "the-token-of-the-page"}
        answers = list(pool.map(lambda _: teacher.post("/classes", data=form).status_code, range(6)))
    assert set(answers) == {200}
    with database.session() as session:
        assert session.scalar(select(func.count()).where(Classroom.name == "Only One")) == 1
    refused = teacher.post("/classes", data={"name": "", "once": "another-token"})
    assert refused.status_code == 422
    teacher.post("/classes", data={"name": "Mended", "once": "another-token"})
    with database.session() as session:
        assert session.scalar(select(func.count()).where(Classroom.name == "Mended")) == 1


def test_what_is_not_done_with_asks_before_it_is_returned_by_name(
    address: str, database: Database, school: School, measured: Measure
) -> None:
    build_id = measured(school.student_id)
    Visitor(address, people.STUDENT).post(f"/builds/{build_id}/checks/bore/question", data={"text": "Why?"})
    teacher = Visitor(address, people.TEACHER)
    all_path = f"/classes/{school.class_id}/exercises/{school.version_id}/return"
    for path in (f"/builds/{build_id}/return", all_path):
        asked = teacher.post(path)
        assert asked.status_code == 409
        assert "Sam Sill: a question about Bore, Idea to be judged" in asked.text
        assert count(database, Return, build_id) == 0
    with database.session() as session:
        class_queries.assignment_of(session, school.class_id, school.version_id).return_at = datetime.now(UTC)
    with database.session() as session:
        return_due(session)
        held = select(LogEntry.params).where(LogEntry.action == "cards-held-back").order_by(LogEntry.id.desc())
        assert session.scalars(held).first() == {"count": 1, "title": "Seed drawer"}
    assert count(database, Return, build_id) == 0, "at a set time nobody can be asked: it is held back"
    teacher.post(all_path, data={"sure": "true"})
    assert count(database, Return, build_id) == 1


def test_a_return_is_taken_back_at_once_without_trace_and_later_with_a_note(
    address: str, database: Database, school: School, measured: Measure
) -> None:
    build_id = measured(school.classmate_id)
    teacher, student = Visitor(address, people.TEACHER), Visitor(address, people.CLASSMATE)
    teacher.post(f"/builds/{build_id}/return", data={"sure": "true"})
    teacher.post(f"/builds/{build_id}/take-back")
    assert (count(database, Return, build_id), count(database, Notice, build_id)) == (0, 0)
    assert "was returned" not in student.get("/").text
    teacher.post(f"/builds/{build_id}/return", data={"sure": "true"})
    assert "was returned" in student.get("/").text, "and the student has seen it"
    refused = teacher.post(f"/builds/{build_id}/take-back")
    assert (refused.status_code, "may have seen the card" in refused.text) == (422, True)
    teacher.post(f"/builds/{build_id}/take-back", data={"note": "I mixed up two builds."})
    home = student.get("/").text
    assert "was taken back: I mixed up two builds." in home
    assert "Returned" not in student.get(f"/builds/{build_id}").text
    with database.session() as session:
        assert [returned.number for returned in session.scalars(select(Return).where(Return.build_id == build_id))] == [
            1
        ]
    teacher.post(f"/builds/{build_id}/return", data={"sure": "true"})
    assert "Returned" in student.get(f"/builds/{build_id}").text


def test_a_return_of_yesterday_is_not_taken_back_without_a_note(
    database: Database, school: School, measured: Measure
) -> None:
    build_id = measured(school.student_id)
    with database.session() as session:
        build = session.get_one(Build, build_id)
        marking_queries.return_build(session, build, teacher_id=school.teacher_id, total=0)
        old = datetime.now(UTC) - timedelta(days=1)
        session.execute(update(Return).where(Return.build_id == build_id).values(returned_at=old))
        session.expire_all()
        with pytest.raises(Exception, match="may have seen"):
            marking_queries.take_back(session, build, note="", now=datetime.now(UTC))


def test_all_cards_are_taken_back_at_once(address: str, database: Database, school: School, measured: Measure) -> None:
    builds = [measured(student_id) for student_id in (school.student_id, school.classmate_id)]
    teacher = Visitor(address, people.TEACHER)
    path = f"/classes/{school.class_id}/exercises/{school.version_id}/return"
    table = teacher.post(path, data={"sure": "true"})
    assert "2 cards are returned" in table.text
    batch = table.url.params["returned"]
    teacher.post(f"/classes/{school.class_id}/take-back/{batch}")
    assert [count(database, Return, build_id) for build_id in builds] == [0, 0]


@pytest.fixture
def waiting_draft(database: Database, school: School, examined: dict[str, Any]) -> tuple[int, list[str]]:
    """A draft that was examined and is being looked at again; and the ids of some of its checks."""
    with database.session() as session:
        version = exercise_queries.version(session, school.version_id)
        given: dict[str, Any] = {"title": "D", "source_name": "a.zip", "source": version.bundle}
        draft = draft_queries.add_draft(session, teacher_id=school.teacher_id, **given)
        draft_queries.keep_bundle(session, draft, read_zip(version.bundle, name="exercise"))
        draft.examined, draft.state = examined, "waiting"
        return draft.id, [check["id"] for check in version.document["checks"]][:8]


def test_shifts_on_the_sheet_at_once_are_all_kept(
    address: str, database: Database, waiting_draft: tuple[int, list[str]]
) -> None:
    draft_id, checks = waiting_draft
    teacher = Visitor(address, people.TEACHER)
    with ThreadPoolExecutor(8) as pool:
        list(
            pool.map(lambda check: teacher.post(f"/drafts/{draft_id}/shifts", data={"check": check, "x": "5"}), checks)
        )
    with database.session() as session:
        draft = session.get_one(Draft, draft_id)
        assert draft.document
        assert set(draft.document["shifts"]) == set(checks)


def test_a_shift_while_a_draft_is_looked_at_does_not_leave_it_waiting(
    address: str, database: Database, waiting_draft: tuple[int, list[str]]
) -> None:
    draft_id, checks = waiting_draft
    before = jobs(database, draft_id)
    Visitor(address, people.TEACHER).post(f"/drafts/{draft_id}/shifts", data={"check": checks[0], "x": "5"})
    assert jobs(database, draft_id) == before + 1


def jobs(database: Database, draft_id: int) -> int:
    with database.engine.connect() as connection:
        asked = "select count(*) from procrastinate_jobs where task_name = %s and args->>'draft_id' = %s"
        return int(connection.exec_driver_sql(asked, (enqueue.DRAFT, str(draft_id))).scalar_one())


def test_a_raised_hand_is_seen_by_the_student_and_in_the_class_table(
    address: str, database: Database, school: School, measured: Measure
) -> None:
    build_id = measured(school.student_id)
    student, teacher = Visitor(address, people.STUDENT), Visitor(address, people.TEACHER)
    student.post(f"/builds/{build_id}/checks/bore/hand")
    assert "hand is up since" in student.get(f"/builds/{build_id}").text
    assert "Your hand is up." in student.get("/").text
    table = teacher.get(f"/classes/{school.class_id}").text
    assert "1 hand is up" in table
    assert "Sam Sill" in table.split(": hand up", 1)[0].rsplit("<tr>", 1)[1]
    student.post(f"/builds/{build_id}/hand/down")
    assert "hand is up" not in student.get("/").text
    assert "hand is up" not in teacher.get(f"/classes/{school.class_id}").text
    with database.session() as session:
        assert session.get_one(User, school.student_id).name == "Sam Sill"


def test_a_teacher_is_told_when_measuring_is_late(
    address: str, database: Database, school: School, measured: Measure
) -> None:
    teacher = Visitor(address, people.TEACHER)
    assert "Measuring is late" not in teacher.get(f"/classes/{school.class_id}").text
    with database.engine.begin() as connection:
        row = "insert into procrastinate_jobs (task_name, queue_name, args) values ('grade_build', 'q', '{}')"
        job_id = connection.exec_driver_sql(f"{row} returning id").scalar_one()
        old = "update procrastinate_events set at = now() - interval '10 minutes' where job_id = %s"
        connection.exec_driver_sql(old, (job_id,))
    assert "Measuring is late" in teacher.get(f"/classes/{school.class_id}").text
    with database.engine.begin() as connection:
        connection.exec_driver_sql("delete from procrastinate_events where job_id = %s", (job_id,))
        connection.exec_driver_sql("delete from procrastinate_jobs where id = %s", (job_id,))
