"""Round walls among the triangles of a mesh: chords whose corners lie on one circle.

A round wall is exported as flat chords side by side. Two neighbouring chords give an axis (their crease) and a circle
(their three creases seen along it); the wall is all chords around them that are parallel to the axis and whose corners
lie on the circle. Flats that run into a wall without a kink end elsewhere, and stay flats.

Where the two ends of a wall have different chords, its triangles are twisted and no crease is along its axis: then the
axis is that of the nearest flat's normal, for most walls end in a flat.
"""

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from trimesh import Trimesh

from rigid_bench.core.kernel.meshes.mesh_body import flat_pieces
from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.part.recognition.facets import LEAST_FACETS

_Array = NDArray[np.float64]
#: rad between neighbouring chords: a wall of eight chords turns by 45 degrees at each; less is one flat.
_LEAST, _MOST = math.radians(0.2), math.radians(50)
#: A chord's corners lie on the circle to this share of its radius, and to this share of the mesh's size.
_ROUND, _DIGITS = 2e-3, 2e-6
#: sin of the angle by which a chord may lean from the axis; and by which a twisted one may, whose corners still
#: lie on the circle.
_LEANS, _TWISTS = 2e-3, 0.15
#: rad by which another crease of the same wall may stray from the axis.
_STRAY = 0.06
#: Chords of one wall are about as wide: programs share a turn evenly.
_UNLIKE = 1.5
#: Chords that make a wall at least.
_CHORDS = 3
#: Pairs of chords that are tried: a scan of a free shape has more, and no round wall.
_MOST_PAIRS = 20_000
#: A share of its radius: a ball's slice that is no higher lies on a circle, too; and rad: it carries on so smoothly.
_LOW, _SMOOTH = 0.15, math.radians(25)
#: Flats whose direction is tried as an axis: so many, and of this share of the area at least.
_LARGEST, _OUTSTANDING = 40, 1e-3


@dataclass(frozen=True, slots=True, eq=False)
class _Chords:
    """Flat pieces of a mesh: triangles in one plane side by side."""

    #: (v, 3) mm; (m, 3); (m, 3) mm: corners, triangles and their middles.
    vertices: _Array
    faces: NDArray[np.int64]
    middles: _Array
    #: Triangles of each.
    triangles: list[NDArray[np.int64]]
    #: (n, 3) unit.
    normals: _Array
    #: (n,) mm2
    areas: _Array
    #: Each one's neighbours, with the crease between them: its two ends, and the angle, rad.
    beside: dict[int, list[tuple[int, NDArray[np.int64], float]]]


@dataclass(frozen=True, slots=True, eq=False)
class _Circle:
    """What a wall is taken for while it grows: mm, about an axis."""

    axis: _Array
    #: sin of the angle by which chords may lean from the axis.
    leans: float
    centre: _Array
    radius: float


def round_walls(mesh: Trimesh) -> list[Cylinder]:
    """Find the round walls of a mesh.

    Parameters
    ----------
    mesh
        With joined corners; mm.

    Returns
    -------
    list of Cylinder
        Each with how many `facets` go round, its radius to their corners. No triangle is in two.
    """
    chords = _chords(mesh)
    slack = _DIGITS * float(np.linalg.norm(np.ptp(chords.vertices, axis=0)))
    taken: set[int] = set()
    cylinders: list[Cylinder] = []
    ways = _ways(chords)
    pairs = [(a, b, crease) for a, near in chords.beside.items() for b, crease, _ in near if a < b]
    pairs.sort(key=lambda pair: -min(chords.areas[pair[0]], chords.areas[pair[1]]))
    for a, b, crease in pairs[:_MOST_PAIRS]:
        if a in taken or b in taken:
            continue
        axis, leans = _axis(_along(chords, crease), ways)
        if not any(_carries_on(chords, chord, beyond, axis, leans) for chord, beyond in ((a, b), (b, a))):
            continue
        circle = _circle(chords, (a, b), chords.vertices[crease[0]], axis, leans)
        grown = _wall_around(chords, a, circle, slack, taken) if circle else None
        if grown is not None and not _is_slice(chords, *grown):
            wall, group = grown
            taken |= group
            cylinders.append(wall)
    return sorted(cylinders, key=lambda wall: wall.faces)


def _ways(chords: _Chords) -> _Array:
    """Return the directions of flats that stand out, the largest first, (n, 3) unit."""
    large = [k for k in np.argsort(-chords.areas)[:_LARGEST] if chords.areas[k] > _OUTSTANDING * chords.areas.sum()]
    ways: list[_Array] = []
    for k in large:
        if not any(abs(float(chords.normals[k] @ way)) > 1 - 1e-9 for way in ways):
            ways.append(chords.normals[k])
    return np.reshape(ways, (-1, 3))


def _along(chords: _Chords, crease: NDArray[np.int64]) -> _Array:
    way: _Array = chords.vertices[crease[1]] - chords.vertices[crease[0]]
    return way


def _axis(crease: _Array, ways: _Array) -> tuple[_Array, float]:
    """Return the axis that a crease shows: its own direction, or a flat's from which it is a little twisted.

    With it goes how far chords may lean: only about a flat's normal they may be twisted.
    """
    axis: _Array = crease / np.linalg.norm(crease)
    near = ways @ axis
    if len(ways) and abs(near).max() > math.cos(_TWISTS):
        k = int(np.argmax(abs(near)))
        return ways[k] * np.sign(near[k]), _TWISTS
    return axis, _LEANS


def _carries_on(chords: _Chords, chord: int, beyond: int, axis: _Array, leans: float) -> bool:
    """Say whether a chord has another crease along the axis: what has none anywhere is no wall, but a free shape."""
    for other, crease, _ in chords.beside[chord]:
        if other != beyond:
            way = _along(chords, crease)
            if abs(float(way @ axis)) > math.cos(max(leans, _STRAY)) * float(np.linalg.norm(way)):
                return True
    return False


def _is_slice(chords: _Chords, wall: Cylinder, group: set[int]) -> bool:
    """Say whether a low wall is a slice of a ball or another free shape, which carries on beyond its ends."""
    if wall.length > _LOW * wall.radius:
        return False
    beyond = sum(other not in group and angle < _SMOOTH for chord in group for other, _, angle in chords.beside[chord])
    return 2 * beyond >= len(group)


def _wall_around(
    chords: _Chords, start: int, circle: _Circle, slack: float, taken: set[int]
) -> tuple[Cylinder, set[int]] | None:
    """Return the wall around a chord: its circle is fitted anew as it grows, for that of two chords is rough."""
    group: set[int] = set()
    wall = None
    while True:
        grown = _grown(chords, start, circle, slack, taken)
        if len(grown) < _CHORDS or len(grown) <= len(group):
            break
        fitted = _wall(chords, sorted(grown), circle.axis)
        if fitted is None:
            break
        wall, group = fitted, grown
        circle = _Circle(wall.direction, circle.leans, wall.point, wall.radius)
    return None if wall is None else (wall, group)


def _chords(mesh: Trimesh) -> _Chords:
    triangles = flat_pieces(mesh)
    owner = np.empty(len(mesh.faces), dtype=np.int64)
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
    for k in np.flatnonzero((angles > _LEAST) & (angles < _MOST) & (sides[:, 0] != sides[:, 1])).tolist():
        a, b = sides[k].tolist()
        beside[a].append((b, ends[k], float(angles[k])))
        beside[b].append((a, ends[k], float(angles[k])))
    return _Chords(
        vertices=np.asarray(mesh.vertices, dtype=float),
        faces=np.asarray(mesh.faces),
        middles=np.asarray(mesh.triangles_center),
        triangles=triangles,
        normals=normals,
        areas=areas,
        beside=beside,
    )


def _corners(chords: _Chords, triangles: NDArray[np.int64]) -> _Array:
    corners: _Array = chords.vertices[np.unique(chords.faces[triangles])]
    return corners


def _circle(chords: _Chords, pair: tuple[int, int], crease: _Array, axis: _Array, leans: float) -> _Circle | None:
    """Return the circle through the creases of two chords, seen along the axis."""
    if any(abs(float(chords.normals[chord] @ axis)) > leans for chord in pair):
        return None
    far = []
    for chord in pair:
        flat = _across(_corners(chords, chords.triangles[chord]) - crease, axis)
        far.append(flat[int(np.argmax(np.linalg.norm(flat, axis=1)))])
    one, other = far
    if not 1 / _UNLIKE < float(np.linalg.norm(one) / np.linalg.norm(other)) < _UNLIKE:
        return None  # a flat that runs into a wall, and the wall's first chord
    # the centre is as far from the crease as from both far ends
    rows = 2 * np.array([one, other])
    centre = np.linalg.lstsq(rows, np.array([one @ one, other @ other]), rcond=None)[0]
    radius = float(np.linalg.norm(centre))
    is_round = 0 < radius < 1e4 * max(float(np.linalg.norm(one)), 1e-9)
    return _Circle(axis, leans, crease + centre, radius) if is_round else None


def _across(points: _Array, axis: _Array) -> _Array:
    """Return points without what they have along an axis."""
    flat: _Array = points - np.outer(points @ axis, axis)
    return flat


def _grown(chords: _Chords, start: int, circle: _Circle, slack: float, taken: set[int]) -> set[int]:
    """Return the chords around one that lie on a circle about an axis."""
    axis = circle.axis
    group, waiting = set[int](), [start]
    while waiting:
        chord = waiting.pop()
        if chord in group or chord in taken or abs(float(chords.normals[chord] @ axis)) > circle.leans:
            continue
        flat = _across(_corners(chords, chords.triangles[chord]) - circle.centre, axis)
        off = np.linalg.norm(flat, axis=1) - circle.radius
        if np.abs(off).max() > _ROUND * circle.radius + slack:
            continue
        group.add(chord)
        waiting += [beyond for beyond, _, _ in chords.beside[chord]]
    return group


def _wall(chords: _Chords, group: Sequence[int], axis: _Array) -> Cylinder | None:
    """Fit a wall through the corners of its chords; None where it is none."""
    triangles = np.concatenate([chords.triangles[chord] for chord in group])
    normals, areas = chords.normals[list(group)], chords.areas[list(group)]
    # the axis is square to all chords: the least of their directions, each by its area
    own = _square_to(normals * np.sqrt(areas)[:, None], axis)
    axis = own if np.abs(normals @ own).max() < _LEANS else axis
    corners = _corners(chords, triangles)
    x = np.cross(axis, np.eye(3)[int(np.argmin(np.abs(axis)))])
    x /= np.linalg.norm(x)
    y = np.cross(axis, x)
    flat = corners @ np.array([x, y]).T
    rows = np.column_stack([2 * flat, np.ones(len(flat))])
    (cx, cy, rest), *_ = np.linalg.lstsq(rows, (flat**2).sum(axis=1), rcond=None)
    radius = math.sqrt(max(float(rest + cx**2 + cy**2), 0.0))
    along = corners @ axis
    middles = np.array([chords.middles[chords.triangles[chord]].mean(axis=0) for chord in group])
    outward = _across(middles - (cx * x + cy * y), axis)
    is_hollow = float((areas * np.einsum("ij,ij->i", normals, outward)).sum()) < 0
    turns = _turns(flat - [cx, cy])
    count, arcs = _arcs(turns, x, y)
    count = min(count, _chords_at_ends(chords, triangles, axis, cx * x + cy * y) or count)
    if count < LEAST_FACETS or radius <= 0:
        return None
    return Cylinder(
        faces=tuple(sorted(triangles.tolist())),
        point=cx * x + cy * y + float(along.min()) * axis,
        direction=axis,
        radius=radius,
        length=float(np.ptp(along)),
        is_hollow=is_hollow,
        arcs=arcs,
        area=float(areas.sum()),
        facets=count,
    )


def _square_to(normals: _Array, axis: _Array) -> _Array:
    """Return the direction that is most nearly square to all normals, looking as a first guess looks."""
    least: _Array = np.linalg.svd(normals, full_matrices=False)[2][-1]
    return least if float(least @ axis) > 0 else -least


def _turns(flat: _Array) -> _Array:
    """Return at which angles there are corners, each once, in order."""
    angles = np.sort(np.arctan2(flat[:, 1], flat[:, 0]))
    apart = np.diff(angles, append=angles[0] + 2 * math.pi)
    turns: _Array = angles[apart > _LEAST / 4]
    return turns


def _chords_at_ends(chords: _Chords, triangles: NDArray[np.int64], axis: _Array, centre: _Array) -> int:
    """Return how many chords as wide as the widest at an end would go round; 0 where no end is square."""
    edges = chords.faces[triangles][:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2)
    starts, ends = (chords.vertices[edges[:, k]] - centre for k in (0, 1))
    is_square = np.abs((ends - starts) @ axis) < _LEANS * np.linalg.norm(ends - starts, axis=1)
    one, other = (_across(points[is_square], axis) for points in (starts, ends))
    lengths = np.linalg.norm(one, axis=1) * np.linalg.norm(other, axis=1)
    cosines = np.einsum("ij,ij->i", one, other) / np.where(lengths > 0, lengths, 1.0)
    widest = float(np.arccos(np.clip(cosines, -1, 1)).max(initial=0.0))
    return math.floor(2 * math.pi / widest + 0.05) if widest > 0 else 0


def _arcs(turns: _Array, x: _Array, y: _Array) -> tuple[int, tuple[tuple[_Array, float], ...]]:
    """Return how many chords would go round, and where the wall is."""
    gaps = np.diff(turns, append=turns[0] + 2 * math.pi)
    step = float(np.median(gaps))
    widest = int(np.argmax(gaps))
    if gaps[widest] < 1.7 * step or gaps[widest] < _MOST:
        return len(turns), ((x, 2 * math.pi),)
    begin = float(turns[(widest + 1) % len(turns)])
    sweep = 2 * math.pi - float(gaps[widest])
    middle = begin + sweep / 2
    return round(2 * math.pi / step), ((math.cos(middle) * x + math.sin(middle) * y, sweep),)
