"""Round walls among the triangles of a mesh: chords whose corners lie on one circle.

A round wall is exported as flat chords side by side. Two neighbouring chords give an axis (their crease) and a circle
(their three creases seen along it); the wall is all chords around them that are parallel to the axis and whose corners
lie on the circle. Flats that run into a wall without a kink end elsewhere, and stay flats.

Where the two ends of a wall have different chords, its triangles are twisted and no crease is along its axis: then the
axis is that of the nearest flat's normal, for most walls end in a flat.
"""

import math
from collections import Counter
from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.kernel.meshes.chords import Chords, arcs_round, corner_angles, distinct_ways
from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.part.recognition.facets import LEAST_FACETS
from rigid_bench.core.values.frames import any_normal

_Array = NDArray[np.float64]
#: A chord's corners lie on the circle to this share of its radius, and of the height of the arc, and to this share of
#: the mesh's size.
_ROUND, _BULGE, _DIGITS = 2e-3, 2e-2, 2e-6
#: How often a circle is fitted anew, and how many times as far off as most a corner may be.
_REFITS, _OUTLIER = 8, 10.0
#: sin of the angle by which a chord may lean from the axis; and by which a twisted one may, whose corners still
#: lie on the circle.
_LEANS, _TWISTS = 2e-3, 0.15
#: rad by which another crease of the same wall may stray from the axis.
_STRAY = 0.06
#: Chords of one wall are about as wide: programs share a turn evenly.
_UNLIKE = 1.5
#: Chords that make a wall at least.
_CHORDS = 3
#: A chord whose creases led to nothing so often is of no wall.
_TRIES = 3
#: After so many of them, and of pairs at all, the rest, which are shorter, are of a free shape.
_MOST_IN_VAIN, _MOST_PAIRS = 300, 20_000
#: A share of its radius: a ball's slice that is no higher lies on a circle, too; and rad: it carries on so smoothly.
_LOW, _SMOOTH = 0.15, math.radians(25)
#: Flats whose direction is tried as an axis: so many, and of this share of the area at least.
_LARGEST, _OUTSTANDING = 40, 1e-3
#: So many shared corners fix a circle, each of its creases having two.
_LEAST_CORNERS = 5


@dataclass(frozen=True, slots=True, eq=False)
class _Circle:
    """What a wall is taken for while it grows: mm, about an axis."""

    axis: _Array
    #: sin of the angle by which chords may lean from the axis.
    leans: float
    centre: _Array
    radius: float


def round_walls(chords: Chords, *, least_mm: float = 0.0, besides: Collection[int] = frozenset()) -> list[Cylinder]:
    """Find the round walls of a mesh.

    Parameters
    ----------
    chords
        The flat pieces of a mesh with joined corners.
    least_mm
        How long the creases are at which a wall is looked for.
    besides
        Pieces that are known to be something else.

    Returns
    -------
    list of Cylinder
        Each with how many `facets` go round, its radius to their corners. No triangle is in two.
    """
    slack = _DIGITS * float(np.linalg.norm(np.ptp(chords.vertices, axis=0)))
    taken, in_vain, last = set(besides), Counter[int](), 0
    cylinders: list[Cylinder] = []
    ways = _ways(chords)
    for row in chords.creases(least_mm)[:_MOST_PAIRS].tolist():
        (a, b), crease = chords.pairs[row].tolist(), chords.ends[row]
        if a in taken or b in taken or max(in_vain[a], in_vain[b]) >= _TRIES:
            continue
        axis, leans = _axis(_along(chords, crease), ways)
        if not any(_carries_on(chords, chord, beyond, axis, leans) for chord, beyond in ((a, b), (b, a))):
            continue
        circle = _circle(chords, (a, b), chords.vertices[crease[0]], axis, leans)
        grown = _wall_around(chords, a, circle, slack, taken) if circle else None
        if grown is not None and not _is_slice(chords, *grown):
            wall, group = _trimmed(chords, *grown, slack)
            taken |= group
            cylinders.append(wall)
            last = 0
            continue
        in_vain.update((a, b))
        last += 1
        if last == _MOST_IN_VAIN:
            break
    return sorted(cylinders, key=lambda wall: wall.faces)


def _ways(chords: Chords) -> _Array:
    """Return the directions of flats that stand out, the largest first, (n, 3) unit."""
    large = [k for k in np.argsort(-chords.areas)[:_LARGEST] if chords.areas[k] > _OUTSTANDING * chords.areas.sum()]
    return np.reshape(distinct_ways(chords.normals[large]), (-1, 3))


def _along(chords: Chords, crease: NDArray[np.int64]) -> _Array:
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


def _carries_on(chords: Chords, chord: int, beyond: int, axis: _Array, leans: float) -> bool:
    """Say whether a chord has another crease along the axis: what has none anywhere is no wall, but a free shape."""
    for other, crease, _ in chords.beside(chord):
        if other != beyond:
            way = _along(chords, crease)
            if abs(float(way @ axis)) > math.cos(max(leans, _STRAY)) * float(np.linalg.norm(way)):
                return True
    return False


def _is_slice(chords: Chords, wall: Cylinder, group: set[int]) -> bool:
    """Say whether a low wall is a slice of a ball or another free shape, which carries on beyond its ends."""
    if wall.length > _LOW * wall.radius:
        return False
    beyond = sum(other not in group and angle < _SMOOTH for chord in group for other, _, angle in chords.beside(chord))
    return 2 * beyond >= len(group)


def _wall_around(
    chords: Chords, start: int, circle: _Circle, slack: float, taken: set[int]
) -> tuple[Cylinder, set[int]] | None:
    """Return the wall around a chord: its circle is fitted anew as it grows, for that of two chords is rough."""
    group: set[int] = set()
    wall = None
    while True:
        grown = _grown(chords, start, circle, slack, taken)
        if len(grown) < _CHORDS or len(grown) <= len(group):
            break
        fitted = _wall(chords, sorted(grown), circle.axis, slack)
        if fitted is None:
            break
        wall, group = fitted, grown
        circle = _Circle(wall.direction, circle.leans, wall.point, wall.radius)
    return None if wall is None else (wall, group)


def _trimmed(chords: Chords, wall: Cylinder, group: set[int], slack: float) -> tuple[Cylinder, set[int]]:
    """Return a wall without a few chords that lie only nearly on it."""
    kept = _exact(chords, wall, group, slack)
    if _CHORDS <= len(kept) < len(group) and (fitted := _wall(chords, sorted(kept), wall.direction, slack)):
        return fitted, kept
    return wall, group


def _exact(chords: Chords, wall: Cylinder, group: set[int], slack: float) -> set[int]:
    """Return the chords of a wall that lie on one circle exactly.

    The circle is fitted again and again, each corner counting the less the further it is off (Weiszfeld's weights).
    """
    flats = {chord: _across(chords.corners_of(chord) - wall.point, wall.direction) for chord in sorted(group)}
    x = any_normal(wall.direction)
    frame = np.array([x, np.cross(wall.direction, x)]).T
    flat = np.concatenate(list(flats.values())) @ frame
    rows, squares = np.column_stack([2 * flat, np.ones(len(flat))]), (flat**2).sum(axis=1)
    weights = np.ones(len(flat))
    for _ in range(_REFITS):
        solution = np.linalg.lstsq(rows * weights[:, None], squares * weights, rcond=None)[0]
        radius = math.sqrt(max(float(solution[2] + solution[:2] @ solution[:2]), 0.0))
        off = np.abs(np.linalg.norm(flat - solution[:2], axis=1) - radius)
        weights = 1 / np.sqrt(np.maximum(off, slack / 10))
    near = max(slack, _OUTLIER * float(np.median(off)))
    return {
        chord
        for chord, own in flats.items()
        if np.abs(np.linalg.norm(own @ frame - solution[:2], axis=1) - radius).max() < near
    }


def _circle(chords: Chords, pair: tuple[int, int], crease: _Array, axis: _Array, leans: float) -> _Circle | None:
    """Return the circle through the creases of two chords, seen along the axis."""
    if any(abs(float(chords.normals[chord] @ axis)) > leans for chord in pair):
        return None
    far = []
    for chord in pair:
        flat = _across(chords.corners_of(chord) - crease, axis)
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


def _grown(chords: Chords, start: int, circle: _Circle, slack: float, taken: set[int]) -> set[int]:
    """Return the chords around one that lie on a circle about an axis."""
    axis = circle.axis
    least = float(np.ptp(chords.corners_of(start) @ axis)) / 2
    group, waiting = set[int](), [start]
    while waiting:
        chord = waiting.pop()
        if chord in group or chord in taken or abs(float(chords.normals[chord] @ axis)) > circle.leans:
            continue
        corners = chords.corners_of(chord) - circle.centre
        flat = _across(corners, axis)
        off = np.linalg.norm(flat, axis=1) - circle.radius
        if np.abs(off).max() > _ROUND * circle.radius + slack:
            continue
        if abs(float(chords.normals[chord] @ axis)) > _LEANS + _twist(flat, corners @ axis, circle.radius, least):
            continue
        group.add(chord)
        waiting += [beyond for beyond, _, _ in chords.beside(chord)]
    return group


def _twist(flat: _Array, along: _Array, radius: float, least: float) -> float:
    """Return the sin by which unlike chords at its ends may tilt a chord: w^2 / 8 r over its length, twice.

    One that is shorter than the least goes from end to end of nothing: it is not tilted by them.
    """
    length, width = float(np.ptp(along)), float(np.linalg.norm(np.ptp(flat, axis=0)))
    return width**2 / (4 * radius * length) if length > max(least, 1e-9) else 0.0


def _wall(chords: Chords, group: Sequence[int], axis: _Array, slack: float) -> Cylinder | None:
    """Fit a wall through the corners of its chords; None where it is none."""
    triangles = np.concatenate([chords.triangles[chord] for chord in group])
    normals, areas = chords.normals[list(group)], chords.areas[list(group)]
    # the axis is square to all chords: the least of their directions, each by its area
    own = _square_to(normals * np.sqrt(areas)[:, None], axis)
    axis = own if np.abs(normals @ own).max() < _LEANS else axis
    corners = chords.corners(triangles)
    x = np.cross(axis, np.eye(3)[int(np.argmin(np.abs(axis)))])
    x /= np.linalg.norm(x)
    y = np.cross(axis, x)
    flat = corners @ np.array([x, y]).T
    on_circle = flat
    if len(triangles) > 2 * len(group):  # corners within a chord, or along its ends, lie inside the circle
        on_circle = _crease_corners(chords, group) @ np.array([x, y]).T
        on_circle = on_circle if len(on_circle) > _LEAST_CORNERS else flat
    rows = np.column_stack([2 * on_circle, np.ones(len(on_circle))])
    (cx, cy, rest), *_ = np.linalg.lstsq(rows, (on_circle**2).sum(axis=1), rcond=None)
    radius = math.sqrt(max(float(rest + cx**2 + cy**2), 0.0))
    along = corners @ axis
    middles = np.array([chords.middles[chords.triangles[chord]].mean(axis=0) for chord in group])
    outward = _across(middles - (cx * x + cy * y), axis)
    is_hollow = float((areas * np.einsum("ij,ij->i", normals, outward)).sum()) < 0
    count, arcs = arcs_round(corner_angles(flat - [cx, cy]), x, y)
    count = min(count, _chords_at_ends(chords, triangles, axis, cx * x + cy * y) or count)
    height = radius * (1 - math.cos(min(sum(sweep for _, sweep in arcs), 2 * math.pi) / 2))
    off = np.abs(np.linalg.norm(flat - [cx, cy], axis=1) - radius).max()
    if count < LEAST_FACETS or radius <= 0 or off > _BULGE * height + slack:
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


def _crease_corners(chords: Chords, group: Sequence[int]) -> _Array:
    """Return the corners, (k, 3) mm, that two or more of some chords share."""
    numbers, counts = np.unique(
        np.concatenate([np.unique(chords.faces[chords.triangles[chord]]) for chord in group]), return_counts=True
    )
    shared: _Array = chords.vertices[numbers[counts > 1]]
    return shared


def _square_to(normals: _Array, axis: _Array) -> _Array:
    """Return the direction that is most nearly square to all normals, looking as a first guess looks."""
    least: _Array = np.linalg.svd(normals, full_matrices=False)[2][-1]
    return least if float(least @ axis) > 0 else -least


def _chords_at_ends(chords: Chords, triangles: NDArray[np.int64], axis: _Array, centre: _Array) -> int:
    """Return how many chords as wide as the widest at an end would go round; 0 where no end is square."""
    edges = chords.faces[triangles][:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2)
    starts, ends = (chords.vertices[edges[:, k]] - centre for k in (0, 1))
    is_square = np.abs((ends - starts) @ axis) < _LEANS * np.linalg.norm(ends - starts, axis=1)
    one, other = (_across(points[is_square], axis) for points in (starts, ends))
    lengths = np.linalg.norm(one, axis=1) * np.linalg.norm(other, axis=1)
    cosines = np.einsum("ij,ij->i", one, other) / np.where(lengths > 0, lengths, 1.0)
    widest = float(np.arccos(np.clip(cosines, -1, 1)).max(initial=0.0))
    return math.floor(2 * math.pi / widest + 0.05) if widest > 0 else 0
