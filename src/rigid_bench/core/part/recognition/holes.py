"""Holes: round walls with material all round them, how deep they go, how they begin and end.

The walls on one axis are looked at together: a stepped hole is a chain of them, and a wide
wall at its open end is the entry of the narrower one.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.faces import Cone, Cylinder, Plane
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.join import axis_groups

_Array = NDArray[np.float64]
#: Ends that are this near (mm) are one place.
_NEAR = 1e-3
#: mm: so far behind a floor there is material.
_BEHIND = 0.01
#: A hole tilted by less (rad) is square to its face.
_SQUARE = 1e-4


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Hole:
    """A cylindrical wall with material all round it."""

    cylinder: Cylinder
    #: mm along the axis, without the drill point.
    depth: float
    through: bool
    #: "plain", "counterbore" or "countersink".
    entry: str
    #: mm, the length of the drill point; 0 without one.
    tip: float
    #: mm: diameter of the counterbore or countersink where it opens, and how deep it is; 0 for a plain entry.
    entry_diameter: float
    entry_depth: float
    #: rad, the full angle of a countersink; 0 for the others.
    entry_angle: float
    #: rad, between the axis and the normal of the flat face where it opens most askew; 0 for a square hole.
    slant: float


def find_holes(part: PartFeatures) -> list[Hole]:
    """Find all holes of a part.

    Parameters
    ----------
    part
        Its faces.

    Returns
    -------
    list of Hole
        In the order of their faces. A counterbore is the entry of its hole and none of its own.
    """
    return list(_found(part))


@lru_cache(maxsize=64)  # every count of holes asks for them again
def _found(part: PartFeatures) -> tuple[Hole, ...]:
    walls = [cylinder for cylinder in part.cylinders if cylinder.is_hollow and cylinder.goes_round]
    drilled, sunk = _cone_ends(part)
    holes = [hole for group in axis_groups(walls) for hole in _holes_on_axis(part, group, drilled, sunk)]
    return tuple(sorted(holes, key=lambda hole: hole.cylinder.faces))


def is_closed_at_end(part: PartFeatures, hole: Hole) -> bool:
    """Say whether a blind hole's floor or drill point is at the end of its wall, or where the wall begins."""
    wall = hole.cylinder
    return part.is_inside(wall.end + (hole.tip + _BEHIND) * wall.direction)


@dataclass(frozen=True, slots=True, eq=False)
class _ConeEnds:
    """Cones by the end at which they meet a wall."""

    cones: Sequence[Cone]
    #: (n, 3) mm
    ends: _Array

    def at(self, place: _Array) -> Cone | None:
        """Return the cone that ends at a place."""
        near = np.flatnonzero(np.linalg.norm(self.ends - place, axis=1) < _NEAR)
        return self.cones[int(near[0])] if len(near) else None


def _cone_ends(part: PartFeatures) -> tuple[_ConeEnds, _ConeEnds]:
    """Return drill points by their wide ends, and countersinks by their narrow ones."""
    hollow = [cone for cone in part.cones if cone.is_hollow]
    drilled = [cone for cone in hollow if cone.near < 0.01 * cone.far]
    sunk = [cone for cone in hollow if cone.near > _NEAR]
    return (
        _ConeEnds(drilled, np.array([cone.apex + cone.far * cone.direction for cone in drilled]).reshape(-1, 3)),
        _ConeEnds(sunk, np.array([cone.apex + cone.near * cone.direction for cone in sunk]).reshape(-1, 3)),
    )


def _holes_on_axis(part: PartFeatures, walls: Sequence[Cylinder], drilled: _ConeEnds, sunk: _ConeEnds) -> list[Hole]:
    closed = {
        wall.faces: [_is_closed(part, walls, wall, end, out, drilled) for end, out in _ends(wall)] for wall in walls
    }
    entered = {wall.faces: _counterbore(wall, walls, closed) for wall in walls}
    counterbores = {wide.faces for wide in entered.values() if wide is not None}
    return [
        _hole(part, wall, _chain(wall, walls), closed, entered[wall.faces], drilled, sunk)
        for wall in walls
        if wall.faces not in counterbores
    ]


def _hole(
    part: PartFeatures,
    wall: Cylinder,
    chain: Sequence[Cylinder],
    closed: Mapping[tuple[int, ...], list[bool]],
    bore: Cylinder | None,
    drilled: "_ConeEnds",
    sunk: "_ConeEnds",
) -> Hole:
    sink = None if bore else next((cone for end, _ in _ends(wall) if (cone := sunk.at(end))), None)
    return Hole(
        cylinder=wall,
        depth=wall.length,
        through=not any(any(closed[cylinder.faces]) for cylinder in chain),
        entry="counterbore" if bore else "countersink" if sink else "plain",
        tip=max((cone.far for end, _ in _ends(wall) if (cone := drilled.at(end))), default=0.0),
        entry_diameter=2 * bore.radius if bore else 2 * sink.radius_at(sink.far) if sink else 0.0,
        entry_depth=bore.length if bore else sink.far - sink.near if sink else 0.0,
        entry_angle=2 * sink.half_angle if sink else 0.0,
        slant=_slant(part, wall),
    )


def _slant(part: PartFeatures, wall: Cylinder) -> float:
    beside = (part.surfaces[other] for _, other in part.edges.neighbours(part.numbers[wall.faces]))
    tilts = (
        math.acos(min(1.0, abs(float(plane.normal @ wall.direction)))) for plane in beside if isinstance(plane, Plane)
    )
    # a keyway's walls and floor stand along the hole and are no entry
    return max((tilt for tilt in tilts if _SQUARE < tilt < math.pi / 2 - _SQUARE), default=0.0)


def _ends(wall: Cylinder) -> tuple[tuple[_Array, _Array], tuple[_Array, _Array]]:
    """Return both ends of a wall, each with the direction out of it."""
    return (wall.point, -wall.direction), (wall.end, wall.direction)


def _meet(a: Cylinder, b: Cylinder) -> bool:
    """Say whether two walls on one axis have an end in common."""
    return any(np.linalg.norm(p - q) < _NEAR for p in (a.point, a.end) for q in (b.point, b.end))


def _chain(wall: Cylinder, walls: Sequence[Cylinder]) -> list[Cylinder]:
    """List the walls that follow each other without a break, `wall` among them."""
    chain, rest = [wall], [candidate for candidate in walls if candidate is not wall]
    while joined := [cylinder for cylinder in rest if any(_meet(cylinder, link) for link in chain)]:
        chain += joined
        rest = [cylinder for cylinder in rest if cylinder not in joined]
    return chain


def _is_closed(
    part: PartFeatures, walls: Sequence[Cylinder], wall: Cylinder, end: _Array, outward: _Array, drilled: _ConeEnds
) -> bool:
    """Say whether a floor or a drill point closes an end of a wall."""
    if drilled.at(end) is not None:
        return True
    if any(other is not wall and _is_end(other, end) for other in walls):
        return False  # the hole goes on, narrower or wider
    normals, points = part.plane_arrays
    facing = normals @ outward
    level = np.abs((points - end) @ outward) < _NEAR
    looks_out, looks_in = level & (facing > 1 - 1e-6), level & (facing < -1 + 1e-6)
    if looks_out.any() and not looks_in.any():
        return False
    centred = np.linalg.norm(np.cross(points[looks_in] - end, outward), axis=1) < _NEAR
    # where the faces do not say it, ask for material just beyond
    return bool(centred.any()) or part.is_inside(end + _BEHIND * outward)


def _is_end(wall: Cylinder, place: _Array) -> bool:
    return any(np.linalg.norm(own - place) < _NEAR for own in (wall.point, wall.end))


def _counterbore(
    wall: Cylinder, walls: Sequence[Cylinder], closed: dict[tuple[int, ...], list[bool]]
) -> Cylinder | None:
    """Return the wider wall by which a hole begins: at the open end of its chain."""
    for wide in walls:
        if wide.radius > wall.radius and _meet(wide, wall) and not any(closed[wide.faces]):
            neighbours = [candidate for candidate in walls if candidate is not wide and _meet(candidate, wide)]
            if len(neighbours) == 1:
                return wide
    return None
