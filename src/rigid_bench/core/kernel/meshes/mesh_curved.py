"""What the pieces of a mesh are: flats, round walls, cones, balls and rings.

A cone's chords lean alike from its axis: that of a flat, of a round wall, or one of its own. A ball's and a ring's lie
side by side without a kink, and their corners on one ball or ring. What is left is flat where it is large or lies alone
between kinks, and has no name where it carries on from chord to chord.
"""

import math
from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from rigid_bench.core.kernel.meshes.chords import Chords, arcs_round, corner_angles, distinct_ways, thickness
from rigid_bench.core.kernel.meshes.mesh_rings import (
    BULGE,
    DIGITS,
    FEW,
    LEAST_LEAN,
    ROUND,
    find_ring,
    is_crest,
    is_one_ring,
)
from rigid_bench.core.kernel.meshes.mesh_rounds import round_walls
from rigid_bench.core.part.faces import Cone, Cylinder, OtherFace, Plane, Sphere, Surface, Torus
from rigid_bench.core.part.recognition.facets import LEAST_FACETS
from rigid_bench.core.values.frames import any_normal

_Array = NDArray[np.float64]
_Ints = NDArray[np.int64]
#: A flat is at least this share of the area, and so many times as large as all that it runs into.
_FLAT_SHARE, _FLAT_BESIDE = 2e-3, 4.0
#: sin of the angle by which a cone's chords lean from its axis at most: more is a flat.
_MOST_LEAN = 0.9995
#: Chords of one cone lean alike to so much, where they are twisted and where they are not.
_ALIKE = (0.1, 2e-3)
#: Chords that make a cone at least, and a ball or ring; rad that a cone goes round at least.
_FEWEST, _FEWEST_CURVED, _LEAST_SWEEP = 3, 6, math.radians(20)
#: rad, and a share of the area: what carries on so smoothly and so largely makes a cone a slice of a free shape.
_SMOOTH, _CARRIES_ON = math.radians(25), 0.3
#: Directions that are tried for cones, and axes for rings; mm: axes that are this near are one.
_MOST_WAYS, _MOST_AXES, _SAME_AXIS = 12, 40, 1e-3
#: Normals that reach no further out of one plane are those of a wall or a cone.
_STRAIGHT = 0.02
#: A crease so many times as long as most is of a wall.
_LONG = 3.0
#: Groups of chords about one direction that are tried as cones, the largest first.
_MOST_CONES = 200
#: Heights at which a cone's corners stand, where they are few.
_MOST_LEVELS = 50
#: A cone that begins nearer to its apex, as a share of its length, has a point.
_POINT = 1e-4


def name_pieces(chords: Chords) -> list[Surface]:
    """Name the pieces of a mesh.

    Parameters
    ----------
    chords
        The flat pieces of the mesh.

    Returns
    -------
    list of Surface
        Flats, round walls, cones, balls, rings, and other faces for the rest: all triangles, each once.
    """
    slack = DIGITS * float(np.linalg.norm(np.ptp(chords.vertices, axis=0)))
    left = np.ones(len(chords.triangles), dtype=bool)
    # a ball's and a ring's many creases are short, and each looks like a wall's: they are taken out before
    walls = round_walls(chords, least_mm=_LONG * _usual_crease(chords))
    for wall in walls:
        left[_pieces(chords, wall)] = False
    flats = _sure_flats(chords, left)
    left[flats] = False
    curved: list[Surface] = _balls_and_rings(chords, left, _axes(walls), slack)
    for wall in (more := round_walls(chords, besides=set(np.flatnonzero(~left).tolist()))):
        left[_pieces(chords, wall)] = False
    walls += more
    ways = distinct_ways([*_ways(chords, flats, walls), *_cone_ways(chords, left)])
    curved += _with_slices(chords, left, walls, ways, slack)
    curved, flats = _with_whole_rings(chords, curved, flats, slack)
    planes, others = [_plane(chords, chord) for chord in flats], list[OtherFace]()
    least = _FLAT_SHARE * float(chords.areas.sum())
    for group in _smooth_groups(chords, left, fewest=1):
        is_flat = (chords.areas[group] > least) | (len(group) == 1)
        planes += [_plane(chords, chord) for chord in group[is_flat].tolist()]
        if not is_flat.all():
            others.append(_other(chords, group[~is_flat]))
    rest = sorted((*curved, *others), key=lambda surface: surface.faces)
    return [*sorted(planes, key=lambda plane: plane.faces), *rest]


def _usual_crease(chords: Chords) -> float:
    """Return the median length of a crease, mm."""
    creases = chords.creases()
    if not len(creases):
        return 0.0
    crease = chords.ends[creases[len(creases) // 2]]  # they are in the order of their lengths
    return float(np.linalg.norm(np.ptp(chords.vertices[crease], axis=0)))


def _balls_and_rings(
    chords: Chords, left: NDArray[np.bool_], axes: Sequence[tuple[_Array, _Array]], slack: float
) -> list[Surface]:
    """Return the balls and rings among pieces left over; `left` is without them then."""
    surfaces: list[Surface] = []
    for group in _smooth_groups(chords, left):
        if thickness(chords.normals[group]) < _STRAIGHT:
            continue  # a wall's normals lie in one plane, and so do a cone's ends, though their corners fit a ball
        surface = _sphere(chords, group, slack) or find_ring(chords, group, axes, slack)
        if surface is not None:
            left[group] = False
            surfaces.append(surface)
    return surfaces


def _with_whole_rings(
    chords: Chords, curved: list[Surface], flats: list[int], slack: float
) -> tuple[list[Surface], list[int]]:
    """Return the curved surfaces with the pieces of one ring joined, and the flats without those that are its crests.

    The last row of triangles on top of a ring lies in one plane all round, and parts its two sides.
    """
    left = [surface for surface in curved if isinstance(surface, Torus)]
    while left:
        ring = left[0]
        sides = [own for own in left if own is ring or is_one_ring(ring, own)]
        left = [own for own in left if own not in sides]
        crests = [chord for chord in flats if is_crest(chords, chord, ring, slack)]
        if len(sides) + len(crests) == 1:
            continue
        pieces = np.unique(np.concatenate([*(_pieces(chords, own) for own in sides), crests]).astype(np.int64))
        joined = chords.pairs[np.isin(chords.pairs, pieces).all(axis=1)]
        axis = (ring.point, ring.direction)
        whole = [find_ring(chords, group, [axis], slack) for group in _groups(chords, pieces, joined, 1)]
        if None not in whole:
            curved = [own for own in curved if own not in sides] + [own for own in whole if own]
            flats = [chord for chord in flats if chord not in crests]
    return curved, flats


def _with_slices(
    chords: Chords, left: NDArray[np.bool_], walls: Sequence[Cylinder], ways: Sequence[_Array], slack: float
) -> list[Surface]:
    """Return cones, balls, rings and the walls that are no slices of these; `left` is without their pieces then."""
    cones = list(_cones(chords, left, ways, slack))
    straight: list[Cylinder | Cone] = [*walls, *cones]
    for cone in cones:
        left[_pieces(chords, cone)] = False
    curved: list[Surface] = []
    axes = _axes(straight)
    slices = _maybe_slices(chords, left, straight)
    # first all that may be slices of a ball or ring, then fewer: what goes round may be a rod's or a cone's own
    for kinds in ((Cylinder, Cone), (Cone,), ()):
        taken = [own for own in slices if isinstance(own, kinds) or not _goes_round(own)]
        if not kinds:  # what is left carries on in a free shape, or stands for itself
            taken = [own for own in slices if _carries_on(chords, own, left, slices)]
            straight = [own for own in straight if own not in taken]
        for own in slices:
            left[_pieces(chords, own)] = own in taken
        curved += _balls_and_rings(chords, left, axes, slack)
        gone = {face for surface in curved for face in surface.faces}
        slices = [own for own in slices if own.faces[0] not in gone]
    return [*curved, *(own for own in straight if own.faces[0] not in gone)]


def _pieces(chords: Chords, surface: Surface) -> _Ints:
    pieces: _Ints = np.unique(chords.owner[list(surface.faces)])
    return pieces


def _goes_round(surface: Cylinder | Cone) -> bool:
    return surface.sweep > 2 * math.pi - 1e-6


def _axes(straight: Sequence[Cylinder | Cone]) -> list[tuple[_Array, _Array]]:
    """Return the axes of walls and cones, each once, those of the largest first: a point and a direction."""
    axes: list[tuple[_Array, _Array]] = []
    for own in sorted(straight, key=lambda own: -own.area):
        point = own.point if isinstance(own, Cylinder) else own.apex
        if not any(
            abs(float(own.direction @ direction)) > 1 - 1e-9
            and np.linalg.norm(np.cross(point - foot, direction)) < _SAME_AXIS
            for foot, direction in axes
        ):
            axes.append((point, own.direction))
        if len(axes) == _MOST_AXES:
            break
    return axes


def _maybe_slices(
    chords: Chords, left: NDArray[np.bool_], straight: Sequence[Cylinder | Cone]
) -> list[Cylinder | Cone]:
    """Return walls and cones that carry on, at a third of their chords, in what is no flat: as a ball's slices do."""
    own = [_pieces(chords, surface) for surface in straight]
    is_open = left.copy()
    for group in own:
        is_open[group] = True
    return [
        surface
        for surface, group in zip(straight, own, strict=True)
        if 3 * len(_beyond(chords, group, is_open)) >= len(group)
    ]


def _beyond(chords: Chords, group: _Ints, is_open: NDArray[np.bool_]) -> list[int]:
    """List the pieces, as often as they do so, that run into a group without a kink."""
    inside = set(group.tolist())
    return [
        other
        for chord in inside
        for other, _, angle in chords.beside(chord)
        if angle < _SMOOTH and is_open[other] and other not in inside
    ]


def _carries_on(
    chords: Chords, own: Cylinder | Cone, left: NDArray[np.bool_], slices: Sequence[Cylinder | Cone]
) -> bool:
    """Say whether what runs into a wall or cone without a kink is about as large as itself."""
    is_open = left.copy()
    for surface in slices:
        is_open[_pieces(chords, surface)] = True
    beyond = np.unique(_beyond(chords, _pieces(chords, own), is_open)).astype(int)
    return bool(chords.areas[beyond].sum() > _CARRIES_ON * own.area)


def _sure_flats(chords: Chords, left: NDArray[np.bool_]) -> list[int]:
    """Return the large pieces that only smaller ones run into, the largest first."""
    least = _FLAT_SHARE * float(chords.areas.sum())
    flats: dict[int, None] = {}
    for chord in np.argsort(-chords.areas, kind="stable").tolist():
        if chords.areas[chord] <= least:
            break
        beside = (other for other, _, _ in chords.beside(chord) if left[other] and other not in flats)
        greatest = max((float(chords.areas[other]) for other in beside), default=0.0)
        if left[chord] and chords.areas[chord] > _FLAT_BESIDE * greatest:
            flats[chord] = None
    return list(flats)


def _ways(chords: Chords, flats: Sequence[int], walls: Sequence[Cylinder]) -> list[_Array]:
    """Return the directions of round walls and flats, each once, the largest first."""
    sized = [(wall.area, wall.direction) for wall in walls] + [(chords.areas[k], chords.normals[k]) for k in flats]
    return distinct_ways(way for _, way in sorted(sized, key=lambda own: -own[0]))[:_MOST_WAYS]


def _cone_ways(chords: Chords, left: NDArray[np.bool_]) -> list[_Array]:
    """Return the directions to which all pieces of a smooth group lean alike: cones about an axis of their own."""
    ways = []
    for group in _smooth_groups(chords, left)[:_MOST_WAYS]:
        normals = chords.normals[group]
        middle = np.average(normals, axis=0, weights=chords.areas[group])
        way: _Array = np.linalg.svd(normals - middle, full_matrices=False)[2][-1]
        leans = normals @ way
        if np.ptp(leans) < 2 * _ALIKE[0] and LEAST_LEAN < abs(float(leans.mean())) < _MOST_LEAN:
            ways.append(_cone_way(chords, group, way, float(leans.mean())))
    return ways


def _cone_way(chords: Chords, group: _Ints, way: _Array, lean: float) -> _Array:
    """Return the direction of the cone that comes nearest to the corners of pieces, from a first guess.

    Pieces between ends that are not square to the axis are twisted, and lean alike only on the whole.
    """
    normals, middles = chords.normals[group], chords.middles_of(group)
    # the plane of each piece goes through the apex
    apex = np.linalg.lstsq(normals, np.einsum("ij,ij->i", normals, middles), rcond=None)[0]
    corners = chords.corners(chords.triangles_of(group))
    corners = corners[:: max(1, len(corners) // FEW)]
    way = way if float((corners.mean(axis=0) - apex) @ way) > 0 else -way

    def off(guess: _Array) -> _Array:
        direction = guess[3:6] / np.linalg.norm(guess[3:6])
        along = (corners - guess[:3]) @ direction
        beside = np.linalg.norm(corners - guess[:3] - np.outer(along, direction), axis=1)
        distances: _Array = beside * math.cos(guess[6]) - along * math.sin(guess[6])
        return distances

    fitted = least_squares(off, np.concatenate([apex, way, [math.asin(min(abs(lean), 1.0))]])).x[3:6]
    direction: _Array = fitted / np.linalg.norm(fitted)
    return direction


def _groups(chords: Chords, members: _Ints, pairs: _Ints, fewest: int) -> list[_Ints]:
    """Return the groups, of so many at least, into which pairs (k, 2) of pieces join some of them; largest first."""
    number = np.full(len(chords.triangles), -1, dtype=np.int64)
    number[members] = np.arange(len(members))
    ends = number[pairs.reshape(-1, 2)]
    graph = coo_array((np.ones(len(ends)), (ends[:, 0], ends[:, 1])), shape=(len(members), len(members)))
    _, labels = connected_components(graph, directed=False)
    is_enough = np.bincount(labels)[labels] >= fewest
    members, labels = members[is_enough], labels[is_enough]
    order = np.argsort(labels, kind="stable")
    groups = np.split(members[order], np.flatnonzero(np.diff(labels[order])) + 1)
    return sorted((group for group in groups if len(group)), key=lambda group: -len(group))


def _smooth_groups(chords: Chords, left: NDArray[np.bool_], *, fewest: int = _FEWEST_CURVED) -> list[_Ints]:
    """Return the groups of pieces left over that run into each other without a kink."""
    pairs = chords.pairs[left[chords.pairs].all(axis=1)]
    return _groups(chords, np.flatnonzero(left), pairs, fewest) if left.any() else []


def _cones(chords: Chords, left: NDArray[np.bool_], ways: Sequence[_Array], slack: float) -> Iterator[Cone]:
    """Yield the cones about each direction, and what looks like them."""
    free = left.copy()
    for way in ways:
        leans = chords.normals @ way
        a, b = chords.pairs.T
        apart = np.abs(leans[a] - leans[b])
        for alike in _ALIKE:
            may = free & (np.abs(leans) > LEAST_LEAN) & (np.abs(leans) < _MOST_LEAN)
            joined = chords.pairs[may[a] & may[b] & (apart < alike)]
            groups = _groups(chords, np.flatnonzero(may), joined, _FEWEST) if may.any() else []
            for group in groups[:_MOST_CONES]:
                cone = _cone(chords, group, way, slack)
                if cone is not None:
                    free[group] = False
                    yield cone


def _cone(chords: Chords, group: _Ints, way: _Array, slack: float) -> Cone | None:
    """Fit a cone about a direction through the corners of its chords; None where they lie on none."""
    triangles = chords.triangles_of(group)
    corners = chords.corners(triangles)
    x = any_normal(way)
    y = np.cross(way, x)
    flat, along = corners @ np.array([x, y]).T, corners @ way
    centre = _centre(flat, along, slack)
    radii = np.linalg.norm(flat - centre, axis=1)
    slope, offset = np.polyfit(along, radii, 1)
    if abs(slope) < LEAST_LEAN or np.abs(slope * along + offset - radii).max() > ROUND * radii.max() + slack:
        return None
    direction = way * np.sign(slope)
    apex = centre @ np.array([x, y]) - offset / slope * way
    distances = corners @ direction - float(apex @ direction)
    near, far = float(distances.min()), float(distances.max())
    count, arcs = arcs_round(corner_angles((flat - centre)[radii > _POINT * radii.max()]), x, y)
    sweep = sum(sweep for _, sweep in arcs)
    if count < LEAST_FACETS or sweep < _LEAST_SWEEP or near < -_POINT * far:
        return None
    away = chords.middles_of(group) - apex
    away -= np.outer(away @ direction, direction)
    return Cone(
        faces=tuple(triangles.tolist()),
        apex=apex,
        direction=direction,
        near=near if near > _POINT * far else 0.0,
        far=far,
        half_angle=math.atan(abs(slope)),
        is_hollow=not chords.looks_out(group, away),
        sweep=sweep,
        area=float(chords.areas[group].sum()),
    )


def _centre(flat: _Array, along: _Array, slack: float) -> _Array:
    """Return the point, (2,), about which corners at one height stand equally far away."""
    order = np.argsort(along)
    level = np.empty(len(along), dtype=np.int64)
    level[order] = np.concatenate([[0], np.cumsum(np.diff(along[order]) > 10 * slack)])
    if level.max() + 1 <= min(len(along) // 3, _MOST_LEVELS):
        heights = np.eye(int(level.max()) + 1)[level]
    else:  # of a cone that is cut askew: |p - c|^2 = (k z + m)^2
        z = along - along.mean()
        heights = np.column_stack([z**2, z, np.ones(len(z))])
    solution = np.linalg.lstsq(np.column_stack([2 * flat, heights]), (flat**2).sum(axis=1), rcond=None)[0]
    centre: _Array = solution[:2]
    return centre


def _sphere(chords: Chords, group: _Ints, slack: float) -> Sphere | None:
    """Fit a ball through the corners of pieces; None where they lie on none."""
    triangles = chords.triangles_of(group)
    corners = chords.corners(triangles)
    rows = np.column_stack([2 * corners, np.ones(len(corners))])
    solution, _, rank, _ = np.linalg.lstsq(rows, (corners**2).sum(axis=1), rcond=None)
    middle = solution[:3]
    radius = math.sqrt(max(float(solution[3] + middle @ middle), 0.0))
    off = np.abs(np.linalg.norm(corners - middle, axis=1) - radius)
    if rank < 4 or off.max() > min(ROUND * radius, BULGE * thickness(corners)) + slack:
        return None
    return Sphere(
        faces=tuple(triangles.tolist()),
        point=middle,
        radius=radius,
        is_hollow=not chords.looks_out(group, chords.middles_of(group) - middle),
        area=float(chords.areas[group].sum()),
    )


def _plane(chords: Chords, chord: int) -> Plane:
    triangles = chords.triangles[chord]
    weights = chords.weights[triangles]
    return Plane(
        faces=tuple(sorted(triangles.tolist())),
        point=(chords.middles[triangles] * weights[:, None]).sum(axis=0) / weights.sum(),
        normal=chords.normals[chord],
        area=float(weights.sum()),
    )


def _other(chords: Chords, group: _Ints) -> OtherFace:
    triangles = chords.triangles_of(group)
    weights = chords.weights[triangles]
    middle = (chords.middles[triangles] * weights[:, None]).sum(axis=0) / max(float(weights.sum()), 1e-12)
    return OtherFace(faces=tuple(triangles.tolist()), kind="other", point=middle, area=float(weights.sum()))
