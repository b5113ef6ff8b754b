"""Lessons in their weeks: what follows a lesson moves with it, and who is behind."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedLesson:
    """A lesson, with the exercises that are worked on in it."""

    id: int
    #: With its time zone.
    starts_at: datetime
    minutes: int
    room: str = ""
    title: str = ""
    exercises: tuple[str, ...] = ()
    #: Stages of exercises that are worked on in it: (exercise, name of the stage).
    stages: tuple[tuple[str, str], ...] = ()

    @property
    def work(self) -> tuple[tuple[str, str], ...]:
        """Exercises, with "" for the stage, and stages."""
        return (*((exercise, "") for exercise in self.exercises), *self.stages)

    @property
    def ends_at(self) -> datetime:
        """When it is over."""
        return self.starts_at + timedelta(minutes=self.minutes)


def moved_by(moment: datetime, days: int, zone: ZoneInfo) -> datetime:
    """Return the same time of the clock so many days later, or earlier, whatever summer time does in between."""
    local = moment.astimezone(zone)
    return (local.replace(tzinfo=None) + timedelta(days=days)).replace(tzinfo=zone)


def moved(lessons: Sequence[PlannedLesson], lesson_id: int, days: int, zone: ZoneInfo) -> list[PlannedLesson]:
    """Move a lesson and all that follow it; return those that moved, the first one first.

    Parameters
    ----------
    lessons
        All of a class.
    lesson_id
        The first that moves.
    days
        So many days later; below 0, earlier.
    zone
        By whose clock the time of day stays.
    """
    first = next((own for own in lessons if own.id == lesson_id), None)
    if first is None:
        return []
    following = sorted(
        (own for own in lessons if own.starts_at >= first.starts_at), key=lambda own: (own.starts_at, own.id)
    )
    return [replace(own, starts_at=moved_by(own.starts_at, days, zone)) for own in following]


def repeated(start: datetime, *, count: int, every_days: int, zone: ZoneInfo) -> list[datetime]:
    """Return when so many lessons begin, the first one at `start`, at the same time of the clock."""
    return [moved_by(start, number * every_days, zone) for number in range(count)]


def by_week(lessons: Sequence[PlannedLesson], zone: ZoneInfo) -> list[tuple[date, list[PlannedLesson]]]:
    """Return each week from the first lesson to the last by its Monday (ISO 8601), those without lessons too."""
    if not lessons:
        return []
    mondays: dict[date, list[PlannedLesson]] = {}
    for own in sorted(lessons, key=lambda own: (own.starts_at, own.id)):
        day = own.starts_at.astimezone(zone).date()
        mondays.setdefault(day - timedelta(days=day.weekday()), []).append(own)
    first, last = min(mondays), max(mondays)
    weeks = range((last - first).days // 7 + 1)
    return [(monday, mondays.get(monday, [])) for monday in (first + timedelta(weeks=week) for week in weeks)]


def behind(
    lesson: PlannedLesson, students: Collection[int], done: Mapping[tuple[str, str], Collection[int]], now: datetime
) -> dict[int, list[tuple[str, str]]]:
    """Return who is not done with the work of a lesson that is over: student -> (exercise, stage or "").

    Parameters
    ----------
    lesson
        With its exercises and stages.
    students
        All of the class.
    done
        Work -> students who handed the exercise in, or reached the stage, or are excused.
    now
        The present.
    """
    if lesson.ends_at > now:
        return {}
    missing = {
        student: [
            (exercise, stage) for exercise, stage in lesson.work if student not in done.get((exercise, stage), ())
        ]
        for student in students
    }
    return {student: work for student, work in missing.items() if work}


def out_of_order(lessons: Sequence[PlannedLesson], after: Mapping[str, str]) -> list[tuple[str, str]]:
    """Return the exercises that come in an earlier lesson than the one that each builds on: (exercise, before it)."""
    when: dict[str, datetime] = {exercise: own.starts_at for own in lessons for exercise in own.exercises}
    return [
        (exercise, first)
        for exercise, first in after.items()
        if exercise in when and first in when and when[exercise] < when[first]
    ]
