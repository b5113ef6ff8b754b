"""A class's marks as CSV and XLSX; all cards of an exercise as one PDF."""

import csv
import io
from collections.abc import Iterator

from fastapi import APIRouter
from fastapi.responses import Response
from openpyxl import Workbook
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from rigid_bench.core.errors import NotFound
from rigid_bench.core.names import slug
from rigid_bench.store import queries
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.tables import Classroom
from rigid_bench.web.access import DbSession, OwnAssignment, OwnClass, Teacher
from rigid_bench.web.pages.card_view import view_card
from rigid_bench.web.pages.class_table import Table, read_table
from rigid_bench.web.print import card_pdf

router = APIRouter(prefix="/classes/{class_id}")

_HEAD = (
    "student", "sign-in", "exercise", "version", "state", "awarded", "available", "percent", "grade", "stage",
    "handed in", "late", "builds",
)  # fmt: skip
_XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
_Value = str | int | float | None


@router.get("/marks.csv")
def marks_csv(classroom: OwnClass, session: DbSession) -> Response:
    """Give one line per student and exercise."""
    settings = ClassSettings.model_validate(classroom.settings)
    written = io.StringIO()
    # where the decimal sign is a comma, spreadsheets part cells by semicolons
    writer = csv.writer(written, delimiter=";" if settings.decimal == "comma" else ",")
    writer.writerow(_HEAD)
    for row in _rows(read_table(session, classroom), settings):
        writer.writerow([_text(each, settings) for each in row])
    # the mark at the front tells spreadsheets that this is UTF-8
    return _file(classroom, "\ufeff" + written.getvalue(), "csv", "text/csv; charset=utf-8")


@router.get("/marks.xlsx")
def marks_xlsx(classroom: OwnClass, session: DbSession) -> Response:
    """Give the same as a spreadsheet, numbers as numbers."""
    settings = ClassSettings.model_validate(classroom.settings)
    book = Workbook()
    sheet = book.active
    assert sheet is not None
    sheet.title = "Marks"
    sheet.append(list(_HEAD))
    for row in _rows(read_table(session, classroom), settings):
        sheet.append([_plain(each) if isinstance(each, str) else each for each in row])
    for cell in sheet[1]:
        cell.font = Font(bold=True)
    for number in range(1, len(_HEAD) + 1):
        sheet.column_dimensions[get_column_letter(number)].width = 20 if number in (1, 3, 10, 11) else 11
    sheet.freeze_panes = "A2"
    written = io.BytesIO()
    book.save(written)
    return _file(classroom, written.getvalue(), "xlsx", _XLSX)


@router.get("/exercises/{version_id}/cards.pdf")
def cards_pdf(classroom: OwnClass, found: OwnAssignment, user: Teacher, session: DbSession) -> Response:
    """Give all cards of an exercise as one PDF."""
    builds = [each for each in queries.builds_of_exercise(session, classroom.id, found.version_id) if each.runs]
    cards = [view_card(session, each, user) for each in sorted(builds, key=lambda each: each.student.name)]
    if not cards:
        raise NotFound("cards", "no build of this exercise is measured yet", "Wait for the first one")
    return _file(classroom, card_pdf(cards), "pdf", "application/pdf")


def _file(classroom: Classroom, content: str | bytes, ending: str, kind: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{slug(classroom.name)}-marks.{ending}"'}
    return Response(content, media_type=kind, headers=headers)


def _rows(table: Table, settings: ClassSettings) -> Iterator[list[_Value]]:
    for student, cells in table.rows:
        for version, cell in zip(table.versions, cells, strict=True):
            state, percent = cell.state, cell.state.percent
            yield [
                student.name,
                student.login,
                version.title,
                version.number,
                state.word,
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
    return "" if value is None else _plain(str(value))


def _plain(text: str) -> str:
    """Keep a spreadsheet from taking a name for a formula."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@", "\t", "\r") else text
