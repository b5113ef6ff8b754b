"""A table of mates, as CSV or XLSX: a line for each, with a point on the face or axis of each part. Loads no kernel."""

import csv
import io
import math
import zipfile
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from rigid_bench.core.formats.archive import check_zip, is_zip
from rigid_bench.core.formats.build import MOST_MATES, Sense
from rigid_bench.core.values.errors import InvalidDocument, UnreadableFile
from rigid_bench.core.wording.language import N_, _

#: Instead of a kind of mate: the part of the line holds the others.
GROUNDED = "grounded"
#: The heads of the columns, in the template's order; of a line that grounds a part, `kind` and `part a` are enough.
HEADS = ("kind", "part a", "a x", "a y", "a z", "part b", "b x", "b y", "b z", "value", "sense")
_ENDINGS = (".csv", ".xlsx")
_SENSES: dict[str, Sense] = {"": "either", "either": "either", "aligned": "aligned", "opposed": "opposed"}
_TEMPLATE = N_("Compare it with the template on the page “Mates as a table”")
_Point = tuple[float, float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class MateRow:
    """One line; points in the assembly's coordinates, mm."""

    line: int
    kind: str
    a: str
    at_a: _Point | None
    b: str
    at_b: _Point | None
    #: mm or degrees, as the kind says.
    value: float | None
    sense: Sense


def is_mate_table(name: str) -> bool:
    """Tell whether a file is taken for a table, by its name."""
    return name.lower().endswith(_ENDINGS)


def read_mate_table(data: bytes, *, name: str) -> list[MateRow]:
    """Read a table of mates.

    Raises
    ------
    UnreadableFile
        It is no table, or lacks a column.
    InvalidDocument
        A line cannot be meant: which one, and why.
    """
    rows = iter(_cells(data, name))
    heads = [_bare(cell) for cell in next(rows, [])]
    missing = [head for head in HEADS[:2] if _bare(head) not in heads]
    if missing:
        raise UnreadableFile(name, _("it has no column '{missing}'", missing=missing[0]), _TEMPLATE)
    places = {head: heads.index(_bare(head)) for head in HEADS if _bare(head) in heads}
    table = [
        _row(line, cells, places, name) for line, cells in enumerate(rows, 2) if any(cell.strip() for cell in cells)
    ]
    if not table or len(table) > MOST_MATES:
        raise UnreadableFile(name, _("it has {count} lines below its heads", count=len(table)), _TEMPLATE)
    return table


def write_template(kinds: Iterable[str]) -> bytes:
    """Return a table with an example of each kind that takes faces or axes, to be filled in."""
    written = io.StringIO()
    writer = csv.writer(written, lineterminator="\r\n")
    writer.writerow(HEADS)
    writer.writerow((GROUNDED, "Base"))
    for kind in kinds:
        writer.writerow((kind, "Base", 0, 0, 10, "Lid", 0, 0, 10, "", ""))
    return written.getvalue().encode("utf-8-sig")


def _bare(head: str) -> str:
    return "".join(sign for sign in head.lower() if sign.isalnum())


def _cells(data: bytes, name: str) -> Iterator[list[str]]:
    if is_zip(data):
        yield from _of_workbook(data, name)
        return
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as exc:
        raise UnreadableFile(name, _("it is no text in UTF-8"), _("Save it as CSV, UTF-8, or as XLSX")) from exc
    head = text.split("\n", 1)[0]
    separator = max(",;\t", key=head.count)
    try:
        yield from csv.reader(io.StringIO(text), delimiter=separator)
    except csv.Error as exc:
        raise UnreadableFile(name, _("its quotation marks are not closed"), _("Save it as CSV again")) from exc


def _of_workbook(data: bytes, name: str) -> Iterator[list[str]]:
    from openpyxl import load_workbook  # most hand-ins have none

    check_zip(data, name=name)
    try:
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=True)
        for row in book.worksheets[0].iter_rows(values_only=True):
            yield ["" if cell is None else str(cell) for cell in row]
    except (KeyError, ValueError, IndexError, zipfile.BadZipFile) as exc:
        raise UnreadableFile(name, _("it is no workbook that can be read"), _("Save it as CSV, UTF-8")) from exc


def _row(line: int, cells: Sequence[str], places: dict[str, int], name: str) -> MateRow:
    def cell(head: str) -> str:
        place = places.get(head)
        return cells[place].strip() if place is not None and place < len(cells) else ""

    where = f"{name}, line {line}"
    kind, sense = cell("kind").lower(), cell("sense").lower()
    if sense not in _SENSES:
        raise InvalidDocument(where, _("'{sense}' is no sense", sense=sense), _("Write aligned, opposed, or nothing"))
    for side in ("a", "b") if kind != GROUNDED else ("a",):
        if not cell(f"part {side}"):
            raise InvalidDocument(
                where, _("it does not say part {side}", side=side), _("Name the part as the STEP file does")
            )
    points = [[_number(cell(f"{side} {axis}"), where) for axis in "xyz"] for side in "ab"]
    at_a, at_b = (_point(values, where, side) for values, side in zip(points, "ab", strict=True))
    if kind != GROUNDED and (at_a is None or at_b is None):
        side = "a" if at_a is None else "b"
        raise InvalidDocument(
            where, _("it gives no point on part {side}", side=side), _("Give x, y and z of a point on the face or axis")
        )
    return MateRow(
        line=line, kind=kind, a=cell("part a"), at_a=at_a, b=cell("part b"), at_b=at_b,
        value=_number(cell("value"), where), sense=_SENSES[sense],
    )  # fmt: skip


def _number(text: str, where: str) -> float | None:
    if not text:
        return None
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = math.nan
    if not math.isfinite(value) or abs(value) > 1e6:
        raise InvalidDocument(
            where, _("'{text}' is no number that can be meant", text=text[:20]), _("Write one such as 12.5")
        )
    return value


def _point(values: Sequence[float | None], where: str, side: str) -> _Point | None:
    known = [value for value in values if value is not None]
    if not known:
        return None
    if len(known) < 3:
        raise InvalidDocument(where, _("the point on part {side} is not whole", side=side), _("Give x, y and z"))
    return (known[0], known[1], known[2])
