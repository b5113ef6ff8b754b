"""What a whole build's mates leave free, block by block, against one null space of all rows and a graph library."""

import networkx as nx
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rigid_bench.core.assembly.freedom.biconnected import biconnected
from rigid_bench.core.assembly.freedom.blocks import Free
from rigid_bench.core.assembly.mates.linearised import linearise
from rigid_bench.core.assembly.mates.relax import relax
from rigid_bench.core.assembly.mates.system import System
from tests.support import mechanisms as m
from tests.support.shapes import TOLERANCE

KINDS = ("revolute", "prismatic", "cylindrical", "spherical", "fixed", "planar")


def random_mechanism(seed: int, bodies: int, extra: int) -> System:
    """A tree of joints and some that close loops, in general position."""
    random = np.random.default_rng(seed)
    joints = []
    for body in range(1, bodies):
        pair = (int(random.integers(body)), body)
        joints.append(m.Joint(kind=str(random.choice(KINDS)), bodies=pair, at=random.uniform(-30, 30, 3),
                              along=random.normal(size=3)))  # fmt: skip
    for _ in range(extra):
        a, b = (int(body) for body in random.choice(bodies, 2, replace=False))
        joints.append(m.Joint(kind="spherical", bodies=(a, b), at=random.uniform(-30, 30, 3)))
    return System(m.mechanism(*joints), TOLERANCE)


def free_of(system: System) -> Free:
    return Free(system, system.poses, system.rows(system.mates, system.poses).by_mate())


def null_space(system: System) -> np.ndarray:
    """An orthonormal basis of all velocities that the rows allow, from one singular value decomposition."""
    rows = linearise(system, system.poses).dense.copy()
    held = np.zeros((6 * len(system.held), rows.shape[1]))
    for number, index in enumerate(system.held):
        held[6 * number : 6 * number + 6, 6 * index : 6 * index + 6] = np.eye(6)
    _, sizes, right = np.linalg.svd(np.vstack([rows, held]))
    return right[int(np.sum(sizes > 1e-8)) :].T


@pytest.mark.parametrize("seed", range(12))
def test_the_mobility_and_every_span_are_those_of_one_null_space(seed: int) -> None:
    system = random_mechanism(seed, bodies=7, extra=seed % 4)
    free, basis = free_of(system), null_space(system)
    assert free.mobility == basis.shape[1]
    for index, span in enumerate(free.spans()):
        own = basis[6 * index : 6 * index + 6]
        rank = np.linalg.matrix_rank(own, tol=1e-7)
        assert span.shape == (6, rank)
        assert np.linalg.matrix_rank(np.hstack([own, span]), tol=1e-6) == rank
        assert span.T @ span == pytest.approx(np.eye(rank), abs=1e-9)


@pytest.mark.parametrize("seed", range(6))
def test_velocities_move_no_mate_and_are_as_many_as_there_are(seed: int) -> None:
    system = random_mechanism(seed, bodies=6, extra=2)
    free = free_of(system)
    velocities = free.velocities()
    assert np.linalg.matrix_rank(velocities, tol=1e-8) == free.mobility
    assert np.abs(linearise(system, system.poses).dense @ velocities).max(initial=0.0) < 1e-8


def test_a_mate_that_repeats_another_is_useless_and_the_first_is_not() -> None:
    joint = m.Joint(kind="revolute", bodies=(0, 1), along=m.Z)
    free = free_of(System(m.mechanism(joint, joint), TOLERANCE))
    assert [mate.id for mate in free.useless] == ["m1"]
    assert free.mobility == 1


def test_a_part_without_mates_keeps_six_and_parts_on_it_move_along() -> None:
    system = System(m.mechanism(m.Joint(kind="revolute", bodies=(1, 2), along=m.Z)), TOLERANCE)
    free = free_of(system)
    assert free.mobility == 7
    assert [span.shape[1] for span in free.spans()] == [0, 6, 6]


@given(st.lists(st.tuples(st.integers(0, 9), st.integers(0, 9)).filter(lambda pair: pair[0] != pair[1]), max_size=18))
def test_blocks_of_a_graph_are_those_of_a_graph_library(pairs: list[tuple[int, int]]) -> None:
    graph: nx.Graph[int] = nx.Graph()
    graph.add_nodes_from(range(10))
    graph.add_edges_from(pairs)
    expected = sorted(sorted(block) for block in nx.biconnected_components(graph))
    assert sorted(sorted(block) for block in biconnected(range(10), pairs)) == expected


def arrived(system: System, velocity: np.ndarray) -> np.ndarray:
    """Where a short step along a velocity ends once the mates are put right again, (6 n,) mm from where it began."""
    size = 0.02 * float(system.lengths.min())
    step = velocity * (size / max(np.abs(velocity).max(), 1e-12))
    after = relax(system, system.stepped(system.poses, step))
    assert after.error < 1e-9
    return system.displacement(system.poses, after.poses) / size


@pytest.mark.parametrize("seed", [0, 4, 6, 7, 9, 10, 12])
def test_where_equations_are_independent_every_motion_carries_on(seed: int) -> None:
    system = random_mechanism(seed, bodies=7, extra=1 + seed % 3)
    free = free_of(system)
    assert free.is_regular()
    for velocity in free.velocities().T:
        assert np.linalg.norm(arrived(system, velocity)) > 0.5


def test_a_loop_held_twice_is_not_regular_and_what_hangs_beside_it_is() -> None:
    corners = [(0, 0, 0), (0, 30, 0), (50, 40, 0), (50, 0, 0)]
    pairs = [(0, 1), (1, 2), (2, 3), (3, 0)]
    square = [m.Joint(kind="revolute", bodies=pair, at=at, along=m.Z) for pair, at in zip(pairs, corners, strict=True)]
    arm = m.Joint(kind="revolute", bodies=(0, 4), at=(90, 0, 0), along=m.X)
    free = free_of(System(m.mechanism(*square, arm), TOLERANCE))
    assert free.mobility == 2
    assert not free.is_regular()
    assert not free.is_regular(frozenset({1, 4}))
    assert free.is_regular(frozenset({4}))
