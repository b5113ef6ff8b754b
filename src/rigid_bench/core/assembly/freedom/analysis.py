"""What can still move in a build, which mates are redundant, and which conflict.

Mobility is the dimension of the null space of all mates' rows. It is narrowed mate by
mate, in the file's order, so that each mate's own share is known.
"""

from collections.abc import Collection, Hashable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.blocks import Free
from rigid_bench.core.assembly.freedom.motions import Motion, name_motions, span
from rigid_bench.core.assembly.mates.relax import relax
from rigid_bench.core.assembly.mates.system import Residual, System
from rigid_bench.core.formats.build import Build, Mate
from rigid_bench.core.values.frames import Pose, cross_matrix
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]
#: Speeds that are rounding only; motions are scaled so that they are about 1.
_NO_SPEED = 1e-6

#: mm and rad: mates that are off by less hold exactly.
_EXACT = 1e-10
#: How far, as a share of the part's size, a motion is followed to see whether it carries on.
_FOLLOWED = 0.02
#: What mates may be off then, as a share of the largest part's size, to count as put right.
_PUT_RIGHT = 1e-7


@dataclass(frozen=True, slots=True, kw_only=True)
class Conflict:
    """A mate that does not hold in the given pose."""

    mate: str
    residual: Residual


@dataclass(frozen=True, eq=False)
class Freedom:
    """What a build's mates leave free, in the given pose."""

    system: System
    #: Where the instances stand once the mates that nearly hold hold exactly.
    poses: tuple[Pose, ...]
    #: What all mates leave free.
    free: Free
    #: Equations of all mates and of the ground, as the format counts them.
    equations: int
    redundant_mates: tuple[str, ...]
    conflicts: tuple[Conflict, ...]

    @property
    def mobility(self) -> int:
        """How many independent motions the whole build has."""
        return self.free.mobility

    @property
    def rank(self) -> int:
        """How many of the equations are independent."""
        return 6 * len(self.poses) - self.mobility

    def degrees(self, index: int) -> int:
        """Return how many independent motions an instance has relative to ground."""
        return int(self._spans[index].shape[1])

    @cached_property
    def _spans(self) -> list[_Array]:
        return self.free.spans()

    @cached_property
    def velocities(self) -> _Array:
        """(6 n, mobility) orthonormal basis of all possible velocities, in the system's scaled measure."""
        return np.linalg.qr(self.free.velocities())[0]

    @cached_property
    def kept(self) -> dict[Hashable, object]:
        """What others worked out from it, by keys of their own: so that it is done once, and goes when it goes."""
        return {}

    def relative_twists(self, index: int, to: int | None = None) -> _Array:
        """Return a basis of an instance's possible velocities relative to another, or to ground.

        Parameters
        ----------
        index, to
            Places of the instances in the build; `to` None is the ground.

        Returns
        -------
        (6, d) float
            Twists about the world's origin, rad and mm.
        """
        if to is None:
            basis = self._spans[index] / self._scale(index)
        else:
            twists = self._twists(index, self._middle(index)) - self._twists(to, self._middle(index))
            basis = span(twists, rank=self.system.tolerance.rank, length=self.system.lengths[index])
        return _about(basis, self._middle(index), np.zeros(3))

    def motions(self, index: int, to: int | None = None) -> list[Motion]:
        """Name an instance's motions relative to another, or to ground; each with `finite`."""
        key = index, None if to in self.system.held else to
        if key not in self._motions:
            self._motions[key] = self._named(*key)
        return list(self._motions[key])

    @cached_property
    def _motions(self) -> dict[tuple[int, int | None], list[Motion]]:
        return {}

    def _named(self, index: int, to: int | None) -> list[Motion]:
        basis = self.relative_twists(index, to)
        centred = _about(basis, np.zeros(3), self._middle(index))
        named = name_motions(centred, length=self.system.lengths[index])
        placed = [motion.moved(Pose(np.eye(3), self._middle(index))) for motion in named]
        return [replace(motion, finite=self._carries_on(motion, index, to)) for motion in placed]

    def moves_alone(self, index: int, motion: Motion) -> bool:
        """Say whether an instance can make a motion while all others stand still."""
        block = np.concatenate([motion.twist[:3] * self.system.lengths[index], np.zeros(3)])
        block[3:] = _about(motion.twist[:, None], np.zeros(3), self._middle(index))[3:, 0]
        wanted = np.zeros(len(self.velocities))
        wanted[6 * index : 6 * index + 6] = block
        left = wanted - self.velocities @ (self.velocities.T @ wanted)
        return bool(np.linalg.norm(left) < 1e-6 * np.linalg.norm(wanted))

    def takes_any(self, mate: Mate, *, more_than: float = _NO_SPEED) -> bool:
        """Say whether one more mate would take any motion away: it changes by more along one, mm or rad for each."""
        ones, others, _ = self.system.mate_rows(mate, self.poses)
        moves = ones @ self.velocities[6 * mate.a : 6 * mate.a + 6]
        moves += others @ self.velocities[6 * mate.b : 6 * mate.b + 6]
        return bool(np.abs(moves).max(initial=0.0) > more_than)

    def velocity_of(self, motion: Motion, index: int, to: int | None) -> _Array:
        """Return the least velocity of all instances, (6 n,), that comes nearest to a motion of one: 1 rad or mm."""
        return least_velocity(self.system, self.velocities, self.poses, motion, index, to)

    def velocity_towards(self, index: int, point: _Array, way: _Array, *, sight: _Array | None = None) -> _Array:
        """Return the least velocity of all instances, (6 n,), that takes a point of one nearest to where it is pulled.

        It goes as far as it can without turning; what is left of the way, it turns.

        Parameters
        ----------
        index
            The instance's place in the build.
        point
            (3,) mm, in the world.
        way
            (3,) mm: how far and whither.
        sight
            (3,) unit: nearest as it is seen along this direction; in space without one.
        """
        seen = np.eye(3) if sight is None else np.eye(3) - np.outer(sight, sight)
        twists = self._twists(index, point)
        speeds, way = seen @ twists[3:], seen @ way
        still = _null_space(twists[:3])
        straight = still @ _least(speeds @ still, way)
        rest = _least(speeds, way - speeds @ straight)
        velocity: _Array = self.velocities @ (straight + rest)
        return velocity

    def twists_of(self, velocity: _Array) -> _Array:
        """Return the twist of every instance, (n, 6) rad and mm about the origin, in a velocity of all, (6 n,)."""
        blocks = velocity.reshape(-1, 6).copy()
        blocks[:, :3] /= self.system.lengths[:, None]
        middles = np.array([self._middle(index) for index in range(len(self.poses))])
        blocks[:, 3:] += np.cross(middles, blocks[:, :3])
        return blocks

    def at(self, poses: Sequence[Pose]) -> "Freedom":
        """Return what the same mates leave free where the instances stand elsewhere."""
        return replace(self, poses=tuple(poses), free=_free(self.system, poses))

    def _scale(self, index: int) -> _Array:
        """(6, 1): what twists about an instance's middle are multiplied by in the system's measure."""
        return np.array([float(self.system.lengths[index])] * 3 + [1.0] * 3)[:, None]

    def _middle(self, index: int) -> _Array:
        return self.poses[index].point(self.system.middles[index])

    def _twists(self, index: int, about: _Array) -> _Array:
        """Return an instance's twists in all motions, (6, mobility), about a point."""
        return _twists_in(self.system, self.velocities, self.poses, index, about)

    def _carries_on(self, motion: Motion, index: int, to: int | None) -> bool:
        """Follow a motion a finite step: put the mates right again and see whether it stayed."""
        if self.free.is_regular() or self.conflicts:
            return True  # mates that do not hold where they stand say nothing of where they lead
        velocity = self.velocity_of(motion, index, to)
        if self.free.is_regular(_moved(velocity)):
            return True
        unit_step = velocity * (self.system.lengths[index] / max(float(np.abs(velocity).max()), 1e-12))
        # where the way bends sharply a shorter step still shows it
        return any(self._follows(share * unit_step, index, to) for share in (_FOLLOWED, _FOLLOWED / 10))

    def _follows(self, step: _Array, index: int, to: int | None) -> bool:
        """Say whether an instance is still away after a step, (6 n,) mm, once the mates are put right again."""
        followed = self.system.stepped(list(self.poses), step)
        moved = _moved(step)
        if self.holds_at(followed, moved):
            return True  # faces that slide on faces: nothing needs to be put right
        # mostly those that moved can do it among themselves, which is quickly seen
        few = self._stays_away(self.system.among(moved), followed, index, to)
        return few or self._stays_away(self.system, followed, index, to)

    def _stays_away(self, system: System, followed: list[Pose], index: int, to: int | None) -> bool:
        """Say whether an instance stays away from where it was when mates are put right."""
        small = _PUT_RIGHT * max(1.0, float(self.system.lengths.max()))
        arrived, error, _ = relax(system, followed, until_mm=small)
        if error > small:
            return False
        start = self.poses
        return _way(self.system, start, arrived, index, to) > 0.5 * _way(self.system, start, followed, index, to)

    def holds_at(self, poses: Sequence[Pose], moved: Collection[int], *, within: float = _EXACT) -> bool:
        """Say whether the mates of those that moved hold to within mm and rad; the others do as before."""
        concerned = (mate for mate in self.system.mates if mate.a in moved or mate.b in moved)
        residuals = (self.system.residual(mate, poses) for mate in concerned)
        return all(residual.mm < within and residual.rad < within for residual in residuals)


def least_velocity(
    system: System, velocities: _Array, poses: Sequence[Pose], motion: Motion, index: int, to: int | None
) -> _Array:
    """Return the least velocity of all instances, (6 n,), that comes nearest to a motion of one: 1 rad or mm.

    Parameters
    ----------
    system, velocities
        The mates, and a basis of all possible velocities, (6 n, mobility), in their scaled measure.
    poses
        Where the instances stand.
    motion, index, to
        Of which instance, and against which; None is the ground.
    """
    middle = poses[index].point(system.middles[index])
    twists = _twists_in(system, velocities, poses, index, middle)
    if to is not None:
        twists = twists - _twists_in(system, velocities, poses, to, middle)
    scale = np.array([float(system.lengths[index])] * 3 + [1.0] * 3)[:, None]
    wanted = _about(motion.twist[:, None], np.zeros(3), middle)
    velocity: _Array = velocities @ np.linalg.lstsq(twists * scale, wanted * scale, rcond=1e-9)[0][:, 0]
    return velocity


def _twists_in(system: System, velocities: _Array, poses: Sequence[Pose], index: int, about: _Array) -> _Array:
    """Return an instance's twists, (6, k), about a point, in velocities of all, (6 n, k)."""
    block = velocities[6 * index : 6 * index + 6].copy()
    block[:3] /= system.lengths[index]
    return _about(block, poses[index].point(system.middles[index]), about)


def _least(speeds: _Array, way: _Array) -> _Array:
    """Return the least mix of motions, (k,), that goes a way, (3,), as far as their speeds, (3, k), can."""
    # a point on the axis of a turn has no speed but noise, which a share of the greatest would not cut off
    left, sizes, right = np.linalg.svd(speeds, full_matrices=False)
    known = sizes > _NO_SPEED
    mix: _Array = right[known].T @ (left[:, known].T @ way / sizes[known])
    return mix


def _moved(velocity: _Array) -> frozenset[int]:
    """Return the instances that move in a velocity of all, (6 n,) mm."""
    return frozenset(place // 6 for place in np.flatnonzero(np.abs(velocity) > _EXACT).tolist())


def _way(system: System, start: Sequence[Pose], arrived: Sequence[Pose], index: int, to: int | None) -> float:
    """Return how far an instance went relative to another: mm, turns times its own size."""

    def seen(poses: Sequence[Pose]) -> Pose:
        return poses[index] if to is None else poses[to].inverse() @ poses[index]

    before, after = seen(start), seen(arrived)
    corners = system.middles[index] + system.lengths[index] * np.vstack([np.eye(3), -np.eye(3)])
    return float(np.linalg.norm(before.point(corners) - after.point(corners)))


def _about(twists: _Array, old: _Array, new: _Array) -> _Array:
    """Carry twists, (6, k), from the point that their linear part speaks of to another."""
    moved = twists.copy()
    if twists.shape[1] and not np.array_equal(old, new):
        moved[3:] -= cross_matrix(new - old) @ twists[:3]
    return moved


def _null_space(matrix: _Array) -> _Array:
    """Return an orthonormal basis of what a matrix, (m, n), takes to nothing, (n, k)."""
    _, sizes, right = np.linalg.svd(matrix)
    rank = int(np.sum(sizes > 1e-6 * sizes.max(initial=0.0)))
    basis: _Array = right[rank:].T
    return basis


def _free(system: System, poses: Sequence[Pose]) -> Free:
    return Free(system, poses, system.rows(system.mates, poses).by_mate())


def freedom(build: Build, *, tolerance: Tolerance) -> Freedom:
    """Find what a build's mates leave free.

    Parameters
    ----------
    build
        Instances with poses, and mates.
    tolerance
        Says when a mate holds, when features agree, and when a row adds nothing.

    Returns
    -------
    Freedom
        First order, in the given pose. Mates that hold within tolerance count as exact.

    Raises
    ------
    NotSupported, InvalidDocument
        A mate is of an unknown kind, or cannot be meant.
    """
    system = System(build, tolerance)
    given = system.poses
    residuals = [(mate, system.residual(mate, given)) for mate in system.mates]
    conflicts = tuple(
        Conflict(mate=mate.id, residual=residual) for mate, residual in residuals if not residual.holds(tolerance)
    )
    # a pose that nearly holds is first made to hold, so that rounding does not pass for a constraint
    is_exact = all(residual.mm < _EXACT and residual.rad < _EXACT for _, residual in residuals)
    poses = tuple(given) if conflicts or is_exact else tuple(relax(system, given)[0])
    free = _free(system, poses)
    clashing = {conflict.mate for conflict in conflicts}
    return Freedom(
        system=system,
        poses=poses,
        free=free,
        equations=6 * len(system.held) + sum(len(system.mate_equations(mate, poses)) for mate in system.mates),
        redundant_mates=tuple(mate.id for mate in free.useless if mate.id not in clashing),
        conflicts=conflicts,
    )
