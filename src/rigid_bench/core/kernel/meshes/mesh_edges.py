"""The edges of a mesh: chains of triangle sides along which two of its surfaces meet."""

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray
from trimesh import Trimesh

from rigid_bench.core.part.edges import CIRCLE, LINE, OTHER, Edges
from rigid_bench.core.part.faces import OtherFace, Surface

_Array = NDArray[np.float64]
_Ints = NDArray[np.int64]
#: So near (a share of its length) to a line a chain is one; and so near (a share of its radius) to a circle.
_STRAIGHT, _ROUND = 1e-5, 2e-3
#: Corners that tell a circle from other curves.
_FEWEST_ROUND = 4


def edges_between(mesh: Trimesh, surfaces: Sequence[Surface]) -> Edges:
    """Return the edges between surfaces of a mesh.

    Parameters
    ----------
    mesh
        With joined corners; mm.
    surfaces
        Whose `faces` are triangles of the mesh.

    Returns
    -------
    Edges
        Those along a circle have its points, not those of its chords.
    """
    vertices = np.asarray(mesh.vertices, dtype=float)
    ends, sides, triangles = _sides(mesh, surfaces)
    kinds: list[int] = []
    places, tangents, of, samples, beside = [], [], [], dict[int, _Array](), []
    for own in _chains(ends, sides):
        kind, place, tangent = _curve(vertices[np.append(ends[own, 0], ends[own[-1], 1])])
        if kind == OTHER:
            samples[len(kinds)] = vertices[np.append(ends[own, 0], ends[own[-1], 1])]
        kinds.append(kind)
        places.append(place)
        tangents.append(tangent)
        of.append(sides[own[0]])
        beside.append(triangles[own[len(own) // 2]])
    if not kinds:
        return Edges.none()
    stacked, both, tangent_rows = np.array(places), np.array(of), np.array(tangents)
    flat = np.asarray(mesh.face_normals)
    normals = [_normals(surfaces, both[:, side], stacked[:, 1], flat[np.array(beside)[:, side]]) for side in (0, 1)]
    into = np.cross(normals[0], tangent_rows)  # on the first surface, away from the edge
    return Edges(
        kinds=np.array(kinds, dtype=np.int64),
        starts=stacked[:, 0],
        middles=stacked[:, 1],
        ends=stacked[:, 2],
        tangents=tangent_rows,
        sides=both,
        samples=samples,
        angles=np.arctan2(np.einsum("ij,ij->i", normals[1], into), np.einsum("ij,ij->i", normals[0], normals[1])),
    )


def _sides(mesh: Trimesh, surfaces: Sequence[Surface]) -> tuple[_Ints, _Ints, _Ints]:
    """Return the triangle sides between two surfaces: (k, 2) ends, surfaces, and triangles.

    Each runs so that the first surface, the lower in number, lies to its left.
    """
    owner = np.full(len(mesh.faces), -1, dtype=np.int64)
    for number, surface in enumerate(surfaces):
        owner[list(surface.faces)] = number
    triangles, ends = np.asarray(mesh.face_adjacency), np.asarray(mesh.face_adjacency_edges)
    sides = owner[triangles]
    between = sides[:, 0] != sides[:, 1]
    triangles, ends, sides = triangles[between], ends[between], sides[between]
    first = np.argmin(sides, axis=1)
    rows = np.arange(len(sides))
    corners = np.asarray(mesh.faces)[triangles[rows, first]]
    # a triangle has its body on the left of its corners in their order
    at = np.argmax(corners == ends[:, :1], axis=1)
    is_back = corners[rows, (at + 1) % 3] != ends[:, 1]
    ends = np.where(is_back[:, None], ends[:, ::-1], ends)
    in_order = np.column_stack([first, 1 - first])
    return ends, np.take_along_axis(sides, in_order, axis=1), np.take_along_axis(triangles, in_order, axis=1)


def _chains(ends: _Ints, sides: _Ints) -> Iterator[_Ints]:
    """Yield the sides that follow each other between two surfaces, in their order."""
    order = np.lexsort((sides[:, 1], sides[:, 0]))
    breaks = np.flatnonzero(np.any(np.diff(sides[order], axis=0) != 0, axis=1)) + 1
    for group in np.split(order, breaks) if len(order) else []:
        yield from _followed(ends, group)


def _followed(ends: _Ints, group: _Ints) -> Iterator[_Ints]:
    starts, stops = ends[group, 0].tolist(), ends[group, 1].tolist()
    after = dict(zip(starts, range(len(group)), strict=True))
    inner = set(stops)
    begins = [k for k, start in enumerate(starts) if start not in inner]
    done: set[int] = set()
    for begin in [*begins, *range(len(group))]:
        chain = []
        at: int | None = begin
        while at is not None and at not in done:
            done.add(at)
            chain.append(at)
            at = after.get(stops[at])
        if chain:
            yield group[chain]


def _curve(points: _Array) -> tuple[int, tuple[_Array, _Array, _Array], _Array]:
    """Return the kind of a chain of points, (k, 3) mm; its start, middle and end, and its tangent in the middle."""
    start, end = points[0], points[-1]
    chord = end - start
    length = float(np.linalg.norm(chord))
    is_closed = length < 1e-12
    if not is_closed:
        way = chord / length
        offsets = points - start
        if np.linalg.norm(offsets - np.outer(offsets @ way, way), axis=1).max() < _STRAIGHT * length:
            return LINE, (start, (start + end) / 2, end), way
    if len(points) >= _FEWEST_ROUND and (round_one := _circle(points)) is not None:
        return CIRCLE, *round_one
    k = len(points) // 2
    way = points[min(k + 1, len(points) - 1)] - points[k - 1]
    return OTHER, (start, points[k], end), way / (float(np.linalg.norm(way)) or 1.0)


def _circle(points: _Array) -> tuple[tuple[_Array, _Array, _Array], _Array] | None:
    """Return start, middle and end of the arc through points, and its tangent; None where they lie on no circle."""
    centre = points.mean(axis=0)
    x, y = np.linalg.svd(points - centre, full_matrices=False)[2][:2]
    flat = (points - centre) @ np.array([x, y]).T
    rows = np.column_stack([2 * flat, np.ones(len(flat))])
    solution, _, rank, _ = np.linalg.lstsq(rows, (flat**2).sum(axis=1), rcond=None)
    radius = float(np.sqrt(max(solution[2] + solution[:2] @ solution[:2], 0.0)))
    in_plane = centre + flat @ np.array([x, y])
    off = np.abs(np.linalg.norm(flat - solution[:2], axis=1) - radius).max()
    if rank < 3 or off > _ROUND * radius or np.abs(points - in_plane).max() > _ROUND * radius:
        return None
    turns = np.unwrap(np.arctan2(*(flat - solution[:2]).T[::-1]))
    middle = (turns[0] + turns[-1]) / 2
    sense = 1.0 if turns[-1] > turns[0] else -1.0
    round_way = -np.sin(middle) * x + np.cos(middle) * y
    place = centre + solution[:2] @ np.array([x, y]) + radius * (np.cos(middle) * x + np.sin(middle) * y)
    return (points[0], place, points[-1]), sense * round_way


def _normals(surfaces: Sequence[Surface], of: _Ints, points: _Array, flat: _Array) -> _Array:
    """Return the normals of surfaces at points, (n, 3); of one without a name that of the triangle there."""
    normals = flat.copy()
    for number in np.unique(of).tolist():
        surface = surfaces[number]
        if not isinstance(surface, OtherFace):
            rows = of == number
            normals[rows] = surface.normals_at(points[rows])
    return normals
