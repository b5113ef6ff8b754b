"""What is asked of the database about practice, by name."""

from collections.abc import Collection, Sequence
from datetime import datetime

from sqlalchemy import ARRAY, Text, cast, delete, func, select
from sqlalchemy.dialects.postgresql import JSONPATH, insert
from sqlalchemy.orm import Session

from rigid_bench.core.practice.schedule import Answered
from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import (
    Assignment,
    Build,
    ClassTeacher,
    ExerciseVersion,
    Membership,
    PracticeAnswer,
    PracticeSet,
    PracticeStart,
    Return,
    Run,
)

#: Answers that say what comes next.
_RECENT = 200


def keep_answer(
    session: Session,
    *,
    student_id: int,
    kind: str,
    level: int,
    seed: int,
    is_right: bool,
    slip: str | None,
    set_id: int | None,
    version_id: int | None = None,
) -> bool:
    """Keep the first answer to a drill; False for a second one, which changes nothing."""
    values = {"student_id": student_id, "kind": kind, "level": level, "seed": seed, "is_right": is_right, "slip": slip,
              "set_id": set_id, "version_id": version_id}  # fmt: skip
    made = session.execute(
        insert(PracticeAnswer).values(**values).on_conflict_do_nothing().returning(PracticeAnswer.id)
    )
    return made.scalar() is not None


def history_of(session: Session, student_id: int) -> list[Answered]:
    """Return a student's newest answers, oldest first."""
    query = select(PracticeAnswer).where(PracticeAnswer.student_id == student_id)
    practice_answers = session.scalars(query.order_by(PracticeAnswer.id.desc()).limit(_RECENT)).all()
    return [Answered(own.kind, own.level, own.is_right, own.slip or "") for own in reversed(practice_answers)]


def answers_of(session: Session, student_ids: Collection[int]) -> Sequence[PracticeAnswer]:
    """Return all answers of some students, oldest first."""
    query = select(PracticeAnswer).where(PracticeAnswer.student_id.in_(student_ids))
    return session.scalars(query.order_by(PracticeAnswer.id)).all()


def sets_of_class(session: Session, class_id: int) -> Sequence[PracticeSet]:
    """List what a class is given, newest first."""
    query = select(PracticeSet).where(PracticeSet.class_id == class_id)
    return session.scalars(query.order_by(PracticeSet.id.desc())).all()


def sets_of_student(session: Session, student_id: int) -> Sequence[PracticeSet]:
    """List what a student's classes are given, what is due first first."""
    query = select(PracticeSet).join(Membership, Membership.class_id == PracticeSet.class_id)
    practice_sets = session.scalars(query.where(Membership.student_id == student_id)).all()
    return sorted(practice_sets, key=lambda own: (own.until is None, own.until, -own.id))


def set_of_student(session: Session, set_id: int, student_id: int) -> PracticeSet:
    """Return a set that a class of the student's has.

    Raises
    ------
    NotFound
        There is none.
    """
    practice_set = next((own for own in sets_of_student(session, student_id) if own.id == set_id), None)
    if practice_set is None:
        raise NotFound(_("practice"), _("there is no such set in a class of yours"), _("Go back to practice"))
    return practice_set


def done_of_sets(session: Session, set_ids: Collection[int]) -> dict[tuple[int, int], tuple[int, int]]:
    """Return by set and student how many drills were answered, and how many of them right."""
    right = func.count().filter(PracticeAnswer.is_right)
    query = select(PracticeAnswer.set_id, PracticeAnswer.student_id, func.count(), right)
    query = query.where(PracticeAnswer.set_id.in_(set_ids)).group_by(PracticeAnswer.set_id, PracticeAnswer.student_id)
    return {(own or 0, student): (count, correct) for own, student, count, correct in session.execute(query)}


def give_set(
    session: Session, class_id: int, *, title: str, kinds: list[str], level: int | None, number: int,
    until: datetime | None, version_id: int | None, seconds: int | None, marks: float | None,
) -> PracticeSet:  # fmt: skip
    """Give a class something to practise: made of an exercise, with a clock, counted, where these are not None."""
    made = PracticeSet(
        class_id=class_id, title=title, kinds=kinds, level=level, number=number, until=until, version_id=version_id,
        seconds=seconds, marks=marks,
    )  # fmt: skip
    session.add(made)
    session.flush()
    return made


def start_drill(session: Session, student_id: int, set_id: int, kind: str, level: int, seed: int) -> datetime:
    """Start the clock of a drill, or go on with it where it was seen before; return when it was first seen."""
    which = {"student_id": student_id, "set_id": set_id, "kind": kind, "level": level, "seed": seed}
    session.execute(insert(PracticeStart).values(**which).on_conflict_do_nothing())
    return session.scalars(select(PracticeStart.started_at).filter_by(**which)).one()


def versions_to_practise(session: Session, user: Person) -> Sequence[tuple[ExerciseVersion, bool]]:
    """List the exercises of a person's classes, each with whether how it is mated may be shown.

    A teacher may see it; a student once a card of theirs for it was returned.
    """
    if user.is_teacher:
        belongs = select(ClassTeacher.class_id).where(ClassTeacher.teacher_id == user.id)
    else:
        belongs = select(Membership.class_id).where(Membership.student_id == user.id)
    query = select(ExerciseVersion).where(
        ExerciseVersion.id.in_(select(Assignment.version_id).where(Assignment.class_id.in_(belongs)))
    )
    returned = select(Build.version_id).join(Return, Return.build_id == Build.id)
    returned = returned.where(Build.student_id == user.id, Return.taken_back_at.is_(None))
    seen = set() if user.is_teacher else set(session.scalars(returned))
    versions = session.scalars(query.order_by(ExerciseVersion.title, ExerciseVersion.number.desc()))
    return [(version, user.is_teacher or version.id in seen) for version in versions]


def slips_of_version(session: Session, version_id: int) -> set[str]:
    """Return the cause codes that builds of an exercise had, in whatever class."""
    code = func.jsonb_path_query(Run.report, cast("$.checks[*].cause.code", JSONPATH))
    query = select(code.op("#>>")(cast([], ARRAY(Text)))).join(Build, Build.id == Run.build_id).distinct()
    return set(session.scalars(query.where(Build.version_id == version_id)))


def drop_set(session: Session, class_id: int, set_id: int) -> None:
    """Take a set back; what was answered stays."""
    session.execute(delete(PracticeSet).where(PracticeSet.id == set_id, PracticeSet.class_id == class_id))
