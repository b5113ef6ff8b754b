"""Planning a class: lessons, the exercises and stages in them, how long these take, and the calendar's address."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from zoneinfo import ZoneInfo

from sqlalchemy.orm import Session

from rigid_bench.core.planning.estimate import Rates
from rigid_bench.core.planning.lessons import moved
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _
from rigid_bench.store.log import log
from rigid_bench.store.queries import class_queries, exercise_queries, plan_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import Assignment, Classroom


@dataclass(frozen=True, slots=True, kw_only=True)
class LessonFields:
    """What a lesson has beside its beginning."""

    minutes: int
    room: str
    title: str


def add_lessons(
    session: Session, classroom: Classroom, starts: Sequence[datetime], lesson: LessonFields, *, teacher: Person
) -> None:
    """Add lessons that are alike but for their beginnings."""
    plan_queries.add_lessons(
        session, classroom.id, starts, minutes=lesson.minutes, room=lesson.room, title=lesson.title
    )
    _log(session, classroom, teacher)


def change_lesson(
    session: Session, classroom: Classroom, lesson_id: int, start: datetime, fields: LessonFields, *, teacher: Person
) -> None:
    """Change a lesson alone.

    Raises
    ------
    NotFound
        The class has no such lesson; likewise below.
    """
    lesson = plan_queries.lesson_of_class(session, classroom.id, lesson_id)
    lesson.starts_at, lesson.minutes, lesson.room, lesson.title = start, fields.minutes, fields.room, fields.title
    _log(session, classroom, teacher)


def remove_lesson(session: Session, classroom: Classroom, lesson_id: int, *, teacher: Person) -> None:
    """Take a lesson out; its exercises stay with the class."""
    plan_queries.remove_lesson(session, plan_queries.lesson_of_class(session, classroom.id, lesson_id))
    _log(session, classroom, teacher)


def move_lessons(
    session: Session, classroom: Classroom, lesson_id: int, days: int, zone: ZoneInfo, *, teacher: Person
) -> None:
    """Move a lesson and all that follow, with what is due or opens for their exercises."""
    plan_queries.lesson_of_class(session, classroom.id, lesson_id)
    lessons = moved(plan_queries.lessons_of_class(session, classroom.id), lesson_id, days, zone)
    for version in plan_queries.move_lessons(session, classroom, lessons, days):
        log(session, "terms-changed", who_id=teacher.id, class_id=classroom.id, title=version.title)
    _log(session, classroom, teacher)


def plan_exercise(
    session: Session,
    classroom: Classroom,
    assignment: Assignment,
    *,
    lesson_id: int,
    opens_at: datetime | None,
    after: str,
    stages: Mapping[str, int],
    teacher: Person,
) -> None:
    """Say in which lesson an exercise and each of its stages is worked on, from when it is seen, and what it follows.

    Parameters
    ----------
    lesson_id
        0 for none.
    after
        The exercise that it builds on, or "".
    stages
        The lesson of each stage, by its name; 0 for the exercise's own.

    Raises
    ------
    NotFound
        The class has no such lesson.
    FormRejected
        The class has no such other exercise, or the exercise no such stages.
    """
    versions = exercise_queries.exercises_of_class(session, classroom.id)
    own = next(version for version in versions if version.id == assignment.version_id)
    if after and after not in {version.exercise for version in versions if version.exercise != own.exercise}:
        raise FormRejected(_("after"), _("the class has no such other exercise"), _("Choose one of the list"), "after")
    lesson = plan_queries.lesson_of_class(session, classroom.id, lesson_id) if lesson_id else None
    if not set(stages) <= set(plan_queries.stages_of_class(session, classroom.id).get(own.id, {})):
        raise FormRejected(_("stages"), _("the exercise has no such stages"), _("Load the plan again"), "stages")
    plan_queries.plan_exercise(
        session,
        assignment,
        lesson_id=lesson.id if lesson else None,
        opens_at=opens_at,
        after=after,
        stages={
            stage: plan_queries.lesson_of_class(session, classroom.id, stage_lesson).id
            for stage, stage_lesson in stages.items()
            if stage_lesson
        },
    )
    _log(session, classroom, teacher)


def change_rates(session: Session, classroom: Classroom, rates: Rates) -> None:
    """Keep how long a part, a size and a relation take a class."""
    settings = {**classroom.settings, "rates": rates.model_dump(mode="json")}
    class_queries.change_class(session, classroom, name=classroom.name, settings=settings)


def make_calendar(session: Session, classroom: Classroom, *, teacher: Person) -> None:
    """Give a class's calendar an address, or a new one."""
    plan_queries.make_calendar(session, classroom)
    log(session, "calendar-made", who_id=teacher.id, class_id=classroom.id)


def end_calendar(session: Session, classroom: Classroom, *, teacher: Person) -> None:
    """Take the address of a class's calendar away."""
    plan_queries.end_calendar(session, classroom)
    log(session, "calendar-ended", who_id=teacher.id, class_id=classroom.id)


def _log(session: Session, classroom: Classroom, teacher: Person) -> None:
    log(session, "plan-changed", who_id=teacher.id, class_id=classroom.id)
