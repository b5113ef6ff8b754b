"""A build drawn apart: each part out along its way in, the last to come farthest, with its trail."""

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.motion.apart import shifts_apart, ways_apart
from rigid_bench.core.bench import work
from rigid_bench.core.bench.documents import Balloon, BenchState, Exploded, Ways
from rigid_bench.core.drawing.pictures import view_model
from rigid_bench.core.formats.pictures import Polyline
from rigid_bench.core.kernel.distance import moved
from rigid_bench.core.kernel.feature_reader import tight_box
from rigid_bench.core.kernel.views import draw_view, seen_edges
from rigid_bench.core.part.directions import PICTORIAL, axes_of
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]


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
    names = [instance.id for instance in state.placed]
    placed = {k: (parts[instance.part], instance.pose) for k, instance in enumerate(state.placed)}
    base = next((k for k, instance in enumerate(state.placed) if instance.grounded), 0)
    answer = work.answer(state, tolerance=tolerance)
    motions = {k: answer.motions(name) for k, name in enumerate(names)}
    ways = ways_apart(placed, motions, answer.freedom.system.build.mates, base=base, tolerance=tolerance)
    left = [k for k in placed if k not in {way.instance for way in ways}]
    order = [*([base] if base in left else left[:1]), *(way.instance for way in ways[::-1])]
    return Ways(
        shifts={names[k]: np.round(shift, 6).tolist() for k, shift in shifts_apart(placed, ways).items()},
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
    shifts = {instance.id: share * np.array(ways.shifts[instance.id]) for instance in state.placed}
    solids = [
        moved(parts[instance.part].shape, Pose(instance.pose.rotation, instance.pose.position + shifts[instance.id]))
        for instance in state.placed
    ]
    size = float(np.linalg.norm(np.ptp(np.vstack([tight_box(solid) for solid in solids]), axis=0)))
    frame = axes_of(PICTORIAL)[:2]
    middles = {instance.id: instance.pose.point(parts[instance.part].box.mean(axis=0)) for instance in state.placed}
    shown = seen_edges(solids, PICTORIAL, size=size)
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
        hidden=[instance.id for instance, edges in zip(state.placed, shown, strict=True) if not edges],
    )


def _flat(frame: _Array, points: Sequence[_Array]) -> Polyline:
    flat: Polyline = np.round(np.array(points) @ frame.T, 3).tolist()
    return flat
