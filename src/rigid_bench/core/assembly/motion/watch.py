"""Which parts pass through each other along the steps of a motion.

Most pairs never come near, and are told by their boxes. Two that one joint holds turn or slide on each other, however
the rest moves: where they meet, their faces say once for all. Only what is left is looked at with triangles, and only
where it may have come near since it was looked at last (conservative advancement: Mirtich, *Impulse-based Dynamic
Simulation*, 1996, chapter 2).
"""

import itertools
import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.contact.clearance import PlacedSolid, interference, least_gap, place
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.freedom.path import Leg, Path
from rigid_bench.core.assembly.freedom.placements import Placements, rotations_by, turns_about
from rigid_bench.core.assembly.mates.relax import relax
from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.assembly.motion.box_gaps import box_gaps, carried, faces_may_meet
from rigid_bench.core.assembly.motion.joined import joint_of
from rigid_bench.core.assembly.motion.plain_meeting import plain_meetings
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]
Pair = tuple[int, int]
#: mm: two parts that keep their places by less do not move against each other; what leaves a joint by more is off it.
_STILL, _OFF = 1e-6, 0.05
#: So many legs are looked at together at first; then twice as many each time.
_TOGETHER = 2


@dataclass(frozen=True, slots=True, eq=False)
class _Joint:
    """How a part turns or slides on another."""

    #: As the other sees it.
    motion: Motion
    #: Where it stood to the other.
    start: Pose

    def gone(self, seen: Placements) -> _Array | None:
        """Return how far the second went at each of some places, (k,) rad or mm; None where it has left the joint."""
        turns = seen.rotations @ self.start.rotation.T
        shifts = seen.positions - (turns @ self.start.position)
        if self.motion.kind == "translation":
            gone: _Array = shifts @ self.motion.direction
            held = Placements(np.broadcast_to(np.eye(3), turns.shape), gone[:, None] * self.motion.direction)
        else:
            gone = turns_about(turns, self.motion.direction)
            about = rotations_by(gone[:, None] * self.motion.direction)
            held = Placements(about, self.motion.point - about @ self.motion.point)
        is_held = np.abs(turns - held.rotations).max() < _OFF and np.abs(shifts - held.positions).max() < _OFF
        return gone if is_held else None


class Watch:
    """Looks for overlaps along a path.

    Parameters
    ----------
    system
        The mates.
    solids
        The parts that can meet, by their places in the build.
    poses
        Where all instances stand at the beginning.
    known
        Pairs that pass through each other there; they are let by.
    tolerance
        Says when two parts overlap.
    """

    def __init__(
        self,
        system: System,
        solids: Mapping[int, PlacedSolid],
        poses: Sequence[Pose],
        known: Collection[Pair],
        tolerance: Tolerance,
    ) -> None:
        self.tolerance = tolerance
        self._system, self._solids, self._start = system, solids, list(poses)
        self._pairs = [pair for pair in itertools.combinations(sorted(solids), 2) if pair not in known]
        #: How far apart two parts were at least when they were looked at, mm, and their box's corners then.
        self._apart: dict[Pair, tuple[float, _Array]] = {}
        self._together = _TOGETHER
        self._joints: dict[Pair, _Joint | None] = {}
        self._spans: dict[Pair, tuple[float, float] | None] = {}
        self._legs: dict[Leg, tuple[int, list[Pair]] | None] = {}
        #: How far each joint had gone in the last step.
        self._gone: dict[Pair, float] = {}

    def first_overlap(self, path: Path, number: int) -> tuple[int, list[Pair]] | None:
        """Return in which step of a leg parts first overlap, and which do; legs are asked for one after the other."""
        first = path.leg(number)
        assert first is not None, "a leg that is there is asked for"
        if first.twin in self._legs:
            return self._legs[first.twin]
        if first not in self._legs:
            legs = (path.leg(k) for k in range(number, number + self._together))
            self._look_along([leg for leg in legs if leg is not None and leg not in self._legs])
            self._together *= 2
        return self._legs[first]

    def _look_along(self, legs: Sequence[Leg]) -> None:
        """Note where parts first overlap in legs that follow each other; what lies beyond is left open."""
        overlap = self._first_of(Placements.joined([leg.steps for leg in legs]))
        first = 0
        for leg in legs:
            last = first + len(leg.shares)
            if overlap and overlap[0] < last:
                self._legs[leg] = overlap[0] - first, overlap[1]
                return
            self._legs[leg] = None
            first = last

    def is_free(self, path: Path) -> bool:
        """Say whether it is known that no parts overlap on a whole closed path."""
        return all(self._legs.get(leg, ()) is None for leg in path.closed)

    def shared(self, pair: Pair, poses: Sequence[Pose]) -> float:
        """Return the volume, mm3, that two parts share; 0 where they only touch, infinite beyond where faces meet."""
        joint, span = self._joints.get(pair), self._spans.get(pair)
        if joint and span:
            own = poses[pair[0]].inverse() @ poses[pair[1]]
            gone = self._gone_in(pair, joint, Placements(own.rotation[None], own.position[None]))
            if gone is not None:
                return 0.0 if span[0] <= gone[0] <= span[1] else math.inf
        return shared_volume(self._solids, pair, poses, self.tolerance)

    def _first_of(self, places: Placements) -> tuple[int, list[Pair]] | None:
        first, met = len(places.positions), list[Pair]()
        for pair in self._pairs:
            at = self._first(pair, places)
            if at is not None and at <= first:
                first, met = at, [*(met if at == first else []), pair]
        return (first, met) if met else None

    def _first(self, pair: Pair, places: Placements) -> int | None:
        """Return the first of some places in which a pair overlaps."""
        seen = places.seen(pair[1], pair[0])
        if pair not in self._joints:
            self._joints[pair] = self._joint(pair)
        joint = self._joints[pair]
        gone = None if joint is None else self._gone_in(pair, joint, seen)
        a, b = (self._solids[k].part for k in pair)
        corners = carried(seen, b.corners)
        start = (self._start[pair[0]].inverse() @ self._start[pair[1]]).point(b.corners)
        if np.abs(corners - start).max() < _STILL:
            return None
        near = np.flatnonzero(box_gaps(seen, corners, a, b) <= 0)
        if not len(near):
            return None
        if joint is not None and gone is not None and (span := self._span(pair, joint)):
            beyond = np.flatnonzero((gone < span[0]) | (gone > span[1]))
            return int(beyond[0]) if len(beyond) else None
        near = near[faces_may_meet(seen.only(near), a, b)]
        return next((k for k in near.tolist() if self._overlaps(pair, places.poses(k), corners[k])), None)

    def _gone_in(self, pair: Pair, joint: _Joint, seen: Placements) -> _Array | None:
        """Return how far a joint has gone, as `_Joint.gone`; turns count on from where it was."""
        gone = joint.gone(seen)
        if gone is None:
            return None
        if joint.motion.kind == "rotation":
            gone = np.unwrap(np.concatenate([[self._gone.get(pair, 0.0)], gone]))[1:]
        self._gone[pair] = float(gone[-1])
        return gone

    def _overlaps(self, pair: Pair, poses: Sequence[Pose], corners: _Array) -> bool:
        """Say whether two parts pass through each other; a part has come no nearer than its box's furthest corner."""
        a, b = pair
        if pair in self._apart:
            gap, then = self._apart[pair]
            if np.linalg.norm(corners - then, axis=1).max() < gap:
                return False
        one, two = self._solids[a].part, self._solids[b].part
        gap = least_gap(one, poses[a], two, poses[b]) or least_gap(one, poses[a], two, poses[b], fine=True)
        self._apart[pair] = gap, corners
        if gap:
            return False
        poses = relax(self._system, poses).poses  # between the ends of a leg they are a little off
        return shared_volume(self._solids, pair, poses, self.tolerance) > 0

    def _joint(self, pair: Pair) -> _Joint | None:
        """Return the joint that alone holds two parts together."""
        there = self._start[pair[0]].inverse()
        motion = joint_of(self._system, self._start, *pair)
        return None if motion is None else _Joint(motion.moved(there), there @ self._start[pair[1]])

    def _span(self, pair: Pair, joint: _Joint) -> tuple[float, float] | None:
        """Return how far a joint goes back (below 0) and forth until its parts meet; None where faces do not say it."""
        if pair not in self._spans:
            one, two = (place(self._solids[k].instance, self._solids[k].part, self._start[k]) for k in pair)
            back, forth = plain_meetings(two, one, joint.motion.moved(self._start[pair[0]]))
            self._spans[pair] = None if back is None or forth is None else (-back, forth)
        return self._spans[pair]


def shared_volume(solids: Mapping[int, PlacedSolid], pair: Pair, poses: Sequence[Pose], tolerance: Tolerance) -> float:
    """Return the volume, mm3, that two parts share where they stand; 0 where they only touch."""
    one, two = (place(solids[index].instance, solids[index].part, poses[index]) for index in pair)
    return interference(one, two, tolerance=tolerance)
