"""Reasons for a wrong size that show on the student's part itself, not in the numbers."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.report.models import Cause
from rigid_bench.core.kernel.distance import mirrored
from rigid_bench.core.kernel.read_model import read_part
from rigid_bench.core.measurement.feature_measures import edge_differences, pattern_count
from rigid_bench.core.measurement.measure_request import Request
from rigid_bench.core.measurement.sizes import unanswered_walls
from rigid_bench.core.part.recognition.facets import allowance
from rigid_bench.core.part.recognition.holes import find_holes
from rigid_bench.core.part.symmetry import is_same_shape
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.registration.register import register
from rigid_bench.core.values.datums import AxisFeature
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.values.units import MM_PER_UNIT
from rigid_bench.core.wording.phrases import at_place, listed

#: Volume and area of a mirror image are the same to this share.
_SAME = 1e-6
#: Share of the area that agrees under a mirror image that was handed in as a mesh, and by how much more than without.
_NEARLY_ALL, _CLEARLY = 0.9, 0.02


def mirrored_part() -> Cause:
    """Return the cause of a part that is the mirror image of what was asked."""
    text = phrase("cause.mirrored")
    return Cause(code="mirrored", message=text)


@dataclass(frozen=True, slots=True, kw_only=True)
class Facets:
    """That flats stand in for a round wall, and how much that may take from its size."""

    message: Message
    #: In the exercise's unit.
    allowance: float


def of_facets(registered: RegisteredPart, request: Request, value: float, units: str) -> Facets | None:
    """Say whether a measured diameter or radius is that of a ring of facets.

    Parameters
    ----------
    registered, request
        What was measured.
    value
        As measured to the corners, in the exercise's unit.
    units
        "mm" or "in".

    Notes
    -----
    Across its flats a ring is narrower by D (1 - cos(pi / n)); any size between is taken as meant.
    """
    if request.measure not in ("diameter", "radius") or not request.features:
        return None
    feature = request.features[0]
    wall = registered.wall(feature, where=request.where) if isinstance(feature, AxisFeature) else None
    if wall is None or not wall.facets:
        return None
    share = 1.0 if request.measure == "diameter" else 0.5
    short = share * allowance(wall) * registered.scale / MM_PER_UNIT[units]
    text = phrase("measured.to-corners", flats=wall.facets, size=value, angle=180 / wall.facets, allowed=short)
    return Facets(message=text, allowance=short)


def of_part(registered: RegisteredPart, request: Request, tolerance: Tolerance, mm: float) -> Cause | None:
    """Name what is wrong with the part itself, if it explains a wrong size.

    Parameters
    ----------
    registered, request
        What was measured.
    tolerance
        For finding features.
    mm
        Millimetres in the exercise's unit.
    """
    if registered.part.is_mesh and request.measure in ("fillets", "chamfers", "count"):
        return None
    if request.measure in ("fillets", "chamfers"):
        return _edges(registered, request.measure, tolerance, mm)
    if request.measure == "count":
        return _count(registered, request, mm)
    if request.measure == "pattern_count":
        return _pattern_count(registered, request)
    if is_mirrored(registered, tolerance):
        return mirrored_part()
    return _through(registered, request) if request.measure in ("depth", "pierces") else None


@lru_cache(maxsize=32)
def is_mirrored(registered: RegisteredPart, tolerance: Tolerance) -> bool:
    """Say whether a part is the mirror image of its reference, and not its like."""
    ref, own = registered.reference, registered.part
    if own.is_mesh:
        return _is_mirrored_mesh(registered, tolerance)
    if abs(ref.volume / own.volume - 1) > _SAME or abs(ref.area / own.area - 1) > _SAME:
        return False
    if is_same_shape(ref, own, tolerance=tolerance):
        return False
    return is_same_shape(read_part(mirrored(ref.shape), tolerance=tolerance), own, tolerance=tolerance)


def _is_mirrored_mesh(registered: RegisteredPart, tolerance: Tolerance) -> bool:
    """Say whether nearly all of a mesh agrees with the mirror image, and less of it with the part itself."""
    least = max(_NEARLY_ALL, registered.registration.likeness + _CLEARLY)
    if least > 1:
        return False
    image = read_part(mirrored(registered.reference.shape), tolerance=tolerance)
    return any(way.likeness > least for way in register(image, registered.part, tolerance=tolerance))


def _edges(registered: RegisteredPart, name: str, tolerance: Tolerance, mm: float) -> Cause | None:
    """Name the rounded or chamfered edges that are missing or too many."""
    missing, extra = edge_differences(registered, name, tolerance=tolerance)
    said = [
        phrase(code, edge=text, x=coordinates[0], y=coordinates[1], z=coordinates[2])
        for code, edges in (("part.edge-missing", missing), ("part.edge-too-many", extra))
        for text, at in edges
        if (coordinates := [round(float(coordinate / mm), 1) for coordinate in at])
    ]
    differences = phrase("cause.differences", what=phrase("in-turn", items=said[:6]))
    return Cause(code="edges", message=differences) if said else None


def _count(registered: RegisteredPart, request: Request, mm: float) -> Cause | None:
    """Say where a hole or boss is missing, too many or of another size, by its place on the sheet."""
    unanswered, besides = unanswered_walls(registered, request)
    if not unanswered:
        back = registered.pose.inverse()
        places = _places([back.point(wall.point) / mm for wall in besides])
        return Cause(code="wrong-count", message=phrase("cause.too-many-at", places=places)) if besides else None
    there = {index: registered.wall_at(index) for index in unanswered}
    missing = [index for index, wall in there.items() if wall is None]
    if missing:
        return Cause(code="wrong-count", message=phrase("cause.missing-at", places=_at(registered, missing, mm)))
    asked = 2 * registered.reference.cylinders[unanswered[0]].radius / mm
    sizes = sorted({round(2 * wall.radius / mm, 4) for wall in there.values() if wall})
    diameters = listed(phrase("part.diameter", diameter=size) for size in sizes)
    text = phrase("cause.holes-of-other-size", places=_at(registered, unanswered, mm), diameters=diameters, asked=asked)
    return Cause(code="holes-of-other-size", message=text)


def _pattern_count(registered: RegisteredPart, request: Request) -> Cause | None:
    asked, there = (
        pattern_count(way, request) for way in (RegisteredPart.over_itself(registered.reference), registered)
    )
    if asked is None or there is None or asked == there:
        return None
    text = phrase("cause.pattern-count", measured=there, asked=asked)
    return Cause(code="wrong-count", message=text)


def _at(registered: RegisteredPart, walls: Sequence[int], mm: float) -> Message:
    return _places([registered.reference.cylinders[index].point / mm for index in walls])


def _places(points: Sequence[NDArray[np.float64]]) -> Message:
    return listed(at_place(point) for point in points[:6])


def _through(registered: RegisteredPart, request: Request) -> Cause | None:
    """Say that a hole goes through where it should not, or the other way round."""
    feature = request.features[0] if len(request.features) == 1 else None
    wall = registered.wall(feature, where=request.where) if isinstance(feature, AxisFeature) else None
    if wall is None:
        return None
    own = next((hole for hole in find_holes(registered.part) if hole.cylinder.faces == wall.faces), None)
    assert isinstance(feature, AxisFeature)
    wanted = next((hole for hole in find_holes(registered.reference) if _is_at(hole.cylinder.point, feature)), None)
    if own is None or wanted is None or own.through == wanted.through:
        return None
    if own.through:
        return Cause(code="through", message=phrase("cause.through"))
    return Cause(code="not-through", message=phrase("cause.not-through"))


def _is_at(point: np.ndarray, feature: AxisFeature) -> bool:
    return bool(np.linalg.norm(np.cross(point - feature.point, feature.direction)) < 1e-2)
