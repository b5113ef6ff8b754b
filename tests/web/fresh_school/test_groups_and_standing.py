"""Groups are kept with their history and change no returned mark unseen; after a decision all of a card agrees."""

from contextlib import nullcontext
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from sqlalchemy import select

from rigid_bench.core.values.errors import NotFound
from rigid_bench.store.database import Database
from rigid_bench.store.queries import (
    build_queries,
    class_queries,
    exercise_queries,
    group_queries,
    marking_queries,
    people_queries,
    work_queries,
)
from rigid_bench.store.tables import Notice, Run, User
from rigid_bench.store.versions import keep_version
from tests.support import school as people
from tests.support.graded_builds import hand_in, row
from tests.support.school import School, Visitor, add_student

#: A check of the seed drawer.
BORE = "knob.pilot"
STAGES = [{"name": "Bore", "checks": [BORE]}, {"name": "Whole", "checks": ["*"]}]


@pytest.fixture
def staged(database: Database, school: School) -> int:
    """A version of the exercise with stages, which the class works on; its id."""
    with database.session() as session:
        first = exercise_queries.version(session, school.version_id)
        document = {**first.document, "id": "staged", "stages": STAGES}
        version = exercise_queries.add_version(
            session, exercise="staged", title="Staged", digest="1", bundle=first.bundle, document=document,
            prepared=first.prepared,
        )  # fmt: skip
        exercise_queries.assign(session, class_id=school.class_id, version_id=version.id)
        return version.id


def new_students(database: Database, school: School, *logins: str) -> list[User]:
    with database.session() as session:
        home = session.get_one(User, school.teacher_id)
        users = [add_student(session, login, home) for login in logins]
        for user in users:
            class_queries.join(session, school.class_id, user.id)
        return users


def groups(database: Database, school: School, version_id: int) -> set[frozenset[int]]:
    with database.session() as session:
        groups = group_queries.groups_of(class_queries.terms_of_class(session, school.class_id))
        return {frozenset({student, *others}) for (student, own), others in groups.items() if own == version_id}


def memberships(database: Database, school: School, version_id: int) -> list[tuple[int, int, bool]]:
    with database.session() as session:
        history = group_queries.history_of(session, school.class_id, version_id)
        return [(own.number, own.student_id, own.left_at is None) for own in history]


def test_a_new_group_ends_what_its_members_had_and_who_is_left_alone_is_in_none(
    address: str, database: Database, school: School, staged: int
) -> None:
    a, b, c, d = new_students(database, school, "pa", "pb", "pc", "pd")
    teacher = Visitor(address, people.TEACHER)
    path = f"/classes/{school.class_id}/exercises/{staged}/groups"
    for members in ((a, b), (c, d), (a, c)):
        form: dict[str, str | list[str]] = {"students": [str(member.id) for member in members]}
        assert teacher.post(path, data=form).status_code == 200
    assert groups(database, school, staged) == {frozenset({a.id, c.id})}
    for wrong, says in (([str(a.id)], "two students at least"), ([str(2**30)], "none was chosen")):
        refused = teacher.post(path, data={"students": wrong})
        assert (refused.status_code, says in refused.text) == (422, True)
    teacher.post(f"/classes/{school.class_id}/students/{c.id}/leave")
    assert groups(database, school, staged) == set()


def test_a_group_of_three_goes_on_when_one_leaves_or_joins_and_its_history_is_kept(
    address: str, database: Database, school: School, staged: int
) -> None:
    a, b, c, d = new_students(database, school, "ga", "gb", "gc", "gd")
    before = len(memberships(database, school, staged))
    teacher = Visitor(address, people.TEACHER)
    path = f"/classes/{school.class_id}/exercises/{staged}/groups"

    def group(*members: User, do: str = "group") -> None:
        assert teacher.post(path, data={"students": [str(own.id) for own in members], "do": do}).status_code == 200

    group(a, b, c)
    group(b, do="end")
    assert groups(database, school, staged) == {frozenset({a.id, c.id})}
    group(a, c, d)
    assert groups(database, school, staged) == {frozenset({a.id, c.id, d.id})}
    own = memberships(database, school, staged)[before:]
    assert [(student, is_now) for _, student, is_now in own] == [
        (a.id, True), (b.id, False), (c.id, True), (d.id, True),
    ]  # fmt: skip
    assert len({number for number, _, _ in own}) == 1, "it is one group all the time"
    build_id = hand_in(database, school, staged, b.id, [row(BORE, "met", 2)])
    for student, may in ((a, False), (b, True)):
        with database.session() as session:
            person = people_queries.Person(id=student.id, name=student.name, role="student")
            with nullcontext() if may else pytest.raises(NotFound):
                build_queries.build_for(session, build_id, person)
    shown = teacher.get(f"/classes/{school.class_id}/exercises/{staged}").text
    assert "Ga, Gc, Gd" in shown
    assert "end this group" in shown
    group(a, c, d, do="end")
    assert "ended: " in teacher.get(f"/classes/{school.class_id}/exercises/{staged}").text


def test_groups_are_taken_from_another_exercise(address: str, database: Database, school: School, staged: int) -> None:
    a, b, c = new_students(database, school, "ca", "cb", "cc")
    teacher = Visitor(address, people.TEACHER)
    path = f"/classes/{school.class_id}/exercises/{{}}/groups"
    empty = teacher.post(f"{path.format(staged)}/as", data={"other": str(2**30)})
    assert (empty.status_code, "there are none" in empty.text) == (422, True)
    students = [str(own.id) for own in (a, b, c)]
    assert teacher.post(path.format(school.version_id), data={"students": students}).status_code == 200
    assert teacher.post(f"{path.format(staged)}/as", data={"other": str(school.version_id)}).status_code == 200
    assert frozenset({a.id, b.id, c.id}) in groups(database, school, staged)


def test_making_a_group_shows_what_returned_marks_it_would_change_before_it_does(
    address: str, database: Database, school: School, staged: int
) -> None:
    good, poor = new_students(database, school, "good", "poor")
    teacher = Visitor(address, people.TEACHER)
    builds = [
        hand_in(database, school, staged, good.id, [row(BORE, "met", 2)]),
        hand_in(database, school, staged, poor.id, [row(BORE, "missed", 0)]),
    ]
    for build_id in builds:
        teacher.post(f"/builds/{build_id}/return")
    path = f"/classes/{school.class_id}/exercises/{staged}/groups"
    together: dict[str, str | list[str]] = {"students": [str(good.id), str(poor.id)]}
    asked = teacher.post(path, data=together)
    assert asked.status_code == 409
    assert "Good: 2 of 2 would become 0 of 2" in asked.text
    assert not any(good.id in own for own in groups(database, school, staged))
    teacher.post(path, data={**together, "sure": "true"})
    assert frozenset({good.id, poor.id}) in groups(database, school, staged)
    with database.session() as session:
        told = session.scalars(select(Notice.text).where(Notice.user_id == good.id).order_by(Notice.id.desc())).first()
        assert told == "Your marks for Staged have changed: they were 2 of 2, and are 0 of 2."


@pytest.mark.parametrize("change", [{"late": "minus", "late_percent": "50", "due_at": "2026-01-01T12:00"}])
def test_terms_do_not_change_returned_marks_unseen(
    address: str, database: Database, school: School, staged: int, change: dict[str, str]
) -> None:
    (student,) = new_students(database, school, "termed")
    build_id = hand_in(database, school, staged, student.id, [row(BORE, "met", 2)])
    teacher = Visitor(address, people.TEACHER)
    teacher.post(f"/builds/{build_id}/return")
    path = f"/classes/{school.class_id}/exercises/{staged}/terms"
    asked = teacher.post(path, data=change)
    assert (asked.status_code, "Termed: 2 of 2 would become 1 of 2, late" in asked.text) == (409, True)
    assert "2<span" in teacher.get(f"/builds/{build_id}").text.split("total-marks", 1)[1]
    teacher.post(path, data={**change, "sure": "true"})
    assert "1<span" in teacher.get(f"/builds/{build_id}").text.split("total-marks", 1)[1]
    teacher.post(path, data={"late": "taken", "sure": "true"})


def test_more_time_for_one_of_a_group_is_more_time_for_all(
    address: str, database: Database, school: School, staged: int
) -> None:
    slow, fast = new_students(database, school, "slow", "fast")
    now = datetime.now(UTC)
    with database.session() as session:
        given: dict[str, Any] = {"class_id": school.class_id, "version_id": staged}
        class_queries.assignment_of(session, **given).due_at = now - timedelta(hours=2)
        extended: dict[str, Any] = {"due_at": now + timedelta(hours=2), "is_absent": False}
        class_queries.agree(session, **given, student_id=slow.id, **extended)
        group_queries.keep_group(session, school.class_id, staged, [slow.id, fast.id])
    build_id = hand_in(database, school, staged, fast.id, [row(BORE, "met", 2)], ago=1)
    table = Visitor(address, people.TEACHER).get(f"/classes/{school.class_id}?q=slow").text
    assert "· late" not in table
    assert "2<span" in table, "the build of the one counts for the other"
    assert ", late" not in Visitor(address, people.TEACHER).get(f"/builds/{build_id}").text
    with database.session() as session:
        class_queries.assignment_of(session, school.class_id, staged).due_at = None


def card_of(visitor: Visitor, build_id: int) -> str:
    return visitor.get(f"/builds/{build_id}").text


def test_full_marks_by_a_teacher_settle_every_line_of_the_card(
    address: str, database: Database, school: School, staged: int
) -> None:
    (student,) = new_students(database, school, "settled")
    rows = [
        row(BORE, "missed", 0, cause={"code": "radius-for-diameter", "text": "A radius?"}, next_step="Change it."),
        row("gap", "missed", 0, follows=BORE),
        row("lip", "met", 2),
    ]
    rows[1]["awarded"] = 2
    build_id = hand_in(database, school, staged, student.id, rows)
    teacher = Visitor(address, people.TEACHER)
    before = card_of(teacher, build_id)
    assert all(words in before for words in ("No stage reached yet", "right now<", "next: Bore"))
    teacher.post(f"/builds/{build_id}/checks/{BORE}", data={"marks": "2", "comment": "the sheet was wrong"})
    after = card_of(teacher, build_id)
    assert "Stage reached: <strong>Whole</strong>" in after
    for gone in ("No stage reached yet", "right now<", "next: ", "stamp-missed", "<strong>Change it.</strong>"):
        assert gone not in after
    assert "Measured: missed." in after
    teacher.post(f"/builds/{build_id}/return")
    shown = Visitor(address, people.TEACHER).get(f"/classes/{school.class_id}?q=settled").text
    assert "Whole" in shown
    assert "all met" in shown


def test_marks_taken_from_a_check_that_was_met_open_it_again(
    address: str, database: Database, school: School, staged: int
) -> None:
    (student,) = new_students(database, school, "opened")
    build_id = hand_in(database, school, staged, student.id, [row(BORE, "met", 2)])
    teacher = Visitor(address, people.TEACHER)
    assert "Stage reached: <strong>Whole</strong>" in card_of(teacher, build_id)
    teacher.post(f"/builds/{build_id}/checks/{BORE}", data={"marks": "0", "comment": "copied"})
    after = card_of(teacher, build_id)
    assert "No stage reached yet" in after
    assert "right now<" in after


def test_a_withdrawn_check_holds_up_no_stage(address: str, database: Database, school: School, staged: int) -> None:
    (student,) = new_students(database, school, "spared")
    build_id = hand_in(database, school, staged, student.id, [row(BORE, "missed", 0), row("lip", "met", 2)])
    with database.session() as session:
        given: dict[str, Any] = {"class_id": school.class_id, "exercise": "staged", "check_id": BORE}
        marking_queries.withdraw(session, **given, reason="unfair", teacher_id=school.teacher_id)
    teacher = Visitor(address, people.TEACHER)
    assert "Stage reached: <strong>Whole</strong>" in card_of(teacher, build_id)
    with database.session() as session:
        marking_queries.reinstate(session, **given)


def test_a_card_that_was_marked_anew_names_the_version_whose_numbers_it_shows(
    address: str, database: Database, school: School, staged: int
) -> None:
    (student,) = new_students(database, school, "anew")
    build_id = hand_in(database, school, staged, student.id, [row(BORE, "missed", 0)])
    with database.session() as session:
        first = exercise_queries.version(session, staged)
        files = {"exercise.json": b'{"id": "staged", "title": "Staged", "format": "rigid-bench/exercise"}'}
        second = keep_version(session, files, first.prepared)
        assert second.number == first.number + 1
        run = session.scalars(select(Run).where(Run.build_id == build_id)).one()
        report = {**run.report, "checks": [row(BORE, "met", 2, required="16.4 ±9 mm")]}
        work_queries.add_trial(session, build_id, version_id=second.id, engine_version="1", report=report)
        session.flush()
        marking_queries.apply_trials(session, [build_id])
    card = card_of(Visitor(address, people.TEACHER), build_id)
    assert f"exercise v{second.number}" in card
    assert "16.4 ±9 mm" in card
