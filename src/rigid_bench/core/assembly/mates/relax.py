"""Move instances until the mates hold: damped Gauss-Newton steps of least movement."""

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from rigid_bench.core.assembly.mates.linearised import Linearised, linearise
from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.values.frames import Pose

_STEPS = 30


class Relaxed(NamedTuple):
    """Where the mates hold as well as they can."""

    poses: list[Pose]
    #: The norm of all residuals, mm (angles times the size of the smaller part).
    error: float
    #: The mates' rows there.
    linearised: Linearised


def relax(
    system: System, poses: Sequence[Pose], *, steps: int = _STEPS, limits: bool = False, until_mm: float = 0.0
) -> Relaxed:
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
    until_mm
        An error that is small enough; 0 for what rounding leaves.

    Notes
    -----
    Each step is the least-norm solution of the linearised mates (Nocedal and Wright,
    *Numerical Optimization*, 2nd ed., section 10.3), halved while it makes things worse.
    """
    current = list(poses)
    can_move = system.free_columns.any()
    linearised = linearise(system, current, limits=limits)
    error = float(np.linalg.norm(linearised.residuals))
    small = until_mm or _rounding(system, current, len(linearised.residuals))
    for _ in range(steps):
        if error < small or not can_move:
            break
        step = linearised.meeting(-linearised.residuals)
        for _halving in range(6):
            trial = system.stepped(current, step)
            trial_found = linearise(system, trial, limits=limits)
            trial_error = float(np.linalg.norm(trial_found.residuals))
            if trial_error < error:
                break
            step = step / 2
        else:
            break
        current, linearised, error = trial, trial_found, trial_error
    return Relaxed(current, error, linearised)


def _rounding(system: System, poses: Sequence[Pose], count: int) -> float:
    """Return the error, mm, that rounding leaves in so many residuals of parts of this size, where they stand."""
    away = max((float(np.abs(pose.position).max()) for pose in poses), default=0.0)
    return 1e-12 * max(1.0, float(system.lengths.max(initial=0.0))) + 2e-16 * away * math.sqrt(count)
