"""Which faces of two solids can be the nearest to each other: only these need the kernel's exact distance.

Between free-form walls the kernel takes tens of milliseconds for each pair of faces, triangles a hundredth of that.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.kernel.meshes.mesh_body import FINE_MM, DistanceMesh
from rigid_bench.core.kernel.meshes.triangulation import face_meshes
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.frames import Pose

_Array = NDArray[np.float64]
#: mm: so far apart the triangles of two faces say it wrongly at most: what they are made to, twice over on both sides.
_OFF_MM = 4 * FINE_MM


@dataclass(frozen=True, slots=True, eq=False)
class _Faces:
    """A part's faces as triangles, each by itself."""

    #: By place in `faces_of`.
    meshes: tuple[DistanceMesh, ...]
    #: (n, 8, 3) mm, the corners of their boxes.
    corners: _Array


def near_faces(a: PartFeatures, pose_a: Pose, b: PartFeatures, pose_b: Pose) -> tuple[list[int], list[int]] | None:
    """List the faces of two solids of which some two are nearest to each other.

    Parameters
    ----------
    a, b
        Solids, no meshes.
    pose_a, pose_b
        Where they stand.

    Returns
    -------
    tuple of list of int, or None
        Faces of a and of b, counted as `faces_of` does; None where the kernel made no triangles for one.
    """
    one, two = _faces(a), _faces(b)
    if not (one.meshes and two.meshes):
        return None
    (low, high), (other_low, other_high) = (
        (corners.min(axis=1), corners.max(axis=1)) for corners in (pose_a.point(one.corners), pose_b.point(two.corners))
    )
    boxes_apart = np.maximum(low[:, None] - other_high[None], other_low[None] - high[:, None])
    least = np.linalg.norm(np.maximum(boxes_apart, 0.0), axis=2)
    gaps = np.full(least.shape, np.inf)
    for flat in np.argsort(least, axis=None):
        i, j = divmod(int(flat), least.shape[1])
        if least[i, j] > gaps.min() + _OFF_MM:
            break
        gaps[i, j] = one.meshes[i].triangle_gap(pose_a, two.meshes[j], pose_b)
    rows, columns = np.nonzero(gaps <= gaps.min() + _OFF_MM)
    return sorted(set(rows.tolist())), sorted(set(columns.tolist()))


@lru_cache(maxsize=256)
def _faces(part: PartFeatures) -> _Faces:
    meshes = face_meshes(part.shape, within_mm=FINE_MM)
    boxes = np.array([mesh.bounds for mesh in meshes]).reshape(-1, 2, 3)
    picks = np.array(list(np.ndindex(2, 2, 2)))
    return _Faces(tuple(DistanceMesh(mesh, within_mm=FINE_MM) for mesh in meshes), boxes[:, picks, np.arange(3)])
