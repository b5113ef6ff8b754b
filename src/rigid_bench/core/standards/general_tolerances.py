"""General tolerances, ISO 2768-1:1989: lengths, radii and chamfers, angles (from memory).

The standard is meant for parts made by removing metal or forming sheet; below 0.5 mm it gives
no deviation: that has to stand beside the size.
"""

import math
from bisect import bisect_left

from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.wording.language import _

#: Upper end of each range of nominal sizes, mm; the first range begins at 0.5.
RANGES = (3.0, 6.0, 30.0, 120.0, 400.0, 1000.0, 2000.0, 4000.0)
_SMALLEST = 0.5
#: class -> permissible deviation either way (mm) per range; None where the standard gives none.
LINEAR: dict[str, tuple[float | None, ...]] = {
    "f": (0.05, 0.05, 0.1, 0.15, 0.2, 0.3, 0.5, None),
    "m": (0.1, 0.1, 0.2, 0.3, 0.5, 0.8, 1.2, 2.0),
    "c": (0.2, 0.3, 0.5, 0.8, 1.2, 2.0, 3.0, 4.0),
    "v": (None, 0.5, 1.0, 1.5, 2.5, 4.0, 6.0, 8.0),
}

#: Table 2: upper ends of the ranges of radii and chamfer heights, mm, and the deviation per class.
_RADIUS_RANGES = (3.0, 6.0, math.inf)
_RADII = {"f": (0.2, 0.5, 1.0), "m": (0.2, 0.5, 1.0), "c": (0.4, 1.0, 2.0), "v": (0.4, 1.0, 2.0)}
#: Table 3: upper ends of the ranges of the shorter leg, mm, and the deviation per class, minutes.
_LEG_RANGES = (10.0, 50.0, 120.0, 400.0, math.inf)
_ANGLES = {"f": (60, 30, 20, 10, 5), "m": (60, 30, 20, 10, 5), "c": (90, 60, 30, 15, 10), "v": (180, 120, 60, 30, 20)}


def linear_tolerance(nominal_mm: float, name: str) -> float:
    """Return the deviation that a general tolerance permits either way, mm.

    Parameters
    ----------
    nominal_mm
        The size.
    name
        ``ISO 2768-`` and the class: f fine, m medium, c coarse, v very coarse.

    Returns
    -------
    float

    Raises
    ------
    InvalidDocument
        There is no such class, or the standard gives no deviation for the size: it then
        has to stand beside the size.

    Examples
    --------
    >>> linear_tolerance(4.2, "ISO 2768-m")
    0.1
    >>> linear_tolerance(0.4, "ISO 2768-m")
    Traceback (most recent call last):
    rigid_bench.core.values.errors.InvalidDocument: tolerance 'ISO 2768-m': the standard gives none for 0.4 mm. ...
    """
    name_of_class = _class(name)
    size = abs(nominal_mm)
    if size >= _SMALLEST:
        for upper, deviation in zip(RANGES, LINEAR[name_of_class], strict=True):
            if size <= upper and deviation is not None:
                return deviation
            if size <= upper:
                break
    raise _none_for(name, f"{size:g} mm")


def radius_tolerance(nominal_mm: float, name: str) -> float:
    """Return the deviation that a general tolerance permits either way for a fillet or chamfer, mm.

    Raises
    ------
    InvalidDocument
        There is no such class, or the size is below 0.5 mm.

    Examples
    --------
    >>> radius_tolerance(4, "ISO 2768-m"), radius_tolerance(4, "ISO 2768-c")
    (0.5, 1.0)
    """
    name_of_class = _class(name)
    if abs(nominal_mm) < _SMALLEST:
        raise _none_for(name, f"{abs(nominal_mm):g} mm")
    return _RADII[name_of_class][bisect_left(_RADIUS_RANGES, abs(nominal_mm))]


def angle_tolerance(shorter_leg_mm: float, name: str) -> float:
    """Return the deviation that a general tolerance permits either way for an angle, degrees.

    Parameters
    ----------
    shorter_leg_mm
        The shorter side of the angle.
    name
        As for `linear_tolerance`.

    Raises
    ------
    InvalidDocument
        There is no such class.

    Examples
    --------
    >>> angle_tolerance(30, "ISO 2768-m")
    0.5
    """
    return _ANGLES[_class(name)][bisect_left(_LEG_RANGES, shorter_leg_mm)] / 60


def _class(name: str) -> str:
    """Return the class letter of a general tolerance."""
    letter = name.removeprefix("ISO 2768-") if name.startswith("ISO 2768-") else ""
    if letter not in LINEAR:
        raise InvalidDocument(
            _("tolerance '{name}'", name=name),
            _("there is no such tolerance class"),
            _("The classes are ISO 2768-f, -m, -c and -v"),
        )
    return letter


def _none_for(name: str, size: str) -> InvalidDocument:
    return InvalidDocument(
        _("tolerance '{name}'", name=name),
        _("the standard gives none for {size}", size=size),
        _('Give limits: {"minus": 0.1, "plus": 0.1}'),
    )
