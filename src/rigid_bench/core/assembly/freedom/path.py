"""The path on which a build goes along a motion, in legs: put right at their ends, a cubic between them.

Where a leg ends is foreseen from the velocities before it; what the mates then put right says how far the cubic can be
off, and how long the next leg may be. How far a path has gone is told in the system's scaled measure, so that it goes
on through the dead points of single parts. Where only one motion is free there is only one path, whichever part is
asked for, and it is worked out once.
"""

import copy
import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.analysis import Freedom, least_velocity
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.freedom.placements import Placements
from rigid_bench.core.assembly.mates.linearised import DENSE, Linearised, linearise
from rigid_bench.core.assembly.mates.relax import relax
from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.values.frames import Pose, cross_all

_Array = NDArray[np.float64]
#: A step, in which no part turns by more (rad) or goes further (share of the parts' size); so many a leg has at most.
_TURN, _SLIDE, _STEPS = math.radians(2), 0.02, 24
#: rad: no part turns by more in a leg, however smoothly; there, as where a spindle drives a slide, steps are longer.
_FARTHEST = math.radians(150)
#: Of the longest leg: so long is the first that is tried.
_FIRST = 1 / 8
#: A leg is halved at most so often; one of which less than such a share comes out has met an end.
_HALVINGS, _STALLED = 12, 0.2
#: Of the parts' size: a leg that was foreseen worse is tried again, shorter.
_FORESEEN = 1e-2
#: rad, and share of the parts' size: where a part turns by more in a leg, the mates are looked at in its middle, too;
#: and where more than the motion is free, in every leg.
_WIDE, _BETWEEN = math.radians(20), 2e-4
#: How much shorter or longer a leg is than the last at least and at most, and than what would just do.
_LEAST, _MOST, _SURE = 0.2, 3.0, 0.7
#: Of a velocity of length 1: what is less is rounding.
_NO_SPEED = 1e-6
#: Of the parts' size: mates that are off by less hold.
_HOLDS = 5e-5
#: Of the parts' size: a path that comes so near to where it began has closed.
_ALIKE = 1e-3
#: Steps of Newton's, to find where on a leg a place lies.
_NEARED = 4


@dataclass(frozen=True, slots=True, eq=False)
class Place:
    """The build at the end of a leg."""

    poses: list[Pose]
    #: (6 n,) of all instances, of length 1 in the system's scaled measure.
    velocity: _Array


@dataclass(frozen=True, eq=False)
class Leg:
    """A way from one place to another."""

    system: System
    start: Place
    end: Place
    #: (6 n,) mm from the start to the end, as `System.displacement` gives it.
    displacement: _Array
    #: mm: how large the parts are.
    size: float
    #: The same way gone the other way, where that was gone first.
    twin: "Leg | None" = None

    def reversed(self) -> "Leg":
        """Return the way back."""
        start, end = (Place(place.poses, -place.velocity) for place in (self.end, self.start))
        return Leg(self.system, start, end, -self.displacement, self.size, twin=self)

    def at(self, shares: Sequence[float] | _Array) -> Placements:
        """Return where the instances are after shares of the leg; beyond 1, where it seems to lead.

        Hermite's cubic (Hairer, Norsett, Wanner, *Solving Ordinary Differential Equations I*, section II.6).
        """
        share = np.array(shares)[:, None]
        first, last = self.length * self.start.velocity, self.length * self._end_rate
        left = share - 1
        along = share * left * (left * first + share * last) + share**2 * (3 - 2 * share) * self.displacement
        return Placements.displaced(self.system, self.start.poses, along)

    @cached_property
    def shares(self) -> list[float]:
        """After which shares of the leg its steps are."""
        turn, shift = _farthest(self.system, self.displacement)
        count = min(max(1, math.ceil(max(turn / _TURN, shift / (_SLIDE * self.size)) - 1e-6)), _STEPS)
        return [number / count for number in range(1, count + 1)]

    @cached_property
    def steps(self) -> Placements:
        """Where the instances are after each of its steps."""
        if self.twin is None:
            return self.at(self.shares)
        back, end = self.twin.steps, Placements.of(self.end.poses)
        return Placements.joined([back.only(np.arange(len(back.positions) - 2, -1, -1)), end])

    @cached_property
    def length(self) -> float:
        """Its length, mm in the system's scaled measure: of the arc whose direction turns by as much."""
        chord = float(np.linalg.norm(self.displacement))
        half = math.acos(min(1.0, max(-1.0, float(self.start.velocity @ self.end.velocity)))) / 2
        return chord * half / math.sin(half) if half > 1e-6 else chord

    @cached_property
    def _end_rate(self) -> _Array:
        return _growth(self.system, self.displacement, self.end.velocity)


class Path:
    """A path from where a build stands.

    Parameters
    ----------
    freedom
        What the build leaves free where it stands.
    motion, index, to
        The motion of which instance leads, and against which it moves; None is the ground.
    way
        1, or -1 for the other way.
    size_mm
        How large the parts are, where that is known: their mates alone may lie in one point.
    """

    def __init__(
        self, freedom: Freedom, motion: Motion, index: int, to: int | None, *, way: int, size_mm: float = 0.0
    ) -> None:
        self.system = linked(freedom, index, to)
        self._freedom, self._motion, self._index, self._to, self._way = freedom, motion, index, to, way
        self._is_dense = int(self.system.free_columns.sum()) <= DENSE
        self._legs: list[Leg] = []
        #: 1 or -1: the way that it goes, where there is only one path; else 0.
        self.sense = 0
        poses = list(freedom.poses)
        basis = self._basis(linearise(self.system, poses), poses)
        velocity = self._velocity(basis, poses)
        if basis.shape[1] == 1:
            self.sense = int(np.sign(basis[:, 0] @ velocity))
        self._here = Place(poses, velocity)
        self._length = 0.0
        # what stands still may be much larger
        is_moving = np.abs(velocity.reshape(-1, 6)).max(axis=1) > _NO_SPEED
        self._size = max(1.0, float(self.system.lengths[is_moving].max(initial=0.0)))
        self._step = max(size_mm, self._size)
        self._is_over = not velocity.any()
        #: It has come back to where it began, from the other side.
        self.is_closed = False
        #: The same path gone the other way, where that was gone first.
        self.twin: Path | None = None

    def reversed(self) -> "Path":
        """Return a closed path gone the other way."""
        back = copy.copy(self)
        back._legs, back.sense, back.twin = [leg.reversed() for leg in self._legs[::-1]], -self.sense, self
        return back

    @property
    def closed(self) -> Sequence[Leg]:
        """The legs of a path that has closed."""
        return self._legs if self.is_closed else ()

    def leg(self, number: int) -> Leg | None:
        """Return a leg by its place; None where the mates cannot follow so far."""
        while len(self._legs) <= number and not self._is_over:
            self._go_on()
        if self.is_closed:
            return self._legs[number % len(self._legs)]
        return self._legs[number] if number < len(self._legs) else None

    def _go_on(self) -> None:
        """Add a leg, or find that the path is over."""
        system, here = self.system, self._here
        turning, shifting = _farthest(system, here.velocity)
        longest = 1 / max(turning / _FARTHEST, shifting / (_STEPS * _SLIDE * self._step))
        length = min(self._length or _FIRST * longest, longest)
        for _ in range(_HALVINGS):
            leg, growth = self._tried(length)
            if leg is not None:
                break
            length *= max(_LEAST, min(growth, 1 / 2))
        else:
            self._is_over = True
            return
        if self.sense and len(self._legs) > 1 and self._is_passed(leg, start := self._legs[0].start):
            leg = Leg(system, here, start, system.displacement(here.poses, start.poses), self._step)
            self.is_closed = True
        self._is_over = self.is_closed or not leg.end.velocity.any()
        self._legs.append(leg)
        self._here = leg.end
        self._length = min(growth, _MOST) * length

    def _tried(self, length: float) -> tuple[Leg | None, float]:
        """Return a leg of a length, None where it would be off by too much, and by how much it may be longer."""
        system, here = self.system, self._here
        ahead = self._foreseen(length)
        # where ranks are told from the rows, no rounding may pass for a constraint
        arrived = relax(system, ahead, until_mm=_HOLDS * self._size if self.sense else 0.0)
        off = max(_apart(system, ahead, arrived.poses), 1e-12)
        # as is usual for steps of fourth order (Hairer, Norsett, Wanner, section II.4)
        growth = _SURE * (_FORESEEN * self._size / off) ** 0.25
        displacement = system.displacement(here.poses, arrived.poses)
        is_there = arrived.error <= _HOLDS * self._size and float(displacement @ here.velocity) > _STALLED * length
        if not is_there or off > _FORESEEN * self._size:
            return None, growth
        basis = self._basis(arrived.linearised, arrived.poses)
        velocity = basis[:, 0] if self.sense else self._velocity(basis, arrived.poses)
        if velocity @ here.velocity < 0:
            velocity = -velocity  # past a dead point of the part that leads
        leg = Leg(system, here, Place(arrived.poses, velocity), displacement, self._step)
        if not self.sense or _farthest(system, displacement)[0] > _WIDE:
            between = leg.at([0.5]).poses(0)
            is_near = all(system.residual(mate, between).mm < _BETWEEN * self._size for mate in system.mates)
            return (leg if is_near else None), growth
        return leg, growth

    def _is_passed(self, leg: Leg, place: Place) -> bool:
        """Say whether a place lies on a leg."""
        if _apart(self.system, leg.start.poses, place.poses) > leg.length:
            return False
        share, off = 0.0, self.system.displacement(leg.start.poses, place.poses)
        for _ in range(_NEARED):
            share += float(off @ place.velocity) / leg.length
            if not 0 <= share <= 1:
                return False
            off = self.system.displacement(leg.at([share]).poses(0), place.poses)
        return float(np.abs(off).max()) < _ALIKE * self._size

    def _foreseen(self, length: float) -> list[Pose]:
        """Return about where a leg of a length will end.

        On the only path there is, as the cubic of the leg before goes on. Else what is free besides the motion would
        run away along it, and the velocity goes on changing as it did: Adams and Bashforth's formula of two places
        (Hairer, Norsett, Wanner, section III.1).
        """
        here, before = self._here, self._legs[-1] if self._legs else None
        if before is None:
            return self.system.stepped(here.poses, length * here.velocity)
        share = length / before.length
        if self.sense:
            return before.at([1 + share]).poses(0)
        velocity = (1 + share / 2) * here.velocity - share / 2 * before.start.velocity
        return self.system.stepped(here.poses, length * velocity)

    def _basis(self, linearised: Linearised, poses: Sequence[Pose]) -> _Array:
        """Return an orthonormal basis of all possible velocities, (6 n, mobility), where the instances stand."""
        if not self._is_dense:
            return self._freedom.at(poses).velocities
        free = self.system.free_columns
        _, sizes, right = np.linalg.svd(linearised.dense[:, free])
        rank = len(right) - 1 if self.sense else int(np.sum(sizes > self.system.tolerance.rank))
        basis = np.zeros((len(free), right.shape[0] - rank))
        basis[free] = right[rank:].T
        return basis

    def _velocity(self, basis: _Array, poses: Sequence[Pose]) -> _Array:
        """Return the velocity of all, (6 n,), that comes nearest to the motion: of length 1, or 0 for none."""
        turned = _seen(poses, self._to) @ _seen(self._freedom.poses, self._to).inverse()
        velocity = least_velocity(self.system, basis, poses, self._motion.moved(turned), self._index, self._to)
        length = float(np.linalg.norm(velocity))
        return self._way * velocity / length if length else velocity


def path_of(freedom: Freedom, motion: Motion, index: int, to: int | None, *, way: int, size_mm: float = 0.0) -> Path:
    """Return the path along a motion; as `Path`, but where only one motion is free, the one that is known."""
    path = Path(freedom, motion, index, to, way=way, size_mm=size_mm)
    if not path.sense:
        return path
    moving = tuple(np.flatnonzero(path.system.free_columns).tolist())
    known, other = (freedom.kept.get(("path", sense, moving)) for sense in (path.sense, -path.sense))
    if isinstance(known, Path):
        return known
    if isinstance(other, Path) and other.is_closed:
        path = other.reversed()
    freedom.kept["path", path.sense, moving] = path
    return path


def linked(freedom: Freedom, index: int, to: int | None) -> System:
    """Return the mates of all that can come to move with an instance; all else is held."""
    system = freedom.system
    held = set(system.held)
    ends = {index, *(() if to is None else (to,))} - held
    moving = set[int]().union(*(hanging_together(system, end, held) for end in ends)) - held
    return system if len(moving) == len(freedom.poses) - len(held) else system.among(frozenset(moving))


def hanging_together(system: System, index: int, held: Collection[int]) -> set[int]:
    """Return the instances that hang together by mates with one; held ones end it, and are among them."""
    together, waiting = {index}, [index]
    while waiting:
        instance = waiting.pop()
        for mate in system.mates_by_instance[instance]:
            neighbour = mate.b if mate.a == instance else mate.a
            if neighbour not in together:
                together.add(neighbour)
                if neighbour not in held:
                    waiting.append(neighbour)
    return together


def _farthest(system: System, displacement: _Array) -> tuple[float, float]:
    """Return how far any instance turns, rad, and goes, mm, in a displacement of all, (6 n,)."""
    entries = displacement.reshape(-1, 6)
    turns = np.linalg.norm(entries[:, :3], axis=1) / system.lengths
    return float(turns.max()), float(np.linalg.norm(entries[:, 3:], axis=1).max())


def _apart(system: System, one: Sequence[Pose], other: Sequence[Pose]) -> float:
    """Return how far apart any instance stands in two places, mm, turns times its size."""
    shifts = np.array([b.position - a.position for a, b in zip(one, other, strict=True)])
    turned = np.array([b.rotation - a.rotation for a, b in zip(one, other, strict=True)])
    shifts += (turned @ system.middles[:, :, None])[..., 0]
    # two rotations by an angle apart differ by sqrt(8) sin(angle / 2) in the Frobenius norm
    turns = system.lengths * np.linalg.norm(turned, axis=(1, 2)) / math.sqrt(2)
    return float(max(np.linalg.norm(shifts, axis=1).max(), turns.max()))


def _growth(system: System, displacement: _Array, velocity: _Array) -> _Array:
    """Return at what rate a displacement, (6 n,), grows with a velocity of all at its end, (6 n,).

    Shifts grow as they are; rotation vectors by the inverse of the exponential's derivative (Bullo, Murray,
    *Proportional derivative control on the Euclidean group*, 1995, section 3), to its second order.
    """
    rates = velocity.reshape(-1, 6).copy()
    turns = displacement.reshape(-1, 6)[:, :3] / system.lengths[:, None]
    twice = cross_all(turns, rates[:, :3])
    rates[:, :3] += cross_all(turns, twice) / 12 - twice / 2
    return rates.ravel()


def _seen(poses: Sequence[Pose], to: int | None) -> Pose:
    return Pose.identity() if to is None else poses[to]
