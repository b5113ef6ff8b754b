"""Lay one part over another: the rigid motion under which most face area agrees.

A wrong dimension must not spoil the match, so faces vote for the motion; nothing is
fitted. Directions of the two parts give the candidate rotations, offsets of faces and
axes the candidate shifts, and every candidate is scored by the area that it matches.
"""

import itertools
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.symmetry import motions_between
from rigid_bench.core.values.frames import Pose, any_normal, unit
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]

#: Directions, shifts along one axis, and shifts of one rotation that are tried at most:
#: enough for any part a class models, and bounded.
_DIRECTIONS, _SHIFTS, _TRIED = 12, 4, 8
#: A cube has 24 equal positions; more than this only unlike parts have.
_MOST_EQUAL = 48
#: What a face adds that has the right direction but not the right place: enough to tell
#: a part from its flipped self, never enough to outvote a face that fits.
_SOFT = 0.2
#: Of parts with more faces so many largest ones say first which candidates are worth a closer look:
#: those whose likeness by these is this near to the best.
_LARGEST, _ROUGH = 30, 0.1


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Registration:
    """One way in which the reference lies over a part."""

    #: From the reference's coordinates to the part's.
    pose: Pose
    #: Share of the face area that agrees, 0 to 1.
    likeness: float


@dataclass(frozen=True, slots=True, eq=False)
class _Faces:
    """A part's faces as arrays, for scoring many candidates quickly."""

    plane_points: _Array
    plane_normals: _Array
    plane_areas: _Array
    axis_points: _Array
    axis_directions: _Array
    axis_middles: _Array
    radii: _Array
    hollow: NDArray[np.bool_]
    axis_areas: _Array
    other_points: _Array
    other_areas: _Array
    area: float
    size: float
    centroid: _Array


def register(
    reference: PartFeatures, part: PartFeatures, *, tolerance: Tolerance, as_good: float = 1e-3
) -> tuple[Registration, ...]:
    """Find how a reference lies over a part.

    Parameters
    ----------
    reference, part
        Features of both, each in its own coordinates.
    tolerance
        Its `model_mm` says when two faces are in one place.
    as_good
        By how much less likeness a way is still as good as the best.

    Returns
    -------
    tuple of Registration
        The best one first, and with it all that are as good: a symmetric part has several.
    """
    equal = itertools.islice(motions_between(reference, part, tolerance=tolerance), _MOST_EQUAL)
    # the least turned one first: a symmetric part that was not moved is taken as it stands
    if exact := sorted(equal, key=lambda pose: -float(np.trace(pose.rotation))):
        return tuple(Registration(pose=pose, likeness=1.0) for pose in exact)
    ref, own = _arrays(reference), _arrays(part)
    poses = [pose for rotation in _rotations(ref, own) for pose in _shifted(rotation, ref, own, tolerance)]
    candidates = [
        Registration(pose=pose, likeness=_likeness(ref, own, pose, tolerance))
        for pose in _promising(poses, ref, own, tolerance)
    ]
    candidates.sort(key=lambda candidate: -candidate.likeness)
    best: list[Registration] = []
    for candidate in candidates:
        if candidate.likeness < candidates[0].likeness - as_good or len(best) == _MOST_EQUAL:
            break
        if not any(candidate.pose.is_close(other.pose, mm=tolerance.model_mm, rad=1e-3) for other in best):
            best.append(candidate)
    return tuple(best)


def _promising(poses: list[Pose], ref: _Faces, own: _Faces, tolerance: Tolerance) -> list[Pose]:
    """Return the poses under which the largest faces agree about best: the others need no closer look."""
    if max(len(ref.plane_areas), len(ref.radii)) <= _LARGEST:
        return poses
    few, few_own = _largest(ref), _largest(own)
    rough = np.array([_likeness(few, few_own, pose, tolerance) for pose in poses])
    return [poses[k] for k in np.flatnonzero(rough > rough.max(initial=0.0) - _ROUGH)]


def _largest(faces: _Faces) -> _Faces:
    planes = np.argsort(-faces.plane_areas)[:_LARGEST]
    walls = np.argsort(-faces.axis_areas)[:_LARGEST]
    return replace(
        faces,
        plane_points=faces.plane_points[planes],
        plane_normals=faces.plane_normals[planes],
        plane_areas=faces.plane_areas[planes],
        axis_points=faces.axis_points[walls],
        axis_directions=faces.axis_directions[walls],
        axis_middles=faces.axis_middles[walls],
        radii=faces.radii[walls],
        hollow=faces.hollow[walls],
        axis_areas=faces.axis_areas[walls],
    )


def _arrays(part: PartFeatures) -> _Faces:
    def stack(rows: list[_Array]) -> _Array:
        return np.array(rows).reshape(-1, 3)

    walls = part.cylinders
    others = [(other.point, other.area) for other in part.others]
    others += [(cone.apex, cone.area) for cone in part.cones]
    return _Faces(
        plane_points=stack([plane.point for plane in part.planes]),
        plane_normals=stack([plane.normal for plane in part.planes]),
        plane_areas=np.array([plane.area for plane in part.planes]),
        axis_points=stack([wall.point for wall in walls]),
        axis_directions=stack([wall.direction for wall in walls]),
        axis_middles=stack([wall.point + wall.length / 2 * wall.direction for wall in walls]),
        radii=np.array([wall.radius for wall in walls]),
        hollow=np.array([wall.is_hollow for wall in walls], dtype=bool),
        axis_areas=np.array([wall.area for wall in walls]),
        other_points=stack([point for point, _ in others]),
        other_areas=np.array([area for _, area in others]),
        area=part.area,
        size=part.size,
        centroid=part.centroid,
    )


@lru_cache(maxsize=8)
def _directions(faces: _Faces) -> list[_Array]:
    """List a part's directions, those with most area first; an axis counts both ways."""
    vectors = np.vstack([faces.plane_normals, faces.axis_directions, -faces.axis_directions])
    weights = np.concatenate([faces.plane_areas, faces.axis_areas, faces.axis_areas])
    directions: list[_Array] = []
    sums: list[float] = []
    for vector, weight in zip(vectors, weights, strict=True):
        for place, other in enumerate(directions):
            if vector @ other > 1 - 1e-7:
                sums[place] += weight
                break
        else:
            directions.append(vector)
            sums.append(float(weight))
    return [directions[k] for k in np.argsort(sums)[::-1][:_DIRECTIONS]]


def _rotations(ref: _Faces, own: _Faces) -> Iterator[_Array]:
    """Yield the rotations that carry two leading directions of the reference onto two of the part."""
    wanted, offered = _directions(ref), _directions(own)
    seen: list[_Array] = [np.eye(3)]
    yield seen[0]
    for first, second in _leading_pairs(wanted):
        for a, b in itertools.product(offered, offered):
            if second is None:
                turned = _frame(a, any_normal(a)) @ _frame(first, any_normal(first)).T
            elif abs(a @ b - first @ second) < 1e-2 and abs(a @ b) < 0.999:
                turned = _frame(a, b) @ _frame(first, second).T
            else:
                continue
            if not any(np.abs(turned - other).max() < 1e-4 for other in seen):
                seen.append(turned)
                yield turned


def _leading_pairs(wanted: list[_Array]) -> list[tuple[_Array, _Array | None]]:
    """Choose up to two pairs of directions to line up, square ones first."""
    if not wanted:
        return []
    pairs = [(a, b) for a, b in itertools.combinations(wanted, 2) if abs(a @ b) < 0.999]
    if not pairs:
        return [(wanted[0], None)]
    pairs.sort(key=lambda pair: abs(pair[0] @ pair[1]) > 1e-6)  # stable: most area first
    return [*pairs[:2]]


def _frame(first: _Array, second: _Array) -> _Array:
    third = unit(np.cross(first, second))
    return np.column_stack([first, np.cross(third, first), third])


def _shifted(rotation: _Array, ref: _Faces, own: _Faces, tolerance: Tolerance) -> Iterator[Pose]:
    """Yield the shifts that most faces vote for, along three axes taken one by one."""
    directions = _directions(own)
    pair = next(iter(_leading_pairs(directions)), None)
    second = pair[1] if pair and pair[1] is not None else None
    first = pair[0] if pair else np.array([0.0, 0.0, 1.0])
    axes = _frame(first, second if second is not None else any_normal(first)).T
    choices = [_votes(axis, rotation, ref, own, tolerance) for axis in axes]
    combined = sorted(itertools.product(*choices), key=lambda votes: -sum(support for _, support in votes))
    for votes in combined[:_TRIED]:
        yield Pose(rotation, np.array([shift for shift, _ in votes]) @ axes)


def _votes(axis: _Array, rotation: _Array, ref: _Faces, own: _Faces, tolerance: Tolerance) -> list[tuple[float, float]]:
    shifts, weights = [], []
    normals = ref.plane_normals @ rotation.T
    offsets, own_offsets = (ref.plane_points @ rotation.T) @ axis, own.plane_points @ axis
    for side in (1, -1):
        mine, theirs = normals @ axis * side > 1 - 1e-6, own.plane_normals @ axis * side > 1 - 1e-6
        shifts.append(np.subtract.outer(own_offsets[theirs], offsets[mine]).ravel())
        weights.append(np.minimum.outer(own.plane_areas[theirs], ref.plane_areas[mine]).ravel())
    square, own_square = (
        np.abs(ref.axis_directions @ rotation.T @ axis) < 1e-6,
        np.abs(own.axis_directions @ axis) < 1e-6,
    )
    along, own_along = (ref.axis_points @ rotation.T)[square] @ axis, own.axis_points[own_square] @ axis
    shifts.append(np.subtract.outer(own_along, along).ravel())
    alike = np.equal.outer(own.hollow[own_square], ref.hollow[square])
    weights.append((np.minimum.outer(own.axis_areas[own_square], ref.axis_areas[square]) * alike).ravel())
    # the centroid has a small vote of its own, so that a part of free-form faces gets a place too
    shifts.append(np.array([axis @ (own.centroid - rotation @ ref.centroid)]))
    weights.append(np.array([1e-3 * ref.area]))
    return _most_voted(np.concatenate(shifts), np.concatenate(weights), tolerance.model_mm)


def _most_voted(shifts: _Array, weights: _Array, width: float) -> list[tuple[float, float]]:
    order = np.argsort(shifts)
    shifts, weights = shifts[order], weights[order]
    totals = np.concatenate([[0.0], np.cumsum(weights)])
    until = np.searchsorted(shifts, shifts + width, side="right")
    support = totals[until] - totals[:-1]
    chosen: list[tuple[float, float]] = []
    while len(chosen) < _SHIFTS and support.max(initial=0.0) > 0:
        k = int(np.argmax(support))
        chosen.append((float(shifts[k]), float(support[k])))
        support = np.where(np.abs(shifts - shifts[k]) > 2 * width, support, 0.0)
    return chosen


def _likeness(ref: _Faces, own: _Faces, pose: Pose, tolerance: Tolerance) -> float:
    """Score a candidate by the share of area that finds its like, both parts counted."""
    matched = _matched_planes(ref, own, pose, tolerance) + _matched_walls(ref, own, pose, tolerance)
    if len(ref.other_points) and len(own.other_points):
        away = np.linalg.norm(pose.point(ref.other_points)[:, None] - own.other_points[None], axis=2)
        fits = (away < 2 * tolerance.model_mm) * np.minimum.outer(ref.other_areas, own.other_areas)
        matched += float(fits.max(axis=1).sum())
    return matched / max(ref.area, own.area)


def _soft(place: _Array, lateral: _Array, size: float, tolerance: Tolerance) -> _Array:
    """Weigh a pair of faces by how far off its surface is, and how far its middle."""
    fits = np.where(place < 2 * tolerance.model_mm, 1.0, _SOFT / (1 + (place / (0.02 * size)) ** 2))
    weight: _Array = fits / (1 + (lateral / (0.1 * size)) ** 2)
    return weight


def _matched_planes(ref: _Faces, own: _Faces, pose: Pose, tolerance: Tolerance) -> float:
    if not (len(ref.plane_areas) and len(own.plane_areas)):
        return 0.0
    normals, points = pose.direction(ref.plane_normals), pose.point(ref.plane_points)
    apart = own.plane_points[None] - points[:, None]
    place = np.abs(np.einsum("rsk,rk->rs", apart, normals))
    lateral = np.sqrt(np.maximum((apart**2).sum(axis=2) - place**2, 0.0))
    same_way = normals @ own.plane_normals.T > 1 - 1e-6
    areas = np.minimum.outer(ref.plane_areas, own.plane_areas)
    return float((areas * same_way * _soft(place, lateral, ref.size, tolerance)).max(axis=1).sum())


def _matched_walls(ref: _Faces, own: _Faces, pose: Pose, tolerance: Tolerance) -> float:
    if not (len(ref.radii) and len(own.radii)):
        return 0.0
    directions, middles = pose.direction(ref.axis_directions), pose.point(ref.axis_middles)
    apart = own.axis_middles[None] - middles[:, None]
    along = np.abs(np.einsum("rsk,rk->rs", apart, directions))
    place = np.sqrt(np.maximum((apart**2).sum(axis=2) - along**2, 0.0))
    parallel = np.abs(directions @ own.axis_directions.T) > 1 - 1e-6
    alike = parallel & np.equal.outer(ref.hollow, own.hollow)
    same_radius = np.abs(np.subtract.outer(ref.radii, own.radii)) < tolerance.model_mm
    areas = np.minimum.outer(ref.axis_areas, own.axis_areas) * np.where(same_radius, 1.0, 0.5)
    return float((areas * alike * _soft(place, along, ref.size, tolerance)).max(axis=1).sum())
