"""Moving what a bench holds: pulled by hand, or out and back along one motion that is left."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from rigid_bench.core.assembly.freedom.analysis import Freedom, freedom
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.freedom.travel import exact_poses, follow, is_beyond_limits
from rigid_bench.core.assembly.mates.relax import relax
from rigid_bench.core.bench.documents import BenchParts, BenchState
from rigid_bench.core.bench.work import answer, at_poses, bench_build, known, part_of
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.frames import Pose, unit
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _

if TYPE_CHECKING:  # contacts need the mesh libraries; moving by mates alone does not
    from rigid_bench.core.bench.collision_limits import CollisionLimits, Touch

#: Steps of a drag: how much of the way a point goes in one, and how many there are at most.
_PULL, _PULLS = 0.5, 24
#: mm: near enough to the hand.
_THERE_MM = 0.05
#: mm: mates hold, put right after a step.
_HOLDS_MM = 1e-6
#: mm: an instance that moves less for 1 mm of a pull does not follow it.
_STILL_MM = 1e-9
#: How far a nudge goes: rad, and mm as a share of the part's size.
_NUDGE_RAD, _NUDGE = math.radians(40), 0.35


@dataclass(frozen=True, slots=True, kw_only=True)
class Moved:
    """How a bench moved: pictures in which all mates hold, the last where it came to rest."""

    states: list[BenchState]
    #: The mate whose limit stopped it, or None.
    limit: str | None = None
    #: The features on which it was stopped.
    touching: "tuple[Touch, ...]" = ()


@dataclass(slots=True)
class _Steps:
    """Steps taken one after the other, as far as limits and other parts let them."""

    poses: list[Pose]
    has_limits: bool
    stops: "CollisionLimits | None"
    limit: str | None = None
    touching: "tuple[Touch, ...]" = ()

    def takes(self, freedom: Freedom, arrived: list[Pose]) -> bool:
        """Go to where a step arrived; False where something stopped it on its way."""
        if self.has_limits and (limit := is_beyond_limits(freedom.system, arrived, self.poses)):
            self.limit = limit
            return False
        if self.stops is None:
            self.poses = arrived
            return True
        way = self.stops.way(freedom.system, self.poses, arrived)
        self.touching = way.touching
        self.poses = relax(freedom.system, way.poses)[0] if way.touching else arrived
        return not way.touching


def drag(
    state: BenchState,
    name: str,
    *,
    start: Sequence[float],
    end: Sequence[float],
    sight: Sequence[float] | None = None,
    has_limits: bool = True,
    stops: "CollisionLimits | None" = None,
    tolerance: Tolerance,
) -> Moved:
    """Pull a point of a part towards a place, as far as what is free lets it; the others follow.

    Parameters
    ----------
    state
        The bench.
    name
        The instance that is pulled.
    start, end
        (3,) mm in the world: where the point is, and where the hand is.
    sight
        (3,) the direction in which one looks: the point comes under the hand, wherever before or behind it. Without
        one it comes to the hand.
    has_limits
        Joints stop at their limits.
    stops
        The parts as obstacles; without them parts pass through each other.
    tolerance
        Says when mates hold.
    """
    known(state, name)
    build = bench_build(state)
    index = next(k for k, instance in enumerate(build.instances) if instance.id == name)
    free = freedom(build, tolerance=tolerance)
    steps = _Steps(list(free.poses), has_limits, stops)
    states: list[BenchState] = []
    if not free.conflicts and free.degrees(index):
        free = _following(free, index, start, end, tolerance)
        here, aim = steps.poses[index].inverse().point(start), np.array(end, dtype=float)
        line = None if sight is None else unit(np.array(sight, dtype=float))
        seen = np.eye(3) if line is None else np.eye(3) - np.outer(line, line)
        for _ in range(_PULLS):
            point = steps.poses[index].point(here)
            pull = seen @ (aim - point)
            away = float(np.linalg.norm(pull))
            if away < _THERE_MM:
                break
            velocity = free.velocity_towards(index, point, _PULL * pull, sight=line)
            arrived, error, _ = relax(free.system, free.system.stepped(steps.poses, velocity))
            is_nearer = float(np.linalg.norm(seen @ (aim - arrived[index].point(here)))) < away - 1e-6
            if error > _HOLDS_MM or not is_nearer:
                break
            goes_on = steps.takes(free, arrived)
            states.append(at_poses(state, steps.poses))
            if not goes_on:
                break
            free = free.at(steps.poses)
    return Moved(states=states or [state], limit=steps.limit, touching=steps.touching)


def _following(
    free: Freedom, index: int, start: Sequence[float], end: Sequence[float], tolerance: Tolerance
) -> Freedom:
    """Return a build of which only what follows the pull can move; its other mates are held as they are.

    So a drag takes no longer in a large build, and no rounding of its steps reaches what it leaves alone.
    """
    build, pull = free.system.build, np.array(end, dtype=float) - start
    # all three ways: on its path a part may come to move where it could not at first
    velocities = [free.velocity_towards(index, np.array(start, dtype=float), way) for way in (pull, *np.eye(3))]
    goes = np.abs(velocities).max(axis=0).reshape(-1, 6).max(axis=1) > _STILL_MM
    instances = tuple(
        replace(instance, grounded=instance.grounded or not bool(moves))
        for instance, moves in zip(build.instances, goes, strict=True)
    )
    mates = tuple(mate for mate in build.mates if goes[mate.a] or goes[mate.b])
    return freedom(replace(build, instances=instances, mates=mates), tolerance=tolerance)


def nudge(
    state: BenchState,
    parts: BenchParts,
    name: str,
    motion: int,
    *,
    has_limits: bool = True,
    stops: "CollisionLimits | None" = None,
    tolerance: Tolerance,
) -> Moved:
    """Play one of the motions that are left: out, as far as nothing stops it, and back.

    Parameters
    ----------
    state, parts
        The bench.
    name, motion
        The instance, and which of its motions.
    has_limits, stops, tolerance
        As for `drag`.

    Raises
    ------
    FormRejected
        The motion is not there.
    """
    shown = answer(state, tolerance=tolerance)
    motions = shown.motions(name)
    if not 0 <= motion < len(motions):
        raise FormRejected(_("motion"), _("it is not there any more"), _("Look what is free now"))
    index = next(k for k, instance in enumerate(state.placed) if instance.id == name)
    own = motions[motion]
    box = np.array(part_of(parts, state.placed[index]).box)
    most = _NUDGE_RAD if own.kind == "rotation" else _NUDGE * float(np.linalg.norm(box[1] - box[0]))
    steps = _Steps(list(shown.freedom.poses), has_limits, stops)
    out: list[BenchState] = []
    for arrived in _along(shown.freedom, own, index, most):
        goes_on = steps.takes(shown.freedom, arrived)
        out.append(at_poses(state, steps.poses))
        if not goes_on:
            break
    return Moved(states=[*out, *out[::-1], state], limit=steps.limit, touching=steps.touching)


def _along(freedom: Freedom, motion: Motion, index: int, most: float) -> Iterator[list[Pose]]:
    for step in follow(freedom, motion, index, None):
        yield exact_poses(freedom.system, step)
        if step.amount > most:
            return


def standing(state: BenchState, poses: dict[str, Pose]) -> BenchState:
    """Return a bench with some of its parts elsewhere: where a drag has brought them so far."""
    return at_poses(state, [poses.get(instance.id, instance.pose) for instance in state.placed])
