"""A class's plan: lessons in their weeks, the exercises in them, how long these take, who is behind."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from typing import Annotated, Literal

from fastapi import Form, Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from rigid_bench.core.insight.attempts import Attempt, reached_by
from rigid_bench.core.insight.course import courses
from rigid_bench.core.planning.estimate import Extent, Rates, estimated_minutes
from rigid_bench.core.planning.lessons import PlannedLesson, behind, by_week, moved, out_of_order, repeated
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.log import log
from rigid_bench.store.queries import class_queries, exercise_queries, insight_queries, plan_queries
from rigid_bench.store.tables import Assignment, Classroom, ExerciseVersion, User
from rigid_bench.web.forms import FormId, moment_or_none, number_between, whole_between
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, Id, OwnAssignment, OwnClass, TaughtClass, Teacher

router = page_router("/classes/{class_id}/plan")
#: Minutes, and lessons at once.
_LONGEST, _MOST_LESSONS = 600, 60
#: A lesson is moved by so many days at most.
_FARTHEST = 400
_DAYS_A_WEEK = 7


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedExercise:
    """An exercise of the class, as far as it is planned."""

    version: ExerciseVersion
    assignment: Assignment
    #: Minutes, by the class's rates.
    estimate: float
    #: Hours from first look to all met, of the middle of this class; None before anybody came so far.
    took: float | None
    #: Names of its stages, each with the lesson that it is worked on in, or None for the exercise's own.
    stages: dict[str, int | None]


@dataclass(frozen=True, slots=True, kw_only=True)
class LessonView:
    """A lesson with its exercises, and who has nothing in for them though it is over."""

    lesson: PlannedLesson
    exercises: list[PlannedExercise]
    behind: list[tuple[User, list[str]]]
    #: Titles of exercises with the names of their stages that are worked on in it.
    stages: list[str]

    @property
    def estimate(self) -> float:
        """Minutes that its exercises take."""
        return sum(own.estimate for own in self.exercises)


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """A class's plan."""

    weeks: list[tuple[date, list[LessonView]]]
    exercises: list[PlannedExercise]
    #: Exercises that come before what they build on: (title, of what).
    too_early: list[tuple[str, str]]

    @property
    def lessons(self) -> list[PlannedLesson]:
        """All lessons, in their order."""
        return [view.lesson for _, lessons in self.weeks for view in lessons]


def read_plan(session: Session, classroom: Classroom, now: datetime) -> Plan:
    """Read a class's plan: its lessons week by week, with what is in them."""
    settings = ClassSettings.model_validate(classroom.settings)
    lessons = plan_queries.lessons_of_class(session, classroom.id)
    attempts = insight_queries.attempts_of_class(session, classroom.id)
    stages = plan_queries.stages_of_class(session, classroom.id)
    exercises = _exercises(session, classroom, settings.rates, attempts, lessons, stages)
    titles = {own.version.exercise: own.version.title for own in exercises}
    students = {own.id: own for own in class_queries.students_of_class(session, classroom.id)}
    checks = {
        (own.version.exercise, stage): checks
        for own in exercises
        for stage, checks in stages.get(own.version.id, {}).items()
    }
    done = plan_queries.done_by_work(session, classroom.id, reached_by(attempts, checks))
    views = {
        own.id: LessonView(
            lesson=own,
            exercises=[exercise for exercise in exercises if exercise.assignment.lesson_id == own.id],
            stages=[_work_words(titles, work) for work in own.stages],
            behind=[
                (students[student], [_work_words(titles, work) for work in missing])
                for student, missing in behind(own, students, done, now).items()
            ],
        )
        for own in lessons
    }
    after = {own.version.exercise: own.assignment.after for own in exercises if own.assignment.after}
    return Plan(
        weeks=[(monday, [views[own.id] for own in week]) for monday, week in by_week(lessons, settings.zone)],
        exercises=exercises,
        too_early=[(titles[early], titles[first]) for early, first in out_of_order(lessons, after)],
    )


def _work_words(titles: Mapping[str, str], work: tuple[str, str]) -> str:
    exercise, stage = work
    return f"{titles[exercise]}: {stage}" if stage else titles[exercise]


def _exercises(
    session: Session,
    classroom: Classroom,
    rates: Rates,
    attempts: Sequence[Attempt],
    lessons: Sequence[PlannedLesson],
    stages: Mapping[int, Mapping[str, Sequence[str]]],
) -> list[PlannedExercise]:
    assignments = class_queries.assignments_of_class(session, classroom.id)
    extents = exercise_queries.extents_of_versions(session, list(assignments))
    took = {own.exercise: own.hours_to_met for own in courses(attempts)}
    planned = {work: lesson.id for lesson in lessons for work in lesson.stages}
    return [
        PlannedExercise(
            version=version,
            assignment=assignments[version.id],
            estimate=estimated_minutes(extents.get(version.id, Extent(parts=0, sizes=0, relations=0)), rates),
            took=took.get(version.exercise),
            stages={stage: planned.get((version.exercise, stage)) for stage in stages.get(version.id, {})},
        )
        for version in exercise_queries.exercises_of_class(session, classroom.id)
    ]


@router.get("", name="plan")
def plan(request: Request, classroom: OwnClass, session: DbSession) -> Response:
    """Show the plan."""
    now = datetime.now(UTC)
    settings = ClassSettings.model_validate(classroom.settings)
    calendar = request.url_for("calendar_feed", key=classroom.calendar_key) if classroom.calendar_key else None
    return page(
        request, "plan.html", classroom=classroom, plan=read_plan(session, classroom, now), settings=settings, now=now,
        calendar=calendar, one_week=timedelta(weeks=1),
    )  # fmt: skip


@router.post("/lessons", name="add_lessons", dependencies=[CheckedForm])
def add_lessons(
    request: Request, classroom: TaughtClass, user: Teacher, session: DbSession,
    starts_at: Annotated[str, Form(max_length=40)] = "", minutes: Annotated[str, Form(max_length=10)] = "50",
    room: Annotated[str, Form(max_length=100)] = "", title: Annotated[str, Form(max_length=200)] = "",
    count: Annotated[str, Form(max_length=10)] = "1",
) -> Response:  # fmt: skip
    """Add a lesson, or one each week."""
    zone = ClassSettings.model_validate(classroom.settings).zone
    start = _start(starts_at, classroom)
    number = whole_between(count, 1, _MOST_LESSONS, where="lessons", field="count")
    starts = repeated(start, count=number, every_days=_DAYS_A_WEEK, zone=zone)
    plan_queries.add_lessons(
        session, classroom.id, starts, minutes=_minutes(minutes), room=room.strip(), title=title.strip()
    )
    log(session, "plan-changed", who_id=user.id, class_id=classroom.id)
    return _back(request, classroom)


@router.post("/lessons/{lesson_id}", name="change_lesson", dependencies=[CheckedForm])
def change_lesson(
    request: Request, lesson_id: Id, classroom: TaughtClass, user: Teacher, session: DbSession,
    starts_at: Annotated[str, Form(max_length=40)] = "", minutes: Annotated[str, Form(max_length=10)] = "50",
    room: Annotated[str, Form(max_length=100)] = "", title: Annotated[str, Form(max_length=200)] = "",
    do: Annotated[Literal["save", "remove"], Form()] = "save",
) -> Response:  # fmt: skip
    """Change a lesson alone, or take it out; its exercises stay with the class."""
    lesson = plan_queries.lesson_of_class(session, classroom.id, lesson_id)
    if do == "remove":
        plan_queries.remove_lesson(session, lesson)
    else:
        lesson.starts_at, lesson.minutes = _start(starts_at, classroom), _minutes(minutes)
        lesson.room, lesson.title = room.strip(), title.strip()
    log(session, "plan-changed", who_id=user.id, class_id=classroom.id)
    return _back(request, classroom)


@router.post("/lessons/{lesson_id}/move", name="move_lesson", dependencies=[CheckedForm])
def move_lesson(
    request: Request, lesson_id: Id, classroom: TaughtClass, user: Teacher, session: DbSession,
    days: Annotated[str, Form(max_length=10)] = "",
) -> Response:  # fmt: skip
    """Move a lesson and all that follow, with what is due or opens for their exercises."""
    plan_queries.lesson_of_class(session, classroom.id, lesson_id)
    by = whole_between(days, -_FARTHEST, _FARTHEST, where="days", field="days")
    zone = ClassSettings.model_validate(classroom.settings).zone
    lessons = moved(plan_queries.lessons_of_class(session, classroom.id), lesson_id, by, zone)
    for version in plan_queries.move_lessons(session, classroom, lessons, by):
        log(session, "terms-changed", who_id=user.id, class_id=classroom.id, title=version.title)
    log(session, "plan-changed", who_id=user.id, class_id=classroom.id)
    return RedirectResponse(f"{request.url_for('plan', class_id=classroom.id)}#lesson-{lesson_id}", status_code=303)


@router.post("/exercises/{version_id}", name="plan_exercise", dependencies=[CheckedForm])
def plan_exercise(
    request: Request, classroom: TaughtClass, assignment: OwnAssignment, user: Teacher, session: DbSession,
    lesson_id: FormId = 0, opens_at: Annotated[str, Form(max_length=40)] = "",
    after: Annotated[str, Form(max_length=200)] = "",
    stages: Annotated[list[str], Form(max_length=100)] = [],  # noqa: B006 (FastAPI copies its defaults)
    stage_lessons: Annotated[list[FormId], Form(max_length=100)] = [],  # noqa: B006
) -> Response:  # fmt: skip
    """Say in which lesson an exercise and each of its stages is worked on, from when it is seen, and what it follows.

    `stages` are names of stages, `stage_lessons` the lesson of each, or 0.
    """
    settings = ClassSettings.model_validate(classroom.settings)
    versions = exercise_queries.exercises_of_class(session, classroom.id)
    own = next(version for version in versions if version.id == assignment.version_id)
    if after and after not in {version.exercise for version in versions if version.exercise != own.exercise}:
        raise FormRejected(_("after"), _("the class has no such other exercise"), _("Choose one of the list"), "after")
    lesson = plan_queries.lesson_of_class(session, classroom.id, lesson_id) if lesson_id else None
    plan_queries.plan_exercise(
        session,
        assignment,
        lesson_id=lesson.id if lesson else None,
        opens_at=moment_or_none(opens_at, settings.zone, field="opens_at"),
        after=after,
        stages=_stage_lessons(session, classroom, own, stages, stage_lessons),
    )
    log(session, "plan-changed", who_id=user.id, class_id=classroom.id)
    return _back(request, classroom)


def _stage_lessons(
    session: Session, classroom: Classroom, version: ExerciseVersion, stages: Sequence[str], lessons: Sequence[int]
) -> dict[str, int]:
    names = plan_queries.stages_of_class(session, classroom.id).get(version.id, {})
    if len(stages) != len(lessons) or not set(stages) <= set(names):
        raise FormRejected(_("stages"), _("the exercise has no such stages"), _("Load the plan again"), "stages")
    return {
        stage: plan_queries.lesson_of_class(session, classroom.id, lesson).id
        for stage, lesson in zip(stages, lessons, strict=True)
        if lesson
    }


@router.post("/rates", name="change_rates", dependencies=[CheckedForm])
def change_rates(
    request: Request, classroom: TaughtClass, session: DbSession, part: Annotated[str, Form(max_length=10)] = "",
    size: Annotated[str, Form(max_length=10)] = "", relation: Annotated[str, Form(max_length=10)] = "",
) -> Response:  # fmt: skip
    """Keep how long a part, a size and a relation take this class."""
    typed = {"part": part, "size": size, "relation": relation}
    rates = {name: number_between(text, 0, _LONGEST, where=name, field=name) for name, text in typed.items()}
    settings = {**classroom.settings, "rates": rates}
    class_queries.change_class(session, classroom, name=classroom.name, settings=settings)
    return _back(request, classroom)


def _start(text: str, classroom: Classroom) -> datetime:
    start = moment_or_none(text, ClassSettings.model_validate(classroom.settings).zone, field="starts_at")
    if start is None:
        raise FormRejected(_("lesson"), _("it has no day and time"), _("Give them"), "starts_at")
    return start


def _minutes(text: str) -> int:
    return whole_between(text, 1, _LONGEST, where="length of the lesson", field="minutes")


def _back(request: Request, classroom: Classroom) -> Response:
    return RedirectResponse(request.url_for("plan", class_id=classroom.id), status_code=303)
