"""Limits and fits after ISO 286-1: tolerance grades and fundamental deviations, 0 to 500 mm (from memory).

Grades come from the standard's table, deviations of shafts from its table, deviations of
holes from its rules: the general rule EI = -es, and the special rule ES = -ei + delta.
"""

import re
from bisect import bisect_left
from dataclasses import dataclass

from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.wording.language import _

#: Upper ends of the main ranges of nominal sizes, mm.
_RANGES = (3, 6, 10, 18, 30, 50, 80, 120, 180, 250, 315, 400, 500)
#: Upper ends of the intermediate ranges, for the letters c, r and s.
_STEPS = (3, 6, 10, 18, 30, 40, 50, 65, 80, 100, 120, 140, 160, 180, 200, 225, 250, 280, 315, 355, 400, 450, 500)
#: Grade -> micrometres per main range.
_GRADES = {
    3: (2, 2.5, 2.5, 3, 4, 4, 5, 6, 8, 10, 12, 13, 15),
    4: (3, 4, 4, 5, 6, 7, 8, 10, 12, 14, 16, 18, 20),
    5: (4, 5, 6, 8, 9, 11, 13, 15, 18, 20, 23, 25, 27),
    6: (6, 8, 9, 11, 13, 16, 19, 22, 25, 29, 32, 36, 40),
    7: (10, 12, 15, 18, 21, 25, 30, 35, 40, 46, 52, 57, 63),
    8: (14, 18, 22, 27, 33, 39, 46, 54, 63, 72, 81, 89, 97),
    9: (25, 30, 36, 43, 52, 62, 74, 87, 100, 115, 130, 140, 155),
    10: (40, 48, 58, 70, 84, 100, 120, 140, 160, 185, 210, 230, 250),
    11: (60, 75, 90, 110, 130, 160, 190, 220, 250, 290, 320, 360, 400),
    12: (100, 120, 150, 180, 210, 250, 300, 350, 400, 460, 520, 570, 630),
}
#: Upper deviation of shafts, below the nominal size, micrometres.
_ABOVE = {
    "c": (
        60, 70, 80, 95, 110, 120, 130, 140, 150, 170, 180, 200,
        210, 230, 240, 260, 280, 300, 330, 360, 400, 440, 480,
    ),
    "d": (20, 30, 40, 50, 65, 80, 100, 120, 145, 170, 190, 210, 230),
    "e": (14, 20, 25, 32, 40, 50, 60, 72, 85, 100, 110, 125, 135),
    "f": (6, 10, 13, 16, 20, 25, 30, 36, 43, 50, 56, 62, 68),
    "g": (2, 4, 5, 6, 7, 9, 10, 12, 14, 15, 17, 18, 20),
    "h": (0,) * 13,
}  # fmt: skip
#: Lower deviation of shafts, above the nominal size, micrometres.
_BELOW = {
    "k": (0, 1, 1, 1, 2, 2, 2, 3, 3, 4, 4, 4, 5),
    "m": (2, 4, 6, 7, 8, 9, 11, 13, 15, 17, 20, 21, 23),
    "n": (4, 8, 10, 12, 15, 17, 20, 23, 27, 31, 34, 37, 40),
    "p": (6, 12, 15, 18, 22, 26, 32, 37, 43, 50, 56, 62, 68),
    "r": (10, 15, 19, 23, 28, 34, 34, 41, 43, 51, 54, 63, 65, 68, 77, 80, 84, 94, 98, 108, 114, 126, 132),
    "s": (14, 19, 23, 28, 35, 43, 43, 53, 59, 71, 79, 92, 100, 108, 122, 130, 140, 158, 170, 190, 208, 232, 252),
}
_DESIGNATION = re.compile(r"(c|d|e|f|g|h|js|k|m|n|p|r|s)(\d{1,2})", re.IGNORECASE)


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """How far a size may be from its nominal, mm; both signed."""

    lower: float
    upper: float


def limits(designation: str, nominal_mm: float) -> Limits:
    """Return the limits of a hole (capital letter) or shaft (small letter).

    Parameters
    ----------
    designation
        A letter and a grade, such as "H7" or "g6".
    nominal_mm
        Above 0, up to 500.

    Returns
    -------
    Limits

    Raises
    ------
    InvalidDocument
        The designation or size is not in the tables.

    Examples
    --------
    >>> limits("H7", 20)
    Limits(lower=0.0, upper=0.021)
    >>> limits("g6", 20)
    Limits(lower=-0.02, upper=-0.007)
    >>> limits("P7", 20)
    Limits(lower=-0.035, upper=-0.014)
    >>> limits("H7", 600)
    Traceback (most recent call last):
    rigid_bench.core.values.errors.InvalidDocument: fit 'H7': the tables end at 500 mm. Give limits...
    """
    where = f"fit '{designation}'"
    match = _DESIGNATION.fullmatch(designation)
    letter = match[1] if match else ""
    if not match or int(match[2]) not in range(5, 13) or letter not in (letter.lower(), letter.upper()):
        raise InvalidDocument(
            where, _("there is no such fit in the tables"), _("Fits are as in H7, g6, with grades 5 to 12")
        )
    if not 0 < nominal_mm <= _RANGES[-1]:
        raise InvalidDocument(where, _("the tables end at 500 mm"), _('Give limits: {"minus": 0.1, "plus": 0.1}'))
    low, high = (_hole if letter.isupper() else _shaft)(letter.lower(), int(match[2]), nominal_mm)
    return Limits(lower=low / 1000 + 0.0, upper=high / 1000 + 0.0)


def grade(number: int, nominal_mm: float) -> float:
    """Return the width of a tolerance grade, micrometres."""
    return float(_GRADES[number][bisect_left(_RANGES, nominal_mm)])


def _deviation(table: dict[str, tuple[int, ...]], letter: str, nominal_mm: float) -> float:
    values = table[letter]
    return float(values[bisect_left(_RANGES if len(values) == len(_RANGES) else _STEPS, nominal_mm)])


def _shaft(letter: str, number: int, nominal_mm: float) -> tuple[float, float]:
    width = grade(number, nominal_mm)
    if letter == "js":
        return -width / 2, width / 2
    if letter in _ABOVE:
        upper = -_deviation(_ABOVE, letter, nominal_mm)
        return upper - width, upper
    lower = 0.0 if letter == "k" and number > 7 else _deviation(_BELOW, letter, nominal_mm)
    return lower, lower + width


def _hole(letter: str, number: int, nominal_mm: float) -> tuple[float, float]:
    width = grade(number, nominal_mm)
    if letter == "js":
        return -width / 2, width / 2
    if letter in _ABOVE:
        lower = _deviation(_ABOVE, letter, nominal_mm)
        return lower, lower + width
    if letter == "n" and number > 8 and nominal_mm > _RANGES[0]:
        return -width, 0.0
    last = 8 if letter in "kmn" else 7  # beyond this grade the special rule ends
    is_special = number <= last and nominal_mm > _RANGES[0]
    delta = width - grade(number - 1, nominal_mm) if is_special else 0.0
    upper = -_deviation(_BELOW, letter, nominal_mm) + delta
    if letter == "k" and not is_special:
        upper = 0.0
    if letter == "m" and number == 6 and 250 < nominal_mm <= 315:
        upper = -9.0  # the standard's own exception
    return upper - width, upper
