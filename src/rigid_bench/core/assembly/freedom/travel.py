"""Follow a motion: where the build goes along it, and how far until a joint meets its limit."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.analysis import Freedom
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.mates.relax import relax
from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.values.frames import Pose, turn_of

_Array = NDArray[np.float64]
#: A turn is followed in steps of so much (rad), once round at most.
_TURN = math.radians(2)
_STEPS_ROUND = 180
#: A slide is followed in steps of so much of the part's size, or of the longest travel that a joint
#: of the build is given, and this many at most.
_SLIDE, _SLIDES = 0.02, 250
#: A step that comes out shorter than this share has met a dead point, which is neared in so many halves of a step.
_STALLED, _NEARED = 0.2, 8
#: Halvings of the last step, to find the limit to a ten-thousandth of a step and less.
_HALVINGS = 24


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
    poses: list[Pose]
    #: The motion as it is there.
    motion: Motion


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
        From the first step on; ends where the mates cannot follow, or after one turn.
    """
    system, poses = freedom.system, list(freedom.poses)
    step, count = stride(freedom, motion, index, size_mm)
    amount, shortest = 0.0, step / 2**_NEARED
    for _ in range(count):
        velocity = freedom.velocity_of(motion, index, to)
        while step >= shortest:
            arrived = _stepped(system, poses, way * step * velocity)
            gone = 0.0 if arrived is None else way * _gone(motion, poses, arrived, index, to)
            if gone >= _STALLED * step:
                break
            step /= 2
        else:
            return  # a dead point: from here it would come back
        assert arrived is not None
        amount += gone
        turned = _seen(arrived, to) @ _seen(poses, to).inverse()
        motion, poses = motion.moved(turned), arrived
        yield Step(amount=amount, poses=arrived, motion=motion)
        freedom = freedom.at(poses)


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
    system, last = freedom.system, Step(amount=0.0, poses=list(freedom.poses), motion=motion)
    if not _can_meet_a_limit(freedom, index, to):
        length, count = stride(freedom, motion, index)
        return Reach(amount=length * count, stopped_by=None)
    for step in follow(freedom, motion, index, to, way=way):
        if stop := is_beyond_limits(system, step.poses, last.poses):
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
    limited = {standing.mate for _, standing, _ in system.limited(freedom.poses)}
    together, waiting, is_limited = {index}, [index], False
    while waiting:
        instance = waiting.pop()
        for mate in system.mates_by_instance[instance]:
            is_limited = is_limited or mate.id in limited
            neighbour = mate.b if mate.a == instance else mate.a
            if neighbour not in together:
                together.add(neighbour)
                if neighbour not in held:
                    waiting.append(neighbour)
    return is_limited and not held.isdisjoint(together)


def _gone(motion: Motion, before: Sequence[Pose], after: Sequence[Pose], index: int, to: int | None) -> float:
    """Return how far an instance went along a motion, rad for a turn, else mm; steps come out a little short."""
    start, end = (_seen(poses, to).inverse() @ poses[index] for poses in (before, after))
    gone = _seen(before, to) @ end @ start.inverse() @ _seen(before, to).inverse()
    if motion.kind == "rotation":
        return float(turn_of(gone.rotation) @ motion.direction)
    middle = before[index].position
    return float((gone.point(middle) - middle) @ motion.direction)


def between(system: System, a: Step, b: Step, index: int, to: int | None, *, share: float = 0.5) -> Step:
    """Return the build at a share of the way from one step to another."""
    poses, _ = relax(system, system.stepped(a.poses, share * system.displacement(a.poses, b.poses)))
    gone = abs(_gone(a.motion, a.poses, poses, index, to))
    sign = 1.0 if b.amount >= a.amount else -1.0
    return Step(amount=a.amount + sign * gone, poses=poses, motion=a.motion)


def is_beyond_limits(system: System, poses: Sequence[Pose], before: Sequence[Pose]) -> str | None:
    """Name the first joint that has gone further beyond its limits than it was; None where all are within."""
    were = [abs(standing.beyond) for _, standing, _ in system.limited(before)]
    for (_, standing, _), was in zip(system.limited(poses), were, strict=True):
        if abs(standing.beyond) > was + 1e-9:
            return standing.mate
    return None


def _stepped(system: System, poses: Sequence[Pose], step: _Array) -> list[Pose] | None:
    arrived, error = relax(system, system.stepped(poses, step))
    return arrived if error < 1e-7 * max(1.0, float(system.lengths.max())) else None


def _seen(poses: Sequence[Pose], to: int | None) -> Pose:
    return Pose.identity() if to is None else poses[to]
