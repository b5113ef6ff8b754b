"""All mates' rows where the instances stand, and the least step that meets what is asked of them.

Few instances are solved densely. Many touch each other sparsely: their step comes from the normal
equations of least norm (Bjoerck, *Numerical Methods for Least Squares Problems*, 1996, sections 1.1
and 2.9), with a share of damping so small that three rounds of refinement take it out again.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.mates.system import Rows, System
from rigid_bench.core.values.frames import Pose

if TYPE_CHECKING:
    from scipy.sparse import csr_array
    from scipy.sparse.linalg import SuperLU

_Array = NDArray[np.float64]
#: Up to so many columns a dense solution is quicker.
DENSE = 240
#: Directions that are smaller than this share of the greatest are none.
_RANK = 1e-10
#: Of the greatest diagonal entry; and how often what it left is made good.
_DAMPING, _REFINED = 1e-11, 3


@dataclass(frozen=True, eq=False)
class Linearised:
    """Every mate's rows on the twists of its two instances, and how far it is from holding."""

    system: System
    rows: Rows

    @property
    def residuals(self) -> _Array:
        """(m,) mm, of all mates."""
        return self.rows.residuals

    @cached_property
    def dense(self) -> _Array:
        """(m, 6 n), all rows on all twists."""
        count = len(self.residuals)
        rows = np.zeros((count, len(self.system.build.instances), 6))
        for instances, entries in zip(self.rows.instances, self.rows.entries, strict=True):
            rows[np.arange(count), instances] = entries
        return rows.reshape(count, rows.shape[1] * 6)

    def meeting(self, wanted: _Array) -> _Array:
        """Return the least step, (6 n,) mm, by which the rows come as near as they can to what is wanted, (m,)."""
        free = self.system.free_columns
        step = np.zeros(len(free))
        if not len(wanted) or not free.any():
            return step
        if free.sum() <= DENSE:
            step[free] = np.linalg.lstsq(self.dense[:, free], wanted, rcond=_RANK)[0]
            return step
        rows, factors = self._factored
        weights = factors.solve(wanted)
        for _ in range(_REFINED):
            weights = weights + factors.solve(wanted - rows @ (rows.T @ weights))
        step[free] = rows.T @ weights
        return step

    def left_free(self, step: _Array) -> _Array:
        """Return what is left of a step, (6 n,) mm, when all that the mates would notice is taken off it."""
        free = self.system.free_columns
        still = np.where(free, step, 0.0)
        rows = self.dense[:, free] if free.sum() <= DENSE else self._factored[0]
        rest: _Array = still - self.meeting(rows @ still[free])
        return rest

    @cached_property
    def _factored(self) -> "tuple[csr_array, SuperLU]":
        """The rows on what is not grounded, and the factors of rows times their transpose."""
        from scipy.sparse import csr_array, identity
        from scipy.sparse.linalg import splu

        count = len(self.residuals)
        places = np.broadcast_to(np.arange(count)[:, None], (2, count, 6))
        columns = 6 * np.array(self.rows.instances)[:, :, None] + np.arange(6)
        shape = (count, 6 * len(self.system.build.instances))
        entries = (np.ravel(self.rows.entries), (places.ravel(), columns.ravel()))
        whole = csr_array(entries, shape=shape)[:, np.flatnonzero(self.system.free_columns)]
        square = whole @ whole.T
        damping = _DAMPING * float(square.diagonal().max(initial=1.0))
        factors = splu(
            (square + damping * identity(count)).tocsc(),
            permc_spec="MMD_AT_PLUS_A",
            diag_pivot_thresh=0.0,
            options={"SymmetricMode": True},
        )
        return whole, factors


def linearise(system: System, poses: Sequence[Pose], *, limits: bool = False) -> Linearised:
    """Return all mates' rows where the instances stand; with `limits`, also those that bring joints back into them."""
    return Linearised(system, system.rows(system.mates, poses, limits=limits))
