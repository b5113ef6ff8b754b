"""Put a build right: where its instances stand when all mates hold, or which mates cannot hold together."""

import itertools
from collections import deque
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.mates.joints import Standing
from rigid_bench.core.assembly.mates.linearised import linearise
from rigid_bench.core.assembly.mates.relax import relax
from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.formats.build import Build, Mate
from rigid_bench.core.values.frames import Pose, rotation_by
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]
#: Places to set out from: the given poses, put together one by one, mate by mate, then from shaken ones. So many
#: at most; while someone waits; for what clashes, first and where that is not sure.
_ATTEMPTS, _QUICK_ATTEMPTS, _FIRST_ATTEMPTS, _FEW_ATTEMPTS = 27, 6, 2, 7
#: Steps from each.
_STEPS = 80
#: Builds of more instances are large; and in how many rounds the mates of one are added.
_LARGE, _MOST_ROUNDS = 100, 60
#: Builds of no more instances are small: for one of twice as many, half as many places are tried, three at least.
_SMALL = 12
#: Rounds in which a solution is drawn nearer to where the instances were.
_ROUNDS = 25
#: For a large build, where each costs more and wins less.
_FEW_ROUNDS = 4
#: The share of the way that a round must bring an instance nearer for another to be worth its while.
_NEAR_ENOUGH = 1e-5
#: mm: mates may be off by so much on the way; they are put right at the end.
_ROUGH = 1e-5
#: A step after which the mates are not put right again in so many was too long.
_BACK_STEPS = 12
#: Clashes that are told; who has more mends these first.
_MOST_CONFLICTS = 10
#: mm, and rad times a part's size: an instance that went less far did not move.
_STILL = 1e-6


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Solution:
    """Where the instances of a build should stand."""

    #: One for each instance, in the build's order.
    poses: tuple[Pose, ...]
    #: All mates hold there.
    satisfied: bool
    #: Ids of the instances that moved.
    moved: tuple[str, ...]
    #: Where the joints that have limits stand.
    standings: tuple[Standing, ...]
    #: Sets of mates that cannot hold together, no mate in two of them: without any one of its mates, the others
    #: of a set hold. Empty when satisfied.
    conflict_sets: tuple[tuple[str, ...], ...]

    @property
    def conflict_set(self) -> tuple[str, ...]:
        """The first of the sets that clash; empty when satisfied."""
        return self.conflict_sets[0] if self.conflict_sets else ()


def solve(build: Build, *, is_quick: bool = False, tolerance: Tolerance) -> Solution:
    """Move the ungrounded instances the least until all mates hold, joints within their limits.

    Parameters
    ----------
    build
        Instances where they stand, and mates.
    is_quick
        Set out from a few places only, and do not find out which mates clash: for someone who waits.
    tolerance
        Says when a mate holds.

    Returns
    -------
    Solution
        The side and branch nearest to where the instances were. When the mates cannot all
        hold, the pose that comes nearest to it, and a minimal set that clashes.

    Raises
    ------
    NotSupported, InvalidDocument
        A mate is of an unknown kind, or cannot be meant.
    """
    system = System(build, tolerance)
    start = system.poses
    poses, satisfied = _search(system, start, attempts=_QUICK_ATTEMPTS if is_quick else _ATTEMPTS)
    if satisfied:
        poses = _drawn_near(system, start, poses)
    moved = tuple(
        instance.id
        for instance, away in zip(build.instances, _ways(system, start, poses), strict=True)
        if away > _STILL
    )
    conflicts = () if satisfied or is_quick else _conflict_sets(build, tolerance)
    return Solution(
        poses=tuple(poses),
        satisfied=satisfied,
        moved=moved,
        standings=tuple(standing for _, standing, _ in system.limited(poses)),
        conflict_sets=conflicts,
    )


def _holds(system: System, poses: Sequence[Pose]) -> bool:
    if not all(system.residual(mate, poses).holds(system.tolerance) for mate in system.mates):
        return False
    return all(
        abs(standing.beyond) <= (system.tolerance.mate_rad if standing.kind == "rotation" else system.tolerance.mate_mm)
        for _, standing, _ in system.limited(poses)
    )


def _search(system: System, start: Sequence[Pose], *, attempts: int) -> tuple[list[Pose], bool]:
    """Settle from one place after the other to set out from; return the best pose and whether all holds."""
    best, least = list(start), np.inf
    # a large build that is far from right is sooner put together anew than drawn right
    steps = _STEPS if len(start) <= _LARGE else _STEPS // 4
    attempts = min(attempts, max(3, attempts * _SMALL // max(1, len(start))))
    for attempt in itertools.islice(_attempts(system, start), attempts):
        poses, error, _ = relax(system, attempt, steps=steps, limits=True)
        if _holds(system, poses):
            return poses, True
        if error < least:
            best, least = poses, error
    return best, False


def _attempts(system: System, start: Sequence[Pose]) -> Iterator[list[Pose]]:
    yield list(start)
    yield _one_by_one(system, start)
    yield _mate_by_mate(system, start)
    random = np.random.default_rng(0)  # the same build has the same answer
    size = float(np.max(system.lengths, initial=1.0))
    for number in itertools.count():
        # from small shakes to any turn at all
        share = min(1.0, (number + 1) / 8)
        shaken = [
            pose
            if index in system.held
            else Pose(
                rotation_by(share * np.pi * random.normal(size=3)) @ pose.rotation,
                pose.position + share * size * random.normal(size=3),
            )
            for index, pose in enumerate(start)
        ]
        # mate by mate finds more, and takes so much longer the more there are
        yield _mate_by_mate(system, shaken) if len(start) <= _SMALL else _one_by_one(system, shaken)


def _one_by_one(system: System, start: Sequence[Pose]) -> list[Pose]:
    """Put each instance to those that stand already, from the ground outwards: a tree is right after that."""
    poses, instances = list(start), system.build.instances
    at: dict[int, list[Mate]] = {}
    for mate in system.mates:  # those that stand for groups among them
        at.setdefault(mate.a, []).append(mate)
        at.setdefault(mate.b, []).append(mate)
    standing = set(system.held)
    for first in (*system.held, *range(len(instances))):
        if first in standing and first not in system.held:
            continue
        standing.add(first)
        queue = deque([first])
        while queue:
            for mate in at.get(queue.popleft(), ()):
                for index in {mate.a, mate.b} - standing:
                    own = [mate for mate in at[index] if (mate.a if mate.b == index else mate.b) in standing]
                    poses[index] = _put_to(system, poses, index, own)
                    standing.add(index)
                    queue.append(index)
    return poses


def _put_to(system: System, poses: Sequence[Pose], index: int, mates: Sequence[Mate]) -> Pose:
    """Return where one instance stands when some of its mates hold and the others stay where they are."""
    members = sorted({index, *(end for mate in mates for end in (mate.a, mate.b))})
    place = {member: number for number, member in enumerate(members)}
    instances = tuple(
        replace(system.build.instances[member], pose=poses[member], grounded=member != index, group=None)
        for member in members
    )
    own = tuple(replace(mate, a=place[mate.a], b=place[mate.b]) for mate in mates)
    alone = System(replace(system.build, instances=instances, mates=own), system.tolerance)
    return relax(alone, alone.poses, limits=True)[0][place[index]]


def _mate_by_mate(system: System, start: Sequence[Pose]) -> list[Pose]:
    """Settle with the first mate, then with the first two, and so on, as one puts parts together by hand.

    Of many mates several come at a time.
    """
    poses = list(start)
    mates = system.mates  # those that stand for groups among them
    loose = tuple(replace(instance, group=None) for instance in system.build.instances)
    for count in range(1, len(mates), 1 + len(mates) // _MOST_ROUNDS):
        partial = System(replace(system.build, mates=tuple(mates[:count]), instances=loose), system.tolerance)
        poses = relax(partial, poses, steps=12, limits=True).poses
    return poses


def _drawn_near(system: System, start: Sequence[Pose], poses: Sequence[Pose]) -> list[Pose]:
    """Slide a solution along what the mates leave free until it is nearest to where the instances were."""
    current = list(poses)
    away, share = _away(system, start, current), 1.0
    for _ in range(_ROUNDS if len(start) <= _LARGE else _FEW_ROUNDS):
        # what is left of the way back when the mates' part is taken off it
        step = linearise(system, current).left_free(-system.displacement(start, current))
        if np.linalg.norm(step) < _STILL:
            break
        gained, share = 0.0, min(1.0, 2 * share)  # where the way bends, whole steps go too far
        for _halving in range(6):
            ahead = system.stepped(current, share * step)
            trial = relax(system, ahead, steps=_BACK_STEPS, limits=True, until_mm=_ROUGH).poses
            nearer = _away(system, start, trial)
            if nearer < away - _STILL and _holds(system, trial):
                gained, current, away = away - nearer, trial, nearer
                break
            share /= 2
        if gained < _STILL + _NEAR_ENOUGH * away:
            break
    return relax(system, current, steps=_STEPS, limits=True)[0]


def _away(system: System, start: Sequence[Pose], poses: Sequence[Pose]) -> float:
    return float(np.linalg.norm(system.displacement(start, poses)))


def _ways(system: System, start: Sequence[Pose], poses: Sequence[Pose]) -> list[float]:
    apart = system.displacement(start, poses).reshape(-1, 6)
    return [float(distance) for distance in np.linalg.norm(apart, axis=1)]


def _conflict_sets(build: Build, tolerance: Tolerance) -> tuple[tuple[str, ...], ...]:
    """Return minimal sets of mates that clash until what is left holds: two faults are told as two."""
    sets: list[tuple[str, ...]] = []
    while (conflicts := _conflict_set(build, tolerance)) and len(sets) < _MOST_CONFLICTS:
        sets.append(conflicts)
        build = replace(build, mates=tuple(mate for mate in build.mates if mate.id not in conflicts))
        if not _clashes(build, tolerance, _FEW_ATTEMPTS):
            break
    return tuple(sets)


def _conflict_set(build: Build, tolerance: Tolerance) -> tuple[str, ...]:
    """Return a minimal set of mates that cannot hold together.

    What can hold is found out from the given poses first, and with more attempts where the set that this
    leads to can hold after all.
    """
    kept = _minimal(build, tolerance, _FIRST_ATTEMPTS)
    if not _clashes(replace(build, mates=tuple(kept)), tolerance, _FEW_ATTEMPTS):
        kept = _minimal(build, tolerance, _FEW_ATTEMPTS)
    return tuple(mate.id for mate in kept)


def _minimal(build: Build, tolerance: Tolerance, attempts: int) -> list[Mate]:
    """Leave out mates, half of them at a time and fewer and fewer, as long as the others still clash.

    A mate without which the others still clash is no part of the set (deletion filter:
    Chinneck, *Feasibility and Infeasibility in Optimization*, 2008, section 6.1). The last mates are left
    out first, so that the set names the earliest clash.
    """
    kept = list(build.mates)
    size = max(1, len(kept) // 2)
    while size:
        end = len(kept)
        while end > 0:
            begin = max(0, end - size)
            without = [*kept[:begin], *kept[end:]]
            if _clashes(replace(build, mates=tuple(without)), tolerance, attempts):
                kept = without
            end = begin
        size //= 2
    return kept


def _clashes(build: Build, tolerance: Tolerance, attempts: int) -> bool:
    system = System(build, tolerance)
    return not _search(system, system.poses, attempts=attempts)[1]
