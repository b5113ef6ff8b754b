"""What is asked of the database about benches and their steps, by name."""

from collections.abc import Mapping, Sequence
from typing import Any

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session, defer, undefer

from rigid_bench.core.formats.archive import write_zip
from rigid_bench.core.values.errors import NotFound, StepTaken
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries import class_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import Bench, BenchStep


def start_bench(
    session: Session,
    *,
    class_id: int,
    version_id: int,
    student_id: int,
    files: Mapping[str, bytes] | None,
    build_id: int | None = None,
) -> Bench:
    """Set up a bench: a student's, with their own models or the exercise's parts; or a build's, for the teacher."""
    made = Bench(
        class_id=class_id,
        version_id=version_id,
        student_id=student_id,
        files=write_zip(files) if files else None,
        build_id=build_id,
    )
    session.add(made)
    session.flush()
    return made


def newest_bench(session: Session, *, class_id: int, version_id: int, student_id: int) -> Bench | None:
    """Return a student's newest bench for an exercise, or None."""
    query = select(Bench).where(
        Bench.class_id == class_id,
        Bench.version_id == version_id,
        Bench.student_id == student_id,
        Bench.build_id.is_(None),
    )
    return session.scalars(query.order_by(Bench.id.desc()).limit(1)).first()


def bench_of_build(session: Session, build_id: int) -> Bench | None:
    """Return the bench on which a build was laid for the teacher, or None."""
    return session.scalars(select(Bench).where(Bench.build_id == build_id).limit(1)).first()


def bench_for(session: Session, bench_id: int, user: Person) -> Bench:
    """Return a bench, for its student or for a teacher of the class; one that was made of a build is the teacher's.

    Raises
    ------
    NotFound
        There is none that this person may see.
    """
    bench = session.get(Bench, bench_id)
    if bench is not None and user.is_teacher:
        class_queries.class_of_teacher(session, bench.class_id, user.id)
    is_others = bench is not None and (bench.student_id != user.id or bench.build_id is not None)
    if bench is None or (user.is_student and is_others):
        raise NotFound(_("bench"), _("there is no such bench of yours"), _("Go back to your exercises"))
    return bench


def bench_work(session: Session, bench_id: int) -> Bench | None:
    """Return a bench with its files for the worker; None if it is gone."""
    return session.scalar(select(Bench).where(Bench.id == bench_id).options(undefer(Bench.files)))


def keep_parts(
    session: Session,
    bench_id: int,
    *,
    parts: dict[str, Any],
    drawn: bytes,
    collision_meshes: bytes,
    first: dict[str, Any] | None,
    who: str,
) -> None:
    """Keep what lies on a bench, once; what stands there already is its first step."""
    shapes = {"parts": parts, "drawn": drawn, "collision_meshes": collision_meshes}
    values = {**shapes, "state": "ready", "error": None, "at": 0 if first is None else 1}
    query = update(Bench).where(Bench.id == bench_id, Bench.state != "ready").values(**values).returning(Bench.id)
    if session.scalar(query) is not None and first is not None:
        words = _("as it came in the files")
        session.add(BenchStep(bench_id=bench_id, number=1, parent=0, who=who, words=words, document=first))


def refuse_bench(session: Session, bench_id: int, error: dict[str, str]) -> None:
    """Keep why nothing can be laid on a bench, unless something lies there."""
    lies_bare = (Bench.id == bench_id, Bench.state != "ready")
    session.execute(update(Bench).where(*lies_bare).values(state="refused", error=error))


def step_of(session: Session, bench: Bench, number: int | None = None) -> BenchStep | None:
    """Return the step at which a bench stands, or another; None before the first."""
    return session.get(BenchStep, (bench.id, bench.at if number is None else number))


def steps_of(session: Session, bench: Bench) -> Sequence[BenchStep]:
    """List all steps that were ever taken, in their order; without what stood there after each."""
    query = select(BenchStep).where(BenchStep.bench_id == bench.id).order_by(BenchStep.number)
    return session.scalars(query.options(defer(BenchStep.document))).all()


def stands_at(session: Session, bench: Bench, base: int) -> None:
    """Lock a bench, and make sure that it stands at the step that the person saw.

    Raises
    ------
    StepTaken
        The bench has moved on, in another window.
    """
    session.refresh(bench, ["at"], with_for_update=True)
    if bench.at != base:
        raise StepTaken(
            _("bench"), _("it was changed in another window"), _("Look at it as it is now, and do that again")
        )


def take_step(
    session: Session, bench: Bench, *, base: int, who: str, words: str, document: dict[str, Any]
) -> BenchStep:
    """Take a step from the one that the person saw.

    Raises
    ------
    StepTaken
        The bench has moved on, in another window.
    """
    stands_at(session, bench, base)
    last = session.scalar(select(func.max(BenchStep.number)).where(BenchStep.bench_id == bench.id)) or 0
    made = BenchStep(bench_id=bench.id, number=last + 1, parent=bench.at, who=who, words=words, document=document)
    session.add(made)
    bench.at = made.number
    session.flush()
    return made


def undo_step(session: Session, bench: Bench) -> bool:
    """Go back to the step before; False at the beginning."""
    step = step_of(session, bench)
    if step is None:
        return False
    bench.at = step.parent
    session.flush()
    return True


def redo_step(session: Session, bench: Bench) -> bool:
    """Go on to the newest step that was taken from here; False where there is none."""
    query = select(func.max(BenchStep.number)).where(BenchStep.bench_id == bench.id, BenchStep.parent == bench.at)
    newest = session.scalar(query)
    if newest is None:
        return False
    bench.at = newest
    session.flush()
    return True


def go_to_step(session: Session, bench: Bench, number: int) -> bool:
    """Go to any step that was ever taken, or to the beginning; False where there is none of that number."""
    if number and step_of(session, bench, number) is None:
        return False
    bench.at = number
    session.flush()
    return True


def ask_apart(session: Session, bench: Bench) -> None:
    """Note that a bench is being drawn apart as it stands."""
    bench.apart, bench.apart_at = {"waiting": True}, bench.at
    session.flush()


def keep_apart(session: Session, bench_id: int, *, apart: dict[str, Any], at: int) -> None:
    """Keep a bench drawn apart, or why it is not; unless another drawing was asked for meanwhile."""
    session.execute(update(Bench).where(Bench.id == bench_id, Bench.apart_at == at).values(apart=apart))


def ask_ways(session: Session, bench: Bench) -> None:
    """Note that it is looked for how a bench comes apart as it stands."""
    bench.ways, bench.ways_at = None, bench.at
    session.flush()


def keep_ways(session: Session, bench_id: int, *, at: int, ways: dict[str, Any]) -> None:
    """Keep how a bench comes apart, or why that is not known; unless it was asked for another step meanwhile."""
    session.execute(update(Bench).where(Bench.id == bench_id, Bench.ways_at == at).values(ways=ways))


def ask_step_file(session: Session, bench: Bench) -> None:
    """Note that a bench is being written as a STEP file as it stands."""
    bench.step_file, bench.step_error, bench.step_at = None, None, bench.at
    session.flush()


def keep_step_file(
    session: Session, bench_id: int, *, at: int, file: bytes | None = None, error: dict[str, str] | None = None
) -> None:
    """Keep a bench as a STEP file, or why there is none; unless it was asked for at another step meanwhile."""
    query = update(Bench).where(Bench.id == bench_id, Bench.step_at == at)
    session.execute(query.values(step_file=file, step_error=error))


def step_file_of(session: Session, bench: Bench) -> bytes | None:
    """Return a bench as a STEP file as it stands now, once it is written."""
    return session.scalar(select(Bench.step_file).where(Bench.id == bench.id, Bench.step_at == Bench.at))


def note_on_mate(session: Session, bench: Bench, mate: str, *, text: str, who: str) -> None:
    """Keep what a teacher writes on a mate; without words it is taken away."""
    notes = {name: note for name, note in bench.notes.items() if name != mate}
    bench.notes = {**notes, mate: {"text": text, "who": who}} if text else notes
    session.flush()


def drawn_parts_of(session: Session, bench: Bench) -> bytes:
    """Return the gzipped parts for the browser."""
    return session.scalar(select(Bench.drawn).where(Bench.id == bench.id)) or b""


def collision_meshes_of(session: Session, bench: Bench) -> bytes:
    """Return the collision meshes of the parts, as `pack_collision_meshes` wrote them."""
    return session.scalar(select(Bench.collision_meshes).where(Bench.id == bench.id)) or b""


def files_of(session: Session, bench: Bench) -> bytes | None:
    """Return the student's own models as a zip, or None."""
    return session.scalar(select(Bench.files).where(Bench.id == bench.id))
