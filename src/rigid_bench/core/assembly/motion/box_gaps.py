"""How far apart two parts are at least along a motion, as their boxes say: for many places at once."""

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.placements import Placements
from rigid_bench.core.part.face_boxes import face_boxes
from rigid_bench.core.part.features import PartFeatures

_Array = NDArray[np.float64]
_PICKS = np.array(list(np.ndindex(2, 2, 2)))


def carried(seen: Placements, points: _Array) -> _Array:
    """Carry points of a part, (m, 3), to each of some places, (k, m, 3)."""
    carried: _Array = points @ seen.rotations.transpose(0, 2, 1) + seen.positions[:, None, :]
    return carried


def box_gaps(seen: Placements, corners: _Array, a: PartFeatures, b: PartFeatures) -> _Array:
    """Return by how much, (k,) mm, two parts are apart at least, as their boxes say; below 0 for nothing.

    Parameters
    ----------
    seen, corners
        Where b stands to a, and the corners of its box there, (k, 8, 3).
    """
    back = (a.corners - seen.positions[:, None, :]) @ seen.rotations
    gaps = [
        np.maximum(points.min(axis=1) - box[1], box[0] - points.max(axis=1)).max(axis=1)
        for points, box in ((corners, a.box), (back, b.box))
    ]
    apart: _Array = np.maximum(*gaps)
    return apart


def face_gaps(seen: Placements, a: PartFeatures, b: PartFeatures) -> _Array:
    """Return as `box_gaps` does, what the boxes of single faces say; they say more, and take longer."""
    if a.is_mesh or b.is_mesh:
        return np.zeros(len(seen.positions))
    back = seen.rotations.transpose(0, 2, 1)
    inverse = Placements(back, -(back @ seen.positions[:, :, None])[..., 0])
    gaps = []
    for own, other, places in ((face_boxes(a), face_boxes(b), seen), (face_boxes(b), face_boxes(a), inverse)):
        corners = carried(places, other[:, _PICKS, np.arange(3)].reshape(-1, 3)).reshape(-1, len(other), 8, 3)
        low, high = corners.min(axis=2)[:, None], corners.max(axis=2)[:, None]
        apart = np.maximum(low - own[:, 1][None, :, None], own[:, 0][None, :, None] - high).max(axis=3)
        gaps.append(apart.min(axis=(1, 2)))
    least: _Array = np.maximum(*gaps)
    return least
