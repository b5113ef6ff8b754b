"""Lengths with units, and sums of them such as ``(86 - 24)/2`` or ``1 3/4 in``.

A small bounded parser of our own: the common evaluators refuse units or hang on a tower
of powers. There are no powers here, and length and depth of an expression are limited.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass

from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.wording.language import _

#: Millimetres in one unit of length. The inch is exact since 1959 (ISO 80000-3).
MM_PER_UNIT = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "inch": 25.4, '"': 25.4}
_DEGREES = {"deg", "°"}
_LONGEST, _DEEPEST = 200, 20
#: Rounding, so that 1.5 x 25.4 reads 38.1 and not 38.099999999999994.
_DIGITS = 9

_UNIT = r"(?:mm|cm|inch|in|m|deg)(?![A-Za-z0-9_.])|[\"°]"
_TOKEN = re.compile(
    rf"""\s*(?:
      (?P<mixed>\d+\ +\d+/\d+)                     # 1 3/4
    | (?P<fraction>\d+/\d+(?=\s*(?:{_UNIT})))      # 3/4 in: the unit belongs to the whole fraction
    | (?P<number>\d+\.?\d*|\.\d+)
    | (?P<unit>{_UNIT})
    | (?P<name>[A-Za-z_][A-Za-z0-9_.]*)
    | (?P<sign>[-+*/()×÷−])
    )""",
    re.VERBOSE,
)
_PLAIN_SIGN = {"×": "*", "÷": "/", "−": "-"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Quantity:
    """A number with a power of length: 0 a bare number, 1 a length, 2 an area."""

    #: In mm to the `power`.
    value: float
    power: int = 0


def evaluate(text: str, *, names: Mapping[str, float] | None = None, unit: str = "mm") -> float:
    """Work out an expression to a length in millimetres.

    Parameters
    ----------
    text
        Numbers, mixed fractions, names, ``+ - * /``, brackets and units.
    names
        Lengths in mm that the expression may name.
    unit
        What a bare number is counted in, where a length is meant.

    Returns
    -------
    float
        Millimetres, or degrees where only degrees were written.

    Raises
    ------
    InvalidDocument
        The text is no such expression, divides by zero, or adds areas to lengths.

    Examples
    --------
    >>> evaluate("(86 - 24)/2")
    31.0
    >>> evaluate("1 1/2 in")
    38.1
    >>> evaluate("wall*2 + 0.5 mm", names={"wall": 3.0})
    6.5
    >>> evaluate("")
    Traceback (most recent call last):
    rigid_bench.core.values.errors.InvalidDocument: expression '': it ends too early. Write ...
    """
    if len(text) > _LONGEST:
        raise _wrong(text[:20] + "...", _("longer than {longest} characters", longest=_LONGEST))
    parser = _Parser(text, names or {}, MM_PER_UNIT[unit])
    result = parser.sum_of_terms(0)
    if parser.tokens:
        raise _wrong(text, _("'{tokens}' is not expected there", tokens=parser.tokens[0][1]))
    if result.power == 0:
        return round(result.value * (1.0 if parser.has_degrees else MM_PER_UNIT[unit]), _DIGITS)
    if result.power != 1:
        raise _wrong(text, _("the result is no length"))
    return round(result.value, _DIGITS)


def names_in(text: str) -> set[str]:
    """Return the words of an expression that may be names.

    Examples
    --------
    >>> sorted(names_in("wall*2 + lid.depth"))
    ['lid.depth', 'wall']
    """
    return {match["name"] for match in _TOKEN.finditer(text) if match.lastgroup == "name"}


def _wrong(text: str, problem: str) -> InvalidDocument:
    return InvalidDocument(_("expression '{text}'", text=text), problem, _("Write a sum such as (86 - 24)/2 or 3/4 in"))


class _Parser:
    """Recursive descent over the tokens of one expression."""

    def __init__(self, text: str, names: Mapping[str, float], mm_per_bare: float) -> None:
        self.text, self.names, self.mm_per_bare = text, names, mm_per_bare
        self.has_degrees = False
        self.tokens = self._read_tokens()

    def _read_tokens(self) -> list[tuple[str, str]]:
        tokens, at, text = [], 0, self.text.rstrip()
        while at < len(text):
            match = _TOKEN.match(text, at)
            if match is None or match.lastgroup is None:
                raise _wrong(self.text, _("'{strip}' cannot be read", strip=text[at:].strip()[:10]))
            tokens.append((match.lastgroup, match[match.lastgroup]))
            at = match.end()
        return [(kind, _PLAIN_SIGN.get(word, word)) for kind, word in tokens]

    def _next_is(self, *signs: str) -> bool:
        return bool(self.tokens) and self.tokens[0][0] == "sign" and self.tokens[0][1] in signs

    def sum_of_terms(self, depth: int) -> Quantity:
        total = self._product(depth)
        while self._next_is("+", "-"):
            sign = 1 if self.tokens.pop(0)[1] == "+" else -1
            total = self._add(total, self._product(depth), sign)
        return total

    def _add(self, a: Quantity, b: Quantity, sign: int) -> Quantity:
        if {a.power, b.power} == {0, 1}:  # "wall + 3": the bare number is a length too
            a, b = self._as_length(a), self._as_length(b)
        if a.power != b.power:
            raise _wrong(self.text, _("lengths and areas cannot be added"))
        return Quantity(value=a.value + sign * b.value, power=a.power)

    def _as_length(self, quantity: Quantity) -> Quantity:
        return quantity if quantity.power else Quantity(value=quantity.value * self.mm_per_bare, power=1)

    def _product(self, depth: int) -> Quantity:
        result = self._signed(depth)
        while self._next_is("*", "/"):
            divides = self.tokens.pop(0)[1] == "/"
            factor = self._signed(depth)
            if divides and factor.value == 0:
                raise _wrong(self.text, _("it divides by zero"))
            value = result.value / factor.value if divides else result.value * factor.value
            result = Quantity(value=value, power=result.power + (-factor.power if divides else factor.power))
        return result

    def _signed(self, depth: int) -> Quantity:
        sign = 1
        while self._next_is("+", "-"):
            sign *= 1 if self.tokens.pop(0)[1] == "+" else -1
        value = self._value(depth)
        return Quantity(value=sign * value.value, power=value.power)

    def _value(self, depth: int) -> Quantity:
        if depth > _DEEPEST:
            raise _wrong(self.text, _("more than {deepest} brackets deep", deepest=_DEEPEST))
        kind, word = self.tokens.pop(0) if self.tokens else ("end", "")
        if word == "(":
            inside = self.sum_of_terms(depth + 1)
            if not self._next_is(")"):
                raise _wrong(self.text, _("a bracket is not closed"))
            self.tokens.pop(0)
            return self._with_unit(inside)
        if kind == "name":
            if word not in self.names:
                raise _wrong(self.text, _("'{word}' is not the name of a value here", word=word))
            return Quantity(value=self.names[word], power=1)
        if kind in {"number", "mixed", "fraction"}:
            return self._with_unit(Quantity(value=self._number(kind, word)))
        raise _wrong(self.text, _("'{word}' is not expected there", word=word) if word else _("it ends too early"))

    def _number(self, kind: str, word: str) -> float:
        if kind == "number":
            return float(word)
        *whole, fraction = word.split()
        above, below = (float(part) for part in fraction.split("/"))
        if below == 0:
            raise _wrong(self.text, _("it divides by zero"))
        return (float(whole[0]) if whole else 0.0) + above / below

    def _with_unit(self, quantity: Quantity) -> Quantity:
        if not (self.tokens and self.tokens[0][0] == "unit"):
            return quantity
        unit = self.tokens.pop(0)[1]
        if quantity.power:
            raise _wrong(self.text, _("the unit '{unit}' follows what is a length already", unit=unit))
        if unit in _DEGREES:
            self.has_degrees = True
            return quantity
        return Quantity(value=quantity.value * MM_PER_UNIT[unit], power=1)
