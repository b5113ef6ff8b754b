"""An exercise from a table of values: parts that are asked for by description, without a model."""

import csv
import io
import json
from typing import Any

from rigid_bench.core.exercise.authoring.input_parsing import read_nominal, read_tolerance
from rigid_bench.core.exercise.bundle import FILE
from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.core.values.names import slug, unique
from rigid_bench.core.wording.language import _, series

#: Columns of the table; the last two may be left out.
COLUMNS = ("part", "title", "measure", "nominal", "tolerance", "axis")
_AXES = ("x", "y", "z")
_MOST = 500


def from_table(data: bytes, *, name: str, title: str) -> dict[str, bytes]:
    r"""Make an exercise of a table of values.

    Parameters
    ----------
    data
        CSV with a head, by commas or semicolons: part, title, measure, nominal, and perhaps tolerance and axis. Where
        values are parted by semicolons a comma is a decimal one.
    name
        Of the file, for messages.
    title
        Of the exercise.

    Returns
    -------
    dict of str to bytes
        An exercise bundle: each part once, asked for by its sizes.

    Raises
    ------
    UnreadableFile
        It is no such table.

    Examples
    --------
    >>> made = from_table(b"part,title,measure,nominal\nPin,Across,diameter,6\n", name="t.csv", title="Pins")
    >>> json.loads(made["exercise.json"])["checks"][0]["id"]
    'pin.across'
    """
    rows = _rows(data, name)
    ids: dict[str, str] = {}
    checks: list[dict[str, Any]] = []
    taken: set[str] = set()
    for row in rows:
        part = ids.setdefault(row["part"], unique(slug(row["part"]), set(ids.values())))
        words = row["title"] or row["measure"]
        check = {
            "id": unique(f"{part}.{slug(words)}", taken),
            "title": words,
            "kind": "dimension",
            "marks": 1,
            "part": part,
            "measure": row["measure"],
            "nominal": read_nominal(row["nominal"]),
        }
        if row["tolerance"]:
            check["tolerance"] = read_tolerance(row["tolerance"])
        if row["axis"] in _AXES:
            check["axis"] = row["axis"]
        checks.append(check)
    document = {
        "format": "rigid-bench/exercise",
        "version": 1,
        "id": slug(title),
        "title": title,
        "units": "mm",
        "parts": [{"id": identifier, "name": words, "origin": "made"} for words, identifier in ids.items()],
        "tolerance": "ISO 2768-m",
        "checks": checks,
        "stages": [{"name": _("Parts right"), "checks": ["*"]}],
    }
    return {FILE: json.dumps(document, indent=1, ensure_ascii=False).encode()}


def _rows(data: bytes, name: str) -> list[dict[str, str]]:
    hint = _(
        "Give a table with the columns {needed}, and perhaps {others}",
        needed=series(COLUMNS[:4]),
        others=" and ".join(COLUMNS[4:]),
    )
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as exc:
        raise UnreadableFile(name, _("it is not UTF-8 text"), _("Save it as CSV, UTF-8")) from exc
    head = (text.splitlines() or [""])[0]
    is_semicolon = head.count(";") > head.count(",")
    reader = csv.DictReader(io.StringIO(text), delimiter=";" if is_semicolon else ",")
    if not set(COLUMNS[:4]) <= {(column or "").strip() for column in reader.fieldnames or ()}:
        raise UnreadableFile(name, _("it lacks a column"), hint)
    rows = []
    for number, raw in enumerate(reader, 2):
        row = {key: (raw.get(key) or "").strip() for key in COLUMNS}
        if is_semicolon:
            row |= {key: row[key].replace(",", ".") for key in ("nominal", "tolerance")}
        if not any(row.values()):
            continue
        lacking = next((key for key in ("part", "measure", "nominal") if not row[key]), None)
        if lacking:
            raise UnreadableFile(
                _("{name}, line {number}", name=name, number=number), _("its {lacking} is empty", lacking=lacking), hint
            )
        rows.append(row)
    if not rows or len(rows) > _MOST:
        raise UnreadableFile(
            name, _("it holds no sizes") if not rows else _("it holds more than {most} sizes", most=_MOST), hint
        )
    return rows
