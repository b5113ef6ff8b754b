"""What of a part decides how it is cut from bar or strip: its section, its length, the angles of its ends."""

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.formats.pictures import StockPiece
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.prisms import find_prisms

_Array = NDArray[np.float64]
_Section = Literal["round", "square", "hexagon", "rectangle"]
#: Cosine and mm: along, square, and equal to within this.
_ALONG, _EQUAL = 1e-6, 1e-3
#: How parts that are cut from bought lengths are made.
CUT_PROCESSES = ("sawn",)


def stock_piece(part: PartFeatures) -> StockPiece:
    """Return how a part is cut from a bought length.

    Its length lies along its longest extent; the section is a round, a regular polygon or a rectangle around it. The
    angle of an end is how far it leans from square, degrees; the length runs from tip to tip.

    Parameters
    ----------
    part
        In its own coordinates, its length along one of its axes.
    """
    extents = part.box[1] - part.box[0]
    axis = int(extents.argmax())
    way = np.eye(3)[axis]
    beside = sorted(float(value) for k, value in enumerate(extents) if k != axis)
    section, sizes = _section(part, way, beside)
    return StockPiece(
        section=section,
        sizes=[round(size, 4) for size in sizes],
        length=round(float(extents[axis]), 4),
        end_angles=[_end_angle(part, way * sign) for sign in (-1.0, 1.0)],
        volume=round(part.volume, 4),
    )


def _section(part: PartFeatures, way: _Array, beside: list[float]) -> tuple[_Section, list[float]]:
    for wall in part.bosses:
        is_along = abs(float(wall.direction @ way)) > 1 - _ALONG
        if is_along and all(abs(2 * wall.radius - size) < _EQUAL for size in beside):
            return "round", [2 * wall.radius]
    for prism in find_prisms(part):
        is_along = abs(float(prism.direction @ way)) > 1 - _ALONG
        if is_along and not prism.is_hollow and prism.outline.sides == 6:
            return "hexagon", [prism.outline.across_flats]
    return ("square", beside[:1]) if abs(beside[0] - beside[1]) < _EQUAL else ("rectangle", beside)


def _end_angle(part: PartFeatures, outward: _Array) -> float:
    """Return by how many degrees an end leans from square: of the flat face that reaches furthest out."""
    ends = [plane for plane in part.planes if float(plane.normal @ outward) > _ALONG]
    if not ends:
        return 0.0
    furthest = max(ends, key=lambda plane: float(plane.point @ outward))
    return round(math.degrees(math.acos(min(1.0, float(furthest.normal @ outward)))), 3)
