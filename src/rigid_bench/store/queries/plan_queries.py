"""What is asked of the database about a class's plan, its calendar and its archive, by name."""

import secrets
from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from datetime import datetime
from types import MappingProxyType

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from rigid_bench.core.planning.lessons import PlannedLesson, moved_by
from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.codes import new_code
from rigid_bench.store.queries import group_queries
from rigid_bench.store.tables import (
    COUNTED,
    Assignment,
    Build,
    Classroom,
    ClassTeacher,
    ExerciseVersion,
    Lesson,
    Membership,
    StageLesson,
    Terms,
)

#: Bytes of chance in a calendar's address.
_KEY_BYTES = 24


def lessons_of_class(session: Session, class_id: int) -> list[PlannedLesson]:
    """List a class's lessons in their order, each with the exercises that are worked on in it."""
    exercises: dict[int, list[str]] = defaultdict(list)
    query = (
        select(Assignment.lesson_id, ExerciseVersion.exercise)
        .join(ExerciseVersion, ExerciseVersion.id == Assignment.version_id)
        .where(Assignment.class_id == class_id, Assignment.lesson_id.is_not(None))
        .order_by(Assignment.place)
    )
    for lesson_id, exercise in session.execute(query):
        if lesson_id is not None:
            exercises[lesson_id].append(exercise)
    stages: dict[int, list[tuple[str, str]]] = defaultdict(list)
    staged = (
        select(StageLesson.lesson_id, ExerciseVersion.exercise, StageLesson.stage)
        .join(ExerciseVersion, ExerciseVersion.id == StageLesson.version_id)
        .where(StageLesson.class_id == class_id)
        .order_by(StageLesson.version_id, StageLesson.stage)
    )
    for lesson_id, exercise, stage in session.execute(staged):
        stages[lesson_id].append((exercise, stage))
    own = select(Lesson).where(Lesson.class_id == class_id).order_by(Lesson.starts_at, Lesson.id)
    return [
        PlannedLesson(
            id=lesson.id,
            starts_at=lesson.starts_at,
            minutes=lesson.minutes,
            room=lesson.room,
            title=lesson.title,
            exercises=tuple(dict.fromkeys(exercises[lesson.id])),
            stages=tuple(stages[lesson.id]),
        )
        for lesson in session.scalars(own)
    ]


def lesson_of_class(session: Session, class_id: int, lesson_id: int) -> Lesson:
    """Return a lesson of a class.

    Raises
    ------
    NotFound
        The class has no such lesson.
    """
    lesson = session.scalar(select(Lesson).where(Lesson.id == lesson_id, Lesson.class_id == class_id))
    if lesson is None:
        raise NotFound(_("lesson"), _("the class has no such lesson any more"), _("Load the plan again"))
    return lesson


def add_lessons(
    session: Session, class_id: int, starts: Sequence[datetime], *, minutes: int, room: str, title: str
) -> None:
    """Add lessons that begin at given times."""
    session.add_all(
        Lesson(class_id=class_id, starts_at=start, minutes=minutes, room=room, title=title) for start in starts
    )


def remove_lesson(session: Session, lesson: Lesson) -> None:
    """Take a lesson out of the plan; its exercises stay with the class."""
    session.execute(delete(Lesson).where(Lesson.id == lesson.id))


def move_lessons(
    session: Session, classroom: Classroom, lessons: Sequence[PlannedLesson], days: int
) -> list[ExerciseVersion]:
    """Keep where lessons were moved to; what is due or opens for their exercises moves by as many days.

    Returns the exercises whose dates changed.
    """
    zone = ClassSettings.model_validate(classroom.settings).zone
    for lesson in lessons:
        session.execute(update(Lesson).where(Lesson.id == lesson.id).values(starts_at=lesson.starts_at))
    assignments = session.scalars(
        select(Assignment).where(
            Assignment.class_id == classroom.id, Assignment.lesson_id.in_([lesson.id for lesson in lessons])
        )
    ).all()
    changed = []
    for own in assignments:
        for name in ("due_at", "opens_at", "return_at"):
            moment = getattr(own, name)
            if moment is not None:
                setattr(own, name, moved_by(moment, days, zone))
                changed.append(own.version_id)
    return list(session.scalars(select(ExerciseVersion).where(ExerciseVersion.id.in_(changed))))


def plan_exercise(
    session: Session,
    assignment: Assignment,
    *,
    lesson_id: int | None,
    opens_at: datetime | None,
    after: str,
    stages: Mapping[str, int] = MappingProxyType({}),
) -> None:
    """Keep in which lesson an exercise and its stages are worked on, from when students see it, and what it follows."""
    assignment.lesson_id, assignment.opens_at, assignment.after = lesson_id, opens_at, after
    own = {"class_id": assignment.class_id, "version_id": assignment.version_id}
    session.execute(delete(StageLesson).filter_by(**own))
    session.add_all(StageLesson(**own, stage=stage, lesson_id=lesson) for stage, lesson in stages.items())


def stages_of_class(session: Session, class_id: int) -> dict[int, dict[str, list[str]]]:
    """Return the stages of a class's exercises, each with its checks, by version."""
    query = (
        select(ExerciseVersion.id, ExerciseVersion.document["stages"])
        .join(Assignment, Assignment.version_id == ExerciseVersion.id)
        .where(Assignment.class_id == class_id)
    )
    return {
        version_id: {stage["name"]: stage["checks"] for stage in stages or ()}
        for version_id, stages in session.execute(query)
    }


def done_by_work(
    session: Session, class_id: int, reached: Mapping[tuple[str, str], Collection[int]]
) -> dict[tuple[str, str], set[int]]:
    """Return who is done with each work of a class: (exercise, "") for whole exercises, (exercise, stage) for stages.

    Whoever handed an exercise in is done with it, who is in `reached` with a stage; with them all of their group, and
    whoever is excused.
    """
    done: dict[tuple[str, str], set[int]] = defaultdict(set, {work: set(who) for work, who in reached.items()})
    handed_in = (
        select(ExerciseVersion.exercise, Build.student_id)
        .join(ExerciseVersion, ExerciseVersion.id == Build.version_id)
        .where(Build.class_id == class_id, Build.counts, Build.state.in_(COUNTED))
        .distinct()
    )
    terms = (
        select(ExerciseVersion.exercise, Terms)
        .join(ExerciseVersion, ExerciseVersion.id == Terms.version_id)
        .where(Terms.class_id == class_id)
    )
    for exercise, student in session.execute(handed_in):
        done[exercise, ""].add(student)
    rows = session.execute(terms).all()
    groups = group_queries.groups_of({(own.student_id, own.version_id): own for _, own in rows})
    stages: dict[str, list[str]] = defaultdict(lambda: [""])
    for exercise, stage in reached:
        stages[exercise].append(stage)
    with_others = [
        ((exercise, stage), own.student_id)
        for exercise, own in rows
        for stage in stages[exercise]
        if own.is_absent or done[exercise, stage].intersection(groups.get((own.student_id, own.version_id), ()))
    ]
    for work, student in with_others:
        done[work].add(student)
    return done


# --- calendar ---


def make_calendar(session: Session, classroom: Classroom) -> None:
    """Give a class's calendar a new secret address: an older one shows nothing any more."""
    classroom.calendar_key = secrets.token_urlsafe(_KEY_BYTES)


def end_calendar(session: Session, classroom: Classroom) -> None:
    """Take the address of a class's calendar away."""
    classroom.calendar_key = None


def class_by_calendar(session: Session, key: str) -> Classroom:
    """Return the class whose calendar has a secret address.

    Raises
    ------
    NotFound
        There is none, or not any more.
    """
    classroom = session.scalar(select(Classroom).where(Classroom.calendar_key == key))
    if classroom is None:
        raise NotFound(
            _("calendar"), _("there is none at this address any more"), _("Ask the teacher for the new address")
        )
    return classroom


# --- the year's end ---


def archive_class(session: Session, classroom: Classroom, now: datetime) -> None:
    """Put a class out of the way: it can be read, nothing is handed in, and nobody joins any more."""
    classroom.archived_at, classroom.calendar_key = now, None


def take_out_of_archive(session: Session, classroom: Classroom) -> None:
    """Go on with a class."""
    classroom.archived_at = None


def erase_archived(session: Session, before: datetime) -> list[str]:
    """Erase classes that are in the archive since before a time, with all that was handed in; return their names.

    Accounts are not a class's: they stay.
    """
    gone = delete(Classroom).where(Classroom.archived_at < before).returning(Classroom.name)
    return list(session.scalars(gone))


def roll_over(session: Session, classroom: Classroom, *, name: str, days: int, with_students: bool) -> Classroom:
    """Make next year's class from this one: its settings, teachers, exercises with their rules, and lessons.

    Parameters
    ----------
    session
        To read and write with.
    classroom
        This year's.
    name
        What the next one is called.
    days
        So many days later its lessons and dates are, at the same time of the clock; whole weeks keep the weekday.
    with_students
        The students go on with it.
    """
    zone = ClassSettings.model_validate(classroom.settings).zone
    following = Classroom(name=name, code=new_code(), settings=dict(classroom.settings))
    session.add(following)
    session.flush()
    for teacher in session.scalars(select(ClassTeacher).where(ClassTeacher.class_id == classroom.id)):
        session.add(ClassTeacher(class_id=following.id, teacher_id=teacher.teacher_id, role=teacher.role))
    if with_students:
        students = select(Membership.student_id).where(Membership.class_id == classroom.id)
        session.add_all(Membership(class_id=following.id, student_id=own) for own in session.scalars(students))
    lessons: dict[int, int] = {}
    for lesson in session.scalars(select(Lesson).where(Lesson.class_id == classroom.id)):
        copy = Lesson(
            class_id=following.id, starts_at=moved_by(lesson.starts_at, days, zone), minutes=lesson.minutes,
            room=lesson.room, title=lesson.title,
        )  # fmt: skip
        session.add(copy)
        session.flush()
        lessons[lesson.id] = copy.id
    for staged in session.scalars(select(StageLesson).where(StageLesson.class_id == classroom.id)):
        session.add(
            StageLesson(
                class_id=following.id, version_id=staged.version_id, stage=staged.stage,
                lesson_id=lessons[staged.lesson_id],
            )
        )  # fmt: skip
    for own in session.scalars(select(Assignment).where(Assignment.class_id == classroom.id)):
        dates = {
            key: moved_by(moment, days, zone) if (moment := getattr(own, key)) else None
            for key in ("due_at", "opens_at", "return_at")
        }
        session.add(
            Assignment(
                class_id=following.id, version_id=own.version_id, place=own.place, shows=own.shows,
                attempts=own.attempts, late=own.late, late_percent=own.late_percent, after=own.after,
                lesson_id=lessons.get(own.lesson_id) if own.lesson_id else None, **dates,
            )
        )  # fmt: skip
    return following
