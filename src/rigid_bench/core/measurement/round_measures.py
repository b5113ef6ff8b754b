"""Measures of balls, rings, cones and countersinks."""

import math

from rigid_bench.core.measurement.measure_request import MeasureKind, Request
from rigid_bench.core.part.faces import Cone, Sphere, Torus
from rigid_bench.core.part.recognition.holes import Hole
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.registration.rounds import find_hole, find_round
from rigid_bench.core.values.datums import AxisFeature, ConeFeature, SphereFeature, TorusFeature


def sphere_diameter(registered: RegisteredPart, request: Request) -> float | None:
    """Measure the diameter of a ball or its socket, mm."""
    (feature,) = request.features
    assert isinstance(feature, SphereFeature)
    ball = find_round(registered, feature, where=request.where)
    return 2 * ball.radius if isinstance(ball, Sphere) else None


def tube_radius(registered: RegisteredPart, request: Request) -> float | None:
    """Measure the radius of a ring's tube, as of a rounded round edge, mm."""
    (feature,) = request.features
    assert isinstance(feature, TorusFeature)
    ring = find_round(registered, feature, where=request.where)
    return ring.minor if isinstance(ring, Torus) else None


def cone_angle(registered: RegisteredPart, request: Request) -> float | None:
    """Measure the whole angle of a cone, degrees."""
    (feature,) = request.features
    assert isinstance(feature, ConeFeature)
    cone = find_round(registered, feature, where=request.where)
    return math.degrees(2 * cone.half_angle) if isinstance(cone, Cone) else None


def _countersunk(registered: RegisteredPart, request: Request) -> Hole | None:
    (feature,) = request.features
    assert isinstance(feature, AxisFeature)
    hole = find_hole(registered, feature, where=request.where)
    return registered.shown(hole if hole and hole.entry == "countersink" else None, where=request.where)


def countersink_diameter(registered: RegisteredPart, request: Request) -> float | None:
    """Measure the diameter of a countersink where it opens, mm."""
    hole = _countersunk(registered, request)
    return hole.entry_diameter if hole else None


def countersink_angle(registered: RegisteredPart, request: Request) -> float | None:
    """Measure the whole angle of a countersink, degrees."""
    hole = _countersunk(registered, request)
    return math.degrees(hole.entry_angle) if hole else None


ROUND: dict[str, MeasureKind] = {
    "sphere_diameter": MeasureKind(gives="length", find=sphere_diameter, takes=(("sphere",),)),
    "tube_radius": MeasureKind(gives="length", find=tube_radius, takes=(("torus",),)),
    "cone_angle": MeasureKind(gives="angle", find=cone_angle, takes=(("cone",),)),
    "countersink_diameter": MeasureKind(gives="length", find=countersink_diameter, takes=(("axis",),)),
    "countersink_angle": MeasureKind(gives="angle", find=countersink_angle, takes=(("axis",),)),
}
