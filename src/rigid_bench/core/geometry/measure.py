"""A size of a student's part, or a distance between two of its features.

The features are named on the reference and found on the part by `Laid`; what is measured
is always the student's own geometry.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.errors import InvalidDocument
from rigid_bench.core.feature import AxisFeature, CylinderFeature, Feature, PlaneFeature
from rigid_bench.core.frames import angle_between
from rigid_bench.core.geometry.correspond import Laid, reference_flat, reference_wall
from rigid_bench.core.geometry.distance import moved
from rigid_bench.core.geometry.faces import Cylinder
from rigid_bench.core.geometry.features import PartFeatures, tight_box
from rigid_bench.core.geometry.holes import find_holes
from rigid_bench.core.geometry.outline import Outline, greatest_deviation
from rigid_bench.core.geometry.prisms import Prism, find_prisms

Dimension = Literal["length", "angle", "area", "volume", "mass", "count"]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Request:
    """What to measure: a name of `MEASURES` and the features it speaks of."""

    measure: str
    #: One or two features, in the reference's coordinates.
    features: tuple[Feature, ...] = ()
    #: "x", "y" or "z" of the reference, for an extent.
    axis: str | None = None
    #: g/cm3, for a mass.
    density: float | None = None
    #: Named in errors.
    where: str = "measure"


def length(laid: Laid, request: Request) -> float | None:
    """Measure between two parallel faces, mm."""
    first, second = _two(laid, request, PlaneFeature, PlaneFeature)
    if first is None or second is None:
        return None
    return abs(float((second.point - first.point) @ first.direction))


def diameter(laid: Laid, request: Request) -> float | None:
    """Measure the diameter of a round wall, mm."""
    wall = _wall(laid, request)
    return None if wall is None else 2 * wall.radius


def radius(laid: Laid, request: Request) -> float | None:
    """Measure the radius of a round wall, mm."""
    wall = _wall(laid, request)
    return None if wall is None else wall.radius


def depth(laid: Laid, request: Request) -> float | None:
    """Measure how deep a hole goes, without the drill point, or how far one face lies below another, mm."""
    if len(request.features) == 2:
        return length(laid, request)
    wall = _wall(laid, request)
    return None if wall is None else wall.length


def angle(laid: Laid, request: Request) -> float | None:
    """Measure between two directed faces or axes, degrees from 0 to 180."""
    first, second = _two(laid, request, (PlaneFeature, AxisFeature), (PlaneFeature, AxisFeature))
    if first is None or second is None:
        return None
    return math.degrees(angle_between(first.direction, second.direction))


def position(laid: Laid, request: Request) -> float | None:
    """Measure from an axis to a face, or from an axis to an axis, mm."""
    first, second = _two(laid, request, (PlaneFeature, AxisFeature), (PlaneFeature, AxisFeature))
    if first is None or second is None:
        return None
    plane = next((each for each in (first, second) if isinstance(each, PlaneFeature)), None)
    if plane is not None:
        return abs(float((second.point - first.point) @ plane.normal))
    apart = second.point - first.point
    return float(np.linalg.norm(apart - first.direction * float(apart @ first.direction)))


def extent(laid: Laid, request: Request) -> float | None:
    """Measure the overall size along an axis of the reference, mm."""
    if request.axis not in ("x", "y", "z"):
        raise InvalidDocument(request.where, "an extent needs an axis", 'Say "axis": "x", "y" or "z"')
    box = tight_box(moved(laid.part.shape, laid.pose.inverse()))
    return float((box[1] - box[0])["xyz".index(request.axis)])


def volume(laid: Laid, request: Request) -> float | None:
    """Measure the volume, mm3."""
    return laid.part.volume


def area(laid: Laid, request: Request) -> float | None:
    """Measure the area of all faces, mm2."""
    return laid.part.area


def mass(laid: Laid, request: Request) -> float | None:
    """Work out the mass in grams from the volume and the density in g/cm3."""
    if request.density is None:
        raise InvalidDocument(request.where, "a mass needs a density", 'Say "density" in g/cm3')
    return laid.part.volume / 1000 * request.density


def count(laid: Laid, request: Request) -> float | None:
    """Count the holes, or bosses, that have the diameter of the one named."""
    feature = request.features[0] if request.features else None
    if not isinstance(feature, AxisFeature):
        raise _needs(request, "one cylinder")
    laid.need_round_walls(where=request.where)
    named = laid.reference.cylinders[reference_wall(laid.reference, feature, where=request.where)]
    return float(sum(1 for wall in _alike(laid.part, named)))


def tangency(laid: Laid, request: Request) -> float | None:
    """Measure the kink where two surfaces meet, degrees: 0 where one runs into the other."""
    laid.need_round_walls(where=request.where)
    kinds = (PlaneFeature, AxisFeature)
    if len(request.features) != 2 or not all(isinstance(each, kinds) for each in request.features):
        raise _needs(request, "two features, flat faces or round walls")
    first, second = (_surfaces(laid, each, request) for each in request.features)
    edges = laid.part.edges
    kinks = [abs(float(edges.angles[edge])) for a in first for edge, other in edges.beyond(a) if other in second]
    return math.degrees(max(kinks)) if kinks else None


def _surfaces(laid: Laid, feature: Feature, request: Request) -> set[int]:
    """Return the places, in the student's part, of the surfaces that a feature of the reference names."""
    if isinstance(feature, PlaneFeature):
        flat = laid.flat(feature, where=request.where)
        faces = set(flat.faces) if flat else set()
    else:
        assert isinstance(feature, AxisFeature)
        wall = laid.wall(feature, where=request.where)
        faces = set(wall.faces) if wall else set()
    return {number for number, each in enumerate(laid.part.surfaces) if faces & set(each.faces)}


def outline(laid: Laid, request: Request) -> float | None:
    """Measure how far the outline of a pocket or boss strays from the reference's, mm."""
    laid.need_round_walls(where=request.where)
    found = own_outline(laid, request)
    return None if found is None else greatest_deviation(found, _reference_outline(laid, request))


def own_outline(laid: Laid, request: Request) -> Outline | None:
    """Return the outline of the student's pocket or boss that has a named floor, ground or wall; None without one.

    Raises
    ------
    InvalidDocument
        The reference has no such pocket or boss.
    """
    _reference_outline(laid, request)
    feature = request.features[0]
    assert isinstance(feature, PlaneFeature)
    ring = _ring(laid.part, _surfaces(laid, feature, request), laid.pose.point(feature.point))
    return ring.outline if ring else None


def _reference_outline(laid: Laid, request: Request) -> Outline:
    if len(request.features) != 1 or not isinstance(request.features[0], PlaneFeature):
        raise _needs(request, "one flat face: the floor, the ground or a wall of a pocket or boss")
    feature = request.features[0]
    faces = set(reference_flat(laid.reference, feature, where=request.where).faces)
    numbers = {number for number, each in enumerate(laid.reference.surfaces) if faces & set(each.faces)}
    ring = _ring(laid.reference, numbers, feature.point)
    if ring is None:
        raise InvalidDocument(
            request.where, "the face named belongs to no pocket or boss", "Name the floor of a pocket, or one wall"
        )
    return ring.outline


def _ring(part: PartFeatures, surfaces: set[int], near: NDArray[np.float64]) -> Prism | None:
    """Return the pocket or boss nearest to a point that has one of the surfaces as floor, ground, top or wall."""
    rings = []
    for each in find_prisms(part):
        own = {*each.walls, *each.ground, *(() if each.is_hollow else each.rim)}
        if (each.is_hollow or not each.through) and surfaces & own:
            rings.append(each)

    def away(ring: Prism) -> tuple[float, bool]:
        return round(float(np.linalg.norm(ring.position - near)), 1), not ring.is_hollow

    return min(rings, key=away, default=None)


def _alike(part: PartFeatures, named: Cylinder) -> Sequence[Cylinder]:
    walls = [hole.cylinder for hole in find_holes(part)] if named.is_hollow else part.bosses
    return [wall for wall in walls if abs(wall.radius - named.radius) < 5e-3]


#: name -> what it gives, and how.
MEASURES: dict[str, tuple[Dimension, Callable[[Laid, Request], float | None]]] = {
    "length": ("length", length),
    "thickness": ("length", length),
    "diameter": ("length", diameter),
    "radius": ("length", radius),
    "depth": ("length", depth),
    "angle": ("angle", angle),
    "position": ("length", position),
    "extent": ("length", extent),
    "area": ("area", area),
    "volume": ("volume", volume),
    "mass": ("mass", mass),
    "count": ("count", count),
    "tangency": ("angle", tangency),
    "outline": ("length", outline),
}


def measure(laid: Laid, request: Request) -> float | None:
    """Measure one size on the student's part.

    Parameters
    ----------
    laid
        The reference laid over the part.
    request
        What to measure, by features of the reference.

    Returns
    -------
    float or None
        mm, degrees, mm2, mm3, g or a count, as `MEASURES` says; None where the part lacks
        a feature that the measure needs.

    Raises
    ------
    InvalidDocument
        The exercise asks for a measure that is not known, or names a feature that the
        reference does not have.
    """
    if request.measure not in MEASURES:
        known = ", ".join(sorted(MEASURES))
        raise InvalidDocument(request.where, f"there is no measure '{request.measure}'", f"The measures are: {known}")
    return MEASURES[request.measure][1](laid, request)


def _needs(request: Request, what: str) -> InvalidDocument:
    return InvalidDocument(request.where, f"the measure '{request.measure}' needs {what}", "Add it to the check")


def _wall(laid: Laid, request: Request) -> Cylinder | None:
    if len(request.features) != 1 or not isinstance(request.features[0], AxisFeature):
        raise _needs(request, "one cylinder")
    return laid.wall(request.features[0], where=request.where)


_Kinds = type[Feature] | tuple[type[Feature], ...]


def _two(
    laid: Laid, request: Request, first: _Kinds, second: _Kinds
) -> tuple[PlaneFeature | CylinderFeature | None, PlaneFeature | CylinderFeature | None]:
    """Find both features of a measure on the part; None where the part lacks one."""
    wanted = request.features
    if len(wanted) != 2 or not isinstance(wanted[0], first) or not isinstance(wanted[1], second):
        raise _needs(request, "two features, flat faces or round walls as the measure says")
    found = [laid.feature(each, where=request.where) for each in wanted]
    for each in found:
        assert each is None or isinstance(each, PlaneFeature | CylinderFeature)
    return found[0], found[1]  # type: ignore[return-value]  # narrowed one line above
