"""The bench: it is set up, steps are taken on it, it is drawn apart and written, and what it holds is handed in."""

from collections.abc import Callable, Mapping
from types import MappingProxyType

import procrastinate
from sqlalchemy.orm import Session

from rigid_bench.app.builds.bench_state import answered, parts_of, state_at, suggestions_of
from rigid_bench.app.builds.hand_in import choose_files
from rigid_bench.core.bench import likely, mating, work
from rigid_bench.core.bench.documents import BenchParts, BenchState, labels
from rigid_bench.core.formats.archive import read_zip
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import NN_, _, translated_number
from rigid_bench.jobs.enqueue import APART, BENCH, STEP, WAYS, enqueue
from rigid_bench.store.queries import bench_queries, build_queries, class_queries
from rigid_bench.store.tables import Bench, Build

_Do = Callable[[BenchState, BenchParts, str, mating.MateRequest], tuple[BenchState, str]]


def start_bench(
    session: Session,
    queue: procrastinate.App,
    *,
    class_id: int,
    version_id: int,
    student_id: int,
    of_build: bool,
) -> Bench:
    """Set up a student's bench with the exercise's parts, or with those of their newest build.

    Raises
    ------
    FormRejected
        They have handed in no build yet.
    """
    files = None
    if of_build:
        newest = build_queries.newest_build_of(session, class_id, version_id, student_id)
        if newest is None:
            raise FormRejected(_("bench"), _("you have handed in no build yet"), _("Begin with the exercise's parts"))
        files = _models(newest)
    bench = bench_queries.start_bench(
        session, class_id=class_id, version_id=version_id, student_id=student_id, files=files
    )
    enqueue(session, queue, BENCH, bench_id=bench.id)
    return bench


def lay_out_build(session: Session, queue: procrastinate.App, build: Build) -> Bench:
    """Lay a build that was handed in on a bench of its own, for the teacher to look at; once."""
    bench = bench_queries.bench_of_build(session, build.id)
    if bench is None:
        bench = bench_queries.start_bench(
            session,
            class_id=build.class_id,
            version_id=build.version_id,
            student_id=build.student_id,
            files=_models(build),
            build_id=build.id,
        )
        enqueue(session, queue, BENCH, bench_id=bench.id)
    return bench


def _models(build: Build) -> dict[str, bytes]:
    return {file.name: file.content for file in build.files if not file.is_evidence}


# --- steps ---


def _place(state: BenchState, parts: BenchParts, name: str, _unused: mating.MateRequest) -> tuple[BenchState, str]:
    after = work.place(state, parts, name)
    return after, _("brought in {name}", name=labels(after, parts)[after.placed[-1].id])


def _take(state: BenchState, parts: BenchParts, name: str, _unused: mating.MateRequest) -> tuple[BenchState, str]:
    return work.take_away(state, name), _("put {name} back", name=labels(state, parts)[name])


def _ground(state: BenchState, parts: BenchParts, name: str, _unused: mating.MateRequest) -> tuple[BenchState, str]:
    after = work.ground(state, name)
    own, called = after.instance(name), labels(state, parts)[name]
    is_grounded = own is not None and own.grounded
    return after, _("grounded {name}", name=called) if is_grounded else _("let go of {name}", name=called)


def _mate(state: BenchState, parts: BenchParts, _name: str, wish: mating.MateRequest) -> tuple[BenchState, str]:
    after = mating.mate(state, parts, wish, tolerance=Tolerance())
    return after, after.mates[-1].words


def _likewise(state: BenchState, parts: BenchParts, name: str, _unused: mating.MateRequest) -> tuple[BenchState, str]:
    after = likely.likewise(state, parts, name)
    count = len(after.placed) - len(state.placed)
    words = translated_number(
        *NN_("put {count} more in the like hole, as {name}", "put {count} more in the like holes, as {name}"), count
    )
    return after, words.format(count=count, name=labels(state, parts)[name])


def _unmate(state: BenchState, parts: BenchParts, name: str, _unused: mating.MateRequest) -> tuple[BenchState, str]:
    return work.unmate(state, name), _("took away mate {name}", name=name)


_ACTIONS: Mapping[str, _Do] = MappingProxyType(
    {"place": _place, "ground": _ground, "mate": _mate, "take": _take, "unmate": _unmate, "likewise": _likewise}
)


def after_action(
    session: Session, bench: Bench, action: str, name: str, wish: mating.MateRequest
) -> tuple[BenchState, str]:
    """Return where a bench would stand after an action, and what was done, in words; nothing is kept.

    Parameters
    ----------
    action
        "place", "ground", "mate", "take", "unmate", "likewise" or "suggested".
    name
        What it is done with: a part, an instance, a mate, a suggestion.
    wish
        The mate that is asked for, where it is one.

    Raises
    ------
    FormRejected
        There is no such action, or what it names is not there.
    """
    state, parts = state_at(bench, session), parts_of(bench)
    if action == "suggested":
        return _suggested(session, bench, state, parts, name)
    if action not in _ACTIONS:
        raise FormRejected(_("bench"), _("there is no '{action}' on it", action=action[:20]), _("Load the page again"))
    return _ACTIONS[action](state, parts, name, wish)


def _suggested(
    session: Session, bench: Bench, state: BenchState, parts: BenchParts, name: str
) -> tuple[BenchState, str]:
    """Take one suggestion, or all."""
    wanted = [
        suggestion for suggestion in suggestions_of(bench, session, state, parts) if name in ("", suggestion.mate.id)
    ]
    if not wanted:
        raise FormRejected(_("suggestion"), _("it is not there any more"), _("Look at the bench as it is now"))
    before = len(state.mates)
    for suggestion in wanted:
        if work.takes(suggestion.mate, answered(state)):  # the ones before it may hold all that it would
            own = suggestion.mate.model_copy(update={"id": mating.next_id(state)})
            state = mating.with_mate(state, own, tolerance=Tolerance())
    count = len(state.mates) - before
    if len(wanted) == 1:
        return state, wanted[0].words
    return state, _("kept {count} suggestions; the others follow from these", count=count)


def go(session: Session, bench: Bench, where: str, number: str = "", *, base: int) -> None:
    """Go to another step of a bench.

    Parameters
    ----------
    where
        "undo", "redo", or "go to" a step by its number.
    base
        The step at which the person saw the bench.

    Raises
    ------
    StepTaken
        The bench has moved on, in another window.
    FormRejected
        There is no such step.
    """
    bench_queries.stands_at(session, bench, base)
    if where == "undo":
        bench_queries.undo_step(session, bench)
    elif where == "redo":
        bench_queries.redo_step(session, bench)
    elif not (number.isdecimal() and len(number) < 9) or not bench_queries.go_to_step(session, bench, int(number)):
        raise FormRejected(_("step"), _("there is no such step"), _("Choose one of the list"))


def note_on_mate(session: Session, bench: Bench, mate: str, *, text: str, who: str) -> None:
    """Keep what a teacher writes on a mate; without words it is taken away.

    Raises
    ------
    FormRejected
        There is no such mate on the bench now.
    """
    if not any(known_mate.id == mate for known_mate in state_at(bench, session).mates):
        raise FormRejected(_("note"), _("there is no such mate on the bench now"), _("Load the page again"))
    bench_queries.note_on_mate(session, bench, mate, text=text.strip(), who=who)


# --- what becomes of it ---


def _check_placed(session: Session, bench: Bench) -> None:
    if not state_at(bench, session).placed:
        raise FormRejected(_("bench"), _("no part is placed yet"), _("Bring in the base first"))


def ask_step_file(session: Session, queue: procrastinate.App, bench: Bench) -> None:
    """Let a bench be written as a STEP file as it stands, once.

    Raises
    ------
    FormRejected
        No part is placed yet; likewise below.
    """
    _check_placed(session, bench)
    if bench.step_at != bench.at or bench.step_error:
        bench_queries.ask_step_file(session, bench)
        enqueue(session, queue, STEP, bench_id=bench.id, at=bench.at)


def ask_ways(session: Session, queue: procrastinate.App, bench: Bench) -> None:
    """Let it be found how a bench comes apart as it stands, once."""
    _check_placed(session, bench)
    if bench.ways_at != bench.at:
        bench_queries.ask_ways(session, bench)
        enqueue(session, queue, WAYS, bench_id=bench.id, at=bench.at)


def ask_apart(session: Session, queue: procrastinate.App, bench: Bench, *, percent: int) -> None:
    """Let a bench be drawn apart as it stands, each part so much of its way out."""
    _check_placed(session, bench)
    bench_queries.ask_apart(session, bench)
    enqueue(session, queue, APART, bench_id=bench.id, at=bench.at, percent=percent)


def bench_files(session: Session, bench: Bench) -> dict[str, bytes]:
    """Return what a bench holds as files: its models, and its build file."""
    _check_placed(session, bench)
    state, parts = state_at(bench, session), parts_of(bench)
    own = bench_queries.files_of(session, bench)
    if own is None:
        given = read_zip(bench.version.bundle, name="exercise")
        used = {instance.part for instance in state.placed}
        models = {part.file: given[part.file] for part in parts.parts if part.id in used}
        return {**models, "bench.build.json": work.build_bytes(state, parts)}
    models = {name: data for name, data in read_zip(own, name="bench").items() if not name.lower().endswith(".json")}
    return {**models, "bench.build.json": work.build_bytes(state, parts, source=next(iter(models)))}


def hand_in_bench(
    session: Session, queue: procrastinate.App, bench: Bench, *, evidence: Mapping[str, bytes], class_bytes: int
) -> int:
    """Hand in what a bench holds: it is looked at first, like any other files; return the build's id.

    Parameters
    ----------
    evidence
        What goes with it, by name, such as its drawing.
    class_bytes
        What a class may take in all, bytes; 0 for any amount.

    Raises
    ------
    NotFound
        The student is not in the class any more.
    FormRejected
        No part is placed yet, or the class has no room.
    """
    class_queries.lock_membership(session, bench.class_id, bench.student_id)
    return choose_files(
        session,
        queue,
        class_id=bench.class_id,
        version_id=bench.version_id,
        student_id=bench.student_id,
        files=bench_files(session, bench),
        evidence=evidence,
        class_bytes=class_bytes,
    )
