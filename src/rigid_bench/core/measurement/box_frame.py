"""A frame for a part that no reference is laid over: along its leading faces, at a corner of its box."""

import itertools

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.kernel.distance import moved
from rigid_bench.core.kernel.feature_reader import tight_box
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.frames import Pose, any_normal, unit

_Array = NDArray[np.float64]
#: Directions that differ by less are one.
_ONE_WAY = 1e-6


def box_frames(part: PartFeatures) -> list[tuple[Pose, _Array]]:
    """Find the 24 ways of looking at a part squarely.

    Parameters
    ----------
    part
        Its surfaces.

    Returns
    -------
    list of (Pose, (3,) float)
        From the frame's coordinates to the part's, and the overall sizes along the frame's axes, mm. The
        origin is the corner of the box from which all coordinates are positive.
    """
    axes = _leading_axes(part)
    box = tight_box(moved(part.shape, Pose(axes, np.zeros(3)).inverse()))
    return [_frame(axes, box, turn) for turn in _TURNS]


def _frame(axes: _Array, box: _Array, turn: _Array) -> tuple[Pose, _Array]:
    turned = axes @ turn
    corners = np.sort(box @ turn, axis=0)  # turn is a signed permutation: corners stay corners
    return Pose(turned, turned @ corners[0]), corners[1] - corners[0]


def _turns() -> list[_Array]:
    """Return the rotations that carry the axes onto each other, the least turned first."""
    turns = [
        np.eye(3)[:, list(order)] * signs
        for order in itertools.permutations(range(3))
        for signs in itertools.product((1.0, -1.0), repeat=3)
    ]
    return sorted((axes for axes in turns if np.linalg.det(axes) > 0), key=lambda axes: -float(np.trace(axes)))


_TURNS = _turns()


def _leading_axes(part: PartFeatures) -> _Array:
    """Return three square axes as columns: along the normals that most area has, or the axis of a turned part."""
    weighed = [(plane.area, plane.normal) for plane in part.planes] + [
        (boss.area, boss.direction) for boss in part.bosses
    ]
    sums: list[tuple[float, _Array]] = []
    for area, way in weighed:
        place = next((k for k, (_, other) in enumerate(sums) if abs(float(way @ other)) > 1 - _ONE_WAY), None)
        if place is None:
            sums.append((area, way))
        else:
            sums[place] = (sums[place][0] + area, sums[place][1])
    sums.sort(key=lambda sum_: -sum_[0])
    if not sums:
        return np.eye(3)
    first = sums[0][1]
    second = next((way for _, way in sums if abs(float(way @ first)) < _ONE_WAY), any_normal(first))
    third = unit(np.cross(first, second))
    axes = np.column_stack([first, np.cross(third, first), third])
    # as the student turned it, as far as it is square to their own axes
    return min((axes @ turn for turn in _TURNS), key=lambda turned: -float(np.trace(turned)))
