"""A class's plan: lessons in their weeks, the exercises in them, how long these take, who is behind."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from typing import Annotated, Literal
from zoneinfo import ZoneInfo

from fastapi import Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import Field
from sqlalchemy.orm import Session

from rigid_bench.app.classes import plan as planning
from rigid_bench.core.insight.attempts import Attempt, reached_by
from rigid_bench.core.insight.course import courses
from rigid_bench.core.planning.estimate import Extent, Rates, estimated_minutes
from rigid_bench.core.planning.lessons import PlannedLesson, behind, by_week, out_of_order, repeated
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.queries import class_queries, exercise_queries, insight_queries, plan_queries
from rigid_bench.store.tables import Assignment, Classroom, ExerciseVersion, User
from rigid_bench.web.forms import FormModel, IdField, moment_or_none, number_between, whole_between
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


class LessonForm(FormModel):
    """A lesson as typed."""

    starts_at: str = Field(default="", max_length=40)
    minutes: str = Field(default="50", max_length=10)
    room: str = Field(default="", max_length=100)
    title: str = Field(default="", max_length=200)

    def start(self, zone: ZoneInfo) -> datetime:
        """Read when it begins, by a class's clock."""
        start = moment_or_none(self.starts_at, zone, field="starts_at")
        if start is None:
            raise FormRejected(_("lesson"), _("it has no day and time"), _("Give them"), "starts_at")
        return start

    def fields(self) -> planning.LessonFields:
        """Read the rest."""
        minutes = whole_between(self.minutes, 1, _LONGEST, where=_("length of the lesson"), field="minutes")
        return planning.LessonFields(minutes=minutes, room=self.room.strip(), title=self.title.strip())


class LessonsForm(LessonForm):
    """Lessons that are alike, one each week."""

    count: str = Field(default="1", max_length=10)


class ChangedLessonForm(LessonForm):
    """A lesson that is changed, or taken out."""

    do: Literal["save", "remove"] = "save"


@router.post("/lessons", name="add_lessons", dependencies=[CheckedForm])
def add_lessons(
    request: Request, classroom: TaughtClass, user: Teacher, session: DbSession, form: Annotated[LessonsForm, Form()]
) -> Response:
    """Add a lesson, or one each week."""
    zone = ClassSettings.model_validate(classroom.settings).zone
    count = whole_between(form.count, 1, _MOST_LESSONS, where=_("lessons"), field="count")
    starts = repeated(form.start(zone), count=count, every_days=_DAYS_A_WEEK, zone=zone)
    planning.add_lessons(session, classroom, starts, form.fields(), teacher=user)
    return _back(request, classroom)


@router.post("/lessons/{lesson_id}", name="change_lesson", dependencies=[CheckedForm])
def change_lesson(
    request: Request,
    lesson_id: Id,
    classroom: TaughtClass,
    user: Teacher,
    session: DbSession,
    form: Annotated[ChangedLessonForm, Form()],
) -> Response:
    """Change a lesson alone, or take it out; its exercises stay with the class."""
    if form.do == "remove":
        planning.remove_lesson(session, classroom, lesson_id, teacher=user)
    else:
        start = form.start(ClassSettings.model_validate(classroom.settings).zone)
        planning.change_lesson(session, classroom, lesson_id, start, form.fields(), teacher=user)
    return _back(request, classroom)


@router.post("/lessons/{lesson_id}/move", name="move_lesson", dependencies=[CheckedForm])
def move_lesson(
    request: Request,
    lesson_id: Id,
    classroom: TaughtClass,
    user: Teacher,
    session: DbSession,
    days: Annotated[str, Form(max_length=10)] = "",
) -> Response:
    """Move a lesson and all that follow, with what is due or opens for their exercises."""
    by = whole_between(days, -_FARTHEST, _FARTHEST, where=_("days"), field="days")
    zone = ClassSettings.model_validate(classroom.settings).zone
    planning.move_lessons(session, classroom, lesson_id, by, zone, teacher=user)
    return RedirectResponse(f"{request.url_for('plan', class_id=classroom.id)}#lesson-{lesson_id}", status_code=303)


class PlannedForm(FormModel):
    """In which lesson an exercise is worked on, from when it is seen, and what it follows, as typed."""

    lesson_id: IdField = 0
    opens_at: str = Field(default="", max_length=40)
    after: str = Field(default="", max_length=200)
    #: Names of stages, and in their order the lesson of each, or 0.
    stages: list[str] = Field(default=[], max_length=100)
    stage_lessons: list[IdField] = Field(default=[], max_length=100)

    def lessons(self) -> dict[str, int]:
        """Read the lesson of each stage."""
        if len(self.stages) != len(self.stage_lessons):
            raise FormRejected(_("stages"), _("the exercise has no such stages"), _("Load the plan again"), "stages")
        return dict(zip(self.stages, self.stage_lessons, strict=True))


@router.post("/exercises/{version_id}", name="plan_exercise", dependencies=[CheckedForm])
def plan_exercise(
    request: Request,
    classroom: TaughtClass,
    assignment: OwnAssignment,
    user: Teacher,
    session: DbSession,
    form: Annotated[PlannedForm, Form()],
) -> Response:
    """Say in which lesson an exercise is worked on, from when it is seen, and what it follows."""
    zone = ClassSettings.model_validate(classroom.settings).zone
    planning.plan_exercise(
        session,
        classroom,
        assignment,
        lesson_id=form.lesson_id,
        opens_at=moment_or_none(form.opens_at, zone, field="opens_at"),
        after=form.after,
        stages=form.lessons(),
        teacher=user,
    )
    return _back(request, classroom)


class RatesForm(FormModel):
    """How long a part, a size and a relation take, as typed."""

    part: str = Field(default="", max_length=10)
    size: str = Field(default="", max_length=10)
    relation: str = Field(default="", max_length=10)


@router.post("/rates", name="change_rates", dependencies=[CheckedForm])
def change_rates(
    request: Request, classroom: TaughtClass, session: DbSession, form: Annotated[RatesForm, Form()]
) -> Response:
    """Keep how long a part, a size and a relation take this class."""
    minutes = {
        name: number_between(text, 0, _LONGEST, where=name, field=name) for name, text in form.model_dump().items()
    }
    planning.change_rates(session, classroom, Rates.model_validate(minutes))
    return _back(request, classroom)


def _back(request: Request, classroom: Classroom) -> Response:
    return RedirectResponse(request.url_for("plan", class_id=classroom.id), status_code=303)
