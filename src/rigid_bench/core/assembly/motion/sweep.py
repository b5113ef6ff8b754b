"""Gaps through a motion: where two parts come nearest, and how far a part can go until it meets something."""

import itertools
import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.contact.clearance import (
    PlacedSolid,
    clearance,
    fine_mesh,
    interference,
    least_gap,
    place,
)
from rigid_bench.core.assembly.freedom.analysis import Freedom
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.freedom.path import Path
from rigid_bench.core.assembly.freedom.placements import Placements
from rigid_bench.core.assembly.freedom.travel import (
    Step,
    between,
    exact_pair,
    exact_poses,
    follow,
    is_beyond_limits,
    limit_met,
    path_and_end,
    stretches,
)
from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.assembly.motion.box_gaps import box_gaps, carried, face_gaps
from rigid_bench.core.assembly.motion.envelopes import comes_no_nearer
from rigid_bench.core.assembly.motion.first_meeting import first_meeting, where_it_begins
from rigid_bench.core.assembly.motion.flat_meeting import flat_meeting
from rigid_bench.core.assembly.motion.passing_gap import passed
from rigid_bench.core.assembly.motion.plain_meeting import plain_meeting
from rigid_bench.core.assembly.motion.rigid_way import RigidWay, rigid_way
from rigid_bench.core.assembly.motion.watch import Pair, Watch
from rigid_bench.core.kernel.meshes.mesh_body import FINE_MM
from rigid_bench.core.kernel.meshes.swept_contact import (
    Passing,
    straight_contacts,
    turning_contacts,
)
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance

#: Share of a step to which a contact is freedom, and halvings of one to find the least gap.
_FINEST, _HALVINGS = 2**-14, 7
#: A turn that comes so far came round.
ROUND = math.radians(359)
#: mm: lower bounds that differ by less are about equal; and so many of them are looked at exactly.
_ABOUT, _LOOKED_AT = 0.1, 8
#: mm: a gap that changes by less along the way is the same all along.
_EVEN = 1e-6
#: mm: so near two parts are first looked for, as they are seen along the way.
_SEEN_WITHIN = 0.05
#: mm: what went less far stood still.
_MOVED = 1e-9


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
    freedom: Freedom,
    motion: Motion,
    index: int,
    to: int | None,
    solids: Mapping[int, PlacedSolid],
    *,
    way: int,
    tolerance: Tolerance,
    overlaps: Callable[[int, int], bool] | None = None,
    watches: dict[Path, Watch] | None = None,
) -> Stop:
    """Follow a motion one way until a joint meets its limit, or a part another.

    Parameters
    ----------
    freedom, motion, index, to, way
        As for `follow`.
    solids
        The parts that can meet, by their places in the build.
    tolerance
        Says when two parts overlap.
    overlaps
        Says whether two parts pass through each other where they stand, for those who know it already.
    watches
        What is known of paths that others went along; more is put to it.

    Returns
    -------
    Stop
        Parts that touch all along do not stop it, only those that would pass through each other.
    """
    overlaps = overlaps or _overlap_at_rest(solids, tolerance)
    size = _size(solids.get(index))
    if rigid := rigid_way(freedom, motion, index, to, way=way, size_mm=size):
        stop = _first_stop(rigid, solids, tolerance, overlaps)
        if stop is not None:
            return stop
    last = Step(amount=0.0, motion=motion, places=Placements.of(freedom.poses))
    path, end = path_and_end(freedom, motion, index, to, way=way, size_mm=size)
    watches = {} if watches is None else watches
    watch = _known_watch(path, watches)
    if watch is None:
        known = {pair for pair in itertools.combinations(sorted(solids), 2) if overlaps(*pair)}
        watch = Watch(freedom.system, solids, freedom.poses, known, tolerance)
    watches[path] = watch
    for number, steps in enumerate(stretches(path, motion, index, to, way=way, end=end)):
        at, limit = _first_limit(freedom.system, [last, *steps])
        met = watch.first_overlap(path, number)
        if met and met[0] < at:
            at, limit = met[0], None
        if at < len(steps):
            before = steps[at - 1] if at else last
            pairs = met[1] if met and met[0] == at else []
            return _narrowed(freedom, before, steps[at], limit, pairs, watch, index=index, to=to)
        last = steps[-1]
    return Stop(amount=last.amount, by=None)


def _known_watch(path: Path, watches: Mapping[Path, Watch]) -> Watch | None:
    """Return the watch of a path, or of the same path gone the other way where it met nothing there."""
    if path in watches or path.twin is None:
        return watches.get(path)
    back = watches.get(path.twin)
    return back if back is not None and back.is_free(path.twin) else None


def _first_limit(system: System, steps: Sequence[Step]) -> tuple[int, str | None]:
    """Return in which step after the first a joint first goes beyond its limits, and which; the number of them."""
    if system.has_limits:
        for number, (last, step) in enumerate(itertools.pairwise(steps)):
            if limit := limit_met(system, last, step):
                return number, limit
    return len(steps) - 1, None


def _overlap_at_rest(solids: Mapping[int, PlacedSolid], tolerance: Tolerance) -> Callable[[int, int], bool]:
    return lambda a, b: interference(solids[a], solids[b], tolerance=tolerance) > 0


def _first_stop(
    way: RigidWay,
    solids: Mapping[int, PlacedSolid],
    tolerance: Tolerance,
    overlaps: Callable[[int, int], bool],
) -> Stop | None:
    """Return what ends a rigid way; None where too much is only grazed.

    On plain parts their faces say it alone; else triangles say where, the kernel whether.
    """
    limit = way.limit()
    stop = Stop(amount=limit[0], by=limit[1]) if limit else Stop(amount=way.end, by=None)
    moving, still = sorted(way.moving & solids.keys()), sorted(solids.keys() - way.moving)
    left: list[tuple[int, int]] = []
    for own, other in itertools.product(moving, still):
        amount = plain_meeting(solids[own], solids[other], way.motion, sign=way.sign)
        if amount is None or (amount < stop.amount and overlaps(own, other)):
            left.append((own, other))
        elif amount < stop.amount:
            stop = Stop(amount=amount, by=(min(own, other), max(own, other)))
    nearest: list[tuple[float, int, int, Iterator[float]]] = []
    for own, other in left:
        contacts = _contacts(way, solids[own], solids[other])
        if (first := next(contacts, math.inf)) < stop.amount:
            nearest.append((first, own, other, itertools.chain([first], contacts)))
    for first, own, other, contacts in sorted(nearest, key=lambda pair: pair[:3]):
        if first >= stop.amount:
            break
        lever = _lever(way, solids[own])
        amount = first_meeting(solids[own], solids[other], contacts, way.carried,
                               until=stop.amount, lever=lever, tolerance=tolerance)  # fmt: skip
        if amount is None:
            return None
        if amount < stop.amount:
            stop = Stop(amount=amount, by=(min(own, other), max(own, other)))
    return stop


def _contacts(way: RigidWay, moving: PlacedSolid, other: PlacedSolid) -> Iterator[float]:
    """Return how far along a way the triangles of two solids meet, nearest first."""
    meshes = [fine_mesh(solid.part, solid.pose) for solid in (moving, other)]
    direction = way.sign * way.motion.direction
    if way.is_turn:
        return turning_contacts(meshes[0], meshes[1], way.motion.point, direction)
    return straight_contacts(meshes[0], meshes[1], direction)


def _lever(way: RigidWay, solid: PlacedSolid) -> float:
    """Return how far a solid goes, where it goes fastest, for one of a way's amount, mm."""
    if not way.is_turn:
        return 1.0
    corners = solid.pose.point(solid.part.corners) - way.motion.point
    return max(float(np.linalg.norm(np.cross(corners, way.motion.direction), axis=1).max()), 1.0)


def _narrowed(
    freedom: Freedom,
    last: Step,
    step: Step,
    limit: str | None,
    met: Sequence[Pair],
    watch: Watch,
    *,
    index: int,
    to: int | None,
) -> Stop:
    """Narrow the step in which something stopped the motion, to a share of it of `_FINEST`."""
    by: str | Pair = limit or met[0]
    last, step = exact_pair(freedom.system, last, step, index, to)

    def shared(share: float) -> float:
        nonlocal by
        middle = between(freedom.system, last, step, index, to, share=share)
        beyond = is_beyond_limits(freedom.system, middle.poses, last.poses)
        volumes = {pair: volume for pair in met if (volume := watch.shared(pair, middle.poses))}
        by = beyond or next(iter(volumes), by)
        return math.inf if beyond else sum(volumes.values())

    share = where_it_begins(shared, 0.0, (1.0, math.inf), finest=_FINEST, tolerance=watch.tolerance)
    return Stop(amount=between(freedom.system, last, step, index, to, share=share).amount, by=by)


def nearest_along(
    freedom: Freedom,
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
    freedom, motion, index, to
        As for `follow`.
    pair, places
        The two instances' solids, and their places in the build.
    tolerance
        For the exact gap.
    """
    moving = next((solid for solid, place in zip(pair, places, strict=True) if place == index), None)
    if rigid := rigid_way(freedom, motion, index, to, way=1, size_mm=_size(moving)):
        return _nearest_rigidly(rigid, pair, places, tolerance)
    steps = [Step(amount=0.0, motion=motion, places=Placements.of(freedom.poses))]
    for way in (1, -1):
        if motion.kind == "rotation" and steps[-1].amount > ROUND:
            break  # once round is all there is
        last = steps[0]
        for step in follow(freedom, motion, index, to, way=way, size_mm=_size(moving)):
            if limit_met(freedom.system, last, step) or _is_past(pair, places, step.poses, last.poses):
                break
            steps.append(replace(step, amount=way * step.amount))
            last = step
    steps.sort(key=lambda step: step.amount)

    @lru_cache
    def gap(step: Step) -> float:
        poses = exact_poses(freedom.system, step)
        one, two = (place(solid.instance, solid.part, poses[at]) for solid, at in zip(pair, places, strict=True))
        return clearance(one, two, tolerance=tolerance).gap_mm

    bounds = _bounds(steps, pair, places)
    # of places that are about equally near, as on the way round and back, the one that is nearest to where it stands
    close = [k for k in range(len(steps)) if bounds[k] <= bounds.min() + _ABOUT]
    looked_at = sorted(close, key=lambda k: abs(steps[k].amount))[:_LOOKED_AT]
    best = min(looked_at, key=lambda k: round(gap(steps[k]), 6))
    low, middle, high = steps[max(best - 1, 0)], steps[best], steps[min(best + 1, len(steps) - 1)]
    least = (gap(middle), middle.amount)
    for _ in range(_HALVINGS):
        left, right = between(freedom.system, low, middle, index, to), between(freedom.system, middle, high, index, to)
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


def _bounds(
    steps: Sequence[Step], pair: tuple[PlacedSolid, PlacedSolid], places: tuple[int, int]
) -> NDArray[np.float64]:
    """Return how far apart two parts are at least in each step, (k,) mm; exactly told only of those that come near."""
    a, b = (solid.part for solid in pair)
    seen = Placements.joined([Placements.of(step.poses) for step in steps]).seen(places[1], places[0])
    bounds: NDArray[np.float64] = np.maximum(
        np.maximum(box_gaps(seen, carried(seen, b.corners), a, b), face_gaps(seen, a, b)), 0.0
    )
    least = math.inf
    for k in np.argsort(bounds).tolist():
        if bounds[k] > least + _ABOUT:
            break
        poses = steps[k].poses
        bounds[k] = least_gap(a, poses[places[0]], b, poses[places[1]])
        least = min(least, bounds[k])
    return bounds


def _nearest_rigidly(
    way: RigidWay, pair: tuple[PlacedSolid, PlacedSolid], places: tuple[int, int], tolerance: Tolerance
) -> LeastGap:
    """Find where two solids come nearest on a rigid way and back: side by side where they are seen near along it."""

    @lru_cache
    def gap(amount: float) -> float:
        poses = way.poses(amount)
        one, two = (place(solid.instance, solid.part, poses[at]) for solid, at in zip(pair, places, strict=True))
        return clearance(one, two, tolerance=tolerance).gap_mm

    least = (gap(0.0), 0.0)
    if (places[0] in way.moving) == (places[1] in way.moving):
        return LeastGap(gap_mm=least[0], amount=0.0)
    moving, other = pair if places[0] in way.moving else pair[::-1]
    if not least[0]:
        return LeastGap(gap_mm=0.0, amount=0.0)
    span = way.span()
    if told := _told_by_faces(way, moving, other, gap, span):
        return told
    meshes = [fine_mesh(solid.part, solid.pose) for solid in (moving, other)]
    passing = Passing(meshes[0], meshes[1], way.motion.direction, way.motion.point if way.is_turn else None)
    within = _SEEN_WITHIN
    if way.freedom.system.has_limits:
        least = min(least, *((gap(end), end) for end in span))
    while True:
        passes = passing.nearer_than(within, span)
        for bound, amount in passes[:_LOOKED_AT]:
            if bound - 2 * FINE_MM - passing.off_mm >= least[0] - _EVEN:
                break
            least = min(least, (gap(amount), amount))
        if within >= least[0]:
            break
        within = min(4 * within, least[0])
    reach = way.step / 2
    for _ in range(_HALVINGS if abs(gap(0.0) - least[0]) > _EVEN else 0):
        beside = [min(max(least[1] + side * reach, span[0]), span[1]) for side in (-1, 1)]
        least = min([least, *((gap(amount), amount) for amount in beside)])
        reach /= 2
    return LeastGap(gap_mm=least[0], amount=least[1])


def _told_by_faces(
    way: RigidWay, moving: PlacedSolid, other: PlacedSolid, gap: Callable[[float], float], span: tuple[float, float]
) -> LeastGap | None:
    """Return where two solids come nearest on a rigid way and back, where their faces say it; None where not."""
    at_rest, motion = gap(0.0), way.motion
    for end in span:
        sign = 1 if end > 0 else -1
        meeting = plain_meeting(moving, other, motion, sign=sign)
        if meeting is not None and meeting <= abs(end):
            return LeastGap(gap_mm=0.0, amount=sign * meeting)
    if way.is_turn:
        stays = comes_no_nearer(moving, other, motion.point, motion.direction, at_rest)
        return LeastGap(gap_mm=at_rest, amount=0.0) if stays else None
    beside = passed(moving, other, motion.direction)
    if beside is None:
        return None
    if beside.least_mm > at_rest - _EVEN:
        return LeastGap(gap_mm=at_rest, amount=0.0)
    is_reached = span[0] <= beside.amount <= span[1] and gap(beside.amount) < beside.least_mm + _EVEN
    return LeastGap(gap_mm=gap(beside.amount), amount=beside.amount) if is_reached else None


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
    is_overlap = interference(moving, other, tolerance=tolerance) > 0
    if not is_overlap and (amount := flat_meeting(moving, other, direction)) is not None:
        return amount
    contacts = straight_contacts(fine_mesh(moving.part, moving.pose), fine_mesh(other.part, other.pose), direction)
    contacts, first = itertools.tee(contacts)
    if is_overlap:
        return next(first, math.inf)
    amount = first_meeting(moving, other, contacts, lambda gone: Pose(np.eye(3), gone * direction),
                           until=math.inf, lever=1.0, tolerance=tolerance)  # fmt: skip
    return next(first) if amount is None else amount
