"""The queue: builds wait in PostgreSQL, and are put in it in the transaction that keeps their files."""

import gzip
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial
from types import MappingProxyType
from typing import Any

import procrastinate
import structlog
from procrastinate import JobContext
from sqlalchemy.orm import Session

from rigid_bench.core.archive import is_zip, read_zip
from rigid_bench.core.bench.documents import BenchState, LaidOut
from rigid_bench.core.errors import RigidBenchError
from rigid_bench.core.exercise.from_table import from_table
from rigid_bench.core.grading.preview_model import Preview
from rigid_bench.core.grading.report import ENGINE_VERSION
from rigid_bench.jobs.graded import Graded
from rigid_bench.jobs.sandbox import Sandbox
from rigid_bench.store import bench_queries, draft_queries, printout_queries, queries, work_queries
from rigid_bench.store.database import Database
from rigid_bench.store.returning import return_due
from rigid_bench.store.tables import Bench, Build, Printout

log = structlog.get_logger()

#: Tried again this often when the program or the database fails, not when the build is at fault.
_ATTEMPTS = 4
_RETRY = procrastinate.RetryStrategy(max_attempts=_ATTEMPTS, exponential_wait=2)
_GAVE_UP = {
    "where": "measuring",
    "problem": "the program failed on this several times; this is no fault of yours",
    "next_step": "Tell your teacher, or whoever runs the program; the files are kept, and can be tried again",
}

GRADE, LOOK, TRY, RETURN, RESCUE = "grade_build", "look_at_build", "try_version", "return_cards", "rescue_jobs"
PRINT = "print_cards"
DRAFT, BENCH, APART, WAYS, STEP = "examine_draft", "prepare_bench", "draw_apart", "find_ways", "write_step"
#: Begins what is noted of a build while another version of its exercise is tried on it.
TRYING = "Trying another version"


def hand_in(
    session: Session,
    app: procrastinate.App,
    *,
    class_id: int,
    version_id: int,
    student_id: int,
    files: Mapping[str, bytes],
) -> int:
    """Keep a student's files and queue their measuring, both or neither.

    Parameters
    ----------
    session
        The job is put in the session's own transaction.
    app
        The queue.
    class_id, version_id, student_id
        Whose build for what.
    files
        By name, checked already.

    Returns
    -------
    int
        The id of the build.
    """
    build = queries.add_build(session, class_id=class_id, version_id=version_id, student_id=student_id, files=files)
    _defer(session, app, GRADE, build_id=build.id)
    return build.id


def look_at(
    session: Session,
    app: procrastinate.App,
    *,
    class_id: int,
    version_id: int,
    student_id: int,
    files: Mapping[str, bytes],
    evidence: Mapping[str, bytes] = MappingProxyType({}),
) -> int:
    """Keep the files that a student chose and queue a look at them; they do not count yet.

    Parameters and result are those of `hand_in`.
    """
    build = queries.add_build(
        session,
        class_id=class_id,
        version_id=version_id,
        student_id=student_id,
        files=files,
        state="looking",
        evidence=evidence,
    )
    _defer(session, app, LOOK, build_id=build.id)
    return build.id


def hand_in_chosen(session: Session, app: procrastinate.App, build: Build) -> None:
    """Let a build that was looked at count, and queue its measuring; a second time changes nothing."""
    if queries.count_build(session, build):
        _defer(session, app, GRADE, build_id=build.id)


def check_chosen(session: Session, app: procrastinate.App, build: Build) -> None:
    """Let a build that was looked at be measured without counting; a second time changes nothing."""
    if queries.check_build(session, build):
        _defer(session, app, GRADE, build_id=build.id)


def try_version(session: Session, app: procrastinate.App, *, build_id: int, version_id: int) -> None:
    """Queue a trial: measure a build by another version of its exercise, beside what counts."""
    work_queries.note_progress(session, build_id, TRYING)
    _defer(session, app, TRY, build_id=build_id, version_id=version_id)


def examine_draft(session: Session, app: procrastinate.App, draft_id: int) -> None:
    """Queue a look at a draft of an exercise."""
    _defer(session, app, DRAFT, draft_id=draft_id)


def prepare_bench(session: Session, app: procrastinate.App, bench_id: int) -> None:
    """Queue the laying out of a bench."""
    _defer(session, app, BENCH, bench_id=bench_id)


def draw_apart(session: Session, app: procrastinate.App, bench: Bench, *, percent: int = 100) -> None:
    """Queue the drawing of a bench apart, as it stands, each part so much of its way out."""
    bench_queries.ask_apart(session, bench)
    _defer(session, app, APART, bench_id=bench.id, at=bench.at, percent=percent)


def find_ways(session: Session, app: procrastinate.App, bench: Bench) -> None:
    """Queue the search for how a bench comes apart, as it stands."""
    bench_queries.ask_ways(session, bench)
    _defer(session, app, WAYS, bench_id=bench.id, at=bench.at)


def write_step(session: Session, app: procrastinate.App, bench: Bench) -> None:
    """Queue the writing of a bench as a STEP file, as it stands."""
    bench_queries.ask_step_file(session, bench)
    _defer(session, app, STEP, bench_id=bench.id, at=bench.at)


def print_cards(session: Session, app: procrastinate.App, printout_id: int) -> None:
    """Queue the drawing of all cards of an exercise."""
    # builds that wait are measured before
    _defer(session, app, PRINT, priority=-1, printout_id=printout_id)


def _defer(session: Session, app: procrastinate.App, task: str, *, priority: int = 0, **what: int) -> None:
    connection = session.connection().connection.driver_connection
    app.configure_task(task, connection=connection, priority=priority).defer(**what)


@dataclass(frozen=True, slots=True)
class _Held:
    """What a bench holds at a step."""

    #: The exercise's bundle, and the student's own files or None.
    files: tuple[dict[str, bytes], dict[str, bytes] | None]
    state: BenchState
    #: Of its parts, by their ids there.
    names: dict[str, str]


#: Draws the cards of a printout as PDF, and says how many are drawn; pages are drawn above this floor.
PrintCards = Callable[[Session, Printout, Callable[[int], None]], bytes]


class Grader:
    """What a worker keeps between jobs: its database, and the warm sandbox."""

    def __init__(self, database: Database, sandbox: Sandbox, print_cards: PrintCards | None = None) -> None:
        self.database, self.sandbox, self._print_cards = database, sandbox, print_cards

    def grade(self, build_id: int) -> None:
        """Measure and grade one build; may run twice, and then keeps two runs."""
        with self.database.session() as session:
            work = work_queries.start_measuring(session, build_id)
        if work is None:
            return
        try:
            graded: Graded = self._run("grade_files", build_id, work)
        except RigidBenchError as exc:
            log.info("build refused", build=build_id, reason=type(exc).__name__)
            self.fail(build_id, exc.facts)
            return
        with self.database.session() as session:
            work_queries.finish_measuring(
                session,
                build_id,
                version_id=work.version_id,
                engine_version=ENGINE_VERSION,
                report=graded.report.model_dump(mode="json"),
                scene=graded.scene,
            )

    def try_version(self, build_id: int, version_id: int) -> None:
        """Measure a build by another version of its exercise; the run counts once a teacher applies it."""
        with self.database.session() as session:
            work = work_queries.trial_work(session, build_id, version_id)
        if work is None:
            return
        try:
            graded: Graded | None = self._run("grade_files", build_id, work)
        except RigidBenchError as exc:
            log.info("trial refused", build=build_id, reason=type(exc).__name__)
            graded = None
        with self.database.session() as session:
            if graded:
                report = graded.report.model_dump(mode="json")
                work_queries.add_trial(
                    session, build_id, version_id=version_id, engine_version=ENGINE_VERSION, report=report
                )
            work_queries.note_progress(session, build_id, "")

    def examine_draft(self, draft_id: int) -> None:
        """Make an exercise of a teacher's model, if it is none yet, and say what is found of it."""
        with self.database.session() as session:
            draft = draft_queries.draft_work(session, draft_id)
            if draft is None:
                return
            name, title, source, bundle = draft.source_name, draft.title, draft.source, draft.bundle
        try:
            files = dict(read_zip(bundle, name=name)) if bundle else self._bundle_of(source, name, title)
            examined = self.sandbox.run("examine_exercise", files, name=name)
        except RigidBenchError as exc:
            with self.database.session() as session:
                if draft_queries.is_as_read(session, draft_id, bundle):
                    draft_queries.refuse_draft(session, draft_id, exc.facts)
            return
        with self.database.session() as session:
            if draft_queries.is_as_read(session, draft_id, bundle):
                document = examined.model_dump(mode="json")
                draft_queries.keep_examined(session, draft_id, bundle=files, examined=document)

    def refuse_draft(self, draft_id: int, error: dict[str, str]) -> None:
        """Keep why a draft could not be examined."""
        with self.database.session() as session:
            draft_queries.refuse_draft(session, draft_id, error)

    def prepare_bench(self, bench_id: int) -> None:
        """Lay the parts of a bench out: those of the exercise, or the student's own."""
        with self.database.session() as session:
            bench = bench_queries.bench_work(session, bench_id)
            if bench is None:
                return
            files, bundle, who = bench.files, bench.version.bundle, bench.student.name
        try:
            own = dict(read_zip(files, name="bench")) if files else None
            laid: LaidOut = self.sandbox.run("lay_out", dict(read_zip(bundle, name="exercise")), own, name="bench")
        except RigidBenchError as exc:
            self.refuse_bench(bench_id, exc.facts)
            return
        with self.database.session() as session:
            parts = laid.parts
            first = BenchState(placed=parts.placed, mates=parts.mates).model_dump(mode="json")
            bench_queries.keep_parts(
                session,
                bench_id,
                parts=parts.model_dump(mode="json", exclude={"parts": {"__all__": {"vertices", "triangles", "faces"}}}),
                drawn=gzip.compress(parts.model_dump_json().encode(), mtime=0),
                skins=laid.skins,
                first=first if parts.placed else None,
                who=who,
            )

    def refuse_bench(self, bench_id: int, error: dict[str, str]) -> None:
        """Keep why a bench could not be laid out."""
        with self.database.session() as session:
            bench_queries.refuse_bench(session, bench_id, error)

    def draw_apart(self, bench_id: int, at: int, percent: int) -> None:
        """Draw apart what a bench held at a step."""
        self._of_bench("draw_apart", bench_id, at, self.keep_apart, percent / 100)

    def keep_apart(self, bench_id: int, at: int, apart: dict[str, Any]) -> None:
        """Keep a bench drawn apart, or why it is not."""
        with self.database.session() as session:
            bench_queries.keep_apart(session, bench_id, at=at, apart=apart)

    def find_ways(self, bench_id: int, at: int) -> None:
        """Find how what a bench held at a step comes apart."""
        self._of_bench("find_bench_ways", bench_id, at, self.keep_ways)

    def keep_ways(self, bench_id: int, at: int, ways: dict[str, Any]) -> None:
        """Keep how a bench comes apart, or why that is not known."""
        with self.database.session() as session:
            bench_queries.keep_ways(session, bench_id, at=at, ways=ways)

    def _of_bench(
        self, task: str, bench_id: int, at: int, keep: Callable[[int, int, dict[str, Any]], None], *values: Any
    ) -> None:
        """Work out a document of what a bench held at a step, and keep it, or an error's facts."""
        held = self._held(bench_id, at)
        if held is None:
            return
        try:
            found = self.sandbox.run(task, *held.files, held.state, *values, name="bench").model_dump(mode="json")
        except RigidBenchError as exc:
            found = exc.facts
        keep(bench_id, at, found)

    def write_step(self, bench_id: int, at: int) -> None:
        """Write what a bench held at a step as a STEP file."""
        held = self._held(bench_id, at)
        if held is None:
            return
        try:
            data: bytes = self.sandbox.run("write_bench", *held.files, held.state, held.names, name="bench")
        except RigidBenchError as exc:
            self.leave_unwritten(bench_id, at, exc.facts)
            return
        with self.database.session() as session:
            bench_queries.keep_step_file(session, bench_id, at=at, file=data)

    def leave_unwritten(self, bench_id: int, at: int, error: dict[str, str]) -> None:
        """Keep why a bench could not be written."""
        with self.database.session() as session:
            bench_queries.keep_step_file(session, bench_id, at=at, error=error)

    def print_cards(self, printout_id: int) -> None:
        """Draw all cards of an exercise as one PDF."""
        assert self._print_cards is not None

        def note(done: int) -> None:
            with self.database.session() as noting:
                printout_queries.note_done(noting, printout_id, done)

        with self.database.session() as session:
            printout = printout_queries.printout_work(session, printout_id)
            if printout is not None:
                printout_queries.finish_printout(session, printout_id, self._print_cards(session, printout, note))

    def refuse_printout(self, printout_id: int, error: dict[str, str]) -> None:
        """Keep why cards could not be drawn."""
        with self.database.session() as session:
            printout_queries.refuse_printout(session, printout_id, error)

    def _held(self, bench_id: int, at: int) -> _Held | None:
        """Return what a bench held at a step; None if it is gone."""
        with self.database.session() as session:
            bench = bench_queries.bench_work(session, bench_id)
            if bench is None:
                return None
            step = bench_queries.step_of(session, bench, at)
            files, bundle = bench.files, bench.version.bundle
            names = {each["id"]: each["name"] for each in (bench.parts or {"parts": []})["parts"]}
        state = BenchState.model_validate(step.document) if step else BenchState()
        own = dict(read_zip(files, name="bench")) if files else None
        return _Held((dict(read_zip(bundle, name="exercise")), own), state, names)

    def _bundle_of(self, source: bytes, name: str, title: str) -> dict[str, bytes]:
        """Return the files of a bundle, or of an exercise that is proposed for a model."""
        if is_zip(source):
            return dict(read_zip(source, name=name))
        if name.lower().endswith(".csv"):
            return from_table(source, name=name, title=title)
        found: dict[str, bytes] = self.sandbox.run("propose_exercise", source, name, title, name=name)
        return found

    def look(self, build_id: int) -> None:
        """Say what is understood of a build before it counts."""
        with self.database.session() as session:
            work = work_queries.start_looking(session, build_id)
        if work is None:
            return
        try:
            understood: Preview = self._run("preview_files", build_id, work)
        except RigidBenchError as exc:
            self.refuse(build_id, exc.facts)
            return
        with self.database.session() as session:
            work_queries.finish_looking(session, build_id, understood.model_dump(mode="json"))

    def _run(self, task: str, build_id: int, work: work_queries.Work) -> Any:
        bundle = dict(read_zip(work.bundle, name="exercise"))
        return self.sandbox.run(task, bundle, work.files, name=", ".join(work.files), progress=self._noting(build_id))

    def refuse(self, build_id: int, error: dict[str, str]) -> None:
        """Keep why files that were chosen cannot be used."""
        with self.database.session() as session:
            work_queries.refuse_build(session, build_id, error)

    def fail(self, build_id: int, error: dict[str, str]) -> None:
        """Keep why a build could not be measured."""
        with self.database.session() as session:
            work_queries.fail_measuring(session, build_id, error)

    def _noting(self, build_id: int) -> Callable[[str], None]:
        def note(text: str) -> None:
            with self.database.session() as session:
                work_queries.note_progress(session, build_id, text)

        return note


def grade_build(context: JobContext, build_id: int) -> None:
    """Measure and grade one build."""
    grader: Grader = context.additional_context["grader"]
    _tried(context, build_id, partial(grader.grade, build_id), partial(grader.fail, build_id))


def look_at_build(context: JobContext, build_id: int) -> None:
    """Say what is understood of a build before it counts."""
    grader: Grader = context.additional_context["grader"]
    _tried(context, build_id, partial(grader.look, build_id), partial(grader.refuse, build_id))


def try_version_on(context: JobContext, build_id: int, version_id: int) -> None:
    """Measure a build by another version of its exercise."""
    grader: Grader = context.additional_context["grader"]
    grader.try_version(build_id, version_id)


def examine_draft_job(context: JobContext, draft_id: int) -> None:
    """Say what is found of a draft of an exercise."""
    grader: Grader = context.additional_context["grader"]
    _tried(context, draft_id, partial(grader.examine_draft, draft_id), partial(grader.refuse_draft, draft_id))


def prepare_bench_job(context: JobContext, bench_id: int) -> None:
    """Lay the parts of a bench out."""
    grader: Grader = context.additional_context["grader"]
    _tried(context, bench_id, partial(grader.prepare_bench, bench_id), partial(grader.refuse_bench, bench_id))


def draw_apart_job(context: JobContext, bench_id: int, at: int, percent: int) -> None:
    """Draw a bench apart."""
    grader: Grader = context.additional_context["grader"]
    give_up = partial(grader.keep_apart, bench_id, at)
    _tried(context, bench_id, partial(grader.draw_apart, bench_id, at, percent), give_up)


def find_ways_job(context: JobContext, bench_id: int, at: int) -> None:
    """Find how a bench comes apart."""
    grader: Grader = context.additional_context["grader"]
    _tried(context, bench_id, partial(grader.find_ways, bench_id, at), partial(grader.keep_ways, bench_id, at))


def write_step_job(context: JobContext, bench_id: int, at: int) -> None:
    """Write a bench as a STEP file."""
    grader: Grader = context.additional_context["grader"]
    give_up = partial(grader.leave_unwritten, bench_id, at)
    _tried(context, bench_id, partial(grader.write_step, bench_id, at), give_up)


def print_cards_job(context: JobContext, printout_id: int) -> None:
    """Draw all cards of an exercise."""
    grader: Grader = context.additional_context["grader"]
    give_up = partial(grader.refuse_printout, printout_id)
    _tried(context, printout_id, partial(grader.print_cards, printout_id), give_up)


def return_cards(context: JobContext, timestamp: int) -> None:
    """Return all cards whose set time has come."""
    grader: Grader = context.additional_context["grader"]
    with grader.database.session() as session:
        return_due(session)


def _tried(
    context: JobContext, what_id: int, do: Callable[[], None], give_up: Callable[[dict[str, str]], None]
) -> None:
    """Do a job; when it failed too often by no fault of the files', say so in the build, draft or bench."""
    try:
        do()
    except Exception:
        log.exception("job failed", id=what_id, task=context.job.task_name, attempt=context.job.attempts)
        if context.job.attempts + 1 >= _ATTEMPTS:
            give_up(_GAVE_UP)
        raise


async def rescue_jobs(context: JobContext, timestamp: int) -> None:
    """Give jobs whose worker was killed to another worker."""
    silent_for: float = context.additional_context["silent_seconds"]
    for job in await context.app.job_manager.get_stalled_jobs(seconds_since_heartbeat=silent_for):
        log.warning("job taken up again", job=job.id, task=job.task_name)
        await context.app.job_manager.retry_job(job)


def queue(connector: Any, *, chores_cron: str | None = None) -> procrastinate.App:
    """Return the queue on a connector, with all tasks known.

    Parameters
    ----------
    chores_cron
        When a worker does what comes again and again; None where nothing but putting in is done.
    """
    app = procrastinate.App(connector=connector)
    app.task(name=GRADE, retry=_RETRY, pass_context=True)(grade_build)
    app.task(name=LOOK, retry=_RETRY, pass_context=True)(look_at_build)
    app.task(name=TRY, retry=_RETRY, pass_context=True)(try_version_on)
    app.task(name=DRAFT, retry=_RETRY, pass_context=True)(examine_draft_job)
    app.task(name=APART, retry=_RETRY, pass_context=True)(draw_apart_job)
    app.task(name=WAYS, retry=_RETRY, pass_context=True)(find_ways_job)
    app.task(name=STEP, retry=_RETRY, pass_context=True)(write_step_job)
    app.task(name=BENCH, retry=_RETRY, pass_context=True)(prepare_bench_job)
    app.task(name=PRINT, retry=_RETRY, pass_context=True)(print_cards_job)
    returns = app.task(name=RETURN, queueing_lock=RETURN, pass_context=True)(return_cards)
    rescue = app.task(name=RESCUE, queueing_lock=RESCUE, pass_context=True)(rescue_jobs)
    if chores_cron:
        app.periodic(cron=chores_cron)(returns)
        app.periodic(cron=chores_cron)(rescue)
    return app
