"""Follow a motion: where the build goes along it, and how far until a joint meets its limit."""

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.analysis import Freedom
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.freedom.path import Leg, Path, hanging_together, path_of
from rigid_bench.core.assembly.freedom.placements import Placements, turns_about
from rigid_bench.core.assembly.mates.relax import relax
from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.values.frames import Pose

#: A turn is followed in steps of so much (rad), once round at most.
_TURN = math.radians(2)
_STEPS_ROUND = 180
#: A slide is followed in steps of so much of the part's size, or of the longest travel that a joint
#: of the build is given, and this many at most.
_SLIDE, _SLIDES = 0.02, 250
#: Halvings of the last step, to find the limit to a ten-thousandth of a step and less.
_HALVINGS = 24
#: Places that are tried of the steps about a dead point, and how often they are narrowed.
_TRIED, _NARROWED = 9, 4
#: Share of the whole way: who goes less far in a leg stands still, and who is so near to its end has come there.
_STILL = 1e-6


@dataclass(frozen=True, slots=True, kw_only=True)
class Reach:
    """How far a motion carries on one way."""

    #: rad for a turn, mm for a slide; along the axis for a screw.
    amount: float
    #: The mate whose limit stops it, or None.
    stopped_by: str | None


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Step:
    """The build at one place along a motion."""

    #: As in `Reach`.
    amount: float
    #: The motion as it is there.
    motion: Motion
    #: Where the instances are, and which of these places it is.
    places: Placements
    place: int = 0

    @property
    def poses(self) -> list[Pose]:
        """Where the instances are."""
        return self.places.poses(self.place)


def follow(
    freedom: Freedom, motion: Motion, index: int, to: int | None, *, way: int = 1, size_mm: float = 0.0
) -> Iterator[Step]:
    """Yield the build along a motion of one instance, the others going along as their mates let them.

    Parameters
    ----------
    freedom
        What the build leaves free where it stands.
    motion
        One of `freedom.motions(index, to)`.
    index, to
        Places of the instances; None is the ground.
    way
        1, or -1 for the other way.
    size_mm
        How large the instance is, where that is known: its mates alone may lie in one point.

    Yields
    ------
    Step
        From the first step on; ends where the mates cannot follow, or after one turn. The mates may be off by 0.0005 of
        the parts' size: `exact_poses` puts them right.
    """
    path, end = path_and_end(freedom, motion, index, to, way=way, size_mm=size_mm)
    for steps in stretches(path, motion, index, to, way=way, end=end):
        yield from steps


def path_and_end(
    freedom: Freedom, motion: Motion, index: int, to: int | None, *, way: int, size_mm: float = 0.0
) -> tuple[Path, float]:
    """Return the path along a motion, and how far it is followed (rad for a turn, else mm); as for `follow`."""
    step, count = stride(freedom, motion, index, size_mm)
    size = size_mm if motion.kind == "rotation" else step / _SLIDE
    return path_of(freedom, motion, index, to, way=way, size_mm=size), count * step


def stretches(path: Path, motion: Motion, index: int, to: int | None, *, way: int, end: float) -> Iterator[list[Step]]:
    """Yield the steps along a path, leg by leg, while an instance goes on: until it comes back, or has gone to an end.

    Parameters
    ----------
    path
        One along the motion.
    motion, index, to, way
        As for `follow`.
    end
        rad for a turn, else mm.
    """
    amount, before = 0.0, None
    for number in itertools.count():
        leg = path.leg(number)
        if leg is None:
            return
        going = _Going(leg, motion, index, to, way, amount)
        amounts = going.amounts(leg.steps)
        steps = [Step(amount=float(gone), motion=motion, places=leg.steps, place=k) for k, gone in enumerate(amounts)]
        is_back = amounts < np.concatenate([[amount], amounts[:-1]])
        last = int(np.argmax(is_back | (amounts >= end - _STILL * end) | (np.arange(len(amounts)) == len(amounts) - 1)))
        if is_back[last]:
            # from here it would come back
            turning = going.dead_point(([0.0, 0.0, *leg.shares])[last], leg.shares[last])
            if last == 0 and before is not None:
                earlier = before.dead_point([0.0, *before.leg.shares][-2], 1.0)
                turning = max(turning, earlier, key=lambda step: step.amount)
            yield [*(step for step in steps[:last] if step.amount < turning.amount), turning]
            return
        yield steps[: last + 1]
        if amounts[last] >= end - _STILL * end or amounts[last] - amount < _STILL * end:
            return
        turned = _seen(leg.end.poses, to) @ _seen(leg.start.poses, to).inverse()
        before, amount, motion = going, float(amounts[last]), motion.moved(turned)


@dataclass(frozen=True, slots=True, eq=False)
class _Going:
    """How an instance goes along a motion in a leg; as for `follow`."""

    leg: Leg
    motion: Motion
    index: int
    to: int | None
    way: int
    #: rad or mm: how far it has gone before.
    amount: float

    def amounts(self, places: Placements) -> NDArray[np.float64]:
        """Return how far it has gone in each of some places of the leg, (k,)."""
        return self.amount + self.way * _gone_in(places, self.leg.start.poses, self.motion, self.index, self.to)

    def dead_point(self, low: float, high: float) -> Step:
        """Return where it goes no further, between two shares of the leg."""
        for _ in range(_NARROWED):
            tried = np.linspace(low, high, _TRIED)
            best = int(self.amounts(self.leg.at(tried)).argmax())
            low, high = tried[max(best - 1, 0)], tried[min(best + 1, _TRIED - 1)]
        poses = relax(self.leg.system, self.leg.at([(low + high) / 2]).poses(0)).poses
        places = Placements.of(poses)
        return Step(amount=float(self.amounts(places)[0]), motion=self.motion, places=places)


def _gone_in(
    placements: Placements, before: Sequence[Pose], motion: Motion, index: int, to: int | None
) -> NDArray[np.float64]:
    """Return how far an instance went along a motion, rad for a turn, else mm, until each of some places, (k,)."""
    base = _seen(before, to)
    start, seen = base.inverse() @ before[index], placements.seen(index, to)
    if motion.kind == "rotation":
        turns = base.rotation @ seen.rotations @ start.rotation.T @ base.rotation.T
        return turns_about(turns, motion.direction)
    gone: NDArray[np.float64] = (seen.positions - start.position) @ base.rotation.T @ motion.direction
    return gone


def stride(freedom: Freedom, motion: Motion, index: int, size_mm: float = 0.0) -> tuple[float, int]:
    """Return in what steps (rad for a turn, else mm) a motion is followed, and how many at most; as for `follow`."""
    if motion.kind == "rotation":
        return _TURN, _STEPS_ROUND
    limited = freedom.system.limited(freedom.poses)
    travels = [standing.greatest - standing.least for _, standing, _ in limited if standing.kind == "translation"]
    return _SLIDE * max(size_mm, float(freedom.system.lengths[index]), *travels), _SLIDES


def reach(freedom: Freedom, motion: Motion, index: int, to: int | None, *, way: int) -> Reach:
    """Say how far a motion carries on one way until a joint meets its limit.

    Parameters
    ----------
    freedom, motion, index, to, way
        As for `follow`.

    Returns
    -------
    Reach
        Without a stop, one turn, or as far as it was followed.
    """
    system, last = freedom.system, Step(amount=0.0, motion=motion, places=Placements.of(freedom.poses))
    if not _can_meet_a_limit(freedom, index, to):
        length, count = stride(freedom, motion, index)
        return Reach(amount=length * count, stopped_by=None)
    for step in follow(freedom, motion, index, to, way=way):
        if stop := limit_met(system, last, step):
            last, step = exact_pair(system, last, step, index, to)
            for _ in range(_HALVINGS):
                middle = between(system, last, step, index, to)
                if is_beyond_limits(system, middle.poses, last.poses):
                    step = middle
                else:
                    last = middle
            return Reach(amount=last.amount, stopped_by=stop)
        last = step
    return Reach(amount=last.amount, stopped_by=None)


def _can_meet_a_limit(freedom: Freedom, index: int, to: int | None) -> bool:
    """Say whether what an instance hangs together with has a limit, and is held by something.

    What floats goes along any motion as one, and no joint of it moves.
    """
    system, held = freedom.system, {*freedom.system.held, *(() if to is None else (to,))}
    together = hanging_together(system, index, held)
    limited = {standing.mate for _, standing, _ in system.limited(freedom.poses)}
    is_limited = any(mate.id in limited for own in together - held for mate in system.mates_by_instance[own])
    return is_limited and not held.isdisjoint(together)


def exact_poses(system: System, step: Step) -> list[Pose]:
    """Return where the instances are in a step with its mates put right: between the ends of a leg they are off."""
    return relax(system, step.poses).poses


def exact_pair(system: System, last: Step, step: Step, index: int, to: int | None) -> tuple[Step, Step]:
    """Return two steps, one after the other, with their mates put right, and how far an instance has gone in them."""
    way = 1.0 if _gone_in(Placements.of(step.poses), last.poses, last.motion, index, to)[0] >= 0 else -1.0

    def put_right(own: Step) -> Step:
        places = Placements.of(exact_poses(system, own))
        gone = way * float(_gone_in(places, own.poses, own.motion, index, to)[0])
        return replace(own, amount=own.amount + gone, places=places, place=0)

    return put_right(last), put_right(step)


def limit_met(system: System, last: Step, step: Step) -> str | None:
    """Name the first joint that goes further beyond its limits in a step; None where all stay within."""
    if is_beyond_limits(system, step.poses, last.poses) is None:
        return None
    return is_beyond_limits(system, exact_poses(system, step), exact_poses(system, last))


def between(system: System, a: Step, b: Step, index: int, to: int | None, *, share: float = 0.5) -> Step:
    """Return the build at a share of the way from one step to another."""
    poses = relax(system, system.stepped(a.poses, share * system.displacement(a.poses, b.poses))).poses
    places = Placements.of(poses)
    gone = abs(float(_gone_in(places, a.poses, a.motion, index, to)[0]))
    sign = 1.0 if b.amount >= a.amount else -1.0
    return Step(amount=a.amount + sign * gone, motion=a.motion, places=places)


def _seen(poses: Sequence[Pose], to: int | None) -> Pose:
    return Pose.identity() if to is None else poses[to]


def is_beyond_limits(system: System, poses: Sequence[Pose], before: Sequence[Pose]) -> str | None:
    """Name the first joint that has gone further beyond its limits than it was; None where all are within."""
    were = [abs(standing.beyond) for _, standing, _ in system.limited(before)]
    for (_, standing, _), was in zip(system.limited(poses), were, strict=True):
        if abs(standing.beyond) > was + 1e-9:
            return standing.mate
    return None
