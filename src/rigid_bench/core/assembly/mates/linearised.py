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

from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.values.frames import Pose

if TYPE_CHECKING:
    from scipy.sparse import csr_array
    from scipy.sparse.linalg import SuperLU

_Array = NDArray[np.float64]
#: Up to so many columns a dense solution is quicker.
_DENSE = 240
#: Directions that are smaller than this share of the greatest are none.
_RANK = 1e-10
#: Of the greatest diagonal entry; and how often what it left is made good.
_DAMPING, _REFINED = 1e-11, 3


@dataclass(frozen=True, eq=False)
class Linearised:
    """Every mate's rows on the twists of its two instances, and how far it is from holding."""

    system: System
    #: For each mate the rows on a and on b, (k, 6) each, and its residuals, (k,) mm.
    parts: tuple[tuple[_Array, _Array, _Array], ...]

    @cached_property
    def residuals(self) -> _Array:
        """(m,) mm, of all mates."""
        return np.concatenate([residuals for _, _, residuals in self.parts]) if self.parts else np.zeros(0)

    @cached_property
    def dense(self) -> _Array:
        """(m, 6 n), all rows on all twists."""
        rows = np.zeros((len(self.residuals), 6 * len(self.system.build.instances)))
        first = 0
        for mate, (rows_a, rows_b, _) in zip(self.system.mates, self.parts, strict=True):
            last = first + len(rows_a)
            rows[first:last, 6 * mate.a : 6 * mate.a + 6] = rows_a
            rows[first:last, 6 * mate.b : 6 * mate.b + 6] = rows_b
            first = last
        return rows

    def meeting(self, wanted: _Array) -> _Array:
        """Return the least step, (6 n,) mm, by which the rows come as near as they can to what is wanted, (m,)."""
        free = self.system.free_columns()
        step = np.zeros(len(free))
        if not len(wanted) or not free.any():
            return step
        if free.sum() <= _DENSE:
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
        free = self.system.free_columns()
        still = np.where(free, step, 0.0)
        rows = self.dense[:, free] if free.sum() <= _DENSE else self._factored[0]
        rest: _Array = still - self.meeting(rows @ still[free])
        return rest

    @cached_property
    def _factored(self) -> "tuple[csr_array, SuperLU]":
        """The rows on what is not grounded, and the factors of rows times their transpose."""
        from scipy.sparse import csr_array, identity
        from scipy.sparse.linalg import splu

        rows, columns, values = [], [], []
        first = 0
        for mate, (rows_a, rows_b, _) in zip(self.system.mates, self.parts, strict=True):
            for instance, block in ((mate.a, rows_a), (mate.b, rows_b)):
                at, column = np.indices(block.shape)
                rows.append((at + first).ravel())
                columns.append((column + 6 * instance).ravel())
                values.append(block.ravel())
            first += len(rows_a)
        shape = (first, 6 * len(self.system.build.instances))
        places = (np.concatenate(rows), np.concatenate(columns))
        whole = csr_array((np.concatenate(values), places), shape=shape)[:, np.flatnonzero(self.system.free_columns())]
        square = whole @ whole.T
        damping = _DAMPING * float(square.diagonal().max(initial=1.0))
        factors = splu(
            (square + damping * identity(first)).tocsc(),
            permc_spec="MMD_AT_PLUS_A",
            diag_pivot_thresh=0.0,
            options={"SymmetricMode": True},
        )
        return whole, factors


def linearise(system: System, poses: Sequence[Pose], *, limits: bool = False) -> Linearised:
    """Return all mates' rows where the instances stand; with `limits`, also those that bring joints back into them."""
    return Linearised(system, tuple(system.mate_rows(mate, poses, limits=limits) for mate in system.mates))
