"""The flat pieces of a mesh: chords of what is round, and flats; with their neighbours."""

import math
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from trimesh import Trimesh

_Array = NDArray[np.float64]
#: rad between neighbouring chords: a wall of eight chords turns by 45 degrees at each; less is one flat.
LEAST_TURN, MOST_TURN = math.radians(0.2), math.radians(50)
#: Triangles in one plane stray from it by less than this share of their size.
_FLAT = 2e-5
#: A triangle of less, as a share of the mesh's area, is a line.
_NO_AREA = 1e-12


@dataclass(frozen=True, slots=True, eq=False)
class Chords:
    """Flat pieces of a mesh: triangles in one plane side by side."""

    #: (v, 3) mm; (m, 3); (m, 3) mm: corners, triangles and their middles.
    vertices: _Array
    faces: NDArray[np.int64]
    middles: _Array
    #: Triangles of each, and (m,) the piece of each triangle.
    triangles: list[NDArray[np.int64]]
    owner: NDArray[np.int64]
    #: (n, 3) unit.
    normals: _Array
    #: (n,) mm2, and (m,) mm2 of each triangle.
    areas: _Array
    weights: _Array
    #: (k, 2) neighbours that meet without a kink.
    pairs: NDArray[np.int64]
    #: Corners of pieces that were asked for.
    known: dict[int, _Array]
    #: Each one's neighbours, with the crease between them: its two ends, and the angle, rad.
    beside: dict[int, list[tuple[int, NDArray[np.int64], float]]]

    def creases(self, least_mm: float = 0.0) -> list[tuple[int, int, NDArray[np.int64]]]:
        """List neighbours with the crease between them, the longest first, without those that are shorter, mm."""
        pairs = [
            (a, b, crease)
            for a, near in self.beside.items()
            for b, crease, angle in near
            if a < b and angle > LEAST_TURN
        ]
        ends = self.vertices[np.array([crease for *_, crease in pairs], dtype=np.int64).reshape(-1, 2)]
        lengths = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)
        order = np.argsort(-lengths, kind="stable")
        return [pairs[k] for k in order[lengths[order] >= least_mm].tolist()]

    def corners_of(self, chord: int) -> _Array:
        """Return the corners of a piece, each once, (k, 3) mm."""
        if chord not in self.known:
            self.known[chord] = self.corners(self.triangles[chord])
        return self.known[chord]

    def corners(self, triangles: NDArray[np.int64]) -> _Array:
        """Return the corners of triangles, each once, (k, 3) mm."""
        corners: _Array = self.vertices[np.unique(self.faces[triangles])]
        return corners


def read_chords(mesh: Trimesh) -> Chords:
    """Read the flat pieces of a mesh with joined corners, mm."""
    triangles = _flat_pieces(mesh)
    owner = np.full(len(mesh.faces), -1, dtype=np.int64)
    for number, group in enumerate(triangles):
        owner[group] = number
    # taken out of the mesh once: each look into its cache costs as much as the sum
    area_faces, face_normals = np.asarray(mesh.area_faces), np.asarray(mesh.face_normals)
    areas = np.array([float(area_faces[group].sum()) for group in triangles])
    normals = face_normals[[group[int(np.argmax(area_faces[group]))] for group in triangles]]
    beside: dict[int, list[tuple[int, NDArray[np.int64], float]]] = defaultdict(list)
    angles = np.asarray(mesh.face_adjacency_angles)
    ends = np.asarray(mesh.face_adjacency_edges)
    sides = owner[np.asarray(mesh.face_adjacency)]
    smooth = (angles < MOST_TURN) & (sides[:, 0] != sides[:, 1])
    for k in np.flatnonzero(smooth).tolist():
        a, b = sides[k].tolist()
        beside[a].append((b, ends[k], float(angles[k])))
        beside[b].append((a, ends[k], float(angles[k])))
    return Chords(
        vertices=np.asarray(mesh.vertices, dtype=float),
        faces=np.asarray(mesh.faces),
        middles=np.asarray(mesh.triangles_center),
        triangles=triangles,
        owner=owner,
        normals=normals,
        areas=areas,
        weights=area_faces,
        pairs=sides[smooth],
        known={},
        beside=beside,
    )


def _flat_pieces(mesh: Trimesh) -> list[NDArray[np.int64]]:
    """Return the triangles of each flat piece of a mesh: those in one plane side by side, and the rest one by one.

    A triangle without area belongs to what lies beside it.
    """
    areas = np.asarray(mesh.area_faces)
    is_nothing = areas < _NO_AREA * float(areas.sum())
    corners, normals = np.asarray(mesh.triangles), np.asarray(mesh.face_normals)
    facets = []
    for group in map(np.asarray, mesh.facets):
        if is_nothing[group].all():
            continue
        # two side by side in one plane lie in it
        if len(group) == 2 or _is_flat(corners[group].reshape(-1, 3), normals[group[int(np.argmax(areas[group]))]]):
            facets.append(group)
    whole = np.concatenate([*facets, np.empty(0, dtype=np.int64)])
    alone = np.setdiff1d(np.flatnonzero(~is_nothing), whole)
    pieces = [*facets, *alone[:, None]]
    owner = np.full(len(areas), -1, dtype=np.int64)
    for number, group in enumerate(pieces):
        owner[group] = number
    adjacency = np.asarray(mesh.face_adjacency)
    while True:
        sides = owner[adjacency]
        meets = (sides < 0).any(axis=1) & (sides >= 0).any(axis=1)
        if not meets.any():
            break
        rows = adjacency[meets]
        here = owner[rows] < 0
        owner[rows[here]] = owner[rows[~here]]
    order = np.argsort(owner, kind="stable")
    order = order[owner[order] >= 0]
    return np.split(order, np.flatnonzero(np.diff(owner[order])) + 1)


def _is_flat(corners: _Array, normal: _Array) -> bool:
    """Say whether corners lie in one plane: from one triangle to the next each may be tilted by next to nothing."""
    return bool(np.ptp(corners @ normal) < _FLAT * float(np.linalg.norm(np.ptp(corners, axis=0))))


def distinct_ways(ways: Iterable[_Array]) -> list[_Array]:
    """Return directions, (3,) unit, each once whichever way it looks, in their order."""
    distinct: list[_Array] = []
    for way in ways:
        if not any(abs(float(way @ known)) > 1 - 1e-9 for known in distinct):
            distinct.append(way)
    return distinct


def corner_angles(flat: _Array) -> _Array:
    """Return at which angles (rad) about the origin points, (k, 2), stand, each once, in order."""
    angles = np.sort(np.arctan2(flat[:, 1], flat[:, 0]))
    apart = np.diff(angles, append=angles[0] + 2 * math.pi)
    turns: _Array = angles[apart > LEAST_TURN / 4]
    return turns


def arcs_round(turns: _Array, x: _Array, y: _Array) -> tuple[int, tuple[tuple[_Array, float], ...]]:
    """Return how many chords would go round, and where they are: each arc's middle in the frame x, y, and its sweep."""
    gaps = np.diff(turns, append=turns[0] + 2 * math.pi)
    step = float(np.median(gaps))
    widest = int(np.argmax(gaps))
    if gaps[widest] < 1.7 * step or gaps[widest] < MOST_TURN:
        return len(turns), ((x, 2 * math.pi),)
    begin = float(turns[(widest + 1) % len(turns)])
    sweep = 2 * math.pi - float(gaps[widest])
    middle = begin + sweep / 2
    return round(2 * math.pi / step), ((math.cos(middle) * x + math.sin(middle) * y, sweep),)
