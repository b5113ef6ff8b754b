"""The start page: a student's exercises with what is due and what is new, or a teacher's day; all classes."""

from dataclasses import dataclass
from datetime import UTC, datetime

from fastapi import Request
from fastapi.responses import RedirectResponse, Response

from rigid_bench.core.marking.standing import before_return
from rigid_bench.core.marking.state import BuildState, build_state
from rigid_bench.core.wording.language import _
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.queries import build_queries, class_queries, marking_queries, notice_queries
from rigid_bench.store.rules import rules_of_class
from rigid_bench.store.standing import standing
from rigid_bench.store.tables import Build, Classroom, ExerciseVersion, Notice
from rigid_bench.web.pages.classes.day import day_page
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, SignedIn, Teacher

router = page_router()


@dataclass(frozen=True, slots=True, kw_only=True)
class TaskView:
    """One exercise of a student's."""

    classroom: Classroom
    version: ExerciseVersion
    build: Build | None
    state: BuildState
    due_at: datetime | None
    shows: str
    settings: ClassSettings
    #: The student's hand is up on this build.
    is_hand_up: bool = False

    @property
    def shows_marks(self) -> bool:
        """The student sees marks before the card is returned."""
        return self.shows == "full"

    @property
    def is_overdue(self) -> bool:
        """It was due and nothing came."""
        return self.build is None and self.due_at is not None and self.due_at < datetime.now(UTC)

    @property
    def next_step(self) -> str:
        """What the student does next, in a few words."""
        if self.state.key == "absent":
            return _("You are excused from this one.")
        if self.build is None:
            return _("Read the sheet, model the parts, and hand in.")
        if self.state.key == "failed":
            return _("Read what went wrong on the card, and hand in again.")
        if self.state.open_checks and self.state.key != "returned":
            return _("Read your card and put right what is off.")
        return "" if self.state.key == "returned" else _("Wait for your teacher.")

    @property
    def rank(self) -> tuple[int, datetime]:
        """What is due comes first, then what waits, then what is returned."""
        order = {"none": 0, "failed": 1, "queued": 2, "measuring": 2, "graded": 3, "returned": 4, "absent": 5}
        return order[self.state.key], self.due_at or datetime.max.replace(tzinfo=UTC)


@router.get("/")
def home(request: Request, user: SignedIn, session: DbSession) -> Response:
    """Show what there is to do."""
    if user.is_student:
        tasks = _tasks(session, user.id)
        marking_queries.note_seen(session, [task.build.id for task in tasks if task.build and task.build.returns])
        return page(request, "home.html", tasks=tasks, notices=_notices(session, user.id))
    return day_page(request, user.id, session)


@router.get("/classes", name="class_list")
def class_list(request: Request, user: Teacher, session: DbSession) -> Response:
    """Show a teacher's classes, and a form for a new one."""
    classes = class_queries.classes_of_teacher(session, user.id)
    waiting = build_queries.count_to_return(session, [classroom.id for classroom in classes])
    taught = {
        classroom.id for classroom in class_queries.classes_of_teacher(session, user.id, roles=class_queries.TEACHES)
    }
    shown = [(classroom, waiting.get(classroom.id, 0)) for classroom in classes]
    archived = class_queries.classes_of_teacher(session, user.id, is_archived=True)
    return page(request, "class_list.html", classes=shown, taught=taught, archived=archived)


def _notices(session: DbSession, user_id: int) -> list[tuple[Notice, ClassSettings]]:
    """List what a student has not marked as read, each with the settings of the class that it comes from."""
    notices = notice_queries.notices_of(session, user_id)
    rooms = {notice.build.class_id for notice in notices if notice.build}
    settings = class_queries.settings_of_classes(session, rooms)
    return [(notice, settings[notice.build.class_id] if notice.build else ClassSettings()) for notice in notices]


def _tasks(session: DbSession, student_id: int) -> list[TaskView]:
    tasks = build_queries.tasks_of_student(session, student_id)
    rules = {room: rules_of_class(session, room) for room in {task.classroom.id for task in tasks}}
    hands = {hand.build_id for hand in marking_queries.hands_of_student(session, student_id)}
    views = []
    for task in tasks:
        own = rules[task.classroom.id]
        build = task.build
        for other in own.groups.get((student_id, task.version.id), ()):
            theirs = build_queries.newest_build_of(session, task.classroom.id, task.version.id, other)
            build = max(filter(None, (build, theirs)), key=lambda build: build.id, default=None)
        builds = own.of(task.version, student_id)
        views.append(
            TaskView(
                classroom=task.classroom,
                version=task.version,
                build=build,
                state=build_state(before_return(standing(build)) if build else None, builds),
                due_at=builds.due_at,
                shows=own.assignments[task.version.id].shows,
                settings=ClassSettings.model_validate(task.classroom.settings),
                is_hand_up=build is not None and build.id in hands,
            )
        )
    return sorted(views, key=lambda view: view.rank)


@router.post("/notices", name="see_notices", dependencies=[CheckedForm])
def see_notices(request: Request, user: SignedIn, session: DbSession) -> Response:
    """Mark the notices as read."""
    notice_queries.see_notices(session, user.id)
    return RedirectResponse(request.url_for("home"), status_code=303)
