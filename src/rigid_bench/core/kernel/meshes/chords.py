"""The flat pieces of a mesh: chords of what is round, and flats; with their neighbours."""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

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


@dataclass(frozen=True, eq=False)
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
    #: (k, 2) neighbours that meet without a kink; the two corners of the crease between them, and its angle (k,), rad.
    pairs: NDArray[np.int64]
    ends: NDArray[np.int64]
    angles: _Array
    #: Corners and neighbours of pieces that were asked for.
    known: dict[int, _Array]
    known_beside: dict[int, list[tuple[int, NDArray[np.int64], float]]]

    def creases(self, least_mm: float = 0.0) -> NDArray[np.int64]:
        """Return the places among `pairs` of creases, (k,), the longest first, without those that are shorter, mm."""
        order, lengths = self._by_length
        return order[: int(np.searchsorted(-lengths, -least_mm, side="right"))]

    @cached_property
    def _by_length(self) -> tuple[NDArray[np.int64], _Array]:
        is_crease = np.flatnonzero(self.angles > LEAST_TURN)
        ends = self.vertices[self.ends[is_crease]]
        lengths = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)
        order = np.argsort(-lengths, kind="stable")
        return is_crease[order], lengths[order]

    def beside(self, chord: int) -> list[tuple[int, NDArray[np.int64], float]]:
        """Return the neighbours of a piece, with the crease between them: its two ends, and the angle, rad."""
        if chord not in self.known_beside:
            order, begins = self._rows
            rows, sides = np.divmod(order[begins[chord] : begins[chord + 1]], 2)
            others = self.pairs[rows, 1 - sides].tolist()
            self.known_beside[chord] = list(zip(others, self.ends[rows], self.angles[rows].tolist(), strict=True))
        return self.known_beside[chord]

    @cached_property
    def _rows(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """For each piece where it stands among the pairs, flat: piece by piece, and where each one's begin."""
        flat = self.pairs.ravel()
        order = np.argsort(flat, kind="stable")
        return order, np.searchsorted(flat[order], np.arange(len(self.triangles) + 1))

    def corners_of(self, chord: int) -> _Array:
        """Return the corners of a piece, each once, (k, 3) mm."""
        if chord not in self.known:
            self.known[chord] = self.corners(self.triangles[chord])
        return self.known[chord]

    def corners(self, triangles: NDArray[np.int64]) -> _Array:
        """Return the corners of triangles, each once, (k, 3) mm."""
        corners: _Array = self.vertices[np.unique(self.faces[triangles])]
        return corners

    def triangles_of(self, group: NDArray[np.int64]) -> NDArray[np.int64]:
        """Return the triangles of some pieces, in order."""
        return np.sort(np.concatenate([self.triangles[chord] for chord in group.tolist()]))

    def middles_of(self, group: NDArray[np.int64]) -> _Array:
        """Return the middles of some pieces, (k, 3) mm."""
        return np.array([self.middles[self.triangles[chord]].mean(axis=0) for chord in group.tolist()])

    def looks_out(self, group: NDArray[np.int64], away: _Array) -> bool:
        """Say whether pieces look away from a middle, given the ways, (k, 3), from there to each."""
        looks = np.einsum("ij,ij->i", self.normals[group], away)
        return bool((self.areas[group] * looks).sum() > 0)


def thickness(points: _Array) -> float:
    """Return how far points, (k, 3), reach in the direction in which they reach least."""
    middle = points - points.mean(axis=0)
    return float(np.ptp(middle @ np.linalg.svd(middle.T @ middle)[2][-1]))


def read_chords(mesh: Trimesh) -> Chords:
    """Read the flat pieces of a mesh with joined corners, mm."""
    triangles = _flat_pieces(mesh)
    owner = np.full(len(mesh.faces), -1, dtype=np.int64)
    for number, group in enumerate(triangles):
        owner[group] = number
    # taken out of the mesh once: each look into its cache costs as much as the sum
    area_faces, face_normals = np.asarray(mesh.area_faces), np.asarray(mesh.face_normals)
    is_owned = owner >= 0
    areas = np.zeros(len(triangles))
    np.add.at(areas, owner[is_owned], area_faces[is_owned])
    by_area = np.lexsort((-np.arange(len(owner)), area_faces, owner))
    largest = by_area[np.flatnonzero(np.diff(owner[by_area], append=len(triangles)))]
    normals = face_normals[largest[owner[largest] >= 0]]
    angles = np.asarray(mesh.face_adjacency_angles)
    sides = owner[np.asarray(mesh.face_adjacency)]
    smooth = (angles < MOST_TURN) & (sides[:, 0] != sides[:, 1])
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
        ends=np.asarray(mesh.face_adjacency_edges)[smooth],
        angles=angles[smooth],
        known={},
        known_beside={},
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
    """Return at which angles (rad) about the origin points, (k, 2), stand, each once, in order.

    Points that follow each other closely are one corner, unless there are so many that they make an arc.
    """
    angles = np.sort(np.arctan2(flat[:, 1], flat[:, 0]))
    is_last = np.diff(angles, append=angles[0] + 2 * math.pi) > LEAST_TURN / 4
    ends = np.flatnonzero(np.diff(angles, append=np.inf) > LEAST_TURN / 4)
    starts = np.append(0, ends[:-1] + 1)
    is_arc = np.repeat(angles[ends] - angles[starts] > LEAST_TURN, ends - starts + 1)
    turns: _Array = angles[is_last | is_arc]
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
