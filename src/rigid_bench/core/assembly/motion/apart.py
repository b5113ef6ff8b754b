"""A build drawn apart: how far each part goes along its way in to be clear of all that came before it."""

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.motion.removal import Placing, Way, removal_sequence
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.kernel.distance import moved
from rigid_bench.core.kernel.feature_reader import tight_box
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]
#: Between parts that are drawn apart, as a share of the part's own length on its way.
_GAP = 0.35


def ways_apart(
    placed: Mapping[int, Placing],
    motions: Mapping[int, Sequence[Motion]],
    mates: Sequence[Mate],
    *,
    base: int,
    tolerance: Tolerance,
) -> list[Way]:
    """Find how a build comes apart: along what its mates leave free, and along what was mated.

    Parameters
    ----------
    placed
        Each instance's part, and where it stands.
    motions
        What each instance's mates leave free, in the world.
    mates
        Of the build: a part may also leave along a mate's axis or normal.
    base
        The instance that stays.
    tolerance
        For contacts and overlaps.
    """
    slides = {k: [motion for motion in motions.get(k, ()) if motion.kind == "translation"] for k in placed}
    for mate in mates:
        for k, feature in ((mate.a, mate.feature_a), (mate.b, mate.feature_b)):
            way = placed[k][1].direction(getattr(feature, "direction", [0.0, 0.0, 1.0]))
            slides[k].append(Motion(kind="translation", direction=way, point=np.zeros(3)))
    ways = removal_sequence(placed, slides, tolerance=tolerance, last=base)
    if len(ways) < len(placed) - 1:  # turning parts on their joints takes long, and is seldom needed
        ways = removal_sequence(placed, motions, tolerance=tolerance, last=base)
    return ways


def shifts_apart(placed: Mapping[int, Placing], ways: Sequence[Way]) -> dict[int, _Array]:
    """Return how far each instance is drawn off its place, (3,) mm: clear of all that came before it."""
    boxes = {k: tight_box(moved(part.shape, pose)) for k, (part, pose) in placed.items()}
    shifts = {k: np.zeros(3) for k in placed}
    there = [k for k in placed if k not in {way.instance for way in ways}]
    for way in ways[::-1]:  # the last to leave stands nearest
        own, d = boxes[way.instance], way.direction
        low, high = _reach(own, d)
        ends = [_reach(boxes[k] + shifts[k], d)[1] for k in there if _lies_along(boxes[k] + shifts[k], own, d)]
        shifts[way.instance] = (max([0.0, *(end - low for end in ends)]) + _GAP * (high - low)) * d
        there.append(way.instance)
    return shifts


def _reach(box: _Array, direction: _Array) -> tuple[float, float]:
    """Return how far a box reaches along a direction."""
    middle, half = box.mean(axis=0), (box[1] - box[0]) / 2
    along, out = float(middle @ direction), float(half @ np.abs(direction))
    return along - out, along + out


def _lies_along(other: _Array, own: _Array, direction: _Array) -> bool:
    """Say whether two boxes lie over each other as seen along a direction."""
    across = np.abs(direction) < 0.5
    return bool(np.all((other[0] < own[1])[across] & (own[0] < other[1])[across]))
