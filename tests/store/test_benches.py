"""Benches in the database: steps that are kept for good, branches, windows that were left behind, notes."""

from collections.abc import Iterator

import pytest
from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import NotFound, StepTaken
from rigid_bench.demo.graded import read_graded
from rigid_bench.store.database import Database
from rigid_bench.store.queries import bench_queries, class_queries, people_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import Bench
from rigid_bench.store.versions import keep_version


@pytest.fixture
def made(database: Database) -> Iterator[tuple[Session, Bench, dict[str, int]]]:
    """A bench of a student, in a class of a teacher; gone afterwards."""
    graded = read_graded()[0]
    with database.session() as session:
        nested = session.begin_nested()

        def add(login: str, role: str) -> int:
            return people_queries.add_user(session, login=login, name=login.title(), role=role, password_hash="x").id

        people = {"teacher": add("bench-teacher", "teacher"), "student": add("bench-student", "student")}
        people["other"] = add("bench-other", "teacher")
        teacher = people_queries.user_by_login(session, "bench-teacher")
        student = people_queries.user_by_login(session, "bench-student")
        assert teacher
        assert student
        room = class_queries.add_class(session, name="Bench room", teacher=teacher, students=[student])
        version = keep_version(session, graded.bundle, graded.prepared)
        bench = bench_queries.start_bench(
            session, class_id=room.id, version_id=version.id, student_id=student.id, files=None
        )
        yield session, bench, people
        nested.rollback()


def step(session: Session, bench: Bench, words: str) -> int:
    base = bench.at
    return bench_queries.take_step(
        session, bench, base=base, who="Sam", words=words, document={"placed": [], "mates": [], "of": words}
    ).number


def test_undo_and_redo_walk_a_tree_and_nothing_is_lost(made: tuple[Session, Bench, dict[str, int]]) -> None:
    session, bench, _ = made
    assert not bench_queries.undo_step(session, bench)
    assert [step(session, bench, words) for words in ("a", "b", "c")] == [1, 2, 3]
    assert bench_queries.undo_step(session, bench)
    assert bench_queries.undo_step(session, bench)
    assert bench.at == 1
    assert step(session, bench, "d") == 4  # another way from a; b and c stay
    assert not bench_queries.redo_step(session, bench)
    assert bench_queries.undo_step(session, bench)
    assert bench_queries.redo_step(session, bench)
    kept = bench_queries.step_of(session, bench)
    assert kept
    assert (kept.words, kept.parent) == ("d", 1)
    assert [step.words for step in bench_queries.steps_of(session, bench)] == ["a", "b", "c", "d"]
    old = bench_queries.step_of(session, bench, 3)
    assert old
    assert old.document["of"] == "c"


def test_a_step_from_where_the_bench_no_longer_stands_is_refused(made: tuple[Session, Bench, dict[str, int]]) -> None:
    session, bench, _ = made
    step(session, bench, "a")
    with pytest.raises(StepTaken, match="another window"):
        bench_queries.take_step(session, bench, base=0, who="Sam", words="late", document={})
    assert [step.words for step in bench_queries.steps_of(session, bench)] == ["a"]


def test_what_stands_in_the_files_is_the_first_step_once(made: tuple[Session, Bench, dict[str, int]]) -> None:
    session, bench, _ = made
    for _ in range(2):  # a job may run twice
        bench_queries.keep_parts(
            session, bench.id, parts={}, drawn=b"x", collision_meshes=b"s", first={"placed": []}, who="Sam"
        )
    session.refresh(bench)
    assert (bench.state, bench.at) == ("ready", 1)
    step(session, bench, "a")  # and a third time, after the student went on
    bench_queries.keep_parts(
        session, bench.id, parts={}, drawn=b"y", collision_meshes=b"t", first={"placed": []}, who="Sam"
    )
    session.refresh(bench)
    assert bench.at == 2
    bench_queries.undo_step(session, bench)
    assert [step.number for step in bench_queries.steps_of(session, bench)] == [1, 2]
    assert bench_queries.drawn_parts_of(session, bench) == b"x"
    assert bench_queries.collision_meshes_of(session, bench) == b"s"
    assert bench_queries.files_of(session, bench) is None


def test_its_student_and_the_teachers_of_the_class_may_see_it(made: tuple[Session, Bench, dict[str, int]]) -> None:
    session, bench, people = made
    for name, role in (("student", "student"), ("teacher", "teacher")):
        person = Person(id=people[name], name=name, role=role)
        assert bench_queries.bench_for(session, bench.id, person).id == bench.id
    refused = ((bench.id, "other", "teacher"), (bench.id, "teacher", "student"), (10**6, "student", "student"))
    for number, name, role in refused:
        with pytest.raises(NotFound):
            bench_queries.bench_for(session, number, Person(id=people[name], name=name, role=role))


def test_a_note_stays_on_its_mate_until_it_is_emptied(made: tuple[Session, Bench, dict[str, int]]) -> None:
    session, bench, _ = made
    bench_queries.note_on_mate(session, bench, "m1", text="Why two?", who="Ms Thorn")
    bench_queries.note_on_mate(session, bench, "m2", text="Good.", who="Ms Thorn")
    bench_queries.note_on_mate(session, bench, "m1", text="", who="Ms Thorn")
    session.refresh(bench)
    assert bench.notes == {"m2": {"text": "Good.", "who": "Ms Thorn"}}


def test_the_newest_bench_is_the_one_to_go_on_with(made: tuple[Session, Bench, dict[str, int]]) -> None:
    session, bench, _ = made
    mine = {"class_id": bench.class_id, "version_id": bench.version_id, "student_id": bench.student_id}
    newer = bench_queries.start_bench(session, **mine, files={"a.step": b"ISO-10303-21;"})
    newest = bench_queries.newest_bench(session, **mine)
    assert newest
    assert newest.id == newer.id
    assert bench_queries.files_of(session, newer)
    bench_queries.refuse_bench(session, newer.id, {"where": "a", "problem": "b", "next_step": "c"})
    session.refresh(newer)
    assert newer.state == "refused"
