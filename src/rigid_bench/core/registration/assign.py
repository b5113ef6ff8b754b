"""Pair rows with columns one to one, what stands just where it should before all else."""

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment

_Array = NDArray[np.float64]
#: mm: two faces stand in one place.
EXACT = 1e-3


def assign(cost: _Array, reach: float | _Array) -> dict[int, int]:
    """Pair rows and columns one to one at least cost, leaving out pairs beyond reach.

    What stands just where it should is paired with that before all else: no pair is broken to find one for another.
    """
    pairs: dict[int, int] = {}
    for row, column in np.argwhere(cost < EXACT).tolist():
        if row not in pairs and column not in pairs.values():
            pairs[row] = column
    rest = np.array(cost)
    rest[list(pairs)] = np.inf
    rest[:, list(pairs.values())] = np.inf
    rows, columns = linear_sum_assignment(np.where(rest < reach, rest, 1e3 * np.max(reach)))
    is_near = rest < reach
    return pairs | {int(r): int(c) for r, c in zip(rows, columns, strict=True) if is_near[r, c]}
