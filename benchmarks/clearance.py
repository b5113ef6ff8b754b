"""Gaps of thirty instances, beside the kernel's exact distance of the pairs that are near: a ratio of one run.

Numerator: `clearances`, from placed solids to all gaps within 1 mm. Denominator: `BRepExtrema_DistShapeShape` of those
pairs of the same solids whose boxes stand within 1 mm of each other, in the same process. The answers are compared for
all pairs within 1 mm; that none is missing, with the exact distance of every one of the 435 pairs, outside the times.
"""

import itertools
import time

import numpy as np
from build123d import Axis, Box, Cylinder, Pos, fillet

from rigid_bench.core.assembly.contact.clearance import PlacedSolid, clearances, place
from rigid_bench.core.assembly.contact.contacts import find_contacts
from rigid_bench.core.kernel.distance import measure_gap
from rigid_bench.core.kernel.feature_reader import tight_box
from rigid_bench.core.kernel.read_model import read_part
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance

_TOLERANCE = Tolerance()
_STATIONS = 10
#: mm apart from station to station.
_PITCH = 26.0


def build() -> list[PlacedSolid]:
    """Ten bored blocks in a row, each with a flanged pin in its bore and a cap 0.4 mm above it; all turned askew."""
    block = Box(22, 20, 10) - Cylinder(4, 30) - Pos(7, 7, 0) * Cylinder(1.5, 30)
    block = fillet(block.edges().filter_by(Axis.Z)[:2], 2)
    pin = Cylinder(3.9, 14) + Pos(0, 0, 8.5) * Cylinder(6, 3)
    cap = Pos(0, 0, 1) * Box(16, 16, 2) - Cylinder(3, 10)
    world = Pose.from_rotation_vector([0.4, -0.7, 0.2], [100, 50, -30])
    parts = [read_part(each.solid().wrapped, tolerance=_TOLERANCE) for each in (block, pin, cap)]
    heights = (0.0, -2.0, 8.4)
    return [
        place(f"{number}-{k}", part, world @ Pose(np.eye(3), np.array([_PITCH * k, 0.0, height])))
        for k in range(_STATIONS)
        for number, (part, height) in enumerate(zip(parts, heights, strict=True))
    ]


def boxes_are_near(a: PlacedSolid, b: PlacedSolid) -> bool:
    """Say whether the boxes of two solids along the world's axes stand within 1 mm."""
    (low, high), (other_low, other_high) = tight_box(a.shape), tight_box(b.shape)
    return bool(np.all(low <= other_high + 1) and np.all(other_low <= high + 1))


def main() -> None:
    """Print the table."""
    solids = build()
    started = time.perf_counter()
    contacts = find_contacts([(each.part, each.pose) for each in solids], tolerance=_TOLERANCE)
    finding = time.perf_counter() - started
    started = time.perf_counter()
    found = clearances(solids, tolerance=_TOLERANCE)
    ours = time.perf_counter() - started
    exact = {}
    reference = 0.0
    for a, b in itertools.combinations(solids, 2):
        started = time.perf_counter()
        exact[frozenset((a.instance, b.instance))] = measure_gap(a.shape, b.shape).gap_mm
        if boxes_are_near(a, b):
            reference += time.perf_counter() - started
    near = {pair for pair, gap in exact.items() if gap <= 1.0}
    own = {frozenset((each.a, each.b)): each.gap_mm for each in found}
    worst = max(abs(own[pair] - exact[pair]) for pair in near)
    print("instances  pairs within 1 mm  same pairs  worst difference mm  contacts s  ours s  near exact s  ratio")
    print(
        f"{len(solids):9} {len(near):18} {near == set(own)!s:>11} {worst:20.1e} {finding:11.3f} {ours:7.3f} "
        f"{reference:13.3f} {ours / reference:6.2f}"
    )
    print(f"{len(contacts)} contacts")


if __name__ == "__main__":
    main()
