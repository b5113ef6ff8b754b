"""Move instances until the mates hold: damped Gauss-Newton steps of least movement."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.values.frames import Pose

_STEPS = 30


def relax(
    system: System, poses: Sequence[Pose], *, steps: int = _STEPS, limits: bool = False
) -> tuple[list[Pose], float]:
    """Move the ungrounded instances the least until the mates hold as well as they can.

    Parameters
    ----------
    system
        The mates of a build.
    poses
        Where the instances start; near enough that each mate's nearest sense is meant.
    steps
        At most this many.
    limits
        Bring joints back that are beyond their limits, too.

    Returns
    -------
    poses : list of Pose
    error : float
        The norm of all residuals, mm (angles times the size of the smaller part).

    Notes
    -----
    Each step is the least-norm solution of the linearised mates (Nocedal and Wright,
    *Numerical Optimization*, 2nd ed., section 10.3), halved while it makes things worse.
    """
    current = list(poses)
    free = system.free_columns()
    rows, residuals = assemble(system, current, limits=limits)
    error = float(np.linalg.norm(residuals))
    for _ in range(steps):
        if error < 1e-12 * max(1.0, float(system.lengths.max(initial=0.0))) or not free.any():
            break
        step = np.zeros(rows.shape[1])
        step[free] = np.linalg.lstsq(rows[:, free], -residuals, rcond=1e-10)[0]
        for _halving in range(6):
            trial = system.stepped(current, step)
            trial_rows, trial_residuals = assemble(system, trial, limits=limits)
            trial_error = float(np.linalg.norm(trial_residuals))
            if trial_error < error:
                break
            step = step / 2
        else:
            break
        current, rows, residuals, error = trial, trial_rows, trial_residuals, trial_error
    return current, error


def assemble(
    system: System, poses: Sequence[Pose], *, limits: bool = False
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return all mates' rows on all twists, (m, 6 n), and their residuals, (m,) mm."""
    parts = [system.mate_rows(mate, poses, limits=limits) for mate in system.mates]
    residuals = np.concatenate([each for _, _, each in parts]) if parts else np.zeros(0)
    rows = np.zeros((len(residuals), 6 * len(poses)))
    first = 0
    for mate, (rows_a, rows_b, _) in zip(system.mates, parts, strict=True):
        last = first + len(rows_a)
        rows[first:last, 6 * mate.a : 6 * mate.a + 6] = rows_a
        rows[first:last, 6 * mate.b : 6 * mate.b + 6] = rows_b
        first = last
    return rows, residuals
