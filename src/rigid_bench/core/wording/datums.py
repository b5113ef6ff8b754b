"""What a face or hole of a part is called on a sheet: what it is, and where."""

from collections.abc import Sequence

from rigid_bench.core.values.datums import CylinderFeature, PlaneFeature

_SIDES = (("left", "right"), ("front", "back"), ("bottom", "top"))
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
    return "slant"


def symmetry_words(planes: Sequence[PlaneFeature], mm: float) -> str:
    """Say about which planes a part is symmetric; empty for none.

    Examples
    --------
    >>> import numpy as np
    >>> symmetry_words([PlaneFeature(np.array([0.0, 15, 0]), np.array([0.0, 1, 0]))], 1.0)
    'Symmetric about y = 15'
    >>> symmetry_words([PlaneFeature(np.array([1.0, 2, 3]), np.array([0.6, 0.8, 0]))], 1.0)
    'Symmetric about the slanted plane through (1, 2, 3)'
    """
    said = [_level_words(plane, mm) for plane in planes]
    return f"Symmetric about {' and '.join(said)}" if said else ""


def plane_words(face: PlaneFeature, mm: float) -> str:
    """Name a flat face: the side to which it looks, and its level; a slant by a point of it."""
    side = side_of(face)
    return f"slanted face at {_point_words(face, mm)}" if side == "slant" else f"{side} face, {_level_words(face, mm)}"


def _level_words(face: PlaneFeature, mm: float) -> str:
    """Say where a plane is: its level along the axis across it, or a point of a slanted one."""
    side = side_of(face)
    if side == "slant":
        return f"the slanted plane through {_point_words(face, mm)}"
    axis = next(k for k, pair in enumerate(_SIDES) if side in pair)
    return f"{'xyz'[axis]} = {number(float(face.point[axis]) / mm)}"


def _point_words(face: PlaneFeature, mm: float) -> str:
    return f"({', '.join(number(float(coordinate) / mm) for coordinate in face.point)})"


def round_words(wall: CylinderFeature, mm: float, *, is_hollow: bool, goes_round: bool) -> str:
    """Name a round wall: hole or boss by its diameter, a rounding by its radius, and where its axis stands."""
    across = [k for k in range(3) if abs(float(wall.direction[k])) < _ALONG]
    place = ", ".join(f"{'xyz'[k]} = {number(float(wall.point[k]) / mm)}" for k in across)
    if not goes_round:
        return f"R{number(wall.radius / mm)} {'hollow' if is_hollow else 'rounding'}, {place}"
    return f"Ø{number(2 * wall.radius / mm)} {'hole' if is_hollow else 'round'}, {place}"


def number(value: float) -> str:
    """Write a number to hundredths, without trailing noughts."""
    text = f"{value:.2f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text
