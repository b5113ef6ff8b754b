"""A draft's sizes as a table: out as CSV, and in again with other values."""

import csv
import io
from typing import Annotated, Any

from fastapi import File, Request, UploadFile
from fastapi.responses import Response

from rigid_bench.core.exercise.authoring.input_parsing import read_nominal, read_tolerance, tolerance_words
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.names import slug
from rigid_bench.core.wording.language import _
from rigid_bench.web.pages.exercises.desk_view import EXERCISE
from rigid_bench.web.pages.exercises.draft import keep_draft
from rigid_bench.web.routing import clean, page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, OwnDraft
from rigid_bench.web.spreadsheets import plain_cell, typed_cell

router = page_router("/drafts/{draft_id}/values")
_HEAD = ("id", "part", "title", "measure", "nominal", "tolerance")
_LARGEST = 1_000_000


@router.get(".csv", name="values_csv")
def values_csv(draft: OwnDraft) -> Response:
    """Give the sizes, a line each."""
    written = io.StringIO()
    writer = csv.writer(written)
    writer.writerow(_HEAD)
    for check in _sizes(draft.document or {}):
        cells = [check["id"], check.get("part", ""), check["title"], check.get("measure", ""),
                 check.get("nominal", ""), tolerance_words(check)]  # fmt: skip
        writer.writerow([plain_cell(cell) if isinstance(cell, str) else cell for cell in cells])
    headers = {"Content-Disposition": f'attachment; filename="{slug(draft.title)}-values.csv"'}
    return Response("\ufeff" + written.getvalue(), media_type="text/csv; charset=utf-8", headers=headers)


@router.post("", name="change_values", dependencies=[CheckedForm])
def change_values(
    request: Request, draft: OwnDraft, session: DbSession, table: Annotated[UploadFile | None, File()] = None
) -> Response:
    """Take nominals and tolerances from a table; lines are found by their id."""
    if draft.document is None:
        raise FormRejected(_("draft"), _("it is still being read"), _("Wait until its checks are there"))
    rows = _rows(table)
    known = {check["id"] for check in _sizes(draft.document)}
    unknown = next((name for name in rows if name not in known), None)
    if unknown is not None:
        raise FormRejected(
            _("table, line '{unknown}'", unknown=unknown),
            _("the draft has no such size"),
            _("Keep the ids as they were given out"),
        )
    document = {
        **draft.document,
        "checks": [
            {**check, **rows[check["id"]]} if check["id"] in rows else check for check in draft.document["checks"]
        ],
    }
    return keep_draft(request, session, draft, document, at=EXERCISE)


def _sizes(document: dict[str, Any]) -> list[dict[str, Any]]:
    return [check for check in document.get("checks", []) if check["kind"] == "dimension"]


def _rows(table: UploadFile | None) -> dict[str, dict[str, Any]]:
    data = table.file.read(_LARGEST) if table else b""
    try:
        text = clean(data.decode("utf-8-sig"))
    except UnicodeDecodeError as exc:
        raise FormRejected(_("table"), _("it is not UTF-8 text"), _("Save it as CSV, UTF-8")) from exc
    head = text.splitlines()[:1]
    is_comma = bool(head) and head[0].count(";") > head[0].count(",")
    reader = csv.DictReader(io.StringIO(text), delimiter=";" if is_comma else ",")
    if not {"id", "nominal"} <= set(reader.fieldnames or ()):
        raise FormRejected(
            _("table"), _("it has no columns id and nominal"), _("Take it out first, change it, and bring it in")
        )
    rows = {}
    for row in reader:
        nominal = typed_cell(row["nominal"] or "")
        changed: dict[str, Any] = {"nominal": read_nominal(nominal.replace(",", ".") if is_comma else nominal)}
        if (limits := typed_cell(row.get("tolerance") or "")) != "":
            changed["tolerance"] = read_tolerance(limits)
        if nominal:
            rows[typed_cell(row["id"] or "")] = changed
    return rows
