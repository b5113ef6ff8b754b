"""What a face or hole of a part is called: what it is, and where."""

from rigid_bench.core.values.datums import CylinderFeature, PlaneFeature
from rigid_bench.core.wording.language import N_, _, translated

_SIDES = ((N_("left"), N_("right")), (N_("front"), N_("back")), (N_("bottom"), N_("top")))
_SLANT = N_("slant")
_ALONG = 1 - 1e-6


def side_of(face: PlaneFeature) -> str:
    """Return the side to which a flat face looks, in the part's own directions.

    Examples
    --------
    >>> import numpy as np
    >>> side_of(PlaneFeature(np.zeros(3), np.array([0.0, 0, 1])))
    'top'
    >>> side_of(PlaneFeature(np.zeros(3), np.array([0.0, 0.6, 0.8])))
    'slant'
    """
    for axis, (low, high) in enumerate(_SIDES):
        along = float(face.normal[axis])
        if abs(along) > _ALONG:
            return high if along > 0 else low
    return _SLANT


def side_words(face: PlaneFeature) -> str:
    """Return the side to which a flat face looks, in the language that is spoken."""
    return translated(side_of(face))


def between_words(face: PlaneFeature, other: PlaneFeature) -> str:
    """Name a distance by its two faces.

    Examples
    --------
    >>> import numpy as np
    >>> up = np.array([0.0, 0, 1])
    >>> between_words(PlaneFeature(np.zeros(3), up), PlaneFeature(np.zeros(3), -up))
    'Top to bottom'
    """
    return capitalized(_("{a} to {b}", a=side_words(face), b=side_words(other)))


def capitalized(words: str) -> str:
    """Begin with a capital letter; the other letters stay."""
    return words[:1].upper() + words[1:]


def plane_words(face: PlaneFeature, mm: float) -> str:
    """Name a flat face: the side to which it looks, and its level; a slant by a point of it."""
    side = side_of(face)
    if side == _SLANT:
        coordinates = ", ".join(number(float(coordinate) / mm) for coordinate in face.point)
        return _("slanted face at ({coordinates})", coordinates=coordinates)
    axis = next(k for k, pair in enumerate(_SIDES) if side in pair)
    return _("{side} face, {level}", side=translated(side), level=_level(face.point[axis], axis, mm))


def round_words(wall: CylinderFeature, mm: float, *, is_hollow: bool, goes_round: bool) -> str:
    """Name a round wall: hole or boss by its diameter, a rounding by its radius, and where its axis stands."""
    across = [k for k in range(3) if abs(float(wall.direction[k])) < _ALONG]
    place = ", ".join(_level(wall.point[k], k, mm) for k in across)
    if not goes_round:
        size = f"R{number(wall.radius / mm)}"
        words = _("{size} hollow, {place}", size=size, place=place)
        return words if is_hollow else _("{size} rounding, {place}", size=size, place=place)
    size = f"Ø{number(2 * wall.radius / mm)}"
    words = _("{size} hole, {place}", size=size, place=place)
    return words if is_hollow else _("{size} round, {place}", size=size, place=place)


def _level(value: float, axis: int, mm: float) -> str:
    return f"{'xyz'[axis]} = {number(float(value) / mm)}"


def number(value: float) -> str:
    """Write a number to hundredths, without trailing noughts."""
    text = f"{value:.2f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text
