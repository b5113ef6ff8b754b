"""Fine meshes of about 200,000 triangles: seconds and memory to read one with its features, beside the reference loop.

Each is read in a process of its own, whose greatest memory is the figure. Numerator: reading the file and its features.
Denominator: the reference loop of `benchmarks/everything.py`, just before. No mesh gains by being known: `free` has no
surface with a name, `scanned` is a block whose corners are off by some hundredths, `fine` a
bush whose flats were cut into small triangles.
"""

import io
import multiprocessing
import resource
import time

import numpy as np
import trimesh

from benchmarks.everything import reference_s
from rigid_bench.core.kernel.read_model import read_model, read_part
from rigid_bench.core.values.tolerance import Tolerance


def _free() -> trimesh.Trimesh:
    ball = trimesh.creation.uv_sphere(radius=40, count=[224, 225])
    x, y, z = ball.vertices.T / 40
    swell = 1 + 0.1 * np.sin(5 * x) * np.cos(7 * y) + 0.03 * np.sin(20 * z)
    return trimesh.Trimesh(ball.vertices * swell[:, None], ball.faces)


def _scanned() -> trimesh.Trimesh:
    block = trimesh.creation.box((60, 40, 20))
    for _ in range(7):
        block = block.subdivide()
    chance = np.random.default_rng(1)
    return trimesh.Trimesh(block.vertices + chance.normal(0, 0.01, block.vertices.shape), block.faces)


def _fine() -> trimesh.Trimesh:
    return trimesh.creation.annulus(3, 5, 20, sections=64).subdivide_to_size(0.45)


MESHES = {"free": _free, "scanned": _scanned, "fine": _fine}


def _read(data: bytes) -> tuple[float, float, int]:
    """Return seconds, the process's greatest memory in GB, and how many surfaces were named."""
    started = time.perf_counter()
    model = read_model(data, name="scan.stl")
    part = read_part(model.parts[0].shape, tolerance=Tolerance())
    took = time.perf_counter() - started
    return took, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6, len(part.surfaces)


def main() -> None:
    """Read each and print the figures."""
    for name, make in MESHES.items():
        mesh = make()
        file = io.BytesIO()
        mesh.export(file, file_type="stl")
        reference = reference_s()
        with multiprocessing.get_context("spawn").Pool(1) as pool:
            took, memory, surfaces = pool.apply(_read, (file.getvalue(),))
        print(
            f"{name:8} {len(mesh.faces):7} triangles: {took:5.1f} s, {took / reference:5.1f} x the reference of "
            f"{reference:.2f} s; {memory:.2f} GB; surfaces named: {surfaces}"
        )


if __name__ == "__main__":
    main()
