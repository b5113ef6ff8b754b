"""Skins that pass through themselves, told from those that only touch: against linear programming, and by hand."""

import itertools

import numpy as np
import pytest
import trimesh
from numpy.typing import NDArray
from scipy.optimize import linprog

from rigid_bench.core.kernel import triangle_crossings
from rigid_bench.core.kernel.read_model import read_model
from rigid_bench.core.kernel.triangle_crossings import crossing
from rigid_bench.core.values.errors import UnreadableFile

_Array = NDArray[np.float64]


def have_a_common_point(one: _Array, other: _Array) -> bool:
    """Say whether two triangles have one: weights of their corners that give the same place are found."""
    equal = np.vstack([np.hstack([one.T, -other.T]), [1, 1, 1, 0, 0, 0], [0, 0, 0, 1, 1, 1]])
    return bool(linprog(np.zeros(6), A_eq=equal, b_eq=[0, 0, 0, 1, 1], bounds=(0, None)).status == 0)


@pytest.mark.parametrize("seed", range(3))
def test_two_triangles_cross_where_linear_programming_finds_a_common_point(seed: int) -> None:
    chance = np.random.default_rng(seed)
    seen = set()
    for _ in range(80):
        corners = chance.uniform(-1, 1, (6, 3))
        faces = np.array([[0, 1, 2], [3, 4, 5]])
        is_crossing = crossing(corners, faces, deeper_mm=0.0) is not None
        assert is_crossing == have_a_common_point(corners[:3], corners[3:])
        seen.add(is_crossing)
    assert seen == {True, False}


@pytest.mark.parametrize("count", [1, 2, 3, 17, 100])
def test_no_pair_of_boxes_is_missed_and_none_comes_twice(count: int) -> None:
    chance = np.random.default_rng(count)
    low = chance.uniform(0, 10, (count, 3))
    high = low + chance.uniform(0, 4, (count, 3))
    pairs = [tuple(sorted(pair)) for some in triangle_crossings._near_pairs(low, high) for pair in some.tolist()]
    assert len(pairs) == len(set(pairs))
    assert set(pairs) == {
        (a, b)
        for a, b in itertools.combinations(range(count), 2)
        if np.all(low[a] <= high[b]) and np.all(low[b] <= high[a])
    }


def tube(height: float, *, radius: float = 2.0, rounds: int = 96) -> trimesh.Trimesh:
    """A tube along a figure of eight, whose ways are so far apart, mm, where they cross."""
    turns = np.linspace(0, 2 * np.pi, rounds, endpoint=False)
    centres = np.column_stack([30 * np.sin(turns), 15 * np.sin(2 * turns), height / 2 * np.cos(turns)])
    along = np.roll(centres, -1, axis=0) - np.roll(centres, 1, axis=0)
    side = np.cross(along, [0, 0, 1.0])
    side /= np.linalg.norm(side, axis=1)[:, None]
    up = np.cross(side, along)
    up /= np.linalg.norm(up, axis=1)[:, None]
    angles = np.linspace(0, 2 * np.pi, 8, endpoint=False)
    rings = centres[:, None] + radius * (
        np.cos(angles)[None, :, None] * side[:, None] + np.sin(angles)[None, :, None] * up[:, None]
    )
    a = np.arange(rounds)[:, None] * 8 + np.arange(8)
    b = np.arange(rounds)[:, None] * 8 + (np.arange(8) + 1) % 8
    c, d = (a + 8) % (8 * rounds), (b + 8) % (8 * rounds)
    faces = np.concatenate([np.stack([a, b, c], axis=-1), np.stack([b, d, c], axis=-1)]).reshape(-1, 3)
    mesh = trimesh.Trimesh(rings.reshape(-1, 3), faces, process=False)
    mesh.fix_normals()
    return mesh


def read(mesh: trimesh.Trimesh) -> int:
    return len(read_model(mesh.export(file_type="stl"), name="tube.stl").parts)


@pytest.mark.parametrize(("apart", "crosses"), [(0, True), (3.2, True), (4.2, False), (12, False)])
def test_a_tube_that_runs_through_itself_is_refused_and_one_that_passes_over_is_read(
    apart: float, crosses: bool
) -> None:
    mesh = tube(apart)
    assert mesh.is_watertight
    if not crosses:
        assert read(mesh) == 1
        return
    with pytest.raises(UnreadableFile, match=r"tube.stl: the skin of 'tube' passes through itself near \("):
        read(mesh)


def test_what_only_touches_does_not_cross() -> None:
    """Two bodies side by side are two parts; an L of two blocks joined, and a block with a lid on it, are bodies."""
    block = trimesh.creation.box((10, 10, 10))
    beside = block.copy()
    beside.apply_translation((10, 3, 0))
    assert read(trimesh.util.concatenate([block, beside])) == 2
    through = block.copy()
    through.apply_translation((4, 3, 2))
    assert read(trimesh.util.concatenate([block, through])) == 2, "two parts in one place are the checks' matter"
    assert read(trimesh.boolean.union([block, through])) == 1


def test_nearer_than_the_digits_of_a_file_is_no_crossing() -> None:
    flat = np.array([[0.0, 0, 0], [10, 0, 0], [0, 10, 0]])
    needle = np.array([[2.0, 2, -0.005], [2, 2.5, -0.005], [2, 2, 5]])
    corners, faces = np.vstack([flat, needle]), np.array([[0, 1, 2], [3, 4, 5]])
    assert crossing(corners, faces, deeper_mm=0.01) is None
    assert crossing(corners, faces, deeper_mm=0.001) == (0, 1)
