"""A motion that carries some instances as one body, straight or about a fixed axis, while all others stand still.

Most motions of a build are of this kind. Where such a way leads is known without following it step by step.
"""

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.analysis import Freedom
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.freedom.travel import is_beyond_limits, stride
from rigid_bench.core.values.frames import Pose

_Array = NDArray[np.float64]
#: Of a unit velocity: what is less is rounding.
_STILL = 1e-6
#: Shares of the whole way at which the mates are tried; mm and rad: they hold to within.
_TRIED, _HOLDS = (0.13, 0.38, 0.71, 1.0), 1e-5
#: Halvings of a step, to find where a joint meets its limit.
_HALVINGS = 24


@dataclass(frozen=True, slots=True, eq=False)
class RigidWay:
    """One way along a motion."""

    freedom: Freedom
    motion: Motion
    #: 1, or -1 for the other way.
    sign: int
    #: Places of the instances that move.
    moving: frozenset[int]
    #: rad or mm: how far it is followed, and in what steps.
    end: float
    step: float

    @property
    def is_turn(self) -> bool:
        """Whether it turns about the motion's axis."""
        return self.motion.kind == "rotation"

    def carried(self, amount: float) -> Pose:
        """Return by what the moving instances are carried, in the world, after an amount (rad or mm)."""
        if self.is_turn:
            return Pose.about(self.sign * amount * self.motion.direction, self.motion.point)
        return Pose(np.eye(3), self.sign * amount * self.motion.direction)

    def poses(self, amount: float) -> list[Pose]:
        """Return where all instances stand after an amount (rad or mm)."""
        carried = self.carried(amount)
        return [carried @ pose if index in self.moving else pose for index, pose in enumerate(self.freedom.poses)]

    def span(self) -> tuple[float, float]:
        """Return how far it goes back and forth (rad or mm, back below 0) until a joint meets its limit."""
        if not self.freedom.system.has_limits:
            return (-math.pi, math.pi) if self.is_turn else (-self.end, self.end)
        back, forth = (replace(self, sign=sign).limit() for sign in (-self.sign, self.sign))
        return -(back[0] if back else self.end), forth[0] if forth else self.end

    def limit(self) -> tuple[float, str] | None:
        """Return how far the way goes until a joint meets its limit, and whose it is; None where none does."""
        system = self.freedom.system
        if not system.has_limits:
            return None
        last, low = list(self.freedom.poses), 0.0
        for number in range(1, math.ceil(self.end / self.step) + 1):
            high = min(number * self.step, self.end)
            poses = self.poses(high)
            if stopped_by := is_beyond_limits(system, poses, last):
                for _ in range(_HALVINGS):
                    middle = (low + high) / 2
                    if is_beyond_limits(system, self.poses(middle), last):
                        high = middle
                    else:
                        low = middle
                return low, stopped_by
            last, low = poses, high
        return None


def rigid_way(
    freedom: Freedom, motion: Motion, index: int, to: int | None, *, way: int, size_mm: float = 0.0
) -> RigidWay | None:
    """Return one way of a motion where it carries instances as one body; None where it must be followed.

    Parameters
    ----------
    freedom, motion, index, to, way, size_mm
        As for `travel.follow`.
    """
    if motion.kind == "screw":
        return None
    twists = freedom.twists_of(freedom.velocity_of(motion, index, to))
    is_still = np.abs(twists).max(axis=1) < _STILL
    goes_along = np.abs(twists - motion.twist).max(axis=1) < _STILL * max(1.0, float(np.abs(motion.twist).max()))
    if not goes_along[index] or not np.all(is_still | goes_along):
        return None
    step, count = stride(freedom, motion, index, size_mm)
    moving = frozenset(np.flatnonzero(goes_along).tolist())
    own = RigidWay(freedom=freedom, motion=motion, sign=way, moving=moving, end=count * step, step=step)
    if all(freedom.holds_at(own.poses(share * own.end), moving, within=_HOLDS) for share in _TRIED):
        return own
    return None
