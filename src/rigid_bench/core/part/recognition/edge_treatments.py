"""Rounded and chamfered edges: surfaces that replace an edge between two others.

A fillet is a round surface, less than half round, that runs into both of its neighbours
without a kink. A chamfer is a narrow slanted plane or cone between the two surfaces that
would meet without it. Only outside chamfers count: a slant in an inside corner is a rib.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.edges import CIRCLE, LINE
from rigid_bench.core.part.faces import Cone, Cylinder, OtherFace, Plane, Torus
from rigid_bench.core.part.features import PartFeatures

_Array = NDArray[np.float64]
#: A round surface that goes further is the end of a slot, or a full round.
_FILLET_SWEEP = math.radians(175)
#: mm: radii that differ by less are one.
_LEAST_CHANGE = 1e-3
#: A chamfer turns towards both neighbours: cosine of the angle between the normals.
_SLANT = 0.1
#: A chamfer's leg is at most this much of what is left of the face that it was cut from.
_NARROW = 1.05
#: rad: a round edge that slants by less is a taper.
_TAPER = math.radians(12)


@dataclass(frozen=True, slots=True, kw_only=True)
class Fillet:
    """A rounded edge."""

    #: mm
    radius: float
    #: Its place in the part's surfaces.
    surface: int


@dataclass(frozen=True, slots=True, kw_only=True)
class VaryingFillet:
    """A rounded edge whose radius changes along it."""

    #: mm, at its two ends, the smaller first.
    radii: tuple[float, float]
    #: Its place in the part's surfaces.
    surface: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Chamfer:
    """A chamfered edge."""

    #: mm, how much of either face was cut away, the shorter first.
    legs: tuple[float, float]
    #: Its place in the part's surfaces.
    surface: int

    @property
    def angle(self) -> float:
        """rad, of the slant to the face of the longer leg; an eighth of a turn for equal legs."""
        return math.atan2(*self.legs)


def find_fillets(part: PartFeatures) -> list[Fillet]:
    """Find all fillets of a part, one for each edge that was rounded."""
    fillets = []
    for number, surface in enumerate(part.surfaces):
        if isinstance(surface, Cylinder) and surface.sweep <= _FILLET_SWEEP:
            smooth = {
                other
                for edge, other in part.edges.neighbours(number)
                if part.edges.is_smooth(edge) and _runs_along(part, edge, surface.direction)
            }
            if len(smooth) >= 2:
                fillets.append(Fillet(radius=round(surface.radius, 6), surface=number))
        elif isinstance(surface, Torus) and surface.tube_sweep <= _FILLET_SWEEP:
            smooth = {
                other
                for edge, other in part.edges.neighbours(number)
                if part.edges.is_smooth(edge) and part.edges.kinds[edge] == CIRCLE
            }
            if len(smooth) >= 2:
                fillets.append(Fillet(radius=round(surface.minor, 6), surface=number))
    return fillets


def find_varying_fillets(part: PartFeatures) -> list[VaryingFillet]:
    """Find rounded edges of changing radius: free-form, between two neighbours, ending in arcs of unlike radius."""
    fillets = []
    for number, surface in enumerate(part.surfaces):
        if not isinstance(surface, OtherFace):
            continue
        beside = part.edges.neighbours(number)
        smooth = {other for edge, other in beside if part.edges.is_smooth(edge)}
        ends = [edge for edge, _ in beside if not part.edges.is_smooth(edge) and part.edges.kinds[edge] == CIRCLE]
        radii = sorted(round(_arc_radius(part, edge), 6) for edge in ends)
        if len(smooth) == 2 and len(radii) == 2 and radii[1] - radii[0] > _LEAST_CHANGE:
            fillets.append(VaryingFillet(radii=(radii[0], radii[1]), surface=number))
    return fillets


def _arc_radius(part: PartFeatures, edge: int) -> float:
    """Return the radius, mm, of the circle through an edge's start, middle and end: a b c / 4 A."""
    a, b, c = part.edges.starts[edge], part.edges.middles[edge], part.edges.ends[edge]
    sides = [float(np.linalg.norm(one - other)) for one, other in ((a, b), (b, c), (c, a))]
    twice = float(np.linalg.norm(np.cross(b - a, c - a)))
    return math.prod(sides) / (2 * twice) if twice else math.inf


def _runs_along(part: PartFeatures, edge: int, direction: _Array) -> bool:
    return bool(part.edges.kinds[edge] == LINE and abs(part.edges.tangents[edge] @ direction) > 1 - 1e-6)


def find_chamfers(part: PartFeatures) -> list[Chamfer]:
    """Find all chamfers of a part, one for each edge that was chamfered."""
    return [*_flat_chamfers(part), *_round_chamfers(part)]


def _flat_chamfers(part: PartFeatures) -> Iterator[Chamfer]:
    """Yield the narrow faces between two others; of faces that could all be chamfers of each other, none is one."""
    slanted = dict(_narrow_faces(part))
    for chamfer, sides in slanted.values():
        if not sides & slanted.keys():
            yield chamfer


def _narrow_faces(part: PartFeatures) -> Iterator[tuple[int, tuple[Chamfer, frozenset[int]]]]:
    """Yield each flat face that could be a chamfer, with the two faces between which it is."""
    for number, plane in enumerate(part.surfaces):
        if not isinstance(plane, Plane):
            continue
        sides = [
            (edge, other, beyond)
            for edge, other in part.edges.neighbours(number)
            if part.edges.angles[edge] < 0
            and part.edges.kinds[edge] == LINE
            and isinstance(beyond := part.surfaces[other], Plane)
            and plane.normal @ beyond.normal > _SLANT
        ]
        pairs = ((first, second) for k, first in enumerate(sides) for second in sides[k + 1 :])
        near = next(
            ((legs, first[1], second[1]) for first, second in pairs if (legs := _legs(part, plane, first, second))),
            None,
        )
        if near:
            yield number, (Chamfer(legs=near[0], surface=number), frozenset(near[1:]))


def _legs(
    part: PartFeatures, plane: Plane, first: tuple[int, int, Plane], second: tuple[int, int, Plane]
) -> tuple[float, float] | None:
    """Return the legs of the chamfer that a plane is between two others along parallel edges, or None."""
    along = part.edges.tangents[first[0]]
    a, b = first[2], second[2]
    if abs(along @ part.edges.tangents[second[0]]) < 1 - 1e-6 or abs(a.normal @ b.normal) > 0.999:
        return None
    # where the two faces would meet: on both planes, level with the chamfer's middle along the edge
    corner = np.linalg.solve(
        np.array([a.normal, b.normal, along]), [a.normal @ a.point, b.normal @ b.point, along @ plane.point]
    )
    if (corner - plane.point) @ plane.normal < 1e-6:
        return None
    legs = [_across(corner - part.edges.middles[edge], along) for edge, _, _ in (first, second)]
    for leg, (_, other, beyond) in zip(legs, (first, second), strict=True):
        least, greatest = part.edges.extent(other, np.cross(beyond.normal, along))
        if leg > _NARROW * (greatest - least):
            return None
    return _in_order(*legs)


def _across(offset: _Array, along: _Array) -> float:
    return float(np.linalg.norm(offset - along * float(offset @ along)))


def _in_order(a: float, b: float) -> tuple[float, float]:
    short, long = sorted((round(a, 6), round(b, 6)))
    return short, long


def _round_chamfers(part: PartFeatures) -> Iterator[Chamfer]:
    """Yield chamfers along round edges: cones between a flat and a round surface of one axis.

    At a hole's mouth, all round, a cone is a countersink.
    """
    for number, cone in enumerate(part.surfaces):
        if not isinstance(cone, Cone) or cone.near < 1e-3 or (cone.is_hollow and cone.sweep > math.pi):
            continue
        if cone.half_angle < _TAPER:
            continue
        outside = [
            part.surfaces[other]
            for edge, other in part.edges.neighbours(number)
            if part.edges.angles[edge] < 0 and part.edges.kinds[edge] == CIRCLE
        ]
        walls = [cylinder for cylinder in outside if isinstance(cylinder, Cylinder)]
        ends = [
            plane for plane in outside if isinstance(plane, Plane) and abs(plane.normal @ cone.direction) > 1 - 1e-6
        ]
        axial = cone.far - cone.near
        if walls and ends and axial < _NARROW * walls[0].length:
            yield Chamfer(legs=_in_order(axial, axial * math.tan(cone.half_angle)), surface=number)
