"""Find a reference's features on a student's part, face by face, under a registration.

Faces are paired one to one, so that a face that is missing stays missing and is not
answered by its neighbour.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.part.faces import Cylinder, OtherFace, Plane
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.facets import faceted_walls
from rigid_bench.core.registration.assign import EXACT, assign
from rigid_bench.core.registration.neighbours import alike_by_neighbours
from rigid_bench.core.registration.register import Registration
from rigid_bench.core.registration.rows import in_order
from rigid_bench.core.registration.run_out import TILT, is_as_wide, is_on_axis, run_out_pairs
from rigid_bench.core.values.datums import (
    AxisFeature,
    CylinderFeature,
    Feature,
    FrameFeature,
    PlaneFeature,
    PointFeature,
    SphereFeature,
)
from rigid_bench.core.values.errors import InvalidDocument, MeshCannotAnswer
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.wording.language import _

_Array = NDArray[np.float64]
_Value = TypeVar("_Value")
#: How far off, as a share of the part's size, a face may stand and still be the one meant; and where a size was
#: changed on purpose.
_REACH, AFTER_A_CHANGE = 0.25, 2.0
#: A shift of a face within its own plane says less than a shift of the plane.
_LATERAL = 0.25
#: How far off a wall counts that is as wide as the one meant, beside others; and again where it is as long.
_OF_ONE_SIZE = 0.5
#: Between faces that are about as near, the one of like area is meant: as a share of the part's size.
_UNLIKE = 2e-3
#: As a share of the part's size: a face that stands so far off is the one meant only if it meets something of the same;
#: and one beyond reach, if it meets so much of the same.
_FAR, _MEETS_THE_SAME = 0.05, 0.6
#: As a share of the part's size: as far off as a size whose decimal point slipped puts a face.
_TENFOLD = 10.0
#: Opposite sides of a polygon have the same area, to this share.
_LIKE_AREA = 1e-3


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Flat:
    """All flat faces of a part in one plane, facing one way."""

    faces: tuple[int, ...]
    point: NDArray[np.float64]
    normal: NDArray[np.float64]
    #: mm2
    area: float


@dataclass(frozen=True, eq=False)
class RegisteredPart:
    """A reference part laid over a student's part."""

    reference: PartFeatures
    part: PartFeatures
    registration: Registration
    #: The student's part is so many times as large; `part` is as large as it should be.
    scale: float = 1.0
    #: How far off, as a share of the part's size, a face may stand and still be the one meant.
    reach: float = _REACH

    @classmethod
    def over_itself(cls, part: PartFeatures) -> "RegisteredPart":
        """Return a part laid over itself: to measure a reference as a student's part is measured."""
        return cls(part, part, Registration(pose=Pose.identity(), likeness=1.0))

    @property
    def pose(self) -> Pose:
        """From the reference's coordinates to the part's."""
        return self.registration.pose

    @cached_property
    def _flats(self) -> dict[int, int]:
        wanted, own = _stacked(flats_of(self.reference)), _stacked(flats_of(self.part))
        sizes = [np.array([flat.area for flat in flats_of(part)]) for part in (self.reference, self.part)]
        unlike = np.abs(np.log(sizes[0])[:, None] - np.log(sizes[1])[None])
        costs = self._flat_costs(*wanted, *own) + _UNLIKE * self.reference.size * np.minimum(unlike, 1.0)
        if self.part.is_mesh:
            return assign(costs, self.reach * self.reference.size)
        alike = self._met_alike
        is_same = np.isfinite(costs) & (alike >= _MEETS_THE_SAME)
        # what meets nothing of the same is not it where another does, or where it stands far off
        is_doubtful = is_same.any(axis=1)[:, None] | is_same.any(axis=0) | (costs > _FAR * self.reference.size)
        costs = np.where(is_doubtful & (alike == 0.0) & (costs > EXACT), np.inf, costs)
        # nor is what stands far off, where another that stands nowhere else meets more of the same
        is_placed = costs < EXACT
        is_open = is_same & ~is_placed.any(axis=1, keepdims=True) & ~is_placed.any(axis=0)
        is_known = is_open.any(axis=1, keepdims=True) | is_open.any(axis=0)
        costs = np.where(is_known & ~is_same & (costs > _FAR * self.reference.size), np.inf, costs)
        pairs = assign(costs, self.reach * self.reference.size)
        # what was moved beyond reach is known by what it meets
        is_left = np.ones(costs.shape, dtype=bool)
        is_left[list(pairs)] = False
        is_left[:, list(pairs.values())] = False
        return pairs | assign(np.where(is_left & is_same, costs, np.inf), _TENFOLD * self.reference.size)

    def standing(self) -> float:
        """Return the share of the reference's flats and round walls, 0 to 1, whose plane or wall the part has, too.

        However large they are: a part that is far too narrow has all of its profile.
        """
        wanted, own = _stacked(flats_of(self.reference)), _stacked(flats_of(self.part))
        turned, placed = self.pose.direction(wanted[1]), self.pose.point(wanted[0])
        off = np.abs(np.einsum("rsk,rk->rs", own[0][None] - placed[:, None], turned))
        is_there: list[bool] = ((off < EXACT) & (turned @ own[1].T > np.cos(EXACT))).any(axis=1).tolist()
        for wall in self.reference.cylinders:
            middle, direction = self.pose.point(wall.point), self.pose.direction(wall.direction)
            alike = (other for other in self.part.cylinders if is_as_wide(other, wall))
            is_there.append(any(is_on_axis(other, middle, direction) for other in alike))
        return sum(is_there) / max(len(is_there), 1)

    @cached_property
    def _met_alike(self) -> _Array:
        wanted, own = ([flat.faces for flat in flats_of(part)] for part in (self.reference, self.part))
        return alike_by_neighbours(self.reference, self.part, wanted, own, pose=self.pose, walls=self._walls)

    def _flat_costs(self, points: _Array, normals: _Array, own_points: _Array, own_normals: _Array) -> _Array:
        turned, placed = self.pose.direction(normals), self.pose.point(points)
        apart = own_points[None] - placed[:, None]
        place = np.abs(np.einsum("rsk,rk->rs", apart, turned))
        lateral = np.sqrt(np.maximum((apart**2).sum(axis=2) - place**2, 0.0))
        is_tilted = turned @ own_normals.T < np.cos(TILT)
        return np.where(is_tilted, np.inf, place + _LATERAL * lateral)

    @cached_property
    def _walls(self) -> dict[int, int]:
        pairs = self._pairs_of(self.part.cylinders)
        if self.part.is_mesh:
            return pairs
        reach = self.reach * self.reference.size
        return pairs | run_out_pairs(self.reference, self.part, pairs, pose=self.pose, reach_mm=reach)

    @cached_property
    def running_out(self) -> tuple[Cylinder, ...]:
        """The part's round walls that are open where those of the reference that they answer to go round."""
        return tuple(
            self.part.cylinders[own]
            for index, own in self._walls.items()
            if self.reference.cylinders[index].goes_round and not self.part.cylinders[own].goes_round
        )

    @cached_property
    def _facets(self) -> dict[int, Cylinder]:
        """Rings of facets that stand where the part has no round wall."""
        cylinders = faceted_walls(self.part)
        taken = {index: cylinders[own] for index, own in self._pairs_of(cylinders).items()}
        return {index: wall for index, wall in taken.items() if index not in self._walls}

    def _pairs_of(self, cylinders: tuple[Cylinder, ...]) -> dict[int, int]:
        wanted = self.reference.cylinders
        if not wanted or not cylinders:
            return {}
        axes, own = self.pose.direction(np.array([cylinder.direction for cylinder in wanted])), _walls_of(cylinders)
        apart = own.middles[None] - self.pose.point(_walls_of(wanted).middles)[:, None]
        along = np.abs(np.einsum("rsk,rk->rs", apart, axes))
        beside = np.sqrt(np.maximum((apart**2).sum(axis=2) - along**2, 0.0))
        ref = _walls_of(wanted)
        cost = beside + _LATERAL * along + 0.5 * np.abs(ref.radii[:, None] - own.radii[None])
        is_other = ref.hollow[:, None] != own.hollow[None]
        is_other |= np.abs(axes @ own.directions.T) < np.cos(TILT)
        is_other |= ref.whole[:, None] & ~own.whole[None]
        # a wall of just this size is the one that was meant also where it stands far off, such as from the other side
        is_as_wide = np.abs(ref.radii[:, None] - own.radii[None]) < EXACT
        is_alike = is_as_wide & (np.abs(ref.lengths[:, None] - own.lengths[None]) < EXACT)
        cost = np.where(is_as_wide, _OF_ONE_SIZE * cost, cost)
        cost = np.where(is_alike, _OF_ONE_SIZE * cost, cost)
        reach = np.where(is_alike, max(self.reach, 1.0), self.reach) * self.reference.size
        by_place = assign(np.where(is_other, np.inf, cost), reach)
        return in_order(by_place, wanted, cylinders, pose=self.pose)

    def flat(self, feature: PlaneFeature, *, where: str) -> Flat | None:
        """Return the student's face for a plane of the reference, or None where it is missing."""
        index = _reference_flat(flats_of(self.reference), feature, where)
        return flats_of(self.part)[self._flats[index]] if index in self._flats else None

    def wall(self, feature: AxisFeature, *, where: str) -> Cylinder | None:
        """Return the student's round wall for a cylinder or axis of the reference, or None.

        Where facets stand in for it, it is the circle through their corners.

        Raises
        ------
        MeshCannotAnswer
            The part came as a mesh, and no wall was recognised there: that it has none is not known.
        """
        index = reference_wall(self.reference, feature, where=where)
        if index in self._walls:
            return self.part.cylinders[self._walls[index]]
        if (whole := self._unparted(index)) is not None:
            return whole
        if index not in self._facets:
            self.need_solid(where=where)
        return self._facets.get(index)

    def _unparted(self, index: int) -> Cylinder | None:
        """Return the wall of the size meant that goes on where the reference's is parted, such as by a groove."""
        wanted = self.reference.cylinders[index]
        middle, direction = self.pose.point((wanted.point + wanted.end) / 2), self.pose.direction(wanted.direction)
        for wall in (self.part.cylinders[own] for own in self._walls.values()):
            is_within = 0 < float((middle - wall.point) @ wall.direction) < wall.length
            if is_within and is_as_wide(wall, wanted) and is_on_axis(wall, middle, direction):
                return wall
        return None

    def wall_at(self, index: int) -> Cylinder | None:
        """Return the student's round wall for one of the reference's cylinders, by its place among them."""
        return self.part.cylinders[self._walls[index]] if index in self._walls else None

    def is_for_another_size(self, wall: Cylinder) -> bool:
        """Say whether a round wall of the part answers to one of the reference that has another size."""
        return any(
            set(self.part.cylinders[own].faces) <= set(wall.faces)
            and abs(self.reference.cylinders[index].radius - wall.radius) > EXACT
            for index, own in self._walls.items()
        )

    @cached_property
    def unasked(self) -> frozenset[int]:
        """The faces of the part that answer to no surface of the reference."""
        known = {face for index in self._flats.values() for face in flats_of(self.part)[index].faces}
        known |= {face for index in self._walls.values() for face in self.part.cylinders[index].faces}
        known |= {face for wall in self._facets.values() for face in wall.faces}
        known |= {face for wall in self._in_line() for face in wall.faces}
        known |= {face for flat in self._turned_over() for face in flat.faces}
        rounds = (*self.reference.cones, *self.reference.others)
        alike = {face for cone in (*self.part.cones, *self.part.others) for face in cone.faces} if rounds else set()
        return frozenset(face for surface in self.part.surfaces for face in surface.faces) - known - alike

    def _turned_over(self) -> Iterator[Flat]:
        """Yield the flats that stand where one of the reference has no answer, and look the other way.

        A step of a shaft does, where the thinner side was made the thicker one.
        """
        taken = set(self._flats.values())
        unanswered = [flat for k, flat in enumerate(flats_of(self.reference)) if k not in self._flats]
        for flat in (flat for k, flat in enumerate(flats_of(self.part)) if k not in taken):
            for wanted in unanswered:
                level = abs(float((flat.point - self.pose.point(wanted.point)) @ flat.normal))
                if level < EXACT and float(flat.normal @ self.pose.direction(wanted.normal)) < -np.cos(EXACT):
                    yield flat

    def _in_line(self) -> Iterator[Cylinder]:
        """Yield the walls that carry on one which answers to the reference, within what the reference's reaches.

        A hole that a wider bore crosses is in two pieces where the reference's is in one.
        """
        taken = set(self._walls.values())
        left = [wall for own, wall in enumerate(self.part.cylinders) if own not in taken]
        for index, own in self._walls.items() if left else ():
            wanted, answer = self.reference.cylinders[index], self.part.cylinders[own]
            start, end = self.pose.point(wanted.point), self.pose.point(wanted.end)
            span = end - start
            for wall in left:
                middle = (wall.point + wall.end) / 2
                is_within = 0 < float((middle - start) @ span) < float(span @ span)
                if is_within and is_as_wide(wall, answer) and is_on_axis(wall, answer.point, answer.direction):
                    yield wall

    def need_solid(self, *, where: str) -> None:
        """Refuse to look on a mesh for what its triangles do not tell.

        Raises
        ------
        MeshCannotAnswer
            The part came as a mesh.
        """
        if self.part.is_mesh:
            raise MeshCannotAnswer(
                where, _("the triangles of a mesh do not tell this"), _("Hand in this part as STEP to have it measured")
            )

    def need_named(self, *, where: str) -> None:
        """Refuse to look on a mesh of which some triangles belong to no surface with a name.

        Raises
        ------
        MeshCannotAnswer
            The part came as such a mesh.
        """
        if any(isinstance(surface, OtherFace) for surface in self.part.surfaces):
            self.need_solid(where=where)

    def shown(self, value: _Value | None, *, where: str) -> _Value | None:
        """Return what was found on the part; a mesh shows what is there, and never that something is missing.

        Raises
        ------
        MeshCannotAnswer
            Nothing was found, and the part came as a mesh.
        """
        if value is None:
            self.need_solid(where=where)
        return value

    def feature(self, feature: Feature, *, where: str) -> Feature | None:
        """Return the student's own feature for one of the reference, in the part's coordinates.

        Parameters
        ----------
        feature
            In the reference's coordinates. Points and frames belong to no face and are
            carried over; planes, cylinders and axes are answered by the student's face.

        Returns
        -------
        Feature or None
            None where the student's part has no such face.

        Raises
        ------
        InvalidDocument
            The reference has no such face: the exercise is at fault.
        """
        match feature:
            case PlaneFeature():
                flat = self.flat(feature, where=where)
                return PlaneFeature(flat.point, flat.normal) if flat else None
            case AxisFeature():
                return self._axis(feature, where)
            case PointFeature() | FrameFeature() | SphereFeature():
                return feature.moved(self.pose)

    def _axis(self, feature: AxisFeature, where: str) -> Feature | None:
        wall = self.wall(feature, where=where)
        if wall is None:
            return None
        expected = feature.moved(self.pose)
        # the wall's direction is the kernel's; the exercise's is the one that `sense` means
        direction = wall.direction if wall.direction @ expected.direction > 0 else -wall.direction
        point = wall.point + direction * float((expected.point - wall.point) @ direction)
        return CylinderFeature(point, direction, wall.radius)


@dataclass(frozen=True, slots=True, eq=False)
class _Walls:
    """Round walls as arrays, for comparing each with each."""

    middles: _Array
    directions: _Array
    radii: _Array
    lengths: _Array
    hollow: NDArray[np.bool_]
    whole: NDArray[np.bool_]


@lru_cache(maxsize=64)
def _walls_of(walls: tuple[Cylinder, ...]) -> _Walls:
    return _Walls(
        middles=np.array([(wall.point + wall.end) / 2 for wall in walls]),
        directions=np.array([wall.direction for wall in walls]),
        radii=np.array([wall.radius for wall in walls]),
        lengths=np.array([float(np.linalg.norm(wall.end - wall.point)) for wall in walls]),
        hollow=np.array([wall.is_hollow for wall in walls]),
        whole=np.array([wall.goes_round for wall in walls]),
    )


def _stacked(faces: Sequence[Flat]) -> tuple[_Array, _Array]:
    points = np.array([face.point for face in faces]).reshape(-1, 3)
    return points, np.array([face.normal for face in faces]).reshape(-1, 3)


@lru_cache(maxsize=64)
def flats_of(part: PartFeatures) -> list[Flat]:
    """Group a part's flat faces that lie in one plane and face one way."""
    groups: list[list[Plane]] = []
    normals, points = np.empty((len(part.planes), 3)), np.empty((len(part.planes), 3))
    for plane in part.planes:
        known = len(groups)
        level = np.abs(((plane.point - points[:known]) * normals[:known]).sum(axis=1)) < 1e-4
        group = np.flatnonzero(level & (normals[:known] @ plane.normal > 1 - 1e-9))
        if len(group):
            groups[int(group[0])].append(plane)
        else:
            normals[known], points[known] = plane.normal, plane.point
            groups.append([plane])
    return [_flat(group) for group in groups]


def _flat(group: list[Plane]) -> Flat:
    area = sum(plane.area for plane in group)
    point = sum((plane.area / area * plane.point for plane in group), np.zeros(3))
    faces = tuple(sorted(face for plane in group for face in plane.faces))
    return Flat(faces=faces, point=point, normal=group[0].normal, area=area)


def reference_flat(reference: PartFeatures, feature: PlaneFeature, *, where: str) -> Flat:
    """Return the flat face of a reference that a feature names.

    Raises
    ------
    InvalidDocument
        There is none.
    """
    wanted = flats_of(reference)
    return wanted[_reference_flat(wanted, feature, where)]


def opposite_flat(reference: PartFeatures, feature: PlaneFeature, *, where: str) -> Flat | None:
    """Return the flat face of like size that looks away from a side of a polygon on the outside; None without one.

    Raises
    ------
    InvalidDocument
        The reference has no face where the feature is.
    """
    side = reference_flat(reference, feature, where=where)
    away = [
        flat
        for flat in flats_of(reference)
        if float(flat.normal @ side.normal) < -1 + 1e-9
        and float((side.point - flat.point) @ side.normal) > 0
        and abs(flat.area / side.area - 1) < _LIKE_AREA
    ]
    return min(away, key=lambda flat: abs(float((side.point - flat.point) @ side.normal)), default=None)


def _reference_flat(wanted: Sequence[Flat], feature: PlaneFeature, where: str) -> int:
    points, normals = _stacked(wanted)
    level = np.abs(((feature.point - points) * normals).sum(axis=1)) < 1e-2
    there = np.flatnonzero(level & (normals @ feature.normal > 1 - 1e-6))
    if len(there):
        return int(there[0])
    raise _not_there(
        where,
        _(
            "the reference part has no face at {point} facing {normal}",
            point=_text(feature.point),
            normal=_text(feature.normal),
        ),
    )


def reference_wall(reference: PartFeatures, feature: AxisFeature, *, where: str) -> int:
    """Return the index of the reference's round wall that a feature names.

    Raises
    ------
    InvalidDocument
        The reference has no round wall there.
    """
    radius = feature.radius if isinstance(feature, CylinderFeature) else None
    if reference.cylinders:
        walls = _walls_of(reference.cylinders)
        apart = walls.middles - feature.point
        along = apart @ feature.direction
        away = np.sqrt(np.maximum((apart**2).sum(axis=1), 0.0))
        fits = np.sqrt(np.maximum(away**2 - along**2, 0.0)) < 1e-2
        fits &= np.abs(walls.directions @ feature.direction) > 1 - 1e-6
        if radius is not None:
            fits &= np.abs(radius - walls.radii) < 1e-2
        if fits.any():
            return int(np.argmin(np.where(fits, away, np.inf)))
    size = f"of radius {radius:g} " if radius is not None else ""
    raise _not_there(
        where, _("the reference part has no round wall {size}about {point}", size=size, point=_text(feature.point))
    )


def _not_there(where: str, problem: str) -> InvalidDocument:
    return InvalidDocument(where, problem, _("Give a feature of the reference part, in its own coordinates"))


def _text(vector: NDArray[np.float64]) -> str:
    return "[" + ", ".join(f"{value:g}" for value in vector) + "]"
