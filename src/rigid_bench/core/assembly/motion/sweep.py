"""Gaps through a motion: where two parts come nearest, and how far a part can go until it meets something."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.contact.clearance import PlacedSolid, clearance, interference, least_gap, place
from rigid_bench.core.assembly.freedom.analysis import Freedom
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.freedom.travel import Step, between, follow, is_beyond_limits
from rigid_bench.core.assembly.motion.removal import travel_until
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance

#: Halvings of a step: to find a contact, and the place of the least gap.
_HALVINGS = 14
#: A turn that comes so far came round.
ROUND = math.radians(359)
#: mm: lower bounds that differ by less are about equal; and so many of them are looked at exactly.
_ABOUT, _LOOKED_AT = 0.1, 8
#: mm: what went less far stood still.
_MOVED = 1e-9
#: mm by which triangles may stand off from what is round.
_FACETS = 0.1


@dataclass(frozen=True, slots=True, kw_only=True)
class Stop:
    """How far a motion carries on one way, and what ends it."""

    #: rad for a turn, else mm.
    amount: float
    #: Id of the mate whose limit, or places of the two instances that meet; None where nothing stops it.
    by: str | tuple[int, int] | None


@dataclass(frozen=True, slots=True, kw_only=True)
class LeastGap:
    """Where two instances come nearest along a motion."""

    gap_mm: float
    #: rad for a turn, else mm, from where they stand; below 0 the other way.
    amount: float


def run(
    found: Freedom,
    motion: Motion,
    index: int,
    to: int | None,
    solids: Mapping[int, PlacedSolid],
    *,
    way: int,
    tolerance: Tolerance,
) -> Stop:
    """Follow a motion one way until a joint meets its limit, or a part another.

    Parameters
    ----------
    found, motion, index, to, way
        As for `follow`.
    solids
        The parts that can meet, by their places in the build.
    tolerance
        Says when two parts overlap.

    Returns
    -------
    Stop
        Parts that touch all along do not stop it, only those that would pass through each other.
    """
    last = Step(amount=0.0, poses=list(found.poses), motion=motion)
    known = _overlapping(solids, found.poses, last.poses, tolerance, every=True)
    for step in follow(found, motion, index, to, way=way, size_mm=_size(solids.get(index))):
        limit = is_beyond_limits(found.system, step.poses, last.poses)
        met = [pair for pair in _overlapping(solids, found.poses, step.poses, tolerance) if pair not in known]
        if limit or met:
            return _narrowed(found, last, step, limit, met, solids, tolerance, index=index, to=to)
        last = step
    return Stop(amount=last.amount, by=None)


def _narrowed(
    found: Freedom,
    last: Step,
    step: Step,
    limit: str | None,
    met: Sequence[tuple[int, int]],
    solids: Mapping[int, PlacedSolid],
    tolerance: Tolerance,
    *,
    index: int,
    to: int | None,
) -> Stop:
    """Narrow the step in which something stopped the motion, to a share of it of 2 to the power of -`_HALVINGS`."""
    by: str | tuple[int, int] | None = limit or met[0]
    low, high = last, step
    finest = (high.amount - low.amount) / 2**_HALVINGS
    volumes: list[tuple[float, float]] = []
    share = 0.5
    for _ in range(2 * _HALVINGS):
        span = high.amount - low.amount
        if span <= finest:
            break
        middle = between(found.system, low, high, index, to, share=share)
        stopped = is_beyond_limits(found.system, middle.poses, low.poses)
        hit = {pair: volume for pair in met if (volume := _overlap(solids, pair, middle.poses, tolerance))}
        if stopped or hit:
            high, by = middle, stopped or next(iter(hit))
            volumes = [*volumes[-1:], (middle.amount, sum(hit.values()))]
        else:
            low = middle
        is_slow = high.amount - low.amount > span / 2
        share = 0.5 if is_slow or stopped else _where_it_begins(low, high, volumes, finest)
    return Stop(amount=low.amount, by=by)


def _where_it_begins(low: Step, high: Step, volumes: Sequence[tuple[float, float]], finest: float) -> float:
    """Return the share of a step at which an overlap begins, on a line through the last two volumes; else a half.

    Flat faces that run into each other share a volume that grows evenly. What is returned lies on one side of the
    place, and then on the other, by half of what is finest.
    """
    if len(volumes) < 2 or volumes[0][1] <= volumes[1][1]:
        return 0.5
    (far, more), (near, less) = volumes
    begin = near - less * (far - near) / (more - less)
    aim = begin - finest / 2 if begin - finest / 2 > low.amount else begin + finest / 2
    share = (aim - low.amount) / (high.amount - low.amount)
    return share if 0 < share < 1 else 0.5


def _overlapping(
    solids: Mapping[int, PlacedSolid],
    before: Sequence[Pose],
    poses: Sequence[Pose],
    tolerance: Tolerance,
    *,
    every: bool = False,
) -> list[tuple[int, int]]:
    """List the pairs that pass through each other; only those that moved against each other, unless `every`."""
    places = sorted(solids)
    pairs = [(a, b) for k, a in enumerate(places) for b in places[k + 1 :]]
    return [
        (a, b)
        for a, b in pairs
        if (every or not _stands_still(before, poses, a, b)) and _overlap(solids, (a, b), poses, tolerance)
    ]


def _stands_still(before: Sequence[Pose], poses: Sequence[Pose], a: int, b: int) -> bool:
    then, now = (own[a].inverse() @ own[b] for own in (before, poses))
    return then.is_close(now, mm=1e-9, rad=1e-12)


def _overlap(
    solids: Mapping[int, PlacedSolid], pair: tuple[int, int], poses: Sequence[Pose], tolerance: Tolerance
) -> float:
    """Return the volume, mm3, that two parts share where they stand; 0 where they only touch."""
    a, b = (solids[index] for index in pair)
    if least_gap(a.part, poses[pair[0]], b.part, poses[pair[1]], fine=True) > 0:
        return 0.0
    one, two = (place(solids[index].instance, solids[index].part, poses[index]) for index in pair)
    return interference(one, two, tolerance=tolerance)


def nearest_along(
    found: Freedom,
    motion: Motion,
    index: int,
    to: int | None,
    pair: tuple[PlacedSolid, PlacedSolid],
    places: tuple[int, int],
    *,
    tolerance: Tolerance,
) -> LeastGap:
    """Find where two instances come nearest to each other along a motion, both ways, within the joints' limits.

    Parameters
    ----------
    found, motion, index, to
        As for `follow`.
    pair, places
        The two instances' solids, and their places in the build.
    tolerance
        For the exact gap.
    """
    steps = [Step(amount=0.0, poses=list(found.poses), motion=motion)]
    moving = next((solid for solid, place in zip(pair, places, strict=True) if place == index), None)
    for way in (1, -1):
        if motion.kind == "rotation" and steps[-1].amount > ROUND:
            break  # once round is all there is
        last = steps[0]
        for step in follow(found, motion, index, to, way=way, size_mm=_size(moving)):
            if is_beyond_limits(found.system, step.poses, last.poses) or _is_past(pair, places, step.poses, last.poses):
                break
            steps.append(Step(amount=way * step.amount, poses=step.poses, motion=step.motion))
            last = step
    steps.sort(key=lambda step: step.amount)

    def gap(step: Step) -> float:
        one, two = (place(solid.instance, solid.part, step.poses[at]) for solid, at in zip(pair, places, strict=True))
        return clearance(one, two, tolerance=tolerance).gap_mm

    bounds = [least_gap(pair[0].part, step.poses[places[0]], pair[1].part, step.poses[places[1]]) for step in steps]
    # of places that are about equally near, as on the way round and back, the one that is nearest to where it stands
    close = [k for k in range(len(steps)) if bounds[k] <= min(bounds) + _ABOUT]
    best = min(sorted(close, key=lambda k: abs(steps[k].amount))[:_LOOKED_AT], key=lambda k: round(gap(steps[k]), 6))
    low, middle, high = steps[max(best - 1, 0)], steps[best], steps[min(best + 1, len(steps) - 1)]
    least = (gap(middle), middle.amount)
    for _ in range(_HALVINGS // 2):
        left, right = between(found.system, low, middle, index, to), between(found.system, middle, high, index, to)
        gaps = [gap(left), least[0], gap(right)]
        if gaps[0] < gaps[1]:
            low, middle, high = low, left, middle
        elif gaps[2] < gaps[1]:
            low, middle, high = middle, right, high
        else:
            low, high = left, right
        least = min(least, (gaps[0], left.amount), (gaps[2], right.amount))
    came_round = motion.kind == "rotation" and steps[-1].amount > ROUND
    back = 2 * math.pi if came_round and least[1] > math.pi else 0.0
    return LeastGap(gap_mm=least[0], amount=least[1] - back)


def _is_past(
    pair: tuple[PlacedSolid, PlacedSolid], places: tuple[int, int], poses: Sequence[Pose], before: Sequence[Pose]
) -> bool:
    """Say whether one part has left the other's box behind along a straight way, and still goes away from it."""
    then, now = (own[places[0]].inverse() @ own[places[1]] for own in (before, poses))
    way = now.position - then.position
    length = float(np.linalg.norm(way))
    if length < _MOVED or not np.allclose(then.rotation, now.rotation, atol=1e-9):
        return False
    near, far = now.point(pair[1].part.corners) @ (way / length), pair[0].part.corners @ (way / length)
    return float(near.min()) > float(far.max())


def _size(solid: PlacedSolid | None) -> float:
    """Return how long a part is from corner to corner of its box, mm; 0 for none."""
    return 0.0 if solid is None else float(np.linalg.norm(solid.part.box[1] - solid.part.box[0]))


def free_way(moving: PlacedSolid, other: PlacedSolid, direction: NDArray[np.float64], *, tolerance: Tolerance) -> float:
    """Return how far a part can go along a direction until it meets another.

    Parameters
    ----------
    moving, other
        Where they stand.
    direction
        (3,) unit, in the world.
    tolerance
        Says when they overlap.

    Returns
    -------
    float
        mm; infinite where the other is not on its way.
    """
    rough = travel_until((moving.part, moving.pose), (other.part, other.pose), direction)
    if math.isinf(rough) or not any(each.part.is_curved for each in (moving, other)):
        return rough
    # triangles stand off from what is round: the kernel says where within that the two meet

    def meets(amount: float) -> bool:
        there = Pose(np.eye(3), amount * direction) @ moving.pose
        return interference(place("moving", moving.part, there), other, tolerance=tolerance) > 0

    low, high = max(0.0, rough - _FACETS), rough + _FACETS
    if meets(low) or not meets(high):
        return rough
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        low, high = (low, middle) if meets(middle) else (middle, high)
    return low
