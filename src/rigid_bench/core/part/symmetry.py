"""Which rigid motions lay a part over another, or over itself: equal shapes, and a part's symmetries.

Such a motion keeps the centre of mass and takes each surface to one of the same kind and
size. Two surfaces of the rarest kinds fix it, so that few motions need to be tried, and
each is checked on every surface.
"""

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.faces import Cone, Cylinder, OtherFace, Plane, Sphere, Surface, Torus
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.nearby import Points
from rigid_bench.core.values.frames import Pose, any_normal, turn_of, unit
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]
#: A ball-like solid has at most 60 turns of its own (the icosahedron's).
_MOST_TURNS = 60


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Turn:
    """A turn about an axis through the centre of mass that lays a part over itself."""

    #: (3,) unit
    direction: _Array
    #: 2 for half turns, 4 for quarter turns, ...
    order: int


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Symmetry:
    """The motions that lay a part over itself."""

    #: (3,) mm, the centre of mass: every axis goes through it.
    centre: _Array
    #: (3,) unit: the part may turn about this axis by any angle; None for most parts.
    spin: _Array | None
    #: Any turn about the centre lays it over itself.
    is_ball: bool
    #: Turns by a share of a whole one, highest order first; beside a spin only the half turn across it.
    turns: tuple[Turn, ...]
    #: The single motions, the one that changes nothing first.
    motions: tuple[Pose, ...]


def is_same_shape(a: PartFeatures, b: PartFeatures, *, tolerance: Tolerance) -> bool:
    """Say whether two parts are equal up to a rigid motion; a mirror image is another shape."""
    if abs(a.volume - b.volume) > 1e-5 * abs(a.volume) or abs(a.area - b.area) > 1e-5 * a.area:
        return False
    return next(motions_between(a, b, tolerance=tolerance), None) is not None


def find_symmetry(part: PartFeatures, *, tolerance: Tolerance) -> Symmetry:
    """Return the motions that lay a part over itself.

    Parameters
    ----------
    part
        Its surfaces.
    tolerance
        Its `touch_mm` says when two surfaces are in one place.
    """
    motions = tuple(itertools.islice(motions_between(part, part, tolerance=tolerance), _MOST_TURNS))
    offsets = _Marks(part).offsets
    spin = _spin(part, offsets, tolerance)
    is_ball = (
        bool(part.surfaces)
        and all(isinstance(surface, Sphere) for surface in part.surfaces)
        and not np.any(np.linalg.norm(offsets, axis=1) > tolerance.touch_mm)
    )
    turns = tuple(_turns(motions))
    if spin is not None:
        turns = tuple(turn for turn in turns if abs(float(turn.direction @ spin)) < 1e-6)[:1]
    return Symmetry(centre=part.centroid, spin=None if is_ball else spin, is_ball=is_ball, turns=turns, motions=motions)


def alike_under(motions: Sequence[Pose], positions: _Array, *, tolerance: Tolerance) -> list[list[int]]:
    """Group positions that a part's own motions take to each other.

    Parameters
    ----------
    motions
        As in `Symmetry`.
    positions : (n, 3) float, mm
        The middles of holes, say.
    tolerance
        Its `model_mm` says when two are one place.

    Returns
    -------
    list of list of int
        Groups of two and more.
    """
    if not len(positions):
        return []
    points, group = Points(positions), list(range(len(positions)))
    for motion in motions:
        away, nearest = points.nearest(motion.point(positions))
        for here in np.flatnonzero(away < tolerance.model_mm).tolist():
            first, second = sorted((group[here], group[int(nearest[here])]))
            group = [first if representative == second else representative for representative in group]
    members: dict[int, list[int]] = {}
    for place, representative in enumerate(group):
        members.setdefault(representative, []).append(place)
    return [member for member in members.values() if len(member) > 1]


def motions_between(a: PartFeatures, b: PartFeatures, *, tolerance: Tolerance) -> Iterator[Pose]:
    """Yield the rigid motions that lay part a over part b, surface for surface.

    Parameters
    ----------
    a, b
        Both parts.
    tolerance
        Its `touch_mm` says when two surfaces are in one place.

    Yields
    ------
    Pose
        From a's coordinates to b's. Where the parts may spin about an axis, one for each way along it.
    """
    marks, others = _Marks(a), _Marks(b)
    if len(marks.offsets) != len(others.offsets):
        return
    near = tolerance.touch_mm
    if not len(marks.offsets):  # a mesh without flat faces: only where it lies the same way is known
        if np.abs((a.box - a.centroid) - (b.box - b.centroid)).max() < near:
            yield Pose(np.eye(3), b.centroid - a.centroid)
        return
    kinds = _classes(np.vstack([marks.sizes, others.sizes]), near)
    own, theirs = kinds[: len(marks.offsets)], kinds[len(marks.offsets) :]
    if not np.array_equal(np.sort(own), np.sort(theirs)):
        return
    points, own_points = Points(_keyed(theirs, others.offsets)), Points(_keyed(own, marks.offsets))
    for rotation in _rotations(marks.offsets, own, others.offsets, theirs, near):
        # both ways: several pieces of one surface may share a mark
        there = points.nearest(_keyed(own, marks.offsets @ rotation.T))[0]
        back = own_points.nearest(_keyed(theirs, others.offsets @ rotation))[0]
        if max(np.max(there), np.max(back)) < near:
            yield Pose(rotation, b.centroid - rotation @ a.centroid)


def _keyed(kinds: NDArray[np.int64], offsets: _Array) -> _Array:
    """Return places that are near only where the kinds are equal, (n, 4)."""
    return np.column_stack([kinds * 1e6, offsets])


class _Marks:
    """Points that a motion must take to each other, from the centre of mass, each with what it marks."""

    def __init__(self, part: PartFeatures) -> None:
        points, sizes = [], []
        for surface in part.surfaces:
            kind = _KINDS.index(type(surface))
            for role, point, size in _marks(surface):
                points.append(point)
                sizes.append([10 * kind + role, *size])
        self.offsets = np.array(points).reshape(-1, 3) - part.centroid
        # the distance from the centre is kept by every motion, and tells most marks apart
        self.sizes = np.column_stack([np.array(sizes), np.linalg.norm(self.offsets, axis=1)])


_KINDS = (Plane, Cylinder, Cone, Sphere, Torus, OtherFace)


def _marks(surface: Surface) -> Iterator[tuple[int, _Array, tuple[float, float]]]:
    """Yield points of a surface: what each is, where, and two sizes (mm) that a like surface shares."""
    match surface:
        case Plane():
            side = math.sqrt(surface.area)
            yield 0, surface.point, (side, 0.0)
            yield 1, surface.point + side * surface.normal, (side, 0.0)
        case Cylinder():
            radius = surface.radius * (-1 if surface.is_hollow else 1)
            for end in (surface.point, surface.end):
                yield 0, end, (radius, surface.length)
            if surface.sweep < 2 * math.pi - 1e-6:
                middle = surface.point + surface.length / 2 * surface.direction
                for toward, sweep in surface.arcs:
                    yield 1, middle + surface.radius * toward, (radius, sweep)
        case Cone():
            sizes = (surface.far - surface.near, math.sqrt(surface.area))
            yield 0, surface.apex, sizes
            yield 1, surface.apex + surface.far * surface.direction, sizes
        case Sphere():
            yield 0, surface.point, (surface.radius, math.sqrt(surface.area))
        case Torus():
            for side in (1, -1):
                yield 0, surface.point + side * surface.minor * surface.direction, (surface.major, surface.minor)
        case OtherFace():
            yield 0, surface.point, (math.sqrt(surface.area), 0.0)


def _classes(sizes: _Array, near: float) -> NDArray[np.int64]:
    """Number rows that are equal within a distance, column by column, (n,)."""
    labels = np.zeros(len(sizes), dtype=np.int64)
    for column in sizes.T:
        order = np.argsort(column)
        steps = np.concatenate([[0], np.cumsum(np.diff(column[order]) > near)])
        level = np.empty(len(column), dtype=np.int64)
        level[order] = steps
        _, labels = np.unique(labels * (int(steps.max(initial=0)) + 1) + level, return_inverse=True)
    return labels


def _rotations(
    own: _Array, own_kinds: NDArray[np.int64], theirs: _Array, their_kinds: NDArray[np.int64], near: float
) -> Iterator[_Array]:
    """Yield the turns that take two marks of the rarest kinds to marks of theirs, each turn once."""
    counts = np.bincount(own_kinds)
    far = np.linalg.norm(own, axis=1) > 10 * near
    if not far.any():
        yield np.eye(3)
        return
    rarest = sorted(np.flatnonzero(far).tolist(), key=lambda k: (counts[own_kinds[k]], -float(np.linalg.norm(own[k]))))
    first = rarest[0]
    span = np.linalg.norm(own[first])
    beside = np.linalg.norm(np.cross(own[first], own[rarest]), axis=1) > 10 * near * span
    second = rarest[int(np.argmax(beside))] if beside.any() else None
    seen: list[_Array] = []
    for a in np.flatnonzero(their_kinds == own_kinds[first]).tolist():
        if second is None:
            turns = [_frame(theirs[a]) @ _frame(own[first]).T]
        else:
            apart = np.linalg.norm(own[first] - own[second])
            fits = np.abs(np.linalg.norm(theirs - theirs[a], axis=1) - apart) < 2 * near
            partners = np.flatnonzero((their_kinds == own_kinds[second]) & fits)
            pair = own[[first, second]]
            turns = [_best_turn(pair, theirs[[a, b]]) for b in partners.tolist()]
        for turn in turns:
            if not any(np.abs(turn - other).max() < 1e-6 for other in seen):
                seen.append(turn)
                yield turn


def _best_turn(own: _Array, theirs: _Array) -> _Array:
    """Return the turn that brings vectors, (n, 3), nearest to others (Kabsch, Acta Crystallographica A32, 1976)."""
    left, _, right = np.linalg.svd(theirs.T @ own)
    turn: _Array = left @ np.diag([1.0, 1.0, np.linalg.det(left @ right)]) @ right
    return turn


def _frame(vector: _Array) -> _Array:
    """Return an orthonormal frame, (3, 3), whose first column is along a vector."""
    first = unit(vector)
    second = any_normal(first)
    return np.column_stack([first, second, np.cross(first, second)])


def _spin(part: PartFeatures, offsets: _Array, tolerance: Tolerance) -> _Array | None:
    """Return the axis about which every surface is round, or None."""
    lengths = np.linalg.norm(offsets, axis=1)
    if not len(lengths) or lengths.max() < tolerance.touch_mm:
        return None
    axis = unit(offsets[int(np.argmax(lengths))])
    if np.linalg.norm(np.cross(offsets, axis), axis=1).max() > tolerance.touch_mm:
        return None
    whole = 2 * math.pi - 1e-6
    for surface in part.surfaces:
        is_round = (
            (isinstance(surface, Cylinder | Cone | Torus) and surface.sweep > whole)
            or isinstance(surface, Sphere)
            or (isinstance(surface, Plane) and _is_bounded_by_circles(part, surface))
        )
        if not is_round:
            return None
    return axis


def _is_bounded_by_circles(part: PartFeatures, plane: Plane) -> bool:
    beyond = [part.surfaces[other] for _, other in part.edges.neighbours(part.numbers[plane.faces])]
    return all(not isinstance(face, Plane | OtherFace) for face in beyond)


def _turns(motions: Sequence[Pose]) -> Iterator[Turn]:
    """Yield the axes of turns that are not the one that changes nothing, with their orders."""
    axes: list[tuple[_Array, int]] = []
    for motion in motions:
        vector = turn_of(motion.rotation)
        angle = float(np.linalg.norm(vector))
        if angle < 1e-6:
            continue
        for place, (axis, count) in enumerate(axes):
            if abs(float(axis @ vector)) > angle * (1 - 1e-9):
                axes[place] = axis, count + 1
                break
        else:
            axes.append((vector / angle, 2))
    for axis, count in sorted(axes, key=lambda axis: -axis[1]):
        yield Turn(direction=axis, order=count)
