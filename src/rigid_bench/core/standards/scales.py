"""Scales of drawings: ISO 5455, clause 5 (from memory)."""

import math

#: What a drawing may be larger or smaller by: size on paper over size in nature.
SCALES = (
    50.0, 20.0, 10.0, 5.0, 2.0, 1.0,
    1 / 2, 1 / 5, 1 / 10, 1 / 20, 1 / 50, 1 / 100, 1 / 200, 1 / 500, 1 / 1000, 1 / 2000, 1 / 5000, 1 / 10000,
)  # fmt: skip
#: Preferred numbers of the series R20 between 1 and 10 (ISO 3, from memory): for what has no scale of its own, as a
#: pictorial view, whose axes are all foreshortened.
_R20 = (1.0, 1.12, 1.25, 1.4, 1.6, 1.8, 2.0, 2.24, 2.5, 2.8, 3.15, 3.55, 4.0, 4.5, 5.0, 5.6, 6.3, 7.1, 8.0, 9.0)


def preferred_below(factor: float) -> float:
    """Return the largest preferred number that is not above a factor, which is above 0.

    Examples
    --------
    >>> preferred_below(1.5), preferred_below(0.71), preferred_below(20)
    (1.4, 0.71, 20.0)
    """
    decade = math.floor(math.log10(factor) + 1e-9)
    return max(round(number * 10.0**decade, 6) for number in _R20 if number * 10.0**decade <= factor * (1 + 1e-9))


def scale_text(scale: float) -> str:
    """Write a scale as on a drawing.

    Examples
    --------
    >>> scale_text(2), scale_text(1), scale_text(1 / 50)
    ('2:1', '1:1', '1:50')
    """
    return f"{scale:g}:1" if scale >= 1 else f"1:{1 / scale:g}"


def scale_of(text: str) -> float:
    """Read a scale as it is written.

    Examples
    --------
    >>> scale_of("2:1"), scale_of("1:50")
    (2.0, 0.02)
    """
    over, _, under = text.partition(":")
    return float(over) / float(under)
