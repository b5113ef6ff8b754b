"""What cones, balls and rings are on a part: tapers, heads, pockets, or the edges and entries of something else."""

import math
from collections.abc import Collection, Mapping, Sequence
from typing import Final

import numpy as np

from rigid_bench.core.part.faces import Cone, Cylinder, Plane, Sphere, Surface, Torus
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.holes import Hole

#: Names of surfaces that belong to another feature and are none of their own.
BELONGING: Final = ("drill point", "countersink", "chamfer", "fillet")
#: rad, whole angle: heads are made with 60, 75, 90, 100 or 120 degrees (ISO 2009 and 7046: 90; ISO 15065).
_HEADS = (math.radians(58), math.radians(122))
#: A cone that begins nearer to its apex than this share of its length has a point.
_POINTED = 0.01
#: mm: ends that are this near are one place.
_NEAR = 1e-3


def name_round_surfaces(
    part: PartFeatures, holes: Sequence[Hole], *, chamfers: Collection[int], fillets: Collection[int]
) -> Mapping[int, str]:
    """Name the cones, balls and rings of a part.

    Parameters
    ----------
    part
        Its surfaces and edges.
    holes
        As `find_holes` returns them.
    chamfers, fillets
        Places of surfaces that are chamfered and rounded edges.

    Returns
    -------
    mapping of int to str
        By place in the part's surfaces: "tapered hole", "taper", "countersunk head", "conical pocket", "ball pocket",
        "ball", "ring groove", "ring", or one of `BELONGING`.
    """
    edges = dict.fromkeys(chamfers, "chamfer") | dict.fromkeys(fillets, "fillet")
    return {
        number: edges.get(number) or _name(part, number, surface, holes)
        for number, surface in enumerate(part.surfaces)
        if isinstance(surface, Cone | Sphere | Torus)
    }


def _name(part: PartFeatures, number: int, surface: Surface, holes: Sequence[Hole]) -> str:
    match surface:
        case Cone():
            return (
                _hollow_cone(part, number, surface, holes) if surface.is_hollow else _solid_cone(part, number, surface)
            )
        case Sphere():
            if _is_corner(part, number):
                return "fillet"
            return "ball pocket" if surface.is_hollow else "ball"
        case _:
            assert isinstance(surface, Torus)
            return "ring groove" if surface.is_hollow else "ring"


def _hollow_cone(part: PartFeatures, number: int, cone: Cone, holes: Sequence[Hole]) -> str:
    if any(_is_entry(hole, cone) for hole in holes):
        return "countersink"
    if cone.near > _POINTED * cone.far:
        return "tapered hole"
    walls = [part.surfaces[other] for _, other in part.edges.neighbours(number)]
    return "drill point" if any(isinstance(wall, Cylinder) and wall.is_hollow for wall in walls) else "conical pocket"


def _is_entry(hole: Hole, cone: Cone) -> bool:
    """Say whether a cone is the countersink of a hole: its narrow end is an end of the hole's wall."""
    narrow = cone.apex + cone.near * cone.direction
    ends = (hole.cylinder.point, hole.cylinder.end)
    is_of_it = hole.entry == "countersink" and abs(hole.entry_angle - 2 * cone.half_angle) < 1e-9
    return is_of_it and any(float(np.linalg.norm(narrow - end)) < _NEAR for end in ends)


def _solid_cone(part: PartFeatures, number: int, cone: Cone) -> str:
    beside = [part.surfaces[other] for _, other in part.edges.neighbours(number)]
    has_shank = any(isinstance(wall, Cylinder) and wall.radius < cone.radius_at(cone.far) - _NEAR for wall in beside)
    has_top = any(isinstance(top, Plane) and float(top.normal @ cone.direction) > 1 - 1e-6 for top in beside)
    is_head = has_shank and has_top and _HEADS[0] < 2 * cone.half_angle < _HEADS[1]
    return "countersunk head" if is_head else "taper"


def _is_corner(part: PartFeatures, number: int) -> bool:
    """Say whether a ball's surface rounds a corner: it runs into all its neighbours, and none is a whole rod."""
    beside = part.edges.neighbours(number)
    rods = [wall for _, other in beside if isinstance(wall := part.surfaces[other], Cylinder) and wall.goes_round]
    return bool(beside) and not rods and all(part.edges.is_smooth(edge) for edge, _ in beside)
