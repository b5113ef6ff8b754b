"""What lies near what, against a library's tree and a graph library."""

import networkx as nx
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial import cKDTree

from rigid_bench.core.part.nearby import Points, connected


@pytest.mark.parametrize("count", [5, 900])
def test_nearest_and_pairs_are_those_of_a_tree(count: int) -> None:
    """Few points are compared all with all, many by a tree: both must say the same."""
    random = np.random.default_rng(count)
    points, places = random.uniform(0, 10, (count, 3)), random.uniform(0, 10, (40, 3))
    tree = cKDTree(points)
    distances, indices = Points(points).nearest(places)
    expected, which = tree.query(places)
    assert distances == pytest.approx(expected)
    assert indices.tolist() == which.tolist()
    assert set(Points(points).pairs_within(0.8)) == {tuple(sorted(pair)) for pair in tree.query_pairs(0.8)}


@given(st.lists(st.tuples(st.integers(0, 11), st.integers(0, 11)), max_size=14))
def test_what_hangs_together_is_what_a_graph_library_says(pairs: list[tuple[int, int]]) -> None:
    graph: nx.Graph[int] = nx.Graph()
    graph.add_nodes_from(range(12))
    graph.add_edges_from(pairs)
    expected = sorted(sorted(group) for group in nx.connected_components(graph))
    assert sorted(sorted(group) for group in connected(12, pairs)) == expected
