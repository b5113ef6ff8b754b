"""Measures of balls, rings, cones and countersinks."""

import math

from rigid_bench.core.measurement.measure_request import Dimension, Measure, Request, needs
from rigid_bench.core.part.faces import Cone, Sphere, Torus
from rigid_bench.core.part.recognition.holes import Hole
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.registration.rounds import find_hole, find_round
from rigid_bench.core.values.datums import AxisFeature, ConeFeature, SphereFeature, TorusFeature


def sphere_diameter(laid: RegisteredPart, request: Request) -> float | None:
    """Measure the diameter of a ball or its socket, mm."""
    if len(request.features) != 1 or not isinstance(request.features[0], SphereFeature):
        raise needs(request, "one sphere")
    ball = find_round(laid, request.features[0], where=request.where)
    return 2 * ball.radius if isinstance(ball, Sphere) else None


def tube_radius(laid: RegisteredPart, request: Request) -> float | None:
    """Measure the radius of a ring's tube, as of a rounded round edge, mm."""
    if len(request.features) != 1 or not isinstance(request.features[0], TorusFeature):
        raise needs(request, "one torus")
    ring = find_round(laid, request.features[0], where=request.where)
    return ring.minor if isinstance(ring, Torus) else None


def cone_angle(laid: RegisteredPart, request: Request) -> float | None:
    """Measure the whole angle of a cone, degrees."""
    if len(request.features) != 1 or not isinstance(request.features[0], ConeFeature):
        raise needs(request, "one cone")
    cone = find_round(laid, request.features[0], where=request.where)
    return math.degrees(2 * cone.half_angle) if isinstance(cone, Cone) else None


def _countersunk(laid: RegisteredPart, request: Request) -> Hole | None:
    if len(request.features) != 1 or not isinstance(request.features[0], AxisFeature):
        raise needs(request, "the countersink of one hole")
    hole = find_hole(laid, request.features[0], where=request.where)
    return hole if hole and hole.entry == "countersink" else None


def countersink_diameter(laid: RegisteredPart, request: Request) -> float | None:
    """Measure the diameter of a countersink where it opens, mm."""
    hole = _countersunk(laid, request)
    return hole.entry_diameter if hole else None


def countersink_angle(laid: RegisteredPart, request: Request) -> float | None:
    """Measure the whole angle of a countersink, degrees."""
    hole = _countersunk(laid, request)
    return math.degrees(hole.entry_angle) if hole else None


ROUND: dict[str, tuple[Dimension, Measure]] = {
    "sphere_diameter": ("length", sphere_diameter),
    "tube_radius": ("length", tube_radius),
    "cone_angle": ("angle", cone_angle),
    "countersink_diameter": ("length", countersink_diameter),
    "countersink_angle": ("angle", countersink_angle),
}
