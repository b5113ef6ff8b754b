"""OneRoster 1.2 as CSV in a zip: students of a class in, results out (1EdTech, OneRoster CSV Binding 1.2; from memory).

Columns are found by their names, so that files of version 1.1 are read, too.
"""

import csv
import io
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from rigid_bench.core.formats.archive import read_zip, write_zip
from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.core.wording.language import N_, _

_NEXT = N_("Export users, classes and enrollments as OneRoster CSV, in one zip")
_WANTED: Mapping[str, Sequence[str]] = {
    "users.csv": ("sourcedId", "username", "givenName", "familyName"),
    "classes.csv": ("sourcedId", "title"),
    "enrollments.csv": ("classSourcedId", "userSourcedId", "role"),
}
#: Of a row that is gone in the school's system.
_GONE = "tobedeleted"
_LINE_ITEMS = (
    "sourcedId", "status", "dateLastModified", "title", "description", "assignDate", "dueDate", "classSourcedId",
    "categorySourcedId", "gradingPeriodSourcedId", "resultValueMin", "resultValueMax", "schoolSourcedId",
)  # fmt: skip
_RESULTS = (
    "sourcedId", "status", "dateLastModified", "lineItemSourcedId", "studentSourcedId", "scoreStatus", "score",
    "scoreDate", "comment",
)  # fmt: skip
_MANIFEST = (
    ("manifest.version", "1.0"), ("oneroster.version", "1.2"), ("file.lineItems", "bulk"), ("file.results", "bulk"),
    ("source.systemName", "Rigid Bench"), ("source.systemCode", "rigid-bench"),
)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class RosterStudent:
    """A student as the school's system has them."""

    sourced_id: str
    username: str
    given_name: str
    family_name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LineItem:
    """An exercise that is marked."""

    sourced_id: str
    title: str
    #: A day, YYYY-MM-DD; "" for none.
    due_on: str
    most: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Result:
    """A student's marks for one."""

    line_item: str
    student: str
    score: float
    #: A day, YYYY-MM-DD.
    scored_on: str


def read_classes(data: bytes, *, name: str) -> dict[str, list[RosterStudent]]:
    """Return the students of each class by the class's title; the same title twice has its identifier beside it.

    Raises
    ------
    UnreadableFile
        A file or a column is missing.
    """
    files = read_zip(data, name=name)
    tables = {file: _table(files, file, name) for file in _WANTED}
    users = {row["sourcedId"]: row for row in tables["users.csv"]}
    titles = _titles(tables["classes.csv"])
    students_of: dict[str, list[RosterStudent]] = {title: [] for title in titles.values()}
    for row in tables["enrollments.csv"]:
        user, title = users.get(row["userSourcedId"]), titles.get(row["classSourcedId"])
        if user is not None and title is not None and row["role"].strip().lower() == "student":
            students_of[title].append(
                RosterStudent(
                    sourced_id=user["sourcedId"],
                    username=user["username"],
                    given_name=user["givenName"],
                    family_name=user["familyName"],
                )
            )
    return students_of


def _titles(classes: Sequence[Mapping[str, str]]) -> dict[str, str]:
    every = [row["title"] for row in classes]
    return {
        row["sourcedId"]: row["title"] if every.count(row["title"]) == 1 else f"{row['title']} ({row['sourcedId']})"
        for row in classes
    }


def _table(files: Mapping[str, bytes], file: str, name: str) -> list[dict[str, str]]:
    if file not in files:
        raise UnreadableFile(name, _("there is no {file} in it", file=file), _NEXT)
    try:
        rows = list(csv.DictReader(io.StringIO(files[file].decode("utf-8-sig"))))
    except (UnicodeDecodeError, csv.Error) as exc:
        raise UnreadableFile(file, _("it is no CSV in UTF-8"), _NEXT) from exc
    for column in _WANTED[file]:
        if rows and column not in rows[0]:
            raise UnreadableFile(file, _("it has no column {column}", column=column), _NEXT)
    # what stands beyond the head has no name, and what a line lacks no value
    kept = [{key: (value or "").strip() for key, value in row.items() if key is not None} for row in rows]
    return [row for row in kept if row.get("status", "").lower() != _GONE]


def write_results(class_id: str, items: Iterable[LineItem], results: Iterable[Result]) -> bytes:
    """Return line items and results of a class, by its identifier, as a zip, in bulk."""
    lines = [
        (own.sourced_id, "", "", own.title, "", "", own.due_on, class_id, "", "", "0", f"{own.most:g}", "")
        for own in items
    ]
    marks = [
        (f"{own.line_item}-{own.student}", "", "", own.line_item, own.student, "fully graded", f"{own.score:g}",
         own.scored_on, "")
        for own in results
    ]  # fmt: skip
    return write_zip(
        {
            "manifest.csv": _written(("propertyName", "value"), _MANIFEST),
            "lineItems.csv": _written(_LINE_ITEMS, lines),
            "results.csv": _written(_RESULTS, marks),
        }
    )


def _written(head: Sequence[str], rows: Iterable[Sequence[str]]) -> bytes:
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\r\n")
    writer.writerow(head)
    writer.writerows(rows)
    return text.getvalue().encode()
