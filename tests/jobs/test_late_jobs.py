"""Jobs on drafts and benches that come late, or fail again and again."""

from collections.abc import Callable
from types import SimpleNamespace
from typing import Any, cast

import pytest
from procrastinate import JobContext

from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.demo import seed_drawer
from rigid_bench.jobs.bench_jobs import DrawApart, FindWays, PrepareBench, WriteStep
from rigid_bench.jobs.draft_jobs import ExamineDraft
from rigid_bench.jobs.job import Tools, perform
from rigid_bench.jobs.sandbox import Sandbox
from rigid_bench.jobs.work_queue import perform_or_give_up
from rigid_bench.store.database import Database
from rigid_bench.store.queries import bench_queries, draft_queries
from rigid_bench.store.tables import Bench, Draft
from tests.support.samples import bundle_of
from tests.support.school import School


class Slow(Sandbox):
    """While it works, something else happens; then it answers, or fails."""

    def __init__(self, meanwhile: Callable[[], None], answer: Any) -> None:
        super().__init__()
        self.meanwhile, self.answer = meanwhile, answer

    def run(self, task: str, *values: Any, name: str, progress: Callable[[str], None] | None = None) -> Any:
        self.meanwhile()
        if isinstance(self.answer, Exception):
            raise self.answer
        return {"authoring.draw_scene": None, "authoring.size_equations": {}}.get(task, self.answer)


def drafted(database: Database, school: School) -> int:
    bundle = bundle_of(seed_drawer)
    with database.session() as session:
        made = draft_queries.add_draft(
            session, teacher_id=school.teacher_id, title="Tray", source_name="t.zip", source=b"PK"
        )
        draft_queries.keep_bundle(session, made, bundle)
        draft_queries.keep_examined(session, made, {"of": "the first"})
        return made.id


def draft(database: Database, draft_id: int) -> Draft:
    with database.session() as session:
        return session.get_one(Draft, draft_id)


@pytest.mark.parametrize("fails", [False, True])
def test_a_draft_that_was_changed_meanwhile_keeps_its_changes(database: Database, school: School, fails: bool) -> None:
    number = drafted(database, school)

    def change() -> None:
        with database.session() as session:
            own = session.get_one(Draft, number)
            draft_queries.change_draft(session, own, {**(own.document or {}), "title": "Changed meanwhile"})

    refusal = UnreadableFile("t.zip", "it is too late", "Wait")
    answer = refusal if fails else SimpleNamespace(model_dump=lambda mode: {"of": "the first, once more"}, offered={})
    perform(ExamineDraft(draft_id=number), Tools(database, Slow(change, answer)))
    kept = draft(database, number)
    assert (kept.title, kept.state, kept.examined) == ("Changed meanwhile", "waiting", {"of": "the first"})
    # the newer job reads it as it is now
    perform(ExamineDraft(draft_id=number), Tools(database, Slow(lambda: None, answer)))
    kept = draft(database, number)
    assert (kept.title, kept.state) == ("Changed meanwhile", "refused" if fails else "ready")
    assert (kept.error or {}).get("problem") == ("it is too late" if fails else None)


def nth_try(database: Database, attempts: int) -> JobContext:
    """The context of a job whose sandbox breaks by no fault of the files."""
    tools = Tools(database, Slow(lambda: None, ConnectionError("gone")))
    job = SimpleNamespace(attempts=attempts, task_name="test")
    return cast("JobContext", SimpleNamespace(additional_context={"tools": tools}, job=job))


def test_what_fails_again_and_again_says_so_in_the_draft(database: Database, school: School) -> None:
    number = drafted(database, school)
    for attempts, state in ((0, "ready"), (3, "refused")):
        with pytest.raises(ConnectionError):
            perform_or_give_up(nth_try(database, attempts), ExamineDraft(draft_id=number))
        assert draft(database, number).state == state
    assert "no fault of yours" in (draft(database, number).error or {})["problem"]


def test_what_fails_again_and_again_says_so_on_the_bench(database: Database, school: School) -> None:
    with database.session() as session:
        number = bench_queries.start_bench(
            session, class_id=school.class_id, version_id=school.version_id, student_id=school.student_id, files=None
        ).id
    with pytest.raises(ConnectionError):
        perform_or_give_up(nth_try(database, 3), PrepareBench(bench_id=number))
    asks = (bench_queries.ask_apart, bench_queries.ask_ways, bench_queries.ask_step_file)
    with database.session() as session:
        for ask in asks:
            ask(session, session.get_one(Bench, number))
    for kind in (DrawApart, FindWays, WriteStep):
        with pytest.raises(ConnectionError):
            perform_or_give_up(nth_try(database, 3), kind(bench_id=number, at=0))
    with database.session() as session:
        bench = session.get_one(Bench, number)
        assert bench.state == "refused"
        for why in (bench.apart, bench.ways, bench.step_error):
            assert "no fault of yours" in (why or {})["problem"]


def test_an_answer_for_a_step_that_is_no_longer_asked_for_is_dropped(database: Database, school: School) -> None:
    with database.session() as session:
        bench = bench_queries.start_bench(
            session, class_id=school.class_id, version_id=school.version_id, student_id=school.student_id, files=None
        )
        for _ in range(2):
            at = bench.at
            bench_queries.take_step(session, bench, base=at, who="Sam", words="a step", document={})
            for ask in (bench_queries.ask_apart, bench_queries.ask_ways, bench_queries.ask_step_file):
                ask(session, bench)
        for at in (2, 1):
            bench_queries.keep_ways(session, bench.id, at=at, ways={"of": at})
            bench_queries.keep_apart(session, bench.id, at=at, apart={"of": at})
            bench_queries.keep_step_file(session, bench.id, at=at, file=bytes([at]))
        session.refresh(bench)
        assert (bench.ways, bench.apart) == ({"of": 2}, {"of": 2})
        assert bench_queries.step_file_of(session, bench) == b"\2"
        bench_queries.undo_step(session, bench)
        assert bench_queries.step_file_of(session, bench) is None


def test_work_that_is_gone_is_passed_over(database: Database) -> None:
    tools, gone = Tools(database, Slow(lambda: None, ConnectionError("never asked"))), 2**31 - 1
    perform(ExamineDraft(draft_id=gone), tools)
    perform(PrepareBench(bench_id=gone), tools)
    for kind in (DrawApart, FindWays, WriteStep):
        perform(kind(bench_id=gone, at=0), tools)
