"""How far apart two parts are at least along a motion, as their boxes say: for many places at once."""

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.placements import Placements
from rigid_bench.core.part.face_boxes import face_boxes
from rigid_bench.core.part.features import PartFeatures

_Array = NDArray[np.float64]
#: mm, and of unit directions: what shifts or leans by less along an axis moves level with it.
_LEVEL = 1e-5
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
    return _between(seen, face_boxes(a), face_boxes(b))


def faces_may_meet(seen: Placements, a: PartFeatures, b: PartFeatures) -> NDArray[np.bool_]:
    """Say in which of some places, (k,), two parts may meet, as the boxes of single faces say."""
    if a.is_mesh or b.is_mesh:
        return np.ones(len(seen.positions), dtype=bool)
    boxes_a, boxes_b = _on_one_level(seen, face_boxes(a), face_boxes(b))
    if not len(boxes_a):
        return np.zeros(len(seen.positions), dtype=bool)
    return np.asarray(_between(seen, boxes_a, boxes_b) <= 0)


def _between(seen: Placements, boxes_a: _Array, boxes_b: _Array) -> _Array:
    """Return how far boxes of two parts, (n, 2, 3) and (m, 2, 3), are apart at least in some places, (k,) mm."""
    back = seen.rotations.transpose(0, 2, 1)
    inverse = Placements(back, -(back @ seen.positions[:, :, None])[..., 0])
    gaps = []
    for own, other, places in ((boxes_a, boxes_b, seen), (boxes_b, boxes_a, inverse)):
        corners = carried(places, other[:, _PICKS, np.arange(3)].reshape(-1, 3)).reshape(-1, len(other), 8, 3)
        low, high = corners.min(axis=2)[:, None], corners.max(axis=2)[:, None]
        apart = np.maximum(low - own[:, 1][None, :, None], own[:, 0][None, :, None] - high).max(axis=3)
        gaps.append(apart.min(axis=(1, 2)))
    least: _Array = np.maximum(*gaps)
    return least


def _on_one_level(seen: Placements, boxes_a: _Array, boxes_b: _Array) -> tuple[_Array, _Array]:
    """Return the boxes of two parts, (n, 2, 3) each, that may meet where the parts move level with each other.

    As in a flat linkage, where all that stands above or below is passed by; all boxes where they do not move so.
    """
    changes = (seen.rotations - seen.rotations[0]).reshape(-1, 3)
    sizes, axes = np.linalg.eigh(changes.T @ changes)
    axis, there = axes[:, 0], seen.rotations[0] @ axes[:, 0]
    levels = seen.positions @ there
    if sizes[0] > _LEVEL**2 or np.ptp(levels) > _LEVEL:
        return boxes_a, boxes_b
    low_a, high_a = _reach(boxes_a, there)
    low_b, high_b = (reach + levels[0] for reach in _reach(boxes_b, axis))
    slack = _LEVEL * (1 + max(float(np.abs(boxes).max()) for boxes in (boxes_a, boxes_b)))
    meets = (low_a[:, None] < high_b + slack) & (low_b < high_a[:, None] + slack)
    return boxes_a[meets.any(axis=1)], boxes_b[meets.any(axis=0)]


def _reach(boxes: _Array, direction: _Array) -> tuple[_Array, _Array]:
    """Return from where to where boxes, (n, 2, 3), reach along a direction, (n,) mm each."""
    ends = np.sort(boxes * direction, axis=1).sum(axis=2)
    return ends[:, 0], ends[:, 1]
