"""A class's marks as CSV."""

import csv
import io

from fastapi import APIRouter
from fastapi.responses import Response

from rigid_bench.core.names import slug
from rigid_bench.web.access import DbSession, OwnClass
from rigid_bench.web.pages.class_table import Table, read_table

router = APIRouter()

_HEAD = ("student", "sign-in", "exercise", "version", "state", "awarded", "available", "percent", "stage", "handed in")


@router.get("/classes/{class_id}/marks.csv")
def marks_csv(classroom: OwnClass, session: DbSession) -> Response:
    """Give one line per student and exercise."""
    # the mark at the front tells spreadsheets that this is UTF-8
    text = "\ufeff" + _csv(read_table(session, classroom))
    headers = {"Content-Disposition": f'attachment; filename="{slug(classroom.name)}-marks.csv"'}
    return Response(text, media_type="text/csv; charset=utf-8", headers=headers)


def _csv(table: Table) -> str:
    written = io.StringIO()
    writer = csv.writer(written)
    writer.writerow(_HEAD)
    for student, cells in table.rows:
        for version, cell in zip(table.versions, cells, strict=True):
            state = cell.state
            has_marks = state.awarded is not None and state.available
            percent = f"{100 * (state.awarded or 0) / (state.available or 1):.1f}" if has_marks else ""
            writer.writerow(
                [
                    _plain(student.name),
                    _plain(student.login),
                    _plain(version.title),
                    version.number,
                    state.word,
                    "" if state.awarded is None else f"{state.awarded:g}",
                    "" if state.available is None else f"{state.available:g}",
                    percent,
                    _plain(state.stage),
                    cell.build.handed_in_at.isoformat(timespec="seconds") if cell.build else "",
                ]
            )
    return written.getvalue()


def _plain(text: str) -> str:
    """Keep a spreadsheet from taking a name for a formula."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@", "\t", "\r") else text
