"""Numbers and motions in the words of a card: short, with units, in the exercise's unit."""

import re
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, FrameFeature, PlaneFeature

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


def walls_through(count: float) -> str:
    """Say how many walls a hole goes through.

    Examples
    --------
    >>> walls_through(0), walls_through(1), walls_through(2)
    ('through no wall', 'through one wall', 'through 2 walls')
    """
    return {0: "through no wall", 1: "through one wall"}.get(round(count), f"through {round(count)} walls")


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


_AXES = "XYZ"


def motion_words(motion: Motion, *, slanting: str = "a slanting line") -> str:
    """Say a motion as a student would: "slide along X", "turn about an axis along Z".

    `slanting` says a way that lies along no axis of the world.

    Examples
    --------
    >>> motion_words(Motion(kind="translation", direction=np.array([1.0, 0, 0]), point=np.zeros(3)))
    'slide along X'
    """
    way = _way(motion) or slanting
    if motion.kind == "translation":
        return f"slide along {way}"
    if motion.kind == "rotation":
        return f"turn about {way}"
    return f"screw along {way}"


def _way(motion: Motion) -> str:
    """Return the axis of the world along which a motion goes; "" for none."""
    for name, axis in zip(_AXES, np.eye(3), strict=True):
        if abs(motion.direction @ axis) > 1 - 1e-6:
            return name
    return ""


def feature_words(feature: Feature) -> str:
    """Say which feature of a part is meant, by its place in the world.

    Examples
    --------
    >>> feature_words(PlaneFeature(np.array([1.0, 2, 3]), np.array([0, 0, 1.0])))
    'the face at (1, 2, 3) that looks along +Z'
    """
    place = ", ".join(number(float(value), 1) for value in feature.point)
    match feature:
        case PlaneFeature():
            return f"the face at ({place}) that looks along {looking(feature.normal)}"
        case CylinderFeature():
            return f"the Ø{number(2 * feature.radius)} wall about ({place})"
        case AxisFeature() | FrameFeature():
            return f"the axis through ({place})"
        case _:
            return f"the point ({place})"


def looking(direction: NDArray[np.float64]) -> str:
    """Name a direction: "+X", "−Z", or "a slant"."""
    for name, axis in zip(_AXES, np.eye(3), strict=True):
        if abs(direction @ axis) > 1 - 1e-6:
            return f"{'+' if direction @ axis > 0 else '−'}{name}"
    return "a slant"


def motions_words(motions: Sequence[Motion]) -> str:
    """Say what can move, in one phrase.

    Examples
    --------
    >>> motions_words([])
    'nothing can move'
    """
    if not motions:
        return "nothing can move"
    if len(motions) == 6:
        return "all six motions are left"
    return f"can {doing_words(motions)}"


def doing_words(motions: Sequence[Motion]) -> str:
    """Say what is to move, after "should" or "to".

    Examples
    --------
    >>> doing_words([])
    'stay where it is'
    """
    if not motions:
        return "stay where it is"
    return "move freely" if len(motions) == 6 else listed([motion_words(motion) for motion in motions])


def listed(words: Sequence[str]) -> str:
    """Join words: "a, b and c".

    Examples
    --------
    >>> listed(["a", "b", "c"]), listed(["a"]), listed([])
    ('a, b and c', 'a', '')
    """
    if len(words) < 2:
        return "".join(words)
    return ", ".join(words[:-1]) + " and " + words[-1]
