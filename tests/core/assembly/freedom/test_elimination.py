"""Elimination in blocks against one dense singular value decomposition, on builds joined at random."""

from dataclasses import replace

import numpy as np
import pytest
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.formats.build import Build, Instance, Mate
from rigid_bench.core.values.datums import PlaneFeature, make_frame
from rigid_bench.core.values.frames import Pose
from tests.support.shapes import TOLERANCE

_Array = NDArray[np.float64]
KINDS = ("revolute", "cylindrical", "spherical", "prismatic", "planar", "coincident", "fixed", "screw")


def joined_at_random(seed: int) -> Build:
    """Mates that hold, many of them along common axes, so that some add nothing and some only a part."""
    rng = np.random.default_rng(seed)
    count = int(rng.integers(2, 14))
    turns = Rotation.random(count, rng=rng).as_matrix()
    poses = [Pose(turn, rng.uniform(-300, 300, 3)) for turn in turns]
    instances = [Instance(id=f"i{k}", part="p", grounded=k == 0, pose=pose) for k, pose in enumerate(poses)]
    mates = tuple(_mate(rng, k, poses) for k in range(int(rng.integers(1, int(2.2 * count)))))
    return Build(parts=(), instances=tuple(instances), mates=mates)


def _mate(rng: np.random.Generator, number: int, poses: list[Pose]) -> Mate:
    a, b = (int(place) for place in rng.choice(len(poses), 2, replace=False))
    kind = str(rng.choice(KINDS))
    axes = np.eye(3)[rng.permutation(3)]
    if rng.random() < 0.4:
        axes = np.asarray(Rotation.random(rng=rng).as_matrix(), dtype=float)
    at = np.asarray(rng.integers(-3, 4, 3) * 10 if rng.random() < 0.7 else rng.uniform(-50, 50, 3), dtype=float)
    frame = make_frame(at, axes[0], axes[1])
    feature = PlaneFeature(frame.point, frame.direction) if kind == "coincident" else frame
    if kind == "spherical":
        kind = "fixed"
    own, other = (feature.moved(poses[k].inverse()) for k in (a, b))
    mate = Mate(id=f"m{number}", kind=kind, a=a, feature_a=own, b=b, feature_b=other, sense="aligned")
    return replace(mate, pitch=2.0) if kind == "screw" else mate


def _rank(rows: _Array) -> int:
    return int(np.sum(np.linalg.svd(rows, compute_uv=False) > 1e-7)) if rows.size else 0


@pytest.mark.parametrize("seed", range(60))
def test_ranks_freedoms_and_redundant_mates_are_those_of_the_dense_matrix(seed: int) -> None:
    build = joined_at_random(seed)
    left, system = freedom(build, tolerance=TOLERANCE), System(build, TOLERANCE)
    free = system.free_columns
    matrix, redundant = np.zeros((0, int(free.sum()))), []
    for mate in system.mates:
        rows_a, rows_b, _ = system.mate_rows(mate, left.poses)
        rows = np.zeros((len(rows_a), len(free)))
        rows[:, 6 * mate.a : 6 * mate.a + 6], rows[:, 6 * mate.b : 6 * mate.b + 6] = rows_a, rows_b
        more = np.vstack([matrix, rows[:, free]])
        redundant += [mate.id] if _rank(more) == _rank(matrix) else []
        matrix = more
    null = np.zeros((len(free), matrix.shape[1] - _rank(matrix)))
    null[free] = np.linalg.svd(matrix, full_matrices=True)[2][_rank(matrix) :].T
    assert left.mobility == null.shape[1]
    assert left.redundant_mates == tuple(redundant)
    for index in range(len(build.instances)):
        assert left.degrees(index) == _rank(null[6 * index : 6 * index + 6])
