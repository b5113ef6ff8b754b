"""A class's marks as CSV and XLSX: line by line, by student, by check."""

import csv
import io
from collections.abc import Iterable, Iterator, Sequence
from typing import Literal

from fastapi.responses import Response
from openpyxl import Workbook
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from rigid_bench.core.formats.one_roster import LineItem, Result, write_results
from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.values.names import slug
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.marking import state_words
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.queries import exercise_queries, practice_queries
from rigid_bench.store.tables import Classroom
from rigid_bench.web.pages.classes.class_table import Table, read_table
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import DbSession, Id, OwnClass
from rigid_bench.web.spreadsheets import plain_cell

router = page_router("/classes/{class_id}")

_HEAD = (
    "student", "sign-in", "exercise", "version", "state", "awarded", "available", "percent", "grade", "stage",
    "handed in", "late", "builds",
)  # fmt: skip
_XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
_Value = str | int | float | None


Ending = Literal["csv", "xlsx"]


@router.get("/marks.{ending}", name="marks_list")
def marks_list(classroom: OwnClass, session: DbSession, ending: Ending) -> Response:
    """Give one line per student and exercise, and per student and practice that counts."""
    settings = ClassSettings.model_validate(classroom.settings)
    return _list(classroom, settings, "marks", ending, _HEAD, _all_rows(session, classroom, settings))


@router.get("/marks-by-student.{ending}", name="marks_by_student")
def marks_by_student(classroom: OwnClass, session: DbSession, ending: Ending) -> Response:
    """Give one line per student with a column for each exercise, and all of them together."""
    settings = ClassSettings.model_validate(classroom.settings)
    table = read_table(session, classroom)
    head = (
        "student",
        "sign-in",
        *(version.title for version in table.versions),
        "awarded",
        "available",
        "percent",
        "grade",
    )
    return _list(classroom, settings, "marks-by-student", ending, head, _by_student(table, settings))


def _by_student(table: Table, settings: ClassSettings) -> Iterator[list[_Value]]:
    """What was not handed in or is excused stays empty and counts for nothing."""
    for student, cells in table.rows:
        counted = [cell.state for cell in cells if cell.state.percent is not None]
        awarded, available = (sum(getattr(state, name) for state in counted) for name in ("awarded", "available"))
        percent = 100 * awarded / available if available else None
        yield [
            student.name,
            student.login,
            *(cell.state.awarded if cell.state.percent is not None else None for cell in cells),
            awarded,
            available,
            None if percent is None else round(percent, 1),
            "" if percent is None else settings.grade(percent),
        ]


@router.get("/exercises/{version_id}/marks-by-check.{ending}", name="marks_by_check")
def marks_by_check(classroom: OwnClass, version_id: Id, session: DbSession, ending: Ending) -> Response:
    """Give one line per student with the marks of each check of an exercise."""
    settings = ClassSettings.model_validate(classroom.settings)
    table = read_table(session, classroom)
    place = next((k for k, version in enumerate(table.versions) if version.id == version_id), None)
    if place is None:
        raise NotFound(_("exercise"), _("the class does not work on it"), _("Choose one of the class's table"))
    builds = [cells[place].build for _unused, cells in table.rows]
    marked = {check.id for build in builds if build for check in build.checks or ()}
    every = exercise_queries.checks_of_version(session, version_id)
    checks = [own for own in every if own[0] in marked or not marked]  # sizes that are only shown have no marks
    return _list(
        classroom, settings, "marks-by-check", ending, ("student", "sign-in", *(title for _unused, title in checks)),
        _by_check(table, place, [name for name, _unused in checks]),
    )  # fmt: skip


def _by_check(table: Table, place: int, checks: Sequence[str]) -> Iterator[list[_Value]]:
    for student, cells in table.rows:
        build = cells[place].build
        given = {check.id: build.given(check) for check in build.checks or ()} if build else {}
        yield [student.name, student.login, *(given.get(name) for name in checks)]


@router.get("/one-roster.zip", name="one_roster_results")
def one_roster_results(classroom: OwnClass, session: DbSession) -> Response:
    """Give the marks that were returned as OneRoster line items and results."""
    zone = ClassSettings.model_validate(classroom.settings).zone
    table = read_table(session, classroom)
    items, results = [], []
    for place, version in enumerate(table.versions):
        name = f"{slug(classroom.name)}-{slug(version.exercise)}-v{version.number}"
        due_at = table.assignments[version.id].due_at
        states = [(student, cells[place]) for student, cells in table.rows if cells[place].state.key == "returned"]
        most = max((cell.state.available or 0 for _, cell in states), default=0)
        due_on = due_at.astimezone(zone).date().isoformat() if due_at else ""
        items.append(LineItem(sourced_id=name, title=version.title, due_on=due_on, most=most))
        results += [
            Result(
                line_item=name,
                student=student.sourced_id or student.login,
                score=cell.state.awarded or 0,
                scored_on=cell.build.handed_in_at.astimezone(zone).date().isoformat() if cell.build else "",
            )
            for student, cell in states
        ]
    content = write_results(slug(classroom.name), items, results)
    return _file(classroom, content, "one-roster", "zip", "application/zip")


def _list(
    classroom: Classroom, settings: ClassSettings, what: str, ending: Ending, head: Sequence[str],
    rows: Iterable[list[_Value]],
) -> Response:  # fmt: skip
    """Write a list; in a spreadsheet numbers are numbers."""
    if ending == "csv":
        written = io.StringIO()
        # where the decimal sign is a comma, spreadsheets part cells by semicolons
        writer = csv.writer(written, delimiter=";" if settings.decimal == "comma" else ",")
        writer.writerow([plain_cell(title) for title in head])
        for row in rows:
            writer.writerow([_text(value, settings) for value in row])
        # the mark at the front tells spreadsheets that this is UTF-8
        return _file(classroom, "\ufeff" + written.getvalue(), what, ending, "text/csv; charset=utf-8")
    book = Workbook()
    sheet = book.active
    assert sheet is not None
    sheet.title = "Marks"
    sheet.append([plain_cell(title) for title in head])
    for row in rows:
        sheet.append([plain_cell(value) if isinstance(value, str) else value for value in row])
    for cell in sheet[1]:
        cell.font = Font(bold=True)
    for number in range(1, len(head) + 1):
        sheet.column_dimensions[get_column_letter(number)].width = 20 if number in (1, 3, 10, 11) else 11
    sheet.freeze_panes = "A2"
    saved = io.BytesIO()
    book.save(saved)
    return _file(classroom, saved.getvalue(), what, ending, _XLSX)


def _file(classroom: Classroom, content: str | bytes, what: str, ending: str, kind: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{slug(classroom.name)}-{what}.{ending}"'}
    return Response(content, media_type=kind, headers=headers)


def _all_rows(session: DbSession, classroom: Classroom, settings: ClassSettings) -> Iterator[list[_Value]]:
    """Yield the rows of exercises, then those of practice that counts."""
    table = read_table(session, classroom)
    yield from _rows(table, settings)
    sets = [own for own in practice_queries.sets_of_class(session, classroom.id) if own.marks]
    done = practice_queries.done_of_sets(session, [own.id for own in sets])
    for student, _unused in table.rows:
        for own in sets:
            count, right = done.get((own.id, student.id), (0, 0))
            share = min(right / own.number, 1.0)
            state = "practised" if count >= own.number else "practising" if count else "not begun"
            available = own.marks or 0.0
            yield [
                student.name, student.login, own.title, "practice", state, round(share * available, 2), available,
                round(100 * share, 1), settings.grade(100 * share), "", "", "", count,
            ]  # fmt: skip


def _rows(table: Table, settings: ClassSettings) -> Iterator[list[_Value]]:
    for student, cells in table.rows:
        for version, cell in zip(table.versions, cells, strict=True):
            state, percent = cell.state, cell.state.percent
            yield [
                student.name,
                student.login,
                version.title,
                version.number,
                state_words(state.key),
                state.awarded,
                state.available,
                None if percent is None else round(percent, 1),
                "" if percent is None else settings.grade(percent),
                state.stage,
                cell.build.handed_in_at.astimezone(settings.zone).isoformat(timespec="seconds") if cell.build else "",
                "late" if state.is_late else "",
                cell.build.attempts if cell.build else 0,
            ]


def _text(value: _Value, settings: ClassSettings) -> str:
    if isinstance(value, float):
        text = f"{value:g}"
        return text.replace(".", ",") if settings.decimal == "comma" else text
    return "" if value is None else plain_cell(str(value))
