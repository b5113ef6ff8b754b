"""What the class got wrong: heat table, slips, whether it is the sheet, and what to teach again."""

import csv
import io
import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from functools import lru_cache
from typing import Annotated, Any

from fastapi import Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from markupsafe import Markup
from pydantic import Field
from sqlalchemy.orm import Session

from rigid_bench.app.exercises import draft as drafting
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.insight.attempts import Attempt, by_work, measured
from rigid_bench.core.insight.course import courses
from rigid_bench.core.insight.heat import HeatTable, heat_table
from rigid_bench.core.insight.sheet_suspects import Suspect, suspects
from rigid_bench.core.insight.slips import SlipRank, came_back, ranked
from rigid_bench.core.practice.drill import Drill
from rigid_bench.core.practice.kind import DrillKind
from rigid_bench.core.practice.registry import KINDS, drill_of
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.names import slug
from rigid_bench.core.wording.language import N_, _, translated
from rigid_bench.core.wording.slips import SlipKind, slip_kind, slip_name
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.queries import class_queries, exercise_queries, insight_queries
from rigid_bench.store.tables import Classroom, ExerciseVersion, User
from rigid_bench.web.figures.drill import drill_figures
from rigid_bench.web.figures.histogram import bars, histogram
from rigid_bench.web.forms import FormModel, IdField, number_or_none
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, OwnClass, TaughtClass, Teacher
from rigid_bench.web.spreadsheets import plain_cell

router = page_router("/classes/{class_id}/insight")
_VersionId = Annotated[int, Query(ge=0, le=2**31 - 1)]
_Weeks = Annotated[int, Query(ge=0, le=200)]
#: Slips in a list, and on the page to teach from; drills for each of these; helpers that are named.
_LISTED, _TAUGHT, _DRILLS, _HELPERS = 12, 3, 2, 4
#: What slips are about, in the order of the page; seeds that are tried for a drill of a slip.
_KINDS: dict[SlipKind, str] = {
    "freedom": N_("Freedom"),
    "seat": N_("Seats"),
    "size": N_("Sizes"),
    "build": N_("Whole builds"),
}
_TRIED = 60
#: Builds whose reports are looked through for a picture of a slip.
_LOOKED_AT = 5


@dataclass(frozen=True, slots=True, kw_only=True)
class Lesson:
    """One slip to teach again."""

    rank: SlipRank
    name: str
    #: Of one build: what was asked, what it had, why, what to do, and the place; without a name.
    check: CheckResult | None
    drills: list[tuple[Drill, list[tuple[str, Markup]]]]
    #: Who made it and put it right.
    helpers: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class _Asked:
    """What of a class is looked at."""

    classroom: Classroom
    versions: Sequence[ExerciseVersion]
    #: None for all exercises.
    version: ExerciseVersion | None
    students: Sequence[User]
    attempts: list[Attempt]


def _asked(session: Session, classroom: Classroom, version_id: int, weeks: int) -> _Asked:
    versions = exercise_queries.exercises_of_class(session, classroom.id)
    version = next((own for own in versions if own.id == version_id), None)
    attempts = insight_queries.attempts_of_class(session, classroom.id, version.exercise if version else None)
    if weeks:
        since = datetime.now(UTC) - timedelta(weeks=weeks)
        attempts = [attempt for attempt in attempts if attempt.at >= since]
    students = class_queries.students_of_class(session, classroom.id)
    own = {student.id for student in students}
    return _Asked(
        classroom=classroom, versions=versions, version=version, students=students,
        attempts=[attempt for attempt in attempts if attempt.student_id in own],
    )  # fmt: skip


@router.get("", name="insight")
def insight(
    request: Request, classroom: OwnClass, user: Teacher, session: DbSession, version_id: _VersionId = 0,
    weeks: _Weeks = 0,
) -> Response:  # fmt: skip
    """Show what went wrong, of one exercise or of all."""
    asked = _asked(session, classroom, version_id, weeks)
    slips = ranked(asked.attempts)
    suspects = _suspects(session, asked)
    return page(
        request,
        "insight.html",
        asked=asked,
        classroom=classroom,
        weeks=weeks,
        heat=_heat(session, asked) if asked.version else None,
        slips=slips[:_LISTED],
        charts=_charts(slips[:_LISTED]),
        suspects=[(own, histogram(own.values, own.low, own.high) if own.values else None) for own in suspects],
        courses_shown=[("", own) for own in courses(asked.attempts)] + _before(session, user.id, asked),
        names={student.id: student.name for student in asked.students},
        came_back=came_back(asked.attempts),
        slip_name=slip_name,
        slip_kind=slip_kind,
        settings=ClassSettings.model_validate(classroom.settings),
    )


def _charts(slips: Sequence[SlipRank]) -> list[tuple[str, Markup]]:
    """Draw the slips of freedom, seats, sizes and whole builds apart, all on one scale."""
    most = max((len(own.students) for own in slips), default=1)
    charts = []
    for kind, title in _KINDS.items():
        rows = [
            (slip_name(own.code), len(own.students), len(own.standing)) for own in slips if slip_kind(own.code) == kind
        ]
        charts += [(translated(title), bars(rows, most))] if rows else []
    return charts


def _heat(session: Session, asked: _Asked) -> HeatTable:
    assert asked.version is not None
    works = {student: measured(work) for (student, _), work in by_work(asked.attempts).items()}
    newest = {student: work[-1] for student, work in works.items() if work}
    checks = exercise_queries.checks_of_version(session, asked.version.id)
    return heat_table(checks, [student.id for student in asked.students], newest)


def _suspects(session: Session, asked: _Asked) -> list[Suspect]:
    if asked.version is None:
        return []
    own = {student.id for student in asked.students}
    rows = insight_queries.measured_checks(session, asked.classroom.id, asked.version.exercise)
    return suspects([row for row in rows if row.student_id in own])


def _before(session: Session, teacher_id: int, asked: _Asked) -> list[tuple[str, Any]]:
    """Return how the same exercise went in the teacher's other classes."""
    if asked.version is None:
        return []
    before = []
    for other in insight_queries.other_classes_of(session, teacher_id, asked.classroom.id, asked.version.exercise):
        own = courses(insight_queries.attempts_of_class(session, other.id, asked.version.exercise))
        before += [(other.name, course) for course in own]
    return before


@router.get("/teach", name="teach_again")
def teach_again(
    request: Request, classroom: OwnClass, session: DbSession, version_id: _VersionId = 0, weeks: _Weeks = 0
) -> Response:
    """Show the page for tomorrow, to print and to project: nobody is named on it but who can help, and that folded."""
    asked = _asked(session, classroom, version_id, weeks)
    names = {student.id: student.name for student in asked.students}
    lessons = [_lesson(session, own, names) for own in ranked(asked.attempts)[:_TAUGHT]]
    return page(
        request,
        "teach_again.html",
        asked=asked,
        classroom=classroom,
        lessons=lessons,
        weeks=weeks,
        settings=ClassSettings.model_validate(classroom.settings),
    )


def _lesson(session: Session, rank: SlipRank, names: dict[int, str]) -> Lesson:
    shown = None
    for build_id in rank.builds[:_LOOKED_AT]:  # the first whose place can be seen, else any
        check = insight_queries.check_of_build(session, build_id, rank.code)
        if check is not None and (shown is None or check.get("picture")):
            shown = CheckResult.model_validate(check)
            if shown.picture is not None:
                break
    kinds = [kind for kind in KINDS.values() if rank.code in kind.slips][:_DRILLS]
    drills = [_drill_of_slip(kind, rank.code) for kind in kinds]
    helpers = sorted(names[student] for student in rank.students - rank.standing if student in names)
    return Lesson(
        rank=rank, name=slip_name(rank.code), check=shown, helpers=helpers[:_HELPERS],
        drills=[(drill, drill_figures(drill)) for drill in drills],
    )  # fmt: skip


@lru_cache(maxsize=64)
def _drill_of_slip(kind: DrillKind, code: str) -> Drill:
    """Return a drill that plants just this slip, where the kind plants any; else its first."""
    tried = [drill_of(kind.name, 0, kind.levels[0])]
    for seed in range(1, _TRIED):
        if tried[-1].slip in (code, None):
            break
        tried.append(drill_of(kind.name, seed, kind.levels[0]))
    return next((drill for drill in tried if drill.slip == code), tried[0])


class MendedForm(FormModel):
    """A check of an exercise, and the value that it is to ask; without one it goes."""

    version_id: IdField = 0
    check_id: Annotated[str, Field(max_length=200)] = ""
    value: Annotated[str, Field(max_length=40)] = ""


@router.post("/mend", name="mend_sheet", dependencies=[CheckedForm])
def mend_sheet(
    request: Request,
    classroom: TaughtClass,
    user: Teacher,
    session: DbSession,
    form: Annotated[MendedForm, Form()],
) -> Response:
    """Make a draft of the exercise whose check asks the value that most have; without a value, a draft without it."""
    versions = exercise_queries.exercises_of_class(session, classroom.id)
    version = next((own for own in versions if own.id == form.version_id), None)
    if version is None:
        raise FormRejected(_("exercise"), _("the class does not work on it"), _("Open the page again"), "version_id")
    draft = drafting.start_mended_draft(
        session,
        request.app.state.queue,
        version,
        form.check_id,
        nominal=number_or_none(form.value, field="value"),
        teacher_id=user.id,
    )
    return RedirectResponse(request.url_for("draft", draft_id=draft.id), status_code=303)


@router.get("/slips.csv", name="slips_csv")
def slips_csv(classroom: OwnClass, session: DbSession, version_id: _VersionId = 0, weeks: _Weeks = 0) -> Response:
    """Give the slips as CSV."""
    asked = _asked(session, classroom, version_id, weeks)
    written = io.StringIO()
    writer = csv.writer(written)
    writer.writerow(("slip", "kind", "students", "made", "put right", "still open", "hours to put right"))
    for own in ranked(asked.attempts):
        hours = "" if own.hours is None else round(own.hours, 2)
        counts = (len(own.students), own.made, own.put_right, len(own.standing))
        writer.writerow((own.code, slip_kind(own.code), *counts, hours))
    return _file(classroom, "slips", "csv", written.getvalue())


@router.get("/heat.csv", name="heat_csv")
def heat_csv(classroom: OwnClass, session: DbSession, version_id: _VersionId = 0) -> Response:
    """Give the heat table as CSV: a line for each check, a column for each student."""
    asked = _asked(session, classroom, version_id, 0)
    if asked.version is None:
        raise FormRejected(_("exercise"), _("none was chosen"), _("Choose an exercise on the page"), "version_id")
    table, names = _heat(session, asked), {student.id: student.name for student in asked.students}
    written = io.StringIO()
    writer = csv.writer(written)
    writer.writerow(("check", *(plain_cell(names[student]) for student in table.students)))
    for check, title in table.checks:
        cells = (table.cells.get((student, check)) for student in table.students)
        writer.writerow((plain_cell(title), *(cell.verdict if cell else "met" for cell in cells)))
    return _file(classroom, "heat", "csv", written.getvalue())


@router.get("/insight.json", name="insight_json")
def insight_json(classroom: OwnClass, session: DbSession, version_id: _VersionId = 0, weeks: _Weeks = 0) -> Response:
    """Give all of it as JSON."""
    asked = _asked(session, classroom, version_id, weeks)
    document: dict[str, Any] = {
        "slips": [
            {"slip": own.code, "kind": slip_kind(own.code), "students": len(own.students), "made": own.made,
             "put_right": own.put_right, "still_open": len(own.standing), "hours": own.hours}
            for own in ranked(asked.attempts)
        ],
        "courses": [
            {"exercise": own.exercise, "handed_in": own.handed_in, "all_met": own.all_met, "attempts": own.attempts,
             "hours_to_met": own.hours_to_met, "left_open": [list(pair) for pair in own.left_open]}
            for own in courses(asked.attempts)
        ],
        "suspects": [
            {"check": own.check, "why": own.why, "missed": own.missed, "handed_in": own.handed_in, "value": own.value,
             "alike": own.alike}
            for own in _suspects(session, asked)
        ],
    }  # fmt: skip
    if asked.version is not None:
        table = _heat(session, asked)
        document["heat"] = [
            {"student": student, "check": check, "verdict": cell.verdict, "cause": cell.cause or None}
            for (student, check), cell in sorted(table.cells.items())
        ]
    return _file(classroom, "insight", "json", json.dumps(document, indent=1))


def _file(classroom: Classroom, what: str, ending: str, content: str) -> Response:
    kind = "application/json" if ending == "json" else "text/csv; charset=utf-8"
    headers = {"Content-Disposition": f'attachment; filename="{slug(classroom.name)}-{what}.{ending}"'}
    return Response(content if ending == "json" else "\ufeff" + content, media_type=kind, headers=headers)
