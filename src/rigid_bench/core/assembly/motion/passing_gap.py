"""How near parts come that slide past each other, as their shadows along the way say it.

Two faces come no nearer on a straight way than their shadows across it are apart: a flat along the way casts a line, a
round wall along it a circle, a flat square to it its own outline, and of anything else the box is taken.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.contact.clearance import PlacedSolid
from rigid_bench.core.part.edges import CIRCLE, LINE
from rigid_bench.core.part.face_boxes import face_box
from rigid_bench.core.part.faces import Cylinder, Plane
from rigid_bench.core.values.frames import any_normal, cross, unit

_Array = NDArray[np.float64]
_Ints = NDArray[np.int64]
#: Cosines that are rounding.
_ALONG = 1e-9
#: Faces about as near as the nearest (mm); of the stretch in which two pass each other, this share lies before a place.
_ABOUT, _WITHIN = 1e-6, 1e-3


@dataclass(frozen=True, slots=True, kw_only=True)
class Passed:
    """How near two parts come at least on a straight way, however far they go."""

    #: mm: they come no nearer.
    least_mm: float
    #: mm along the way: where they may come so near, the nearest such place to where they stand.
    amount: float


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Shadow:
    """What the faces of a part cast across a way, mm."""

    #: (s, 2, 2) ends of straight lines, and whose they are, (s,).
    lines: _Array
    line_faces: _Ints
    #: (c, 3) middles and radii of circles, and whose they are, (c,).
    circles: _Array
    circle_faces: _Ints
    #: (n, 2) how far each face reaches along the way.
    along: _Array
    #: Outlines of what is covered: (k, 2, 2) lines each.
    covered: list[_Array]


def passed(moving: PlacedSolid, other: PlacedSolid, direction: _Array) -> Passed | None:
    """Say how near a part comes at least to another on a straight way, however far it goes.

    Parameters
    ----------
    moving, other
        Where they stand.
    direction
        (3,) unit, in the world.

    Returns
    -------
    Passed or None
        None where their shadows alone do not say it: they lie on each other, or are cast by a mesh.
    """
    if moving.part.is_mesh or other.part.is_mesh:
        return None
    axes = _across(direction, (moving, other))
    one, two = _shadow(moving, axes), _shadow(other, axes)
    if one is None or two is None or _covers(one, two) or _covers(two, one):
        return None
    # each list of distances with the faces of both that are as far apart
    apart = [
        (_between_lines(one.lines, two.lines), one.line_faces, two.line_faces),
        (_to_circles(one.lines, two.circles), one.line_faces, two.circle_faces),
        (_to_circles(two.lines, one.circles).T, one.circle_faces, two.line_faces),
        (_between_circles(one.circles, two.circles), one.circle_faces, two.circle_faces),
    ]
    least = min(float(distances.min(initial=np.inf)) for distances, _, _ in apart)
    if not 0 < least < np.inf:
        return None
    amounts = []
    for distances, own, others in apart:
        rows, columns = np.nonzero(distances < least + _ABOUT)
        # the first comes to stand beside the second, and leaves it
        ends = two.along[others[columns]] - one.along[own[rows]][:, ::-1]
        inset = _WITHIN * (ends[:, 1] - ends[:, 0])
        amounts += np.clip(0.0, ends[:, 0] + inset, ends[:, 1] - inset).tolist()
    return Passed(least_mm=least, amount=min(amounts, key=abs))


def _across(direction: _Array, solids: Sequence[PlacedSolid]) -> _Array:
    """Return two directions across a way and the way, (3, 3) in rows: square to the largest flat along it."""
    flats = [(plane.area, solid.pose.direction(plane.normal)) for solid in solids for plane in solid.part.planes]
    beside = [(area, normal) for area, normal in flats if abs(float(normal @ direction)) < _ALONG]
    first = max(beside, key=lambda flat: flat[0])[1] if beside else any_normal(direction)
    first = unit(first - direction * float(first @ direction))
    return np.array([first, cross(direction, first), direction])


def _shadow(solid: PlacedSolid, axes: _Array) -> _Shadow | None:
    """Return the shadow of a part; None where a flat square to the way has an outline of other than lines and arcs."""
    turned, origin = axes @ solid.pose.rotation, axes @ solid.pose.position
    edges, lines, circles = solid.part.edges, list[tuple[int, _Array]](), list[tuple[int, _Array]]()
    along, covered = np.empty((len(solid.part.surfaces), 2)), list[_Array]()
    for number, surface in enumerate(solid.part.surfaces):
        box = face_box(solid.part, number, turned) + origin
        along[number] = box[:, 2]
        normal = turned @ surface.normal if isinstance(surface, Plane) else None
        if isinstance(surface, Cylinder) and abs(float(turned[2] @ surface.direction)) > 1 - _ALONG:
            circles.append((number, np.append((turned @ surface.point + origin)[:2], surface.radius)))
        elif normal is not None and abs(normal[2]) < _ALONG:
            tangent = np.array([-normal[1], normal[0], 0.0])
            foot = normal * float((edges.starts[edges.neighbours(number)[0][0]] @ turned.T + origin) @ normal)
            reach = edges.extent(number, tangent @ turned) + tangent @ origin
            lines.append((number, (foot + np.outer(reach, tangent))[:, :2]))
        elif normal is not None and abs(normal[2]) > 1 - _ALONG:
            own = np.array([edge for edge, _ in edges.neighbours(number)], dtype=np.int64)
            straight, round_edges = own[edges.kinds[own] == LINE], own[edges.kinds[own] == CIRCLE]
            if len(straight) + len(round_edges) < len(own):
                return None
            ends = np.stack([edges.starts[straight], edges.ends[straight]], axis=1)
            lines += [(number, line) for line in (ends @ turned.T + origin)[:, :, :2]]
            middles, radii = edges.centres(round_edges)
            rounds = np.column_stack([(middles @ turned.T + origin)[:, :2], radii])
            circles += [(number, circle) for circle in rounds]
            covered.append((np.stack(edges.polylines(number), axis=1) @ turned.T + origin)[:, :, :2])
        else:
            corners = np.column_stack([box[[0, 1, 1, 0], 0], box[[0, 0, 1, 1], 1]])
            sides = np.stack([corners, np.roll(corners, -1, axis=0)], axis=1)
            lines += [(number, side) for side in sides]
            covered.append(sides)
    return _Shadow(
        lines=np.array([line for _, line in lines]).reshape(-1, 2, 2),
        line_faces=np.array([face for face, _ in lines], dtype=np.int64),
        circles=np.array([circle for _, circle in circles]).reshape(-1, 3),
        circle_faces=np.array([face for face, _ in circles], dtype=np.int64),
        along=along,
        covered=covered,
    )


def _covers(one: _Shadow, two: _Shadow) -> bool:
    """Say whether anything of a shadow lies within what another covers; what only crosses its outline need not."""
    points = np.vstack([two.lines[:, 0], two.circles[:, :2] + two.circles[:, 2:] * [1.0, 0.0]])
    for pieces in one.covered:
        start, along = pieces[None, :, 0] - points[:, None], pieces[:, 1] - pieces[:, 0]
        crossed = (start[..., 1] > 0) != (start[..., 1] + along[:, 1] > 0)
        beyond = start[..., 0] * along[:, 1] > start[..., 1] * along[:, 0]
        right = crossed & (beyond == (along[:, 1] > 0))
        if np.any(np.count_nonzero(right, axis=1) % 2):
            return True
    return False


def _between_lines(one: _Array, two: _Array) -> _Array:
    """Return how far straight lines, (n, 2, 2) and (m, 2, 2), are apart, (n, m); 0 where they cross."""
    ends = [_to_points(one, two[:, k]) for k in (0, 1)] + [_to_points(two, one[:, k]).T for k in (0, 1)]
    sides = [_side(one[:, None], two[None, :, k]) for k in (0, 1)] + [_side(two[None], one[:, None, k]) for k in (0, 1)]
    is_crossed = (sides[0] * sides[1] < 0) & (sides[2] * sides[3] < 0)
    return np.where(is_crossed, 0.0, np.min(ends, axis=0))


def _side(lines: _Array, points: _Array) -> _Array:
    """Return on which side of lines points lie, by its sign."""
    along, away = lines[..., 1, :] - lines[..., 0, :], points - lines[..., 0, :]
    side: _Array = along[..., 0] * away[..., 1] - along[..., 1] * away[..., 0]
    return side


def _to_points(lines: _Array, points: _Array) -> _Array:
    """Return how far straight lines, (n, 2, 2), are from points, (m, 2): (n, m)."""
    along, away = (lines[:, 1] - lines[:, 0])[:, None], points[None] - lines[:, None, 0]
    shares = np.clip((away * along).sum(axis=2) / np.maximum((along**2).sum(axis=2), 1e-12), 0.0, 1.0)
    return np.asarray(np.linalg.norm(away - shares[:, :, None] * along, axis=2))


def _to_circles(lines: _Array, circles: _Array) -> _Array:
    """Return how far straight lines, (n, 2, 2), are from circles, (m, 3): (n, m); 0 where they cross."""
    nearest = _to_points(lines, circles[:, :2])
    farthest = np.linalg.norm(lines[:, None] - circles[None, :, None, :2], axis=3).max(axis=2)
    return np.asarray(np.maximum(np.maximum(nearest - circles[:, 2], circles[:, 2] - farthest), 0.0))


def _between_circles(one: _Array, two: _Array) -> _Array:
    """Return how far circles, (n, 3) and (m, 3), are apart, (n, m), beside or in each other; 0 where they cross."""
    apart = np.linalg.norm(one[:, None, :2] - two[None, :, :2], axis=2)
    radius, other = one[:, None, 2], two[None, :, 2]
    return np.asarray(np.maximum(np.maximum(apart - radius - other, np.abs(radius - other) - apart), 0.0))
