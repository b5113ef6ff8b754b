"""Numbers as a card writes them: short, with units, in the exercise's unit."""

import re

_DIGITS = {"mm": 3, "in": 4}
#: Units of what a measure gives, for an exercise in mm and in inches.
_UNITS = {
    "length": {"mm": "mm", "in": "in"},
    "area": {"mm": "mm²", "in": "in²"},
    "volume": {"mm": "mm³", "in": "in³"},
    "angle": {"mm": "°", "in": "°"},
    "mass": {"mm": "g", "in": "g"},
    "count": {"mm": "", "in": ""},
    "share": {"mm": "%", "in": "%"},
}
#: Power of the length unit that a measure scales with.
POWERS = {"length": 1, "area": 2, "volume": 3, "angle": 0, "mass": 0, "count": 0, "share": 0}


#: Decimals of a number in words; how near a number is to its digits that was typed.
_USUAL, _EXACT = 3, 1e-9


def number(value: float, digits: int = _USUAL) -> str:
    """Write a number without needless zeros; one that was typed with four decimals, as inches are, keeps them.

    Examples
    --------
    >>> number(8.2000000001), number(-0.0), number(28196.8)
    ('8.2', '0', '28196.8')
    >>> number(0.1875), number(3 / 16 * 25.4), number(0.18754321)
    ('0.1875', '4.7625', '0.188')
    """
    if digits == _USUAL and abs(value - round(value, digits + 1)) < _EXACT:
        digits += 1
    text = f"{value:.{digits}f}".rstrip("0").rstrip(".") if digits else f"{value:.0f}"
    return "0" if text in ("-0", "") else text


def unit_of(dimension: str, units: str) -> str:
    """Return the sign of the unit of a measure, "" for a count."""
    return _UNITS[dimension][units]


def quantity(value: float, dimension: str, units: str) -> str:
    """Write a value that is already in the exercise's unit.

    Examples
    --------
    >>> quantity(8.2, "length", "mm"), quantity(45, "angle", "in"), quantity(4, "count", "mm")
    ('8.2 mm', '45°', '4')
    """
    unit = unit_of(dimension, units)
    digits = _DIGITS[units] if POWERS[dimension] == 1 else 2
    return f"{number(value, digits)}{'' if unit in ('', '°') else ' '}{unit}"


def band(nominal: float, minus: float, plus: float, dimension: str, units: str) -> str:
    """Write a nominal with its tolerance.

    Examples
    --------
    >>> band(16.4, 0.1, 0.1, "length", "mm"), band(12, 0.2, 0, "length", "mm")
    ('16.4 ±0.1 mm', '12 +0/−0.2 mm')
    >>> band(4, 0.1, 0.1, "count", "mm")
    '4'
    """
    if minus == plus == 0 or (dimension == "count" and max(minus, plus) < 1):
        return quantity(nominal, dimension, units)
    digits = _DIGITS[units]
    upper = f"{'−' if plus < 0 else '+'}{number(abs(plus), digits)}"
    lower = f"{'+' if minus < 0 else '−'}{number(abs(minus), digits)}"
    span = f"±{number(plus, digits)}" if minus == plus else f"{upper}/{lower}"
    unit = unit_of(dimension, units)
    return f"{number(nominal, digits)} {span}{'' if unit in ('', '°') else ' '}{unit}"


def sum_words(expression: str) -> str:
    """Write a sum with the signs that people write.

    Examples
    --------
    >>> sum_words("66.8 - 2*3")
    '66.8 − 2 × 3'
    """
    text = re.sub(r"\s*([-+*/])\s*", r" \1 ", expression).strip()
    return text.replace("*", "×").replace("/", "÷").replace("-", "−")
