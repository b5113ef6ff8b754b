"""A class's marks as CSV and XLSX."""

import csv
import io
from collections.abc import Iterator

from fastapi.responses import Response
from openpyxl import Workbook
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from rigid_bench.core.values.names import slug
from rigid_bench.core.wording.marking import STATES
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.queries import practice_queries
from rigid_bench.store.tables import Classroom
from rigid_bench.web.pages.classes.class_table import Table, read_table
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import DbSession, OwnClass
from rigid_bench.web.spreadsheets import plain_cell

router = page_router("/classes/{class_id}")

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
    for row in _all_rows(session, classroom, settings):
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
    for row in _all_rows(session, classroom, settings):
        sheet.append([plain_cell(each) if isinstance(each, str) else each for each in row])
    for cell in sheet[1]:
        cell.font = Font(bold=True)
    for number in range(1, len(_HEAD) + 1):
        sheet.column_dimensions[get_column_letter(number)].width = 20 if number in (1, 3, 10, 11) else 11
    sheet.freeze_panes = "A2"
    written = io.BytesIO()
    book.save(written)
    return _file(classroom, written.getvalue(), "xlsx", _XLSX)


def _file(classroom: Classroom, content: str | bytes, ending: str, kind: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{slug(classroom.name)}-marks.{ending}"'}
    return Response(content, media_type=kind, headers=headers)


def _all_rows(session: DbSession, classroom: Classroom, settings: ClassSettings) -> Iterator[list[_Value]]:
    """Yield the rows of exercises, then those of practice that counts."""
    table = read_table(session, classroom)
    yield from _rows(table, settings)
    sets = [own for own in practice_queries.sets_of_class(session, classroom.id) if own.marks]
    done = practice_queries.done_of_sets(session, [own.id for own in sets])
    for student, _ in table.rows:
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
                STATES[state.key],
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
