"""Laying parts over each other, beside the kernel's reading of both: ratios of one run.

The reference run is the kernel's reading of the two files in the same process. A part that
is equal is laid over at once; one with a wrong size is searched for.
"""

import random
import time
from typing import Any

from build123d import Box, Cylinder, Pos, Rot

from rigid_bench.core.kernel.read_model import read_model, read_part
from rigid_bench.core.measurement.measure import measure
from rigid_bench.core.measurement.measure_request import Request
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.registration.register import register
from rigid_bench.core.values.datums import CylinderFeature, PlaneFeature
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.demo.modelling import step_bytes

_TOLERANCE = Tolerance()


def plate(wrong: float = 0.0) -> Any:
    """A plate of about 200 faces: holes and bosses of many sizes, no symmetry; one hole may be wrong."""
    sizes = random.Random(3)
    part = Box(280, 140, 8)
    holes, bosses = [], []
    for i in range(14):
        for j in range(7):
            at, radius = Pos(-130 + 20 * i, -60 + 20 * j, 0), sizes.uniform(1, 7)
            if sizes.random() < 0.5:
                holes.append(at * Cylinder(radius, 30))
            else:
                bosses.append(at * Pos(0, 0, 6) * Cylinder(radius, 8 + sizes.uniform(0, 8)))
    return part + bosses - holes - Pos(0, 69, 0) * Cylinder(2 + wrong, 30)


def timed(data: bytes) -> tuple[float, PartFeatures]:
    """Return the kernel's seconds of reading a file, and the part."""
    started = time.perf_counter()
    shape = read_model(data, name="part").parts[0].shape
    reading = time.perf_counter() - started
    return reading, read_part(shape, tolerance=_TOLERANCE)


def main() -> None:
    """Print the table."""
    print("part         surfaces  kernel reads both s  laid over s  ratio  likeness  40 checks s  of laying over")
    first, reference = timed(step_bytes(plate(), "Plate"))
    thicker = plate() + Pos(0, 0, -4.5) * Box(280, 140, 1)
    cases = (("equal", plate()), ("wrong hole", plate(0.5)), ("thicker", thicker))
    for name, own in cases:
        second, part = timed(step_bytes(Pos(50, 60, 70) * Rot(10, 20, 30) * own, "Mine"))
        started = time.perf_counter()
        registrations = register(reference, part, tolerance=_TOLERANCE)
        taken = time.perf_counter() - started
        ratio = taken / (first + second)
        counts = f"{len(part.surfaces):8} {first + second:20.3f} {taken:12.3f}"
        measuring = measured(RegisteredPart(reference, part, registrations[0]))
        share = f"{measuring:11.3f} {measuring / taken:15.2f}"
        print(f"{name:12} {counts} {ratio:6.2f} {registrations[0].likeness:9.4f} {share}")


def measured(registered: RegisteredPart) -> float:
    """Return the seconds that forty dimensions of a part take, each a round wall or its place from an edge."""
    walls = [
        CylinderFeature(cylinder.point, cylinder.direction, cylinder.radius)
        for cylinder in registered.reference.cylinders[:20]
    ]
    edge = next(plane for plane in registered.reference.planes if abs(plane.normal[0]) > 0.99)
    requests = [Request(measure="diameter", features=(wall,)) for wall in walls]
    requests += [Request(measure="position", features=(wall, PlaneFeature(edge.point, edge.normal))) for wall in walls]
    started = time.perf_counter()
    values = [measure(registered, request) for request in requests]
    taken = time.perf_counter() - started
    assert len(values) - values.count(None) >= 38, "the benchmark must measure something"
    return taken


if __name__ == "__main__":
    main()
