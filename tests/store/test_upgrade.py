"""An earlier database with data is brought up to date: who answers for whom, logs by id, nothing twice."""

import json
from collections.abc import Iterator
from typing import Any

import psycopg
import pytest
from psycopg.types.json import Jsonb

from rigid_bench.core.formats.archive import read_zip, write_zip
from rigid_bench.store.database import migrate, migrations
from tests.support.program import new_database

_BEFORE = """
insert into users (id, login, name, role, password_hash) values
  (1, 't1', 'Tara', 'teacher', ''), (2, 't2', 'Otto', 'teacher', ''), (3, 's1', 'Sam Sill', 'student', ''),
  (4, 's2', 'Both', 'student', ''), (5, 's3', 'e', 'student', '');
insert into classes (id, name, code) values (1, 'One', 'AAA'), (2, 'Two', 'BBB');
insert into class_teachers (class_id, teacher_id) values (1, 1), (1, 2), (2, 2);
insert into memberships (class_id, student_id) values (1, 3), (1, 4), (2, 4), (1, 5);
insert into exercise_versions (id, exercise, number, title, digest, bundle, document, prepared)
  values (1, 'x', 1, 'X', '', '', '{}', '{}');
insert into terms (class_id, version_id, student_id, partner_id) values (1, 1, 3, 4), (1, 1, 4, 3), (1, 1, 5, 4);
insert into builds (id, class_id, version_id, student_id, state, progress) values (1, 1, 1, 3, 'graded', '');
insert into returns (build_id, teacher_id) values (1, 1), (1, 1), (1, 2);
insert into questions (build_id, check_id, text) values (1, 'a', 'why'), (1, 'a', 'why'), (1, 'b', 'why');
insert into log_entries (class_id, who, action, subject) values
  (1, 'Tara', 'opened', 'Sam Sill, build 1'), (1, 'Tara', 'added', 'Sam Sill, e'),
  (1, 'set time', 'returned 2 cards of', 'X'),
  (1, 'Tara', 'changed what is agreed with Sam Sill for', 'X'), (1, 'Gone', 'changed the code', '');
"""


@pytest.fixture
def upgraded(cluster_url: str) -> Iterator["psycopg.Connection[Any]"]:
    url = new_database(cluster_url)
    migrate(url, revision="0008")
    with psycopg.connect(url) as connection:
        connection.execute(_BEFORE)
    migrate(url)
    with psycopg.connect(url) as connection:
        yield connection


def test_an_earlier_database_keeps_its_data(upgraded: "psycopg.Connection[Any]") -> None:
    def rows(query: str) -> list[Any]:
        return upgraded.execute(query).fetchall()

    assert rows("select id, role from users order by id")[:2] == [(1, "administrator"), (2, "teacher")]
    # a pupil of two owners' classes is nobody's in particular: an administrator answers for the account
    assert rows("select id, home_teacher_id from users where role = 'student' order by id") == [
        (3, 1),
        (4, None),
        (5, 1),
    ]
    owners = rows("select class_id, teacher_id from class_teachers where role = 'owner' order by 1")
    assert owners == [(1, 1), (2, 2)]
    assert rows("select student_id, group_number from terms order by 1") == [(3, 1), (4, 1), (5, None)]
    assert rows("select student_id, number, joined_at, left_at from group_memberships order by 1") == [
        (3, 1, None, None),
        (4, 1, None, None),
    ]
    assert rows("select number from returns order by id") == [(1,), (2,), (3,)]
    assert rows("select check_id, count(*) from questions group by 1 order by 1") == [("a", 1), ("b", 1)]
    log = rows("select who_id, is_by_program, person_id, params->>'text' from log_entries order by id")
    assert log == [
        (1, False, 3, "opened build 1"),
        (1, False, None, "added"),
        (None, True, None, "returned 2 cards of X"),
        (1, False, None, "changed what is agreed for X"),
        (None, False, None, "changed the code"),
    ]


def revisions_since(revision: str) -> int:
    return len(list(migrations().iterate_revisions("head", revision)))


def test_a_drafts_changes_are_steps_and_its_files_kept_by_digest_there_and_back(cluster_url: str) -> None:
    url = new_database(cluster_url)
    migrate(url, revision="0027")
    documents = [{"title": "T", "size": size} for size in range(4)]
    bundle = write_zip({"exercise.json": json.dumps(documents[2]).encode(), "tray.step": b"s", "again.step": b"s"})
    kept = (b"s", bundle, documents[2], documents[:2], documents[3:])
    columns = "source, bundle, document, past, undone"
    with psycopg.connect(url) as connection:
        connection.execute(
            "insert into users (id, login, name, role, password_hash) values (1, 't', 'T', 'teacher', '')"
        )
        connection.execute(
            f"insert into drafts (teacher_id, title, source_name, {columns}) values (1, 'T', 't', %s, %s, %s, %s, %s)",
            (*kept[:2], *map(Jsonb, kept[2:])),
        )
        connection.execute(
            "insert into drafts (teacher_id, title, source_name, source) values (1, 'U', 'u.step', 'unread')"
        )
    migrate(url)
    with psycopg.connect(url) as connection:
        assert connection.execute("select number, document from draft_steps order by number").fetchall() == [
            *enumerate(documents, 1)
        ]
        assert connection.execute("select at, oldest, newest from drafts order by id").fetchall() == [
            (3, 1, 4),
            (0, 0, 0),
        ]
        assert connection.execute("select count(*), count(distinct digest) from draft_files").fetchone() == (2, 1)
        assert connection.execute("select count(*) from stored_files").fetchone() == (2,)
    for _ in range(revisions_since("0027")):
        migrate(url, revision="-1")
    with psycopg.connect(url) as connection:
        first, second = connection.execute(f"select {columns} from drafts order by id").fetchall()
    assert (first[0], *first[2:]) == (kept[0], *kept[2:])
    assert {name: content for name, content in read_zip(first[1], name="d").items() if name != "exercise.json"} == {
        "tray.step": b"s",
        "again.step": b"s",
    }
    assert second == (b"unread", None, None, [], [])
