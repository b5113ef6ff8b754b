"""Holes and pins that go round in a reference, and on a part run out into something else.

One does where it came too near an edge, or where the boss about it was made smaller than its bore.
"""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.registration.assign import EXACT, assign
from rigid_bench.core.values.frames import Pose

_Array = NDArray[np.float64]
#: How far (rad) a face may be tilted and still be the face that was meant.
TILT = np.radians(10)


def run_out_pairs(
    reference: PartFeatures, part: PartFeatures, pairs: Mapping[int, int], *, pose: Pose, reach_mm: float
) -> dict[int, int]:
    """Pair walls that go round in the reference, and are open on the part: each known by its radius or its axis.

    Parameters
    ----------
    reference, part
        The parts.
    pairs
        The reference's walls that have an answer -> the part's, by their places among the cylinders.
    pose
        From the reference's coordinates to the part's.
    reach_mm
        How far off a wall may stand and still be the one meant.

    Returns
    -------
    dict
        More such pairs.
    """
    wanted = [k for k, wall in enumerate(reference.cylinders) if wall.goes_round and k not in pairs]
    left = set(range(len(part.cylinders))) - set(pairs.values())
    opened = [own for own in sorted(left) if wanted and _runs_out(part, part.cylinders[own])]
    costs = np.full((len(wanted), len(opened)), np.inf)
    for row, column in np.ndindex(costs.shape):
        meant, wall = reference.cylinders[wanted[row]], part.cylinders[opened[column]]
        middle, direction = pose.point((meant.point + meant.end) / 2), pose.direction(meant.direction)
        is_meant = is_as_wide(wall, meant) or is_on_axis(wall, middle, direction)
        if is_meant and wall.is_hollow == meant.is_hollow and abs(wall.direction @ direction) > np.cos(TILT):
            costs[row, column] = float(np.linalg.norm((wall.point + wall.end) / 2 - middle))
    return {wanted[row]: opened[column] for row, column in assign(costs, reach_mm).items()}


def _runs_out(part: PartFeatures, wall: Cylinder) -> bool:
    """Say whether a round wall is open, and meets what is beside it in a kink: no fillet, and no end of a slot."""
    beyond = part.edges.neighbours(part.surfaces.index(wall))
    return not wall.goes_round and not any(part.edges.is_smooth(edge) for edge, _ in beyond)


def is_as_wide(wall: Cylinder, other: Cylinder) -> bool:
    """Say whether two round walls have one radius, both hollow or both not."""
    return wall.is_hollow == other.is_hollow and abs(wall.radius - other.radius) < EXACT


def is_on_axis(wall: Cylinder, point: _Array, direction: _Array) -> bool:
    """Say whether a round wall lies about an axis: a point, (3,) mm, and a direction, (3,) unit."""
    beside = float(np.linalg.norm(np.cross(point - wall.point, wall.direction)))
    return beside < EXACT and abs(float(wall.direction @ direction)) > np.cos(EXACT)
