"""How far parts go, beside the kernel's exact distance of the same pair at 20 poses: ratios of one run.

The reference run is twenty exact distances of the moving part and the one that it runs on, spread
along the way, on the same solids in the same process. Meshes and the kernel are warm in both.
"""

import math
import time
from collections.abc import Callable
from typing import Any

import numpy as np
from build123d import Box, Cylinder, Part, Pos, Rot, fillet

from rigid_bench.core.assembly.contact.clearance import PlacedSolid, place
from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.assembly.motion.sweep import nearest_along, run
from rigid_bench.core.formats.build import Build, Instance, Mate
from rigid_bench.core.kernel.distance import measure_gap
from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.values.datums import make_frame
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance

_TOLERANCE = Tolerance()
_X, _Z = np.eye(3)[0], np.eye(3)[2]


def frame_with_rods() -> Any:
    """Two cheeks and two rods of 8 mm between them."""
    cheeks = Pos(-60, 0, 0) * Box(10, 60, 30) + Pos(60, 0, 0) * Box(10, 60, 30)
    rods = [Pos(0, y, 0) * Rot(0, 90, 0) * Cylinder(4, 120) for y in (-18, 18)]
    return cheeks + rods


def carriage(gap: float, *, is_round: bool = False) -> Any:
    """A block that runs on the rods with a gap all round; its edges rounded or not."""
    block = Box(30, 54, 20)
    block = fillet(block.edges(), 3) if is_round else block
    return block - [Pos(0, y, 0) * Rot(0, 90, 0) * Cylinder(4 + gap, 60) for y in (-18, 18)]


def pillar() -> Any:
    """A base with a pin to turn on and a stop beside it."""
    return Box(80, 80, 6) + Pos(0, 0, 13) * Cylinder(5, 20) + Pos(30, 0, 10) * Cylinder(4, 14)


def arm() -> Any:
    """An arm that turns on the pin."""
    return Pos(15, 0, 9) * Box(50, 16, 6) - Cylinder(5.1, 60)


def solids(fixed: Any, moving: Any) -> tuple[PlacedSolid, PlacedSolid]:
    """Read both shapes where they stand."""
    shapes = [shape.wrapped if isinstance(shape, Part) else shape.solids()[0].wrapped for shape in (fixed, moving)]
    parts = [read_features(shape, tolerance=_TOLERANCE) for shape in shapes]
    one, two = (place(name, part, Pose.identity()) for name, part in zip("ab", parts, strict=True))
    return one, two


def jointed(kind: str, z: Any, x: Any) -> Build:
    """Two instances at the origin and the joint between them."""
    frame = make_frame(np.zeros(3), z, x)
    instances = tuple(Instance(id=name, part=name, grounded=name == "a", pose=Pose.identity()) for name in "ab")
    return Build(
        parts=(), instances=instances, mates=(Mate(id="m", kind=kind, a=0, feature_a=frame, b=1, feature_b=frame),)
    )


def seconds(run: Callable[[], object]) -> float:
    """CPU seconds of one run."""
    started = time.process_time()
    run()
    return time.process_time() - started


def measured(name: str, fixed: Any, moving: Any, kind: str, z: Any, x: Any, reach: float) -> None:
    """Print one line for the travel both ways, and one for the least gap along it."""
    one, two = solids(fixed, moving)
    found = freedom(jointed(kind, z, x), tolerance=_TOLERANCE)
    (motion,) = found.motions(1, 0)
    places = {0: one, 1: two}
    run(found, motion, 1, 0, places, way=1, tolerance=_TOLERANCE)  # meshes are warm

    def poses() -> list[Pose]:
        amounts = np.linspace(-reach, reach, 20)
        if kind == "prismatic":
            return [Pose(np.eye(3), amount * z) for amount in amounts]
        return [Pose.from_rotation_vector(amount * z, np.zeros(3)) for amount in amounts]

    reference = seconds(lambda: [measure_gap(one.shape, place("b", two.part, pose).shape) for pose in poses()])
    stops: list[Any] = []
    ours = seconds(
        lambda: stops.extend(run(found, motion, 1, 0, places, way=way, tolerance=_TOLERANCE) for way in (-1, 1))
    )
    gone = [math.degrees(stop.amount) if kind == "revolute" else stop.amount for stop in stops]
    gap = seconds(lambda: nearest_along(found, motion, 1, 0, (one, two), (0, 1), tolerance=_TOLERANCE))
    words = f"{gone[0]:8.3f} {gone[1]:8.3f}"
    print(
        f"{name:28} {ours:8.3f} {gap:8.3f} {reference:8.3f} {ours / reference:7.2f} {gap / reference:7.2f}  {words}",
        flush=True,
    )


def main() -> None:
    """Print the table."""
    print("both ways                    travel s    gap s 20 gaps s  travel     gap   back and forth, mm or degrees")
    measured("carriage on rods", frame_with_rods(), carriage(0.1), "prismatic", _X, _Z, 38)
    measured("carriage, rounded edges", frame_with_rods(), carriage(0.1, is_round=True), "prismatic", _X, _Z, 38)
    measured("carriage that just fits", frame_with_rods(), carriage(0.0), "prismatic", _X, _Z, 38)
    measured("arm on a pin, with a stop", pillar(), Rot(0, 0, 90) * arm(), "revolute", _Z, _X, 1.2)


if __name__ == "__main__":
    main()
