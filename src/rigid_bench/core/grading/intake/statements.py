"""What a student says beside the model: values assumed, features left out, each for one check."""

import json
import re
from collections.abc import Mapping

from pydantic import TypeAdapter, ValidationError

from rigid_bench.core.formats.documents import document_error, read_json
from rigid_bench.core.values.units import MM_PER_UNIT

#: Among the files handed in: {"check id": "text"}.
FILE = "statements.json"
#: Stands in the place of a check's id for what the student found and mended.
MENDED = "mended"
_LONGEST = 1000
_MODEL = TypeAdapter(dict[str, str])
_NUMBER = re.compile(r"(-?\d+(?:[.,]\d+)?)\s*(mm|cm|in\b|\")?")
_MM = {"mm": 1.0, "cm": 10.0, "in": MM_PER_UNIT["in"], '"': MM_PER_UNIT["in"]}


def read_statements(data: bytes) -> dict[str, str]:
    """Read the file of statements.

    Parameters
    ----------
    data
        A JSON object of texts by check id.

    Returns
    -------
    dict
        Empty texts left out, long ones cut.

    Raises
    ------
    InvalidDocument
        It is no such object.

    Examples
    --------
    >>> read_statements(b'{"bore": " 8 mm, as the screw needs ", "lip": ""}')
    {'bore': '8 mm, as the screw needs'}
    """
    document = read_json(data, name=FILE)
    try:
        texts = _MODEL.validate_python(document)
    except ValidationError as exc:
        raise document_error(FILE, exc) from exc
    return {check: text.strip()[:_LONGEST] for check, text in texts.items() if text.strip()}


def write_statements(texts: Mapping[str, str]) -> bytes:
    """Write statements as a file to hand in."""
    return json.dumps(dict(texts), ensure_ascii=False).encode()


def stated_number(text: str, *, unit: str | None) -> float | None:
    """Return the first number of a statement; None without one.

    Parameters
    ----------
    text
        As the student wrote it, with a point or a comma.
    unit
        "mm" or "in", that of the number without one and of the result; None where there is none, as for angles.

    Examples
    --------
    >>> stated_number("I took 1,5 cm", unit="mm"), stated_number("90 degrees", unit=None)
    (15.0, 90.0)
    >>> stated_number("as it looked right", unit="mm") is None
    True
    """
    match = _NUMBER.search(text)
    if match is None:
        return None
    value = float(match[1].replace(",", "."))
    return value if unit is None else value * _MM[match[2] or unit] / MM_PER_UNIT[unit]
