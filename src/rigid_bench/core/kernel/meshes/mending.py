"""Mend a mesh where it is safe, and say what was mended; refuse what encloses no body for certain."""

from collections.abc import Iterator

import numpy as np
import trimesh
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree
from trimesh import Trimesh

#: mm: corners that are no further apart were meant to be one.
GAP = 0.01


def mended(mesh: Trimesh) -> tuple[Trimesh, list[str]]:
    """Drop what is double or without area, close gaps of a hundredth of a millimetre, turn faces alike.

    Parameters
    ----------
    mesh
        mm.

    Returns
    -------
    tuple
        The mesh, joined at its corners; and the codes of the notices of what was mended.
    """
    whole = Trimesh(mesh.vertices, mesh.faces, process=True)  # joins the corners that triangles share
    codes = []
    if _without(whole):
        codes.append("faces-dropped")
    if not is_closed(whole):
        joined = Trimesh(whole.vertices, _joined(whole)[whole.faces], process=True)
        _without(joined)
        if is_closed(joined):
            whole = joined
            codes.append("gaps-closed")
    if is_closed(whole) and not whole.is_winding_consistent:
        trimesh.repair.fix_normals(whole, multibody=True)
        codes.append("faces-turned")
    return whole, codes


def is_closed(mesh: Trimesh) -> bool:
    """Say whether every edge has as many triangles on one side as a closed skin has: two, or four where skins touch."""
    _, counts = _edges(mesh)
    return bool(np.all(counts % 2 == 0))


def _edges(mesh: Trimesh) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Return each edge once, (k, 2) corners, and how many triangles it has, (k,)."""
    ends = np.sort(mesh.faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1).astype(np.int64)
    count = len(mesh.vertices)
    # as one number each they are sorted many times as fast as in pairs
    numbers, counts = np.unique(ends[:, 0] * count + ends[:, 1], return_counts=True)
    return np.column_stack(np.divmod(numbers, count)), counts


def _without(mesh: Trimesh) -> bool:
    """Take triangles without area and second copies off a mesh; say whether there were any of area."""
    before = len(mesh.faces)
    mesh.update_faces(_has_three_corners(mesh.faces))
    kept = len(mesh.faces)
    mesh.update_faces(mesh.unique_faces())
    mesh.remove_unreferenced_vertices()
    return len(mesh.faces) < kept or kept < before


def _has_three_corners(faces: NDArray[np.int64]) -> NDArray[np.bool_]:
    a, b, c = faces.T
    three: NDArray[np.bool_] = (a != b) & (b != c) & (a != c)
    return three


def _joined(mesh: Trimesh) -> NDArray[np.int64]:
    """Return for each corner the first of those that lie within a gap of it."""
    pairs = np.array(sorted(_near(mesh)), dtype=int).reshape(-1, 2)
    count = len(mesh.vertices)
    graph = coo_array((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(count, count))
    _, groups = connected_components(graph, directed=False)
    first = np.full(groups.max() + 1, count)
    np.minimum.at(first, groups, np.arange(count))
    chosen: NDArray[np.int64] = first[groups]
    return chosen


def _near(mesh: Trimesh) -> Iterator[tuple[int, int]]:
    """Yield pairs of corners at open edges that lie within a gap of each other."""
    edges, counts = _edges(mesh)
    open_corners = np.unique(edges[counts % 2 == 1])
    for a, b in cKDTree(mesh.vertices[open_corners]).query_pairs(GAP):
        yield int(open_corners[a]), int(open_corners[b])
