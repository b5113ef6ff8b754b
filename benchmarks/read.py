"""Our share of reading a part, beside the kernel's reading and meshing of the same file: ratios of one run.

Ours is everything but the kernel's reading: surfaces, edges, mass, all features and the report.
Each file is read in a process of its own, whose peak memory is printed too. The reference run is
the kernel's reading and meshing (deflection 0.1 mm and 0.5 rad) in the same process.

`--large` adds a file of 20 MB. The kernel's own reading of faces with very many edges (plate, comb) grows much
faster than their number, so the large parts are shafts.
"""

import multiprocessing
import resource
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

#: Holes along one side of a square plate, teeth of a comb, steps of a shaft.
_PLATES, _COMBS, _SHAFTS = (7, 14, 22), (12, 50, 120), (25, 250, 1000, 2500)
_LARGE_SHAFT = 4600
_DEFLECTION_MM, _DEFLECTION_RAD = 0.1, 0.5


def plate(side: int) -> Any:
    """A plate with side x side holes: few faces with many edges."""
    from build123d import Box, Cylinder, Pos

    places = [(10 * (i - side / 2) + 5, 10 * (j - side / 2) + 5) for i in range(side) for j in range(side)]
    return Box(10 * side, 10 * side, 6) - [Pos(x, y, 0) * Cylinder(3, 10) for x, y in places]


def comb(teeth: int) -> Any:
    """A comb: many faces with few edges, three heights of teeth."""
    from build123d import Polyline, extrude, make_face

    points = [(0.0, 0.0)]
    for k in range(teeth):
        top = 20 + k % 3
        points += [(10.0 * k, top), (10.0 * k + 5, top), (10.0 * k + 5, 10.0), (10.0 * k + 10, 10.0)]
    return extrude(make_face(Polyline(*points, (10.0 * teeth, 0.0), close=True).edges()), amount=8)


def shaft(steps: int) -> Any:
    """A shaft of many steps: two faces for each, of two edges."""
    from build123d import Axis, Polyline, make_face, revolve

    points = [(0.0, 0.0)]
    for k in range(steps):
        radius = 10.0 + k % 5
        points += [(radius, 2.0 * k), (radius, 2.0 * k + 2)]
    return revolve(make_face(Polyline(*points, (0.0, 2.0 * steps), close=True).edges()), Axis.Y)


def write(shape: Any) -> bytes:
    """Write a part as STEP."""
    from build123d import export_step

    with tempfile.TemporaryDirectory() as folder:
        export_step(shape, path := Path(folder) / "part.step")
        return path.read_bytes()


def measure(data: bytes, small: bytes) -> tuple[float, ...]:
    """Return seconds of the kernel's reading, its meshing and ours, the number of faces, and the peak in MB."""
    from OCP.BRepMesh import BRepMesh_IncrementalMesh

    from rigid_bench.core.kernel.binding import faces_of
    from rigid_bench.core.kernel.read_model import read_model, read_part
    from rigid_bench.core.measurement.feature_report import feature_report
    from rigid_bench.core.part.recognition.inventory import take_inventory
    from rigid_bench.core.values.tolerance import Tolerance

    tolerance = Tolerance()
    for _ in range(2):  # a worker is warm
        part = read_part(read_model(small, name="warm").parts[0].shape, tolerance=tolerance)
        feature_report(part, take_inventory(part, tolerance=tolerance))
    started = time.perf_counter()
    shape = read_model(data, name="part").parts[0].shape
    reading = time.perf_counter() - started
    started = time.perf_counter()
    part = read_part(shape, tolerance=tolerance)
    feature_report(part, take_inventory(part, tolerance=tolerance))
    ours = time.perf_counter() - started
    started = time.perf_counter()
    BRepMesh_IncrementalMesh(shape, _DEFLECTION_MM, False, _DEFLECTION_RAD, False)
    meshing = time.perf_counter() - started
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    return reading, meshing, ours, float(len(faces_of(shape))), peak


def main() -> None:
    """Print the table."""
    rows: list[tuple[str, Callable[[int], Any], int]] = [("plate", plate, side) for side in _PLATES]
    rows += [("comb", comb, teeth) for teeth in _COMBS]
    rows += [("shaft", shaft, steps) for steps in (*_SHAFTS, *([_LARGE_SHAFT] if "--large" in sys.argv else []))]
    small = write(plate(2))
    context = multiprocessing.get_context("spawn")
    print("part    faces     MB  kernel reads s  meshes s   ours s  ratio  ours ms/face  peak MB")
    for name, make, size in rows:
        data = write(make(size))
        with context.Pool(1) as pool:
            reading, meshing, ours, faces, peak = pool.apply(measure, (data, small))
        ratio, per_face = ours / (reading + meshing), 1000 * ours / faces
        print(
            f"{name:6} {faces:6.0f} {len(data) / 1e6:6.1f} {reading:15.3f} {meshing:9.3f} {ours:8.3f} {ratio:6.2f} "
            f"{per_face:13.2f} {peak:8.0f}",
            flush=True,
        )


if __name__ == "__main__":
    main()
