"""The records of a STEP file as its text gives them (ISO 10303-21), for what the kernel does not hand on.

Loads no kernel itself. Records are split at once and read when they are asked for.
"""

import itertools
import re
from collections.abc import Iterator, Sequence
from functools import cached_property
from typing import Any

from rigid_bench.core.formats.content.step_text import with_plain_letters

_RECORD = re.compile(rb"#(\d+)\s*=\s*((?:[^;']|'[^']*')*);")
_TOKEN = re.compile(
    rb"\s*(?:(?P<text>'(?:[^']|'')*')|#(?P<number>\d+)|\.(?P<word>\w+)\.|(?P<real>[-+]?\d[\d.]*(?:[eE][-+]?\d+)?)"
    rb"|(?P<name>[A-Za-z_]\w*)|(?P<mark>[(),$*]))"
)
_NUMBER = re.compile(rb"#(\d+)")
_COMMENT = re.compile(rb"/\*.*?\*/", re.DOTALL)
_BYTES = re.compile(r"\\X\\([0-9A-F]{2})")
_WIDE = re.compile(r"\\X2\\((?:[0-9A-F]{4})+)\\X0\\")


class Reference(int):
    """The number of another record."""


class Records:
    """All records of a file.

    Parameters
    ----------
    data
        The whole file.

    Examples
    --------
    >>> records = Records(b"#1=PRODUCT('a','Lid',$,(#2));#2=(LENGTH_UNIT()NAMED_UNIT(*));")
    >>> list(records.of("PRODUCT"))
    [(1, ['a', 'Lid', None, [2]])]
    >>> records.get(2)
    {'LENGTH_UNIT': [], 'NAMED_UNIT': [None]}
    """

    def __init__(self, data: bytes) -> None:
        data = _COMMENT.sub(b"", with_plain_letters(data))
        self._texts = {int(number): text for number, text in _RECORD.findall(data)}
        self._read: dict[int, dict[str, list[Any]]] = {}

    @cached_property
    def _numbers(self) -> dict[str, list[int]]:
        """By the name of an entity: the records that are one."""
        numbers: dict[str, list[int]] = {}
        for number, text in self._texts.items():
            if text[:1] == b"(":
                for name in self.get(number):
                    numbers.setdefault(name, []).append(number)
            else:
                name = text.partition(b"(")[0].strip().upper().decode("latin-1")
                numbers.setdefault(name, []).append(number)
        return numbers

    def of(self, name: str) -> Iterator[tuple[int, list[Any]]]:
        """Yield the records that are an entity, each as its number and the entity's own values."""
        for number in self._numbers.get(name, []):
            yield number, self.get(number).get(name, [])

    def names(self) -> Sequence[str]:
        """Return the names of all entities."""
        return list(self._numbers)

    def get(self, number: int) -> dict[str, list[Any]]:
        """Return a record by its number: the values of each entity that it is; none where it is missing or broken.

        A value is a str, a float, a `Reference`, a bool for true and false, another word as a str, a list, or None for
        what is left out.
        """
        if number not in self._read:
            self._read[number] = _entities(self._texts.get(number, b""))
        return self._read[number]

    def referring(self, number: int) -> Sequence["Reference"]:
        """Return the records that refer to one."""
        return self._referring.get(number, [])

    @cached_property
    def _referring(self) -> dict[int, list["Reference"]]:
        referring: dict[int, list[Reference]] = {}
        for number, text in self._texts.items():
            for other in _NUMBER.findall(text):
                referring.setdefault(int(other), []).append(Reference(number))
        return referring

    def values(self, number: Any, name: str) -> list[Any]:
        """Return an entity's own values of a record; none where there is no such record, or it is something else."""
        return self.get(number).get(name, []) if isinstance(number, Reference) else []


class _Name(str):
    """The name of an entity or of a type."""


def _entities(text: bytes) -> dict[str, list[Any]]:
    """Read a record: one entity with its values, or several in brackets."""
    tokens = [
        (str(match.lastgroup), match[str(match.lastgroup)].decode("utf-8", "replace"))
        for match in _TOKEN.finditer(text)
    ]
    values, _ = _list(tokens, 1 if tokens[:1] == [("mark", "(")] else 0)
    return {name: own for name, own in itertools.pairwise(values) if isinstance(name, _Name) and isinstance(own, list)}


def _list(tokens: Sequence[tuple[str, str]], place: int, *, is_typed: bool = False) -> tuple[list[Any], int]:
    """Read values up to the bracket that closes them, and return where it is.

    Where names are of types, a value with its type, such as LENGTH_MEASURE(2.5), is the value.
    """
    values: list[Any] = []
    while place < len(tokens):
        kind, text = tokens[place]
        if text == ")" and kind == "mark":
            break
        if text == "(" and kind == "mark":
            own, place = _list(tokens, place + 1, is_typed=True)
            if is_typed and values and isinstance(values[-1], _Name):
                values[-1:] = own[:1]
            else:
                values.append(own)
        elif text != ",":
            values.append(_value(kind, text))
        place += 1
    return values, place


def _value(kind: str, text: str) -> Any:
    if kind == "number":
        return Reference(text)
    if kind == "real":
        return float(text)
    if kind == "name":
        return _Name(text.upper())
    if kind == "word":
        return {"T": True, "F": False}.get(text.upper(), text.upper())
    return _letters(text[1:-1].replace("''", "'")) if kind == "text" else None


def _letters(text: str) -> str:
    """Return a text with the letters that the standard writes by their numbers (ISO 10303-21, 6.4.3)."""
    text = _WIDE.sub(lambda match: bytes.fromhex(match[1]).decode("utf-16-be", "replace"), text)
    return _BYTES.sub(lambda match: chr(int(match[1], 16)), text)
