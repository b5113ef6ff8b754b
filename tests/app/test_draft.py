"""What a change of a draft touches is audited at once; a worker looks at the rest."""

from collections.abc import Iterator
from typing import Any

import procrastinate
import pytest
from procrastinate import SyncPsycopgConnector
from sqlalchemy import text
from sqlalchemy.orm import Session

from rigid_bench.app.exercises import draft as drafting
from rigid_bench.core.values.errors import FormRejected, InvalidDocument
from rigid_bench.demo import seed_drawer
from rigid_bench.jobs.draft_jobs import ExamineDraft
from rigid_bench.jobs.enqueue import DRAFT, open_queue
from rigid_bench.jobs.job import Tools, perform
from rigid_bench.jobs.sandbox import Sandbox
from rigid_bench.store.database import Database
from rigid_bench.store.queries import draft_queries
from rigid_bench.store.tables import Draft
from tests.support.samples import bundle_of
from tests.support.school import School


@pytest.fixture
def queue(database: Database) -> procrastinate.App:
    return open_queue(SyncPsycopgConnector(conninfo=database.url))


@pytest.fixture
def draft(database: Database, school: School, sandbox: Sandbox) -> Iterator[tuple[Session, Draft]]:
    """A draft of the seed drawer that a worker has looked at; gone afterwards."""
    with database.session() as session:
        made = draft_queries.add_draft(
            session, teacher_id=school.teacher_id, title="Drawer", source_name="d.zip", source=b"PK"
        )
        draft_queries.keep_bundle(session, made, bundle_of(seed_drawer))
        draft_id = made.id
    perform(ExamineDraft(draft_id=draft_id), Tools(database, sandbox))
    with database.session() as session:
        looked_at = session.get_one(Draft, draft_id)
        assert looked_at.state == "ready"
        nested = session.begin_nested()
        yield session, looked_at
        nested.rollback()
        draft_queries.drop_draft(session, looked_at)


def verdict(draft: Draft, part: str) -> str:
    assert draft.examined is not None
    said: str = draft.examined["audit"]["parts"][part]["verdict"]
    return said


def without(document: dict[str, Any], check: str) -> dict[str, Any]:
    stages = [{**stage, "checks": [name for name in stage["checks"] if name != check]} for stage in document["stages"]]
    return {**document, "checks": [own for own in document["checks"] if own["id"] != check], "stages": stages}


def jobs(session: Session, draft: Draft) -> int:
    query = text("select count(*) from procrastinate_jobs where task_name = :job and args->>'draft_id' = :draft")
    return int(session.execute(query, {"job": DRAFT, "draft": str(draft.id)}).scalar_one())


def test_a_size_that_goes_and_comes_back_is_seen_at_once(
    draft: tuple[Session, Draft], queue: procrastinate.App
) -> None:
    session, own = draft
    assert verdict(own, "drawer") == "rigid"
    document = drafting.document_of(own)
    drafting.change_draft(session, queue, own, without(document, "drawer.width"))
    assert (verdict(own, "drawer"), own.state) == ("loose in 1 way", "waiting")
    drafting.undo(session, queue, own)
    assert verdict(own, "drawer") == "rigid"
    drafting.redo(session, queue, own)
    assert verdict(own, "drawer") == "loose in 1 way"
    drafting.undo(session, queue, own)
    width = next(check for check in document["checks"] if check["id"] == "drawer.width")
    twice = {**document, "checks": [*document["checks"], {**width, "id": "again"}]}
    drafting.change_draft(session, queue, own, twice)
    assert verdict(own, "drawer") == "dimensioned twice"
    assert jobs(session, own) == 5


def test_what_cannot_be_told_without_the_model_waits_for_the_worker(
    draft: tuple[Session, Draft], queue: procrastinate.App
) -> None:
    session, own = draft
    document = drafting.document_of(own)
    new = {"id": "new", "title": "New", "kind": "dimension", "marks": 1, "part": "drawer", "measure": "volume",
           "nominal": 5}  # fmt: skip
    drafting.change_draft(session, queue, own, {**document, "checks": [*document["checks"], new]})
    assert own.examined is not None
    assert set(own.examined["audit"]["parts"]) == {"knob"}
    assert (own.state, jobs(session, own)) == ("waiting", 1)


def test_the_same_again_changes_nothing_and_what_is_no_exercise_is_refused(
    draft: tuple[Session, Draft], queue: procrastinate.App
) -> None:
    session, own = draft
    document = drafting.document_of(own)
    drafting.change_draft(session, queue, own, document)
    with pytest.raises(InvalidDocument):
        drafting.change_draft(session, queue, own, {**document, "checks": [{"id": "a"}]})
    assert (own.at, own.state, jobs(session, own)) == (1, "ready", 0)


def test_a_draft_that_was_not_read_yet_is_not_changed(session_of_new_draft: tuple[Session, Draft]) -> None:
    with pytest.raises(FormRejected, match="still being read"):
        drafting.document_of(session_of_new_draft[1])


@pytest.fixture
def session_of_new_draft(database: Database, school: School) -> Iterator[tuple[Session, Draft]]:
    with database.session() as session:
        nested = session.begin_nested()
        made = draft_queries.add_draft(session, teacher_id=school.teacher_id, title="N", source_name="n", source=b"n")
        yield session, made
        nested.rollback()
