"""A size of a student's part, or a distance between two of its features.

The features are named on the reference and found on the part by `Laid`; what is measured
is always the student's own geometry.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from rigid_bench.core.errors import InvalidDocument
from rigid_bench.core.feature import AxisFeature, CylinderFeature, Feature, PlaneFeature
from rigid_bench.core.frames import angle_between
from rigid_bench.core.geometry.correspond import Laid, reference_wall
from rigid_bench.core.geometry.distance import moved
from rigid_bench.core.geometry.faces import Cylinder
from rigid_bench.core.geometry.features import PartFeatures, tight_box
from rigid_bench.core.geometry.holes import find_holes

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
