"""Practice: sets that a class is given, their clocks, and the answers that are kept."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from rigid_bench.core.practice.drill import Drill
from rigid_bench.core.practice.registry import KINDS
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _, series, translated
from rigid_bench.store.queries import exercise_queries, practice_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import Classroom, PracticeSet

#: An answer that was sent in time may come so much later.
_ON_ITS_WAY = timedelta(seconds=2)


@dataclass(frozen=True, slots=True, kw_only=True)
class SetFields:
    """What a class is given to practise."""

    #: "" for that of its first kind.
    title: str
    kinds: Sequence[str]
    #: None for all.
    level: int | None
    number: int
    until: datetime | None
    #: Of whose exercise the drills are made; None for invented parts.
    version_id: int | None
    #: For each drill; None without a clock.
    seconds: int | None
    #: For the whole set; None where it counts for nothing.
    marks: float | None


def give_set(session: Session, classroom: Classroom, fields: SetFields) -> None:
    """Give a class a set of drills.

    Raises
    ------
    FormRejected
        It has no kind that can be drilled, or the class does not work on its exercise.
    """
    kinds = [kind for kind in fields.kinds if kind in KINDS]
    if not kinds:
        raise FormRejected(_("kinds"), _("none was chosen"), _("Tick at least one"), "kinds")
    if fields.version_id:
        versions = exercise_queries.exercises_of_class(session, classroom.id)
        if all(version.id != fields.version_id for version in versions):
            raise FormRejected(
                _("exercise"), _("the class does not work on it"), _("Choose one of the list"), "version_id"
            )
        kinds = [kind for kind in kinds if KINDS[kind].make_from]
        if not kinds:
            problem = _("none of these kinds can be made of an exercise")
            able = series(translated(kind.title) for kind in KINDS.values() if kind.make_from)
            raise FormRejected(_("kinds"), problem, _("Tick one of: {of_exercises}", of_exercises=able), "kinds")
    practice_queries.give_set(
        session,
        classroom.id,
        title=fields.title or translated(KINDS[kinds[0]].title),
        kinds=kinds,
        level=fields.level,
        number=fields.number,
        until=fields.until,
        version_id=fields.version_id,
        seconds=fields.seconds,
        marks=fields.marks,
    )


def drop_set(session: Session, classroom: Classroom, set_id: int) -> None:
    """Take a set back; what was answered stays."""
    practice_queries.drop_set(session, classroom.id, set_id)


def time_is_up(session: Session, student: Person, drill: Drill, set_id: int) -> datetime | None:
    """Return when the time for a drill of a set is up, which begins when it is first looked at; None without a clock.

    Raises
    ------
    NotFound
        The student has no such set.
    """
    given = practice_queries.set_of_student(session, set_id, student.id)
    if given.seconds is None:
        return None
    started = practice_queries.start_drill(session, student.id, set_id, drill.kind, drill.level, drill.seed)
    return started + timedelta(seconds=given.seconds)


def is_late(until: datetime | None, now: datetime) -> bool:
    """Say whether an answer comes after the time for its drill was up."""
    return until is not None and now > until + _ON_ITS_WAY


def keep_answer(
    session: Session,
    student: Person,
    drill: Drill,
    *,
    is_right: bool,
    set_id: int,
    version_id: int | None,
    now: datetime,
) -> None:
    """Keep a student's first answer to a drill; it counts for a set that is open and asks for such drills.

    Parameters
    ----------
    set_id
        0 for no set.
    version_id
        Of whose exercise the drill was made; None for an invented part.
    """
    given = practice_queries.set_of_student(session, set_id, student.id) if set_id else None
    counts = given is not None and _counts(session, student, drill, given, version_id, now)
    practice_queries.keep_answer(
        session,
        student_id=student.id,
        kind=drill.kind,
        level=drill.level,
        seed=drill.seed,
        is_right=is_right,
        slip=drill.slip,
        set_id=set_id if counts else None,
        version_id=version_id,
    )


def _counts(
    session: Session, student: Person, drill: Drill, given: PracticeSet, version_id: int | None, now: datetime
) -> bool:
    """Say whether a drill is one of a set that is open: of its kinds, level and exercise, and not one too many."""
    is_of_it = drill.kind in given.kinds and drill.level in levels_of(drill.kind, given.level)
    # where its exercise has nothing for any kind, generated drills stand in
    is_of_exercise = version_id in (None, given.version_id)
    is_over = given.until is not None and now > given.until
    count, _unused = practice_queries.done_of_sets(session, [given.id]).get((given.id, student.id), (0, 0))
    return is_of_it and is_of_exercise and not is_over and count < given.number


def levels_of(kind: str, wished: int | None) -> tuple[int, ...]:
    """Return the levels of a kind of drill that are meant: the one that is wished, if it has it, or all."""
    return (wished,) if wished in KINDS[kind].levels else KINDS[kind].levels
