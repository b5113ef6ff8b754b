"""Whether parts that turn about an axis come nearer to each other than they are where they stand.

A face that turns stays within a ring: between two heights along the axis, and two distances off it. Two faces come no
nearer than their rings; a ring round the axis and a face about the same axis stay as far apart as they are.
"""

import math

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.contact.clearance import PlacedSolid
from rigid_bench.core.part.edges import Edges
from rigid_bench.core.part.face_boxes import face_box
from rigid_bench.core.part.faces import Cone, Cylinder, Plane, Sphere, Surface, Torus
from rigid_bench.core.values.frames import any_normal, cross

_Array = NDArray[np.float64]
#: mm and cosines that are rounding.
_ON, _ALONG = 1e-6, 1e-9


def comes_no_nearer(moving: PlacedSolid, other: PlacedSolid, point: _Array, direction: _Array, gap_mm: float) -> bool:
    """Say whether no turn brings two parts nearer than so many mm, which is their gap where they stand.

    Parameters
    ----------
    moving, other
        Where they stand.
    point, direction
        (3,) mm and (3,) unit, in the world: of the axis.
    gap_mm
        Their least distance.

    Returns
    -------
    bool
        False where the rings alone do not say it.
    """
    if moving.part.is_mesh or other.part.is_mesh:
        return False
    rings = [_rings(solid, point, direction) for solid in (moving, other)]
    (one, about_one, full_one), (two, about_two, full_two) = rings
    apart = np.maximum(one[:, None, 0] - two[None, :, 1], two[None, :, 0] - one[:, None, 1])
    least = np.linalg.norm(np.maximum(apart, 0.0), axis=2)
    stays = (full_one[:, None] & about_two[None]) | (about_one[:, None] & full_two[None])
    return bool(np.all(stays | (least > gap_mm - _ON)))


def _rings(solid: PlacedSolid, point: _Array, direction: _Array) -> tuple[_Array, NDArray[np.bool_], NDArray[np.bool_]]:
    """Return the rings of a part's faces, (n, 2, 2) mm: least and greatest height and distance off the axis.

    With them which faces are round about the axis, (n,), and which of these go all round it.
    """
    first = any_normal(direction)
    square = np.array([first, cross(direction, first), direction])
    axes, origin = square @ solid.pose.rotation, square @ (solid.pose.position - point)
    rings, about = np.empty((len(solid.part.surfaces), 2, 2)), []
    for number, surface in enumerate(solid.part.surfaces):
        low, high = face_box(solid.part, number, axes) + origin
        nearest, farthest = np.maximum(np.maximum(low, -high), 0.0)[:2], np.maximum(np.abs(low), np.abs(high))[:2]
        is_about = _is_about(surface, axes, origin)
        about.append(is_about)
        if is_about and isinstance(surface, Cylinder):
            nearest = farthest = np.array([surface.radius, 0.0])
        elif isinstance(surface, Plane) and abs(float(axes[2] @ surface.normal)) > 1 - _ALONG:
            nearest = np.array([_hole(solid.part.edges, number, axes, origin), 0.0])
        elif isinstance(surface, Plane) and abs(float(axes[2] @ surface.normal)) < _ALONG:
            off_plane = abs(float((axes @ surface.point + origin) @ (axes @ surface.normal)))
            nearest = np.array([max(off_plane, float(np.hypot(*nearest))), 0.0])  # whichever way the box is turned
        rings[number] = [low[2], np.hypot(*nearest)], [high[2], np.hypot(*farthest)]
    full = [goes_round and _is_whole(surface) for goes_round, surface in zip(about, solid.part.surfaces, strict=True)]
    return rings, np.array(about, dtype=bool), np.array(full, dtype=bool)


def _is_whole(surface: Surface) -> bool:
    """Say whether a wall goes all round at every height: neither notch nor cross hole takes any of it away."""
    return isinstance(surface, Cylinder) and surface.area > 2 * math.pi * surface.radius * surface.length * (1 - _ON)


def _hole(edges: Edges, surface: int, axes: _Array, origin: _Array) -> float:
    """Return how near, mm, a face square to the axis comes to it at least; 0 where it is pierced by it."""
    starts, ends = ((points @ axes.T + origin)[:, :2] for points in edges.polylines(surface))
    crossed = (starts[:, 1] > 0) != (ends[:, 1] > 0)
    start, along = starts[crossed], (ends - starts)[crossed]
    is_pierced = np.count_nonzero(start[:, 0] - start[:, 1] * along[:, 0] / along[:, 1] > 0) % 2
    return 0.0 if is_pierced else edges.off_axis(surface, axes, origin)


def _is_about(surface: Surface, axes: _Array, origin: _Array) -> bool:
    """Say whether a surface is round about the axis."""
    if isinstance(surface, Sphere):
        middle = surface.point
    elif isinstance(surface, Cylinder | Cone | Torus) and abs(float(axes[2] @ surface.direction)) > 1 - _ALONG:
        middle = surface.apex if isinstance(surface, Cone) else surface.point
    else:
        return False
    return bool(np.linalg.norm((axes @ middle + origin)[:2]) < _ON)
