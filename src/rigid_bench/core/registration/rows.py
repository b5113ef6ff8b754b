"""Round walls of one size in a row: where the whole row was moved or stretched, they keep their order."""

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.values.frames import Pose

_Array = NDArray[np.float64]
#: A row has so many members at least: any two are one.
_LEAST = 3
#: mm: members stand on one line, and their steps are alike.
_EXACT = 1e-2


def in_order(
    pairs: Mapping[int, int], wanted: Sequence[Cylinder], own: Sequence[Cylinder], *, pose: Pose
) -> dict[int, int]:
    """Pair the members of each row in their order, where that explains all their places by one move and one pitch.

    A row that went on by nearly its pitch has most members where others should stand; paired by place, the first would
    be where the last one is.

    Parameters
    ----------
    pairs
        The reference's walls -> the part's, by place.
    wanted, own
        The walls of the reference and of the part.
    pose
        From the reference's coordinates to the part's.

    Returns
    -------
    dict
        The pairs, with those of such rows in order.
    """
    ordered = dict(pairs)
    for row in _rows(sorted(pairs), wanted):
        places = pose.point(np.array([_middle(wanted[index]) for index in row]))
        along = places[-1] - places[0]
        along = along / np.linalg.norm(along)
        partners = sorted((pairs[index] for index in row), key=lambda partner: float(_middle(own[partner]) @ along))
        moved = np.array([_middle(own[partner]) for partner in partners]) - places
        if np.abs(np.diff(moved, n=2, axis=0)).max() < _EXACT:
            ordered |= dict(zip(row, partners, strict=True))
    return ordered


def _middle(wall: Cylinder) -> _Array:
    middle: _Array = (wall.point + wall.end) / 2
    return middle


def _rows(indices: Sequence[int], walls: Sequence[Cylinder]) -> list[list[int]]:
    """Group walls of one size that stand beside each other on one line, each group in its order along it."""
    alike: dict[tuple[float, float, bool], list[int]] = {}
    for index in indices:
        wall = walls[index]
        alike.setdefault((round(wall.radius, 3), round(wall.length, 3), wall.is_hollow), []).append(index)
    rows = []
    for group in alike.values():
        middles = np.array([_middle(walls[index]) for index in group])
        if len(group) < _LEAST:
            continue
        apart = middles - middles.mean(axis=0)
        _, sizes, ways = np.linalg.svd(apart, full_matrices=False)
        if sizes[1] < _EXACT < sizes[0]:
            rows.append([group[k] for k in np.argsort(apart @ ways[0], kind="stable")])
    return rows
