"""Find a reference's balls, rings, cones and countersinks on a student's part."""

import math

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.faces import Cone, Sphere, Torus
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.holes import Hole, find_holes
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.datums import AxisFeature, ConeFeature, SphereFeature, TorusFeature
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.frames import cross
from rigid_bench.core.wording.language import _

_Array = NDArray[np.float64]
Round = Sphere | Torus | Cone
RoundFeature = SphereFeature | TorusFeature | ConeFeature
#: mm and rad: so exactly an exercise names a surface of its reference.
_SAME_MM, _SAME_RAD = 1e-2, math.radians(0.05)


def middle_of(surface: Round) -> _Array:
    """Return the centre of a ball or ring, or the middle of a cone on its axis, (3,) mm."""
    if isinstance(surface, Cone):
        place: _Array = surface.apex + (surface.near + surface.far) / 2 * surface.direction
        return place
    return surface.point


def is_named(surface: object, feature: RoundFeature) -> bool:
    """Say whether a feature names a surface of the part in whose coordinates it is."""
    match feature, surface:
        case SphereFeature(), Sphere():
            is_there = np.linalg.norm(surface.point - feature.point) < _SAME_MM
            return bool(is_there) and abs(surface.radius - feature.radius) < _SAME_MM
        case TorusFeature(), Torus():
            sizes = abs(surface.major - feature.radius) < _SAME_MM and abs(surface.minor - feature.tube) < _SAME_MM
            is_there = np.linalg.norm(surface.point - feature.point) < _SAME_MM
            return sizes and bool(is_there) and abs(float(surface.direction @ feature.direction)) > 1 - 1e-6
        case ConeFeature(), Cone():
            beside = np.linalg.norm(cross(feature.point - surface.apex, surface.direction))
            is_along = abs(float(surface.direction @ feature.direction)) > 1 - 1e-6
            return is_along and bool(beside < _SAME_MM) and abs(2 * surface.half_angle - feature.angle) < _SAME_RAD
        case _:
            return False


def find_round(registered: RegisteredPart, feature: RoundFeature, *, where: str) -> Round | None:
    """Return the student's ball, ring or cone for one of the reference; None where it is missing.

    Raises
    ------
    InvalidDocument
        The reference has no such surface.
    MeshCannotAnswer
        The part came as a mesh, and none was recognised there.
    """
    own = [surface for surface in registered.reference.surfaces if is_named(surface, feature)]
    rounds = [surface for surface in own if isinstance(surface, Sphere | Torus | Cone)]
    if not rounds:
        kind = {SphereFeature: "ball", TorusFeature: "ring", ConeFeature: "cone"}[type(feature)]
        problem = _(
            "the reference part has no such {kind} about {tolist}",
            kind=kind,
            tolist=np.round(feature.point, 6).tolist(),
        )
        raise InvalidDocument(where, problem, _("Give a feature of the reference part, in its own coordinates"))
    named = min(rounds, key=lambda surface: float(np.linalg.norm(middle_of(surface) - feature.point)))
    answer: Round | None = _moved_far(registered, named)
    if answer is None:
        answer = _nearest(registered, named)
    if answer is None:
        registered.need_solid(where=where)
    return answer


def _like(part: PartFeatures, named: Round) -> list[Round]:
    own = [surface for surface in part.surfaces if isinstance(surface, Sphere | Torus | Cone)]
    return [surface for surface in own if type(surface) is type(named) and surface.is_hollow == named.is_hollow]


def _nearest(registered: RegisteredPart, named: Round) -> Round | None:
    """Return the surface of a kind that stands nearest to where it is meant to, within reach."""
    wanted = registered.pose.point(middle_of(named))
    away = {float(np.linalg.norm(middle_of(surface) - wanted)): surface for surface in _like(registered.part, named)}
    nearest = min(away, default=math.inf)
    return away[nearest] if nearest <= registered.reach * registered.reference.size else None


def _moved_far(registered: RegisteredPart, named: Round) -> Round | None:
    """Return the one surface of just this size, where the reference has one such as well."""
    own, there = (
        [other for other in _like(part, named) if _is_as_large(other, named)]
        for part in (registered.reference, registered.part)
    )
    return there[0] if len(own) == len(there) == 1 else None


def _is_as_large(surface: Round, named: Round) -> bool:
    match surface, named:
        case Sphere(), Sphere():
            return abs(surface.radius - named.radius) < _SAME_MM
        case Torus(), Torus():
            return abs(surface.major - named.major) < _SAME_MM and abs(surface.minor - named.minor) < _SAME_MM
        case Cone(), Cone():
            is_one_angle = abs(surface.half_angle - named.half_angle) < _SAME_RAD
            return is_one_angle and abs((surface.far - surface.near) - (named.far - named.near)) < _SAME_MM
        case _:
            return False


def find_hole(registered: RegisteredPart, feature: AxisFeature, *, where: str) -> Hole | None:
    """Return the student's hole about an axis of the reference, with its entry; None where it is missing."""
    wall = registered.wall(AxisFeature(feature.point, feature.direction), where=where)
    if wall is None:
        return None
    on_axis = [
        hole
        for hole in find_holes(registered.part)
        if abs(float(hole.cylinder.direction @ wall.direction)) > 1 - 1e-6
        and np.linalg.norm(cross(hole.cylinder.point - wall.point, wall.direction)) < _SAME_MM
    ]
    sunk = [hole for hole in on_axis if hole.entry == "countersink"]
    return next(iter(sunk or on_axis), None)
