"""Changing sizes of an exercise: what that touches, here and in other exercises, and the new versions made together."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import Depends, Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import Field
from sqlalchemy.orm import Session

from rigid_bench.app.exercises import change_sizes as resizing
from rigid_bench.app.exercises import release
from rigid_bench.core.exercise.change_impact.models import SizeChange, TouchedCheck, can_change
from rigid_bench.core.exercise.review.examined import Examined
from rigid_bench.core.planning.lessons import PlannedLesson
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.queries import class_queries, draft_queries, exercise_queries, plan_queries
from rigid_bench.store.tables import ChangeRequest, Classroom, Draft, ExerciseVersion
from rigid_bench.web.forms import FormModel, number_between
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, Id, Teacher

of_version = page_router("/exercises/versions/{version_id}/sizes")
of_change = page_router("/changes/{change_id}")
#: A size may be so large, in the exercise's unit.
_LARGEST = 100_000.0


def own_change(change_id: Id, user: Teacher, session: DbSession) -> ChangeRequest:
    """Return a change of the teacher who asks."""
    return draft_queries.change_of(session, change_id, user.id)


OwnChange = Annotated[ChangeRequest, Depends(own_change)]


@dataclass(frozen=True, slots=True, kw_only=True)
class TouchedExercise:
    """An exercise that a change touches: its parts by name, its checks, the lessons in which classes work on it."""

    version: ExerciseVersion
    parts: list[str]
    joined: list[str]
    checks: list[TouchedCheck]
    part_names: Mapping[str, str]
    #: The classes that work on it, each with its lessons on it.
    classes: list[tuple[Classroom, ClassSettings, list[PlannedLesson]]]
    #: The draft of its next version; None once that is released or dropped.
    draft: Draft | None
    is_sound: bool


@of_version.get("", name="change_sizes")
def change_sizes(
    request: Request, version_id: Id, user: Teacher, session: DbSession,
    change: Annotated[int, Query(ge=0, le=2**31 - 1)] = 0,
) -> Response:  # fmt: skip
    """Show the sizes of an exercise that the program can change; with the values of a change that was looked at."""
    version = draft_queries.get_version(session, version_id)
    typed = (
        {own["check"]: own["value"] for own in draft_queries.change_of(session, change, user.id).sizes}
        if change
        else {}
    )
    return page(
        request, "change_sizes.html", version=version, sizes=_sizes(version), parts=_part_names(version), typed=typed
    )


class SizesForm(FormModel):
    """Sizes as they are typed: the checks, and in their order what is typed of each."""

    check: list[str] = Field(default=[], max_length=1000)
    value: list[str] = Field(default=[], max_length=1000)

    def changes(self, titles: Mapping[str, str]) -> list[SizeChange]:
        """Read the new values of sizes that can be changed, whose titles are given by check."""
        typed = [
            (place, name, text)
            for place, (name, text) in enumerate(zip(self.check, self.value, strict=False))
            if text.strip() and name in titles
        ]
        return [
            SizeChange(
                check=name, value=number_between(text, 0.001, _LARGEST, where=titles[name], field=f"value[{place}]")
            )
            for place, name, text in typed
        ]


@of_version.post("", name="follow_sizes", dependencies=[CheckedForm])
def follow_sizes(
    request: Request,
    version_id: Id,
    user: Teacher,
    session: DbSession,
    form: Annotated[SizesForm, Form()],
) -> Response:
    """Look at what other sizes touch; those without a new value stay as they are."""
    version = draft_queries.get_version(session, version_id)
    changes = form.changes({own["id"]: own["title"] for own in _sizes(version)})
    change = resizing.follow_sizes(session, request.app.state.queue, version, changes, teacher_id=user.id)
    return RedirectResponse(request.url_for("size_change", change_id=change.id), status_code=303)


def _sizes(version: ExerciseVersion) -> list[dict[str, Any]]:
    files = {part["id"] for part in version.document["parts"] if part.get("file")}
    return [
        own
        for own in version.document["checks"]
        if own["kind"] == "dimension" and own["part"] in files and can_change(own)
    ]


def _part_names(version: ExerciseVersion) -> dict[str, str]:
    return {part["id"]: part["name"] for part in version.document["parts"]}


@of_change.get("", name="size_change")
def size_change(request: Request, change: OwnChange, user: Teacher, session: DbSession) -> Response:
    """Show what a change touches; asked by htmx while it is looked at, that alone."""
    template = "_size_change.html" if "hx-request" in request.headers else "size_change.html"
    titles = {own["id"]: own["title"] for own in change.version.document["checks"]}
    touched = _touched(session, change, user.id)
    return page(
        request,
        template,
        change=change,
        sizes=[(titles.get(own["check"], own["check"]), own["value"]) for own in change.sizes],
        units=change.version.document.get("units", "mm"),
        touched=touched,
        is_open=any(own.draft for own in touched),
        is_sound=all(own.is_sound for own in touched if own.draft),
    )


def _touched(session: Session, change: ChangeRequest, teacher_id: int) -> list[TouchedExercise]:
    drafts = {(own.document or {}).get("id"): own for own in draft_queries.drafts_of_change(session, change.id)}
    rooms = class_queries.classes_of_teacher(session, teacher_id)
    lessons = {room.id: plan_queries.lessons_of_class(session, room.id) for room in rooms} if change.touched else {}
    touched = []
    for own in change.touched:
        version = draft_queries.get_version(session, own["version"])
        working = exercise_queries.classes_of_exercise(session, version.exercise, [room.id for room in rooms])
        draft = drafts.get(version.exercise)
        names = _part_names(version)
        touched.append(
            TouchedExercise(
                version=version,
                parts=[names[part] for part in own["parts"]],
                joined=[names[part] for part in own["joined"]],
                checks=[TouchedCheck.model_validate(check) for check in own["checks"]],
                part_names=names,
                classes=[
                    (
                        room,
                        ClassSettings.model_validate(room.settings),
                        [
                            lesson
                            for lesson in lessons[room.id]
                            if version.exercise in {name for name, _ in lesson.work}
                        ],
                    )
                    for room in rooms
                    if room.id in working
                ],
                draft=draft,
                is_sound=bool(draft and draft.examined and Examined.model_validate(draft.examined).is_sound),
            )
        )
    return touched


@of_change.post("/release", name="release_change", dependencies=[CheckedForm])
def release_change(
    request: Request, change: OwnChange, user: Teacher, session: DbSession,
    all_the_same: Annotated[bool, Form()] = False,
) -> Response:  # fmt: skip
    """Release the next versions of all exercises that it touches; where one is not sound only if that is meant."""
    release.release_change(session, change, teacher=user, all_the_same=all_the_same)
    return RedirectResponse(request.url_for("exercises"), status_code=303)


@of_change.post("/drop", name="drop_change", dependencies=[CheckedForm])
def drop_change(request: Request, change: OwnChange, session: DbSession) -> Response:
    """Forget the change and its drafts."""
    resizing.drop_change(session, change)
    return RedirectResponse(request.url_for("exercises"), status_code=303)


router = page_router()
for part in (of_version, of_change):
    router.include_router(part)
