"""Sizes of a student's part, and distances between two of its faces or axes.

The features are named on the reference and found on the part by `RegisteredPart`; what is measured
is always the student's own geometry.
"""

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.kernel.distance import moved
from rigid_bench.core.kernel.feature_reader import tight_box
from rigid_bench.core.measurement.measure_request import MeasureKind, Request, two_of, wall_of
from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.holes import find_holes
from rigid_bench.core.part.recognition.outline import Outline, greatest_deviation
from rigid_bench.core.part.recognition.prisms import Prism, find_prisms
from rigid_bench.core.registration.correspond import RegisteredPart, reference_flat, reference_wall
from rigid_bench.core.values.datums import AxisFeature, Feature, PlaneFeature
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.frames import angle_between
from rigid_bench.core.wording.language import _

#: How far (as a share of the part's size) a hole may stand from where it should and still be the one meant.
_NEAR = 0.1


def length(registered: RegisteredPart, request: Request) -> float | None:
    """Measure between two parallel faces, mm."""
    first, second = two_of(registered, request)
    if first is None or second is None:
        return None
    return abs(float((second.point - first.point) @ first.direction))


def diameter(registered: RegisteredPart, request: Request) -> float | None:
    """Measure the diameter of a round wall, mm."""
    wall = wall_of(registered, request)
    return None if wall is None else 2 * wall.radius


def radius(registered: RegisteredPart, request: Request) -> float | None:
    """Measure the radius of a round wall, mm."""
    wall = wall_of(registered, request)
    return None if wall is None else wall.radius


def depth(registered: RegisteredPart, request: Request) -> float | None:
    """Measure how deep a hole goes, without the drill point, or how far one face lies below another, mm."""
    if len(request.features) == 2:
        return length(registered, request)
    wall = wall_of(registered, request)
    return None if wall is None else wall.length


def angle(registered: RegisteredPart, request: Request) -> float | None:
    """Measure between two directed faces or axes, degrees from 0 to 180."""
    first, second = two_of(registered, request)
    if first is None or second is None:
        return None
    return math.degrees(angle_between(first.direction, second.direction))


def position(registered: RegisteredPart, request: Request) -> float | None:
    """Measure from an axis to a face, or from an axis to an axis, mm: straight, or along an axis of the reference."""
    first, second = two_of(registered, request)
    if first is None or second is None:
        return None
    plane = next((plane_feature for plane_feature in (first, second) if isinstance(plane_feature, PlaneFeature)), None)
    if plane is not None:
        return abs(float((second.point - first.point) @ plane.normal))
    apart = second.point - first.point
    across = apart - first.direction * float(apart @ first.direction)
    if request.axis is None:
        return float(np.linalg.norm(across))
    return abs(float(across @ registered.pose.direction(np.eye(3)["xyz".index(request.axis)])))


def extent(registered: RegisteredPart, request: Request) -> float | None:
    """Measure the overall size along an axis of the reference, mm."""
    if request.axis not in ("x", "y", "z"):
        raise InvalidDocument(request.where, _("an extent needs an axis"), _('Say "axis": "x", "y" or "z"'))
    box = tight_box(moved(registered.part.shape, registered.pose.inverse()))
    return float((box[1] - box[0])["xyz".index(request.axis)])


def volume(registered: RegisteredPart, request: Request) -> float | None:
    """Measure the volume, mm3."""
    return registered.part.volume


def area(registered: RegisteredPart, request: Request) -> float | None:
    """Measure the area of all faces, mm2."""
    return registered.part.area


def mass(registered: RegisteredPart, request: Request) -> float | None:
    """Work out the mass in grams from the volume and the density in g/cm3."""
    if request.density is None:
        raise InvalidDocument(request.where, _("a mass needs a density"), _('Say "density" in g/cm3'))
    return registered.part.volume / 1000 * request.density


def count(registered: RegisteredPart, request: Request) -> float | None:
    """Count the holes, or bosses, that have the diameter of the one named."""
    (feature,) = request.features
    assert isinstance(feature, AxisFeature)
    named = registered.reference.cylinders[reference_wall(registered.reference, feature, where=request.where)]
    cylinders = _counted(registered, named)
    if len(cylinders) < len(_alike(registered.reference, named)):
        registered.need_solid(where=request.where)
    return float(len(cylinders))


def _counted(registered: RegisteredPart, named: Cylinder) -> list[Cylinder]:
    """Return the part's walls of the size named; not those that stand for others of the reference, made with this size.

    Their own size is wrong, and not the number of these; where there are no more than asked, all of them count.
    """
    walls = [*_alike(registered.part, named), *(wall for wall in registered.running_out if _is_alike(wall, named))]
    surplus = len(walls) - len(_alike(registered.reference, named))
    for wall in [wall for wall in walls if registered.is_for_another_size(wall)][: max(surplus, 0)]:
        walls.remove(wall)
    return walls


def unanswered_walls(registered: RegisteredPart, request: Request) -> tuple[list[int], list[Cylinder]]:
    """Return the reference's walls of the size named that none on the part answers, and those on the part besides."""
    feature = request.features[0]
    assert isinstance(feature, AxisFeature)
    named = registered.reference.cylinders[reference_wall(registered.reference, feature, where=request.where)]
    wanted, cylinders = _alike(registered.reference, named), _counted(registered, named)
    missing = []
    for wall in wanted:
        middle = registered.pose.point((wall.point + wall.end) / 2)
        away = [float(np.linalg.norm((cylinder.point + cylinder.end) / 2 - middle)) for cylinder in cylinders]
        if away and min(away) < _NEAR * registered.reference.size:
            cylinders.pop(int(np.argmin(away)))
        else:
            missing.append(
                next(k for k, cylinder in enumerate(registered.reference.cylinders) if cylinder.faces == wall.faces)
            )
    return missing, cylinders


def tangency(registered: RegisteredPart, request: Request) -> float | None:
    """Measure the kink where two surfaces meet, degrees: 0 where one runs into the other."""
    registered.need_named(where=request.where)
    first, second = (surfaces_of(registered, feature, request) for feature in request.features)
    edges = registered.part.edges
    kinks = [abs(float(edges.angles[edge])) for a in first for edge, other in edges.neighbours(a) if other in second]
    return registered.shown(math.degrees(max(kinks)) if kinks else None, where=request.where)


def surfaces_of(registered: RegisteredPart, feature: Feature, request: Request) -> set[int]:
    """Return the places, in the student's part, of the surfaces that a feature of the reference names."""
    if isinstance(feature, PlaneFeature):
        flat = registered.flat(feature, where=request.where)
        faces = set(flat.faces) if flat else set()
    else:
        assert isinstance(feature, AxisFeature)
        wall = registered.wall(feature, where=request.where)
        faces = set(wall.faces) if wall else set()
    return {number for number, surface in enumerate(registered.part.surfaces) if faces & set(surface.faces)}


def outline(registered: RegisteredPart, request: Request) -> float | None:
    """Measure how far the outline of a pocket or boss strays from the reference's, mm."""
    registered.need_named(where=request.where)
    own = registered.shown(own_outline(registered, request), where=request.where)
    return None if own is None else greatest_deviation(own, _reference_outline(registered, request))


def own_outline(registered: RegisteredPart, request: Request) -> Outline | None:
    """Return the outline of the student's pocket or boss that has a named floor, ground or wall; None without one.

    Raises
    ------
    InvalidDocument
        The reference has no such pocket or boss.
    """
    ring = own_ring(registered, request)
    return ring.outline if ring else None


def own_ring(registered: RegisteredPart, request: Request) -> Prism | None:
    """Return the student's pocket or boss that has a named floor, ground or wall; None without one.

    Raises
    ------
    InvalidDocument
        The reference has no such pocket or boss.
    """
    _reference_outline(registered, request)
    feature = request.features[0]
    assert isinstance(feature, PlaneFeature)
    return _ring(registered.part, surfaces_of(registered, feature, request), registered.pose.point(feature.point))


def _reference_outline(registered: RegisteredPart, request: Request) -> Outline:
    (feature,) = request.features
    assert isinstance(feature, PlaneFeature)
    faces = set(reference_flat(registered.reference, feature, where=request.where).faces)
    numbers = {number for number, surface in enumerate(registered.reference.surfaces) if faces & set(surface.faces)}
    ring = _ring(registered.reference, numbers, feature.point)
    if ring is None:
        raise InvalidDocument(
            request.where,
            _("the face named belongs to no pocket or boss"),
            _("Name the floor of a pocket, or one wall"),
        )
    return ring.outline


def _ring(part: PartFeatures, surfaces: set[int], near: NDArray[np.float64]) -> Prism | None:
    """Return the pocket or boss nearest to a point that has one of the surfaces as floor, ground, top or wall."""
    rings = []
    for prism in find_prisms(part):
        own = {*prism.walls, *prism.ground, *(() if prism.is_hollow else prism.rim)}
        if (prism.is_hollow or not prism.through) and surfaces & own:
            rings.append(prism)

    def away(ring: Prism) -> tuple[float, bool]:
        return round(float(np.linalg.norm(ring.position - near)), 1), not ring.is_hollow

    return min(rings, key=away, default=None)


def _alike(part: PartFeatures, named: Cylinder) -> Sequence[Cylinder]:
    walls = [hole.cylinder for hole in find_holes(part)] if named.is_hollow else part.bosses
    return [wall for wall in walls if _is_alike(wall, named)]


def _is_alike(wall: Cylinder, named: Cylinder) -> bool:
    return wall.is_hollow == named.is_hollow and abs(wall.radius - named.radius) < 5e-3


_ANY_TWO = (("plane", "plane"), ("plane", "axis"), ("axis", "axis"))
SIZES: dict[str, MeasureKind] = {
    "length": MeasureKind(gives="length", find=length, takes=(("plane", "plane"),)),
    "thickness": MeasureKind(gives="length", find=length, takes=(("plane", "plane"),)),
    "diameter": MeasureKind(gives="length", find=diameter, takes=(("axis",),)),
    "radius": MeasureKind(gives="length", find=radius, takes=(("axis",),)),
    "depth": MeasureKind(
        gives="length",
        find=depth,
        takes=(
            ("axis",),
            ("plane", "plane"),
        ),
    ),
    "angle": MeasureKind(gives="angle", find=angle, takes=_ANY_TWO),
    "position": MeasureKind(gives="length", find=position, takes=_ANY_TWO),
    "extent": MeasureKind(gives="length", find=extent),
    "area": MeasureKind(gives="area", find=area),
    "volume": MeasureKind(gives="volume", find=volume),
    "mass": MeasureKind(gives="mass", find=mass),
    "count": MeasureKind(gives="count", find=count, takes=(("axis",),)),
    "tangency": MeasureKind(gives="angle", find=tangency, takes=_ANY_TWO),
    "outline": MeasureKind(gives="length", find=outline, takes=(("plane",),)),
}
