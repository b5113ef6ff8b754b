"""Our share of reading a part, beside the kernel's reading and meshing of the same file: ratios of one run."""

import tempfile
import time
from pathlib import Path

from build123d import Box, Cylinder, Pos, export_step
from OCP.BRepMesh import BRepMesh_IncrementalMesh

from rigid_bench.core.geometry.edge_treatments import find_chamfers, find_fillets
from rigid_bench.core.geometry.features import read_features
from rigid_bench.core.geometry.holes import find_holes
from rigid_bench.core.geometry.step_file import read_step
from rigid_bench.core.tolerance import Tolerance

#: Holes along one side of a square plate.
_SIDES = (7, 14, 22)
_DEFLECTION_MM, _DEFLECTION_RAD = 0.1, 0.5


def plate_file(side: int) -> bytes:
    """Write a plate with side x side holes as STEP."""
    places = [(10 * (i - side / 2) + 5, 10 * (j - side / 2) + 5) for i in range(side) for j in range(side)]
    plate = Box(10 * side, 10 * side, 6) - [Pos(x, y, 0) * Cylinder(3, 10) for x, y in places]
    with tempfile.TemporaryDirectory() as folder:
        export_step(plate, path := Path(folder) / "plate.step")
        return path.read_bytes()


def main() -> None:
    """Print the table."""
    print(f"{'faces':>6} {'kernel reads s':>15} {'meshes s':>9} {'ours s':>8} {'ratio':>6}")
    for side in _SIDES:
        data = plate_file(side)
        started = time.perf_counter()
        shape = read_step(data, name="plate").parts[0].shape
        reading = time.perf_counter() - started
        started = time.perf_counter()
        part = read_features(shape, tolerance=Tolerance())
        find_holes(part)
        find_fillets(part), find_chamfers(part)
        ours = time.perf_counter() - started
        started = time.perf_counter()
        BRepMesh_IncrementalMesh(shape, _DEFLECTION_MM, False, _DEFLECTION_RAD, False)
        meshing = time.perf_counter() - started
        print(f"{side**2 + 6:6} {reading:15.3f} {meshing:9.3f} {ours:8.3f} {ours / (reading + meshing):6.2f}")


if __name__ == "__main__":
    main()
