"""Drafts in the database: changes that can be gone back to, and jobs that come too late."""

import json
from collections.abc import Iterator
from datetime import UTC, datetime
from typing import Any

import pytest
from sqlalchemy import update
from sqlalchemy.orm import Session

from rigid_bench.core.exercise.bundle import FILE
from rigid_bench.core.values.errors import NotFound
from rigid_bench.store.database import Database
from rigid_bench.store.files import digest_of_file, sweep_files
from rigid_bench.store.queries import draft_queries, people_queries
from rigid_bench.store.tables import Draft, StoredFile


@pytest.fixture
def draft(database: Database) -> Iterator[tuple[Session, Draft]]:
    """A draft that was read once; gone afterwards."""
    with database.session() as session:
        nested = session.begin_nested()
        teacher = people_queries.add_user(
            session, login="draft-teacher", name="Ms Reed", role="teacher", password_hash="x"
        )
        made = draft_queries.add_draft(session, teacher_id=teacher.id, title="Tray", source_name="t.step", source=b"s")
        examine(session, made, {"title": "Tray", "size": 0})
        yield session, made
        nested.rollback()


def examine(session: Session, draft: Draft, document: dict[str, Any]) -> None:
    draft_queries.keep_bundle(session, draft, {FILE: json.dumps(document).encode(), "tray.step": b"s"})
    draft_queries.keep_examined(session, draft, {})


def size_in_bundle(draft: Draft) -> int:
    files = draft_queries.bundle_of(draft)
    assert files["tray.step"] == b"s"
    size: int = json.loads(files[FILE])["size"]
    return size


def test_changes_are_undone_and_done_again_in_document_and_bundle(draft: tuple[Session, Draft]) -> None:
    session, made = draft
    assert not draft_queries.undo_draft(session, made)
    for size in (1, 2):
        draft_queries.change_draft(session, made, {"title": f"Tray {size}", "size": size})
    assert (made.title, made.state, size_in_bundle(made)) == ("Tray 2", "waiting", 2)
    for size in (1, 0):
        assert draft_queries.undo_draft(session, made)
        assert made.document
        assert (made.document["size"], size_in_bundle(made)) == (size, size)
    assert not draft_queries.undo_draft(session, made)
    assert draft_queries.redo_draft(session, made)
    assert size_in_bundle(made) == 1
    # another way from here: what was undone is no longer ahead
    draft_queries.change_draft(session, made, {"title": "Tray", "size": 3})
    assert not draft_queries.redo_draft(session, made)
    assert draft_queries.undo_draft(session, made)
    assert size_in_bundle(made) == 1


def test_fifty_steps_back_are_kept(draft: tuple[Session, Draft]) -> None:
    session, made = draft
    for size in range(1, 61):
        draft_queries.change_draft(session, made, {"title": "Tray", "size": size})
    steps = 0
    while draft_queries.undo_draft(session, made):
        steps += 1
    assert (steps, size_in_bundle(made)) == (50, 10)


def test_a_job_that_read_an_older_draft_is_told_so(draft: tuple[Session, Draft]) -> None:
    session, made = draft
    read = made.revision
    assert draft_queries.is_as_read(session, made.id, read)
    draft_queries.change_draft(session, made, {"title": "Tray", "size": 5})
    assert not draft_queries.is_as_read(session, made.id, read)
    assert draft_queries.is_as_read(session, made.id, made.revision)
    new = draft_queries.add_draft(session, teacher_id=made.teacher_id, title="N", source_name="n.csv", source=b"n")
    assert draft_queries.is_as_read(session, new.id, 0)
    assert draft_queries.bundle_of(new) == {}
    draft_queries.drop_draft(session, new)
    assert not draft_queries.is_as_read(session, new.id, 0)


def test_another_way_from_a_step_is_no_way_back_to_the_first(draft: tuple[Session, Draft]) -> None:
    """A step that was undone and made otherwise has the same number: a job that read the first is told apart."""
    session, made = draft
    draft_queries.change_draft(session, made, {"title": "Tray", "size": 1})
    read = made.revision
    draft_queries.undo_draft(session, made)
    draft_queries.change_draft(session, made, {"title": "Tray", "size": 2})
    assert made.at == 2
    assert not draft_queries.is_as_read(session, made.id, read)


def test_files_are_kept_once_and_stay_as_long_as_a_draft_has_them(draft: tuple[Session, Draft]) -> None:
    session, made = draft
    other = draft_queries.add_draft(session, teacher_id=made.teacher_id, title="T", source_name="t.step", source=b"s")
    assert other.source_digest == made.source_digest == made.files[0].digest
    draft_queries.drop_draft(session, made)
    session.execute(update(StoredFile).values(kept_at=datetime(2020, 1, 1, tzinfo=UTC)))
    sweep_files(session)
    assert other.source_file.read() == b"s"
    draft_queries.drop_draft(session, other)
    sweep_files(session)
    assert session.get(StoredFile, digest_of_file(b"s"), populate_existing=True) is None


def test_a_shift_on_the_sheet_needs_no_new_look(draft: tuple[Session, Draft]) -> None:
    session, made = draft
    draft_queries.move_on_sheet(session, made, {"title": "Tray", "size": 0, "shifts": {"a": [1, 2]}})
    assert made.state == "ready"
    draft_queries.refuse_draft(session, made.id, {"where": "a", "problem": "b", "next_step": "c"})
    session.refresh(made)
    assert (made.state, made.error) == ("refused", {"where": "a", "problem": "b", "next_step": "c"})
    assert draft_queries.undo_draft(session, made)
    assert made.document == {"title": "Tray", "size": 0}


def test_nobody_else_opens_it(draft: tuple[Session, Draft]) -> None:
    session, made = draft
    assert draft_queries.draft_of(session, made.id, made.teacher_id).id == made.id
    for number, teacher in ((made.id, made.teacher_id + 1), (made.id + 10**6, made.teacher_id)):
        with pytest.raises(NotFound):
            draft_queries.draft_of(session, number, teacher)
    with pytest.raises(NotFound):
        draft_queries.get_version(session, 10**6)
