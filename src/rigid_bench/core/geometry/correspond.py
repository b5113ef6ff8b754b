"""Find a reference's features on a student's part, face by face, under a registration.

Faces are paired one to one, so that a face that is missing stays missing and is not
answered by its neighbour.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment

from rigid_bench.core.errors import InvalidDocument, MeshCannotAnswer
from rigid_bench.core.feature import AxisFeature, CylinderFeature, Feature, FrameFeature, PlaneFeature, PointFeature
from rigid_bench.core.frames import Pose
from rigid_bench.core.geometry.faces import Cylinder, Plane
from rigid_bench.core.geometry.features import PartFeatures
from rigid_bench.core.geometry.register import Registration

#: How far (rad) a face may be tilted and still be the face that was meant.
_TILT = np.radians(10)
#: How far off, as a share of the part's size, a face may stand and still be the one meant.
_REACH = 0.25
#: A shift of a face within its own plane says less than a shift of the plane.
_LATERAL = 0.25


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Flat:
    """All flat faces of a part in one plane, facing one way."""

    faces: tuple[int, ...]
    point: NDArray[np.float64]
    normal: NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Laid:
    """A reference part laid over a student's part."""

    reference: PartFeatures
    part: PartFeatures
    registration: Registration
    #: The student's part is so many times as large; `part` is as large as it should be.
    scale: float = 1.0

    @property
    def pose(self) -> Pose:
        """From the reference's coordinates to the part's."""
        return self.registration.pose

    @cached_property
    def _flats(self) -> tuple[list[Flat], list[Flat], dict[int, int]]:
        wanted, found = flats(self.reference.planes), flats(self.part.planes)
        costs = [[self._flat_cost(a, b) for b in found] for a in wanted]
        return wanted, found, _assign(costs, _REACH * self.reference.size)

    @cached_property
    def _walls(self) -> dict[int, int]:
        costs = [[self._wall_cost(a, b) for b in self.part.cylinders] for a in self.reference.cylinders]
        return _assign(costs, _REACH * self.reference.size)

    def _flat_cost(self, wanted: Flat, found: Flat) -> float:
        normal, point = self.pose.direction(wanted.normal), self.pose.point(wanted.point)
        if normal @ found.normal < np.cos(_TILT):
            return np.inf
        apart = found.point - point
        place = abs(float(apart @ normal))
        return place + _LATERAL * math.sqrt(max(float(apart @ apart) - place**2, 0.0))

    def _wall_cost(self, wanted: Cylinder, found: Cylinder) -> float:
        direction = self.pose.direction(wanted.direction)
        if wanted.is_hollow != found.is_hollow or abs(direction @ found.direction) < np.cos(_TILT):
            return np.inf
        if wanted.goes_round and not found.goes_round:
            return np.inf
        apart = (found.point + found.end) / 2 - self.pose.point((wanted.point + wanted.end) / 2)
        along = abs(float(apart @ direction))
        beside = math.sqrt(max(float(apart @ apart) - along**2, 0.0))
        return beside + _LATERAL * along + 0.5 * abs(wanted.radius - found.radius)

    def flat(self, feature: PlaneFeature, *, where: str) -> Flat | None:
        """Return the student's face for a plane of the reference, or None where it is missing."""
        wanted, found, pairs = self._flats
        index = _reference_flat(wanted, feature, where)
        return found[pairs[index]] if index in pairs else None

    def wall(self, feature: AxisFeature, *, where: str) -> Cylinder | None:
        """Return the student's round wall for a cylinder or axis of the reference, or None.

        Raises
        ------
        MeshCannotAnswer
            The part came as a mesh.
        """
        self.need_round_walls(where=where)
        index = self._walls.get(reference_wall(self.reference, feature, where=where), -1)
        return self.part.cylinders[index] if index >= 0 else None

    def need_round_walls(self, *, where: str) -> None:
        """Refuse to look for round walls on a mesh.

        Raises
        ------
        MeshCannotAnswer
            The part came as a mesh.
        """
        if self.part.is_mesh:
            raise MeshCannotAnswer(where, "a mesh has no round walls", "Hand in this part as STEP to have it measured")

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
            case PointFeature() | FrameFeature():
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


def flats(planes: Sequence[Plane]) -> list[Flat]:
    """Group flat faces that lie in one plane and face one way."""
    groups: list[list[Plane]] = []
    for plane in planes:
        for group in groups:
            first = group[0]
            if plane.normal @ first.normal > 1 - 1e-9 and abs((plane.point - first.point) @ first.normal) < 1e-4:
                group.append(plane)
                break
        else:
            groups.append([plane])
    return [
        Flat(
            faces=tuple(sorted(face for each in group for face in each.faces)),
            point=np.average([each.point for each in group], axis=0, weights=[each.area for each in group]),
            normal=group[0].normal,
        )
        for group in groups
    ]


def reference_flat(reference: PartFeatures, feature: PlaneFeature, *, where: str) -> Flat:
    """Return the flat face of a reference that a feature names.

    Raises
    ------
    InvalidDocument
        There is none.
    """
    wanted = flats(reference.planes)
    return wanted[_reference_flat(wanted, feature, where)]


def _reference_flat(wanted: Sequence[Flat], feature: PlaneFeature, where: str) -> int:
    for index, flat in enumerate(wanted):
        if flat.normal @ feature.normal > 1 - 1e-6 and abs((feature.point - flat.point) @ flat.normal) < 1e-2:
            return index
    raise _not_there(where, f"the reference part has no face at {_text(feature.point)} facing {_text(feature.normal)}")


def reference_wall(reference: PartFeatures, feature: AxisFeature, *, where: str) -> int:
    """Return the index of the reference's round wall that a feature names.

    Raises
    ------
    InvalidDocument
        The reference has no round wall there.
    """
    radius = feature.radius if isinstance(feature, CylinderFeature) else None
    costs = []
    for index, wall in enumerate(reference.cylinders):
        offset = wall.point - feature.point
        is_on_axis = np.linalg.norm(np.cross(offset, feature.direction)) < 1e-2
        is_parallel = abs(wall.direction @ feature.direction) > 1 - 1e-6
        if is_on_axis and is_parallel and (radius is None or abs(radius - wall.radius) < 1e-2):
            middle = (wall.point + wall.end) / 2
            costs.append((float(np.linalg.norm(middle - feature.point)), index))
    if not costs:
        size = f"of radius {radius:g} " if radius is not None else ""
        raise _not_there(where, f"the reference part has no round wall {size}about {_text(feature.point)}")
    return min(costs)[1]


def _not_there(where: str, problem: str) -> InvalidDocument:
    return InvalidDocument(where, problem, "Give a feature of the reference part, in its own coordinates")


def _text(vector: NDArray[np.float64]) -> str:
    return "[" + ", ".join(f"{value:g}" for value in vector) + "]"


def _assign(costs: list[list[float]], reach: float) -> dict[int, int]:
    """Pair rows and columns one to one at least cost, leaving out pairs beyond reach."""
    if not costs or not costs[0]:
        return {}
    cost = np.array(costs)
    bounded = np.where(cost < reach, cost, 1e3 * reach)
    rows, columns = linear_sum_assignment(bounded)
    return {int(r): int(c) for r, c in zip(rows, columns, strict=True) if cost[r, c] < reach}
