"""A build drawn apart: each part out along its way in, the last to come farthest, with its trail."""

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.motion.removal import Way, removal_sequence
from rigid_bench.core.bench import work
from rigid_bench.core.bench.documents import Balloon, BenchState, Exploded, Ways
from rigid_bench.core.drawing.pictures import view_model
from rigid_bench.core.formats.pictures import Polyline
from rigid_bench.core.kernel.distance import moved
from rigid_bench.core.kernel.feature_reader import tight_box
from rigid_bench.core.kernel.views import draw_view, seen
from rigid_bench.core.part.directions import PICTORIAL, axes_of
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]
#: Between parts that are drawn apart, as a share of the part's own length on its way.
_GAP = 0.35


def find_ways(parts: Mapping[str, PartFeatures], state: BenchState, *, tolerance: Tolerance) -> Ways:
    """Find how a bench comes apart, and how far each part goes to be clear of all that came before it.

    Parameters
    ----------
    parts
        By the part's id on the bench.
    state
        What is placed, and its mates.
    tolerance
        For contacts and overlaps.
    """
    names = [each.id for each in state.placed]
    placed = {k: (parts[each.part], each.pose) for k, each in enumerate(state.placed)}
    base = next((k for k, each in enumerate(state.placed) if each.grounded), 0)
    found = work.answer(state, tolerance=tolerance)
    motions = {k: found.motions(name) for k, name in enumerate(names)}
    slides = {k: [each for each in own if each.kind == "translation"] for k, own in motions.items()}
    for mate in found.found.system.build.mates:  # what was mated may also leave along the mate's axis or normal
        for k, feature in ((mate.a, mate.feature_a), (mate.b, mate.feature_b)):
            way = state.placed[k].pose.direction(getattr(feature, "direction", [0.0, 0.0, 1.0]))
            slides[k].append(Motion(kind="translation", direction=way, point=np.zeros(3)))
    ways = removal_sequence(placed, slides, tolerance=tolerance, last=base)
    if len(ways) < len(placed) - 1:  # turning parts on their joints takes long, and is seldom needed
        ways = removal_sequence(placed, motions, tolerance=tolerance, last=base)
    left = [k for k in placed if k not in {way.instance for way in ways}]
    order = [*([base] if base in left else left[:1]), *(way.instance for way in ways[::-1])]
    return Ways(
        shifts={names[k]: np.round(shift, 6).tolist() for k, shift in _shifts(placed, ways).items()},
        order=[names[k] for k in order],
        stuck=[names[k] for k in left if k not in order],
    )


def explode(
    parts: Mapping[str, PartFeatures], state: BenchState, *, share: float = 1.0, tolerance: Tolerance
) -> Exploded:
    """Draw a bench apart.

    Parameters
    ----------
    parts, state, tolerance
        As for `find_ways`.
    share
        How much of its way each part has gone.

    Returns
    -------
    Exploded
        In a pictorial view. Of an empty bench nothing can be drawn.
    """
    ways = find_ways(parts, state, tolerance=tolerance)
    shifts = {each.id: share * np.array(ways.shifts[each.id]) for each in state.placed}
    solids = [
        moved(parts[each.part].shape, Pose(each.pose.rotation, each.pose.position + shifts[each.id]))
        for each in state.placed
    ]
    size = float(np.linalg.norm(np.ptp(np.vstack([tight_box(each) for each in solids]), axis=0)))
    frame = axes_of(PICTORIAL)[:2]
    middles = {each.id: each.pose.point(parts[each.part].box.mean(axis=0)) for each in state.placed}
    shown = seen(solids, PICTORIAL)
    return Exploded(
        view=view_model(draw_view(solids, PICTORIAL, size=size)),
        trails=[
            _flat(frame, [middles[name], middles[name] + shift])
            for name, shift in shifts.items()
            if np.linalg.norm(shift) > 1e-6
        ],
        balloons=[
            Balloon(number=number, instance=name, at=_flat(frame, [middles[name] + shifts[name]])[0])
            for number, name in enumerate([*ways.order, *ways.stuck], 1)
        ],
        distances={name: round(float(np.linalg.norm(shift)), 3) for name, shift in shifts.items()},
        order=ways.order,
        stuck=ways.stuck,
        hidden=[each.id for each, is_seen in zip(state.placed, shown, strict=True) if not is_seen],
    )


def _flat(frame: _Array, points: Sequence[_Array]) -> Polyline:
    flat: Polyline = np.round(np.array(points) @ frame.T, 3).tolist()
    return flat


def _shifts(placed: Mapping[int, tuple[PartFeatures, Pose]], ways: Sequence[Way]) -> dict[int, _Array]:
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
