"""Boxes of a part's faces: where a face cannot be."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.faces import Cone, Cylinder, Plane, Sphere, Surface, Torus
from rigid_bench.core.part.features import PartFeatures

_Array = NDArray[np.float64]


@lru_cache(maxsize=256)
def face_boxes(part: PartFeatures) -> _Array:
    """Return a box that each of a part's surfaces does not leave, (n, 2, 3) mm, along the part's axes."""
    return np.array([face_box(part, number, np.eye(3)) for number in range(len(part.surfaces))]).reshape(-1, 2, 3)


def face_box(part: PartFeatures, number: int, axes: _Array) -> _Array:
    """Return a box that a surface does not leave: of a round one, that of the whole body which it is a part of.

    Parameters
    ----------
    part, number
        Which of the part's surfaces.
    axes
        (3, 3) one unit direction in each row, in the part's coordinates.

    Returns
    -------
    (2, 3) float
        mm along the axes: least and greatest.
    """
    surface = part.surfaces[number]
    if isinstance(surface, Plane):
        return part.edges.box(number, axes)
    ends, reach = _ends_and_reach(part, surface, axes)
    middles = ends @ axes.T
    low, high = (middles - reach).min(axis=0), (middles + reach).max(axis=0)
    if isinstance(surface, Cylinder) and part.edges.neighbours(number):
        # every straight line along the wall ends at its edges, so that they hold it between them
        edges = part.edges.box(number, axes)
        low, high = np.maximum(low, edges[0]), np.minimum(high, edges[1])
    return np.array([low, high])


def _ends_and_reach(part: PartFeatures, surface: Surface, axes: _Array) -> tuple[_Array, _Array]:
    """Return places along a surface's middle, (k, 3) mm, and how far it reaches from each along the axes, (k, 3)."""
    if isinstance(surface, Cylinder):
        return np.array([surface.point, surface.end]), surface.radius * _off(axes, surface.direction)[None]
    if isinstance(surface, Cone):
        along = np.array([surface.near, surface.far])
        radii = np.array([[abs(surface.radius_at(at))] for at in along])
        return surface.apex + along[:, None] * surface.direction, radii * _off(axes, surface.direction)
    if isinstance(surface, Sphere):
        return surface.point[None], np.full((1, 3), surface.radius)
    if isinstance(surface, Torus):
        return surface.point[None], (surface.major * _off(axes, surface.direction) + surface.minor)[None]
    return part.corners, np.zeros((1, 3))


def _off(axes: _Array, direction: _Array) -> _Array:
    """Return how far, (3,), a circle of radius 1 about a direction reaches along the axes."""
    return np.sqrt(np.maximum(1 - (axes @ direction) ** 2, 0.0))
