"""Rings of flat facets that stand in for a round wall: measured by the circle through their corners."""

import math

import numpy as np

from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.prisms import find_prisms

#: Regular rings of fewer sides are meant: hexagons of sockets and nuts.
LEAST_FACETS = 8


def faceted_walls(part: PartFeatures) -> tuple[Cylinder, ...]:
    """Find regular rings of eight flats and more.

    Parameters
    ----------
    part
        Its surfaces and edges.

    Returns
    -------
    tuple of Cylinder
        The circle through the corners of each ring, as a wall with that many `facets`.
    """
    cylinders = []
    for ring in find_prisms(part):
        count = ring.outline.sides
        if count < LEAST_FACETS:
            continue
        middle = np.mean([segment.start for segment in ring.outline.segments], axis=0)
        across = np.cross(ring.direction, ring.along)
        radius = ring.outline.segments[0].length / (2 * math.sin(math.pi / count))
        cylinders.append(
            Cylinder(
                faces=tuple(face for wall in ring.walls for face in part.surfaces[wall].faces),
                point=ring.position + middle[0] * ring.along + middle[1] * across,
                direction=-ring.direction,
                radius=radius,
                length=ring.depth,
                is_hollow=ring.is_hollow,
                arcs=((ring.along, 2 * math.pi),),
                area=ring.outline.perimeter * ring.depth,
                facets=count,
            )
        )
    return tuple(cylinders)


def allowance(wall: Cylinder) -> float:
    """Return by how much a ring of facets is narrower across its flats than across its corners, mm.

    Notes
    -----
    D (1 - cos(pi / n)) with the corners on a circle of diameter D and n even, half of it with n odd: there a
    flat faces a corner.

    Examples
    --------
    >>> wall = Cylinder(faces=(), point=np.zeros(3), direction=np.eye(3)[2], radius=4, length=1, is_hollow=True,
    ...     arcs=(), area=0, facets=32)
    >>> round(allowance(wall), 4)
    0.0385
    """
    whole = 2 * wall.radius * (1 - math.cos(math.pi / wall.facets)) if wall.facets else 0.0
    return whole if wall.facets % 2 == 0 else whole / 2
