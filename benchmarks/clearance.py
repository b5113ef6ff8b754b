"""Gaps of thirty instances, beside the kernel's exact distance of the pairs that are near: a ratio of one run.

Numerator: `clearances`, from placed solids to all gaps within 1 mm. Denominators, in the same process:
`BRepExtrema_DistShapeShape` of the pairs that are within 1 mm, and of those whose boxes are (what has to be asked where
nothing but boxes is known). The answers are compared for all pairs within 1 mm; that none is missing, with the exact
distance of every one of the 435 pairs, outside the times.
"""

import itertools
import time
from typing import Any

import numpy as np
from build123d import Axis, Box, Cylinder, Ellipse, Line, Pos, Rot, Spline, extrude, fillet, loft, make_face, revolve

from rigid_bench.core.assembly.contact.clearance import PlacedSolid, clearances, place
from rigid_bench.core.assembly.contact.contacts import find_contacts
from rigid_bench.core.kernel.distance import measure_gap
from rigid_bench.core.kernel.feature_reader import read_features, tight_box
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance

_TOLERANCE = Tolerance()
_STATIONS = 10
#: mm apart from station to station.
_PITCH = 26.0


def plain() -> tuple[Any, Any, Any]:
    """A bored block, a flanged pin for its bore, and a cap."""
    block = Box(22, 20, 10) - Cylinder(4, 30) - Pos(7, 7, 0) * Cylinder(1.5, 30)
    block = fillet(block.edges().filter_by(Axis.Z)[:2], 2)
    pin = Cylinder(3.9, 14) + Pos(0, 0, 8.5) * Cylinder(6, 3)
    return block, pin, Pos(0, 0, 1) * Box(16, 16, 2) - Cylinder(3, 10)


def curved() -> tuple[Any, Any, Any]:
    """The same three of free-form walls: swept from splines along a line, about an axis, and between two outlines."""
    outline = Spline((-11, 0), (-6, 9), (2, 8), (11, 1), (5, -9), (-5, -10), periodic=True)
    block = extrude(make_face(outline), 5, both=True) - Cylinder(4, 30)
    side = Spline((3.2, -7), (3.6, -2), (3.4, 3), (3.6, 7.2), (5.5, 8.8), (3, 10))
    pin = revolve(make_face([side, Line((3, 10), (0, 10)), Line((0, 10), (0, -7)), Line((0, -7), (3.2, -7))]), Axis.Y)
    pin = Rot(90, 0, 0) * pin
    low, high = (make_face(Ellipse(8 - k, 6 - k)) for k in (0, 1))
    cap = loft([low, Pos(0, 0, 2) * high]) - Cylinder(3.2, 10)
    return block, pin, cap


def build(block: Any, pin: Any, cap: Any) -> list[PlacedSolid]:
    """Ten blocks in a row, each with its pin in its bore and a cap 0.4 mm above it; all turned askew."""
    world = Pose.from_rotation_vector([0.4, -0.7, 0.2], [100, 50, -30])
    parts = [read_features(shape.solids()[0].wrapped, tolerance=_TOLERANCE) for shape in (block, pin, cap)]
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


def measured(name: str, solids: list[PlacedSolid]) -> None:
    """Print one line of the table."""
    started = time.process_time()
    contacts = find_contacts([(solid.part, solid.pose) for solid in solids], tolerance=_TOLERANCE)
    finding = time.process_time() - started
    started = time.process_time()
    pairs = clearances(solids, tolerance=_TOLERANCE)
    ours = time.process_time() - started
    exact = {}
    by_box, within = 0.0, 0.0
    for a, b in itertools.combinations(solids, 2):
        started = time.process_time()
        exact[frozenset((a.instance, b.instance))] = measure_gap(a.shape, b.shape).gap_mm
        taken = time.process_time() - started
        by_box += taken if boxes_are_near(a, b) else 0.0
        within += taken if exact[frozenset((a.instance, b.instance))] <= 1.0 else 0.0
    near = {pair for pair, gap in exact.items() if gap <= 1.0}
    own = {frozenset((clearance.a, clearance.b)): clearance.gap_mm for clearance in pairs}
    worst = max(abs(own[pair] - exact[pair]) for pair in near)
    print(
        f"{name:7} {len(near):18} {near == set(own)!s:>11} {worst:20.1e} {len(contacts):8} {finding:11.3f} {ours:7.3f} "
        f"{within:14.3f} {ours / within:6.2f} {by_box:13.3f} {ours / by_box:6.2f}",
        flush=True,
    )


def main() -> None:
    """Print the table."""
    print(
        "walls   pairs within 1 mm  same pairs  worst difference mm contacts  contacts s  ours s  within 1 mm s  ratio "
        " boxes near s  ratio"
    )
    measured("plain", build(*plain()))
    measured("curved", build(*curved()))


if __name__ == "__main__":
    main()
