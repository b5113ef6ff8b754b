"""Triangles as a mesh file."""

import numpy as np
from numpy.typing import NDArray
from trimesh import Trimesh
from trimesh.exchange.stl import export_stl


def write_stl(vertices: NDArray[np.float64], triangles: NDArray[np.int64]) -> bytes:
    """Write triangles as binary STL: corners, (n, 3) mm, and the three of each triangle, (m, 3)."""
    written: bytes = export_stl(Trimesh(vertices, triangles, process=False))
    return written
