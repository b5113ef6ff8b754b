"""A class's calendar: lessons and what is due, at a secret address that can be taken away; nothing of a student's."""

from datetime import UTC, datetime
from typing import Annotated, Literal

from fastapi import Form, Request
from fastapi.responses import RedirectResponse, Response
from icalendar import Calendar, Event

from rigid_bench.app.classes import plan as planning
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries import class_queries, exercise_queries, plan_queries
from rigid_bench.store.tables import Classroom
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, TaughtClass, Teacher

router = page_router()


@router.get("/calendar/{key}.ics", name="calendar_feed")
def calendar_feed(key: str, session: DbSession) -> Response:
    """Give the calendar to whoever has its address (RFC 5545)."""
    classroom = plan_queries.class_by_calendar(session, key)
    content = calendar_of(session, classroom)
    headers = {"Cache-Control": "private, max-age=900"}
    return Response(content, media_type="text/calendar; charset=utf-8", headers=headers)


@router.post("/classes/{class_id}/calendar", name="change_calendar", dependencies=[CheckedForm])
def change_calendar(
    request: Request, classroom: TaughtClass, user: Teacher, session: DbSession,
    do: Annotated[Literal["make", "end"], Form()] = "make",
) -> Response:  # fmt: skip
    """Give the calendar an address, a new one, or none."""
    if do == "make":
        planning.make_calendar(session, classroom, teacher=user)
    else:
        planning.end_calendar(session, classroom, teacher=user)
    return RedirectResponse(f"{request.url_for('plan', class_id=classroom.id)}#calendar", status_code=303)


def calendar_of(session: DbSession, classroom: Classroom) -> bytes:
    """Write a class's lessons and due dates as iCalendar, in UTC."""
    calendar = Calendar()
    calendar.add("prodid", "-//Rigid Bench//plan//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", classroom.name)
    versions = exercise_queries.exercises_of_class(session, classroom.id)
    titles = {version.exercise: version.title for version in versions}
    for lesson in plan_queries.lessons_of_class(session, classroom.id):
        about = [f"{titles[exercise]}: {stage}" if stage else titles[exercise] for exercise, stage in lesson.work]
        title = ": ".join(filter(None, (classroom.name, lesson.title or ", ".join(about))))
        event = _event(f"lesson-{lesson.id}", title, lesson.starts_at, lesson.ends_at)
        if lesson.room:
            event.add("location", lesson.room)
        if about:
            event.add("description", ", ".join(about))
        calendar.add_component(event)
    assignments = class_queries.assignments_of_class(session, classroom.id)
    for version in versions:
        due_at = assignments[version.id].due_at
        if due_at is not None:
            title = _("{title} is due ({name})", title=version.title, name=classroom.name)
            calendar.add_component(_event(f"due-{classroom.id}-{version.id}", title, due_at, due_at))
    written: bytes = calendar.to_ical()
    return written


def _event(name: str, title: str, start: datetime, end: datetime) -> Event:
    event = Event()
    event.add("uid", f"{name}@rigid-bench")
    event.add("dtstamp", datetime.now(UTC))
    event.add("summary", title)
    event.add("dtstart", start.astimezone(UTC))
    event.add("dtend", end.astimezone(UTC))
    return event
