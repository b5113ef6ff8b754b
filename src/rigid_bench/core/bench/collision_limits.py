"""What stops a part that is moved: others that it runs into, and on which faces the two then touch."""

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.contact.contacts import Contact, find_contacts
from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.bench.documents import BenchParts, BenchState
from rigid_bench.core.exercise.authoring.pointable import numbers_of
from rigid_bench.core.kernel.meshes.collision_meshes import CollisionMesh, meets
from rigid_bench.core.values.datums import PlaneFeature
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]
#: mm that any corner goes between two looks, and so near are faces watched.
_STEP_MM = 2.0
#: Halvings of the step within which parts meet.
_HALVINGS = 12
#: mm: faces that come nearer than they were, and below nothing, by more than this have met.
_MET_MM = 1e-6
#: Faces look straight at each other when the cosine of their normals is this near to -1.
_FLAT_ON = 1e-10
#: mm: parts that move less than this against each other keep their places.
_STILL_MM = 1e-6

#: Two features that touch, each as "instance:number".
Touch = tuple[str, str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Way:
    """How far parts can go towards where they are wanted."""

    poses: list[Pose]
    touching: tuple[Touch, ...]


class CollisionLimits:
    """The parts of a bench as obstacles to each other."""

    def __init__(
        self,
        state: BenchState,
        parts: BenchParts,
        collision_meshes: Mapping[str, CollisionMesh],
        *,
        tolerance: Tolerance,
    ) -> None:
        self._names = [instance.id for instance in state.placed]
        self._meshes = [collision_meshes[instance.part] for instance in state.placed]
        listed = {part.id: [own.feature.feature() for own in part.features] for part in parts.parts}
        self._features = [listed[instance.part] for instance in state.placed]
        self._tolerance = tolerance

    def way(self, system: System, before: Sequence[Pose], after: Sequence[Pose]) -> Way:
        """Go from one set of poses towards another, until two parts run into each other.

        Pairs that run into each other at the start are let by.

        Parameters
        ----------
        system
            Whose instances are those of the bench, in their order.
        before, after
            Where they stand, and where they are wanted.
        """
        step = system.displacement(before, after)
        count = max(1, int(np.ceil(self._farthest(before, after) / _STEP_MM)))
        here = list(before)
        for number in range(1, count + 1):
            there = list(after) if number == count else system.stepped(before, step * (number / count))
            pairs = self._moving(here, there)
            watched = [(a, b, face) for a, b in pairs for face in self._faces(a, b, here)]
            pairs = [(a, b) for a, b in pairs if self._meeting(a, b, here) is None]
            if not self._touching(pairs, watched, here, there):
                here = there
                continue
            return self._until(system, here, there, pairs, watched)
        return Way(poses=here, touching=())

    def _until(
        self,
        system: System,
        here: list[Pose],
        there: list[Pose],
        pairs: Sequence[tuple[int, int]],
        watched: Sequence[tuple[int, int, Contact]],
    ) -> Way:
        low, step = 0.0, system.displacement(here, there)
        high, touching = 1.0, self._touching(pairs, watched, here, there)
        for _ in range(_HALVINGS):
            middle = (low + high) / 2
            if hit := self._touching(pairs, watched, here, system.stepped(here, middle * step)):
                high, touching = middle, hit
            else:
                low = middle
        return Way(poses=system.stepped(here, low * step), touching=touching)

    def _touching(
        self,
        pairs: Sequence[tuple[int, int]],
        watched: Sequence[tuple[int, int, Contact]],
        here: Sequence[Pose],
        there: Sequence[Pose],
    ) -> tuple[Touch, ...]:
        """List the features on which parts have met on their way."""
        touching = []
        for a, b, face in watched:
            if _is_flat_on(a, b, face, there) and _gap(a, b, face, there) < min(_gap(a, b, face, here), 0.0) - _MET_MM:
                numbers = [
                    numbers_of([feature], self._features[k])
                    for k, feature in ((a, face.feature_a), (b, face.feature_b))
                ]
                touching += [(a, one, b, other) for one, other in itertools.product(*numbers)]
        if not touching:
            touching = [(a, hit[0], b, hit[1]) for a, b in pairs if (hit := self._meeting(a, b, there))]
        return tuple((f"{self._names[a]}:{one}", f"{self._names[b]}:{other}") for a, one, b, other in touching)

    def _meeting(self, a: int, b: int, poses: Sequence[Pose]) -> tuple[int, int] | None:
        return meets(self._meshes[a], poses[a], self._meshes[b], poses[b])

    def _faces(self, a: int, b: int, poses: Sequence[Pose]) -> list[Contact]:
        """List the flat faces of two parts that look at each other from near."""
        placed = [(self._meshes[k].part, poses[k]) for k in (a, b)]
        contacts = find_contacts(placed, tolerance=self._tolerance, within_mm=2 * _STEP_MM)
        return [contact for contact in contacts if contact.kind == "meet"]

    def _moving(self, here: Sequence[Pose], there: Sequence[Pose]) -> list[tuple[int, int]]:
        """List the pairs whose boxes come near each other while they move against each other."""
        boxes = [_box(mesh, one, two) for mesh, one, two in zip(self._meshes, here, there, strict=True)]
        near = [
            (a, b)
            for a, b in itertools.combinations(range(len(boxes)), 2)
            if np.all(boxes[a][0] <= boxes[b][1]) and np.all(boxes[b][0] <= boxes[a][1])
        ]
        return [(a, b) for a, b in near if self._goes(a, b, here, there) > _STILL_MM]

    def _goes(self, a: int, b: int, here: Sequence[Pose], there: Sequence[Pose]) -> float:
        """Return how far (mm) any corner of b goes as a sees it."""
        corners = self._meshes[b].part.corners
        seen = [(poses[a].inverse() @ poses[b]).point(corners) for poses in (here, there)]
        return float(np.linalg.norm(seen[1] - seen[0], axis=1).max())

    def _farthest(self, before: Sequence[Pose], after: Sequence[Pose]) -> float:
        """Return how far (mm) any corner goes."""
        moves = [
            np.linalg.norm(two.point(mesh.part.corners) - one.point(mesh.part.corners), axis=1).max()
            for mesh, one, two in zip(self._meshes, before, after, strict=True)
        ]
        return float(max(moves, default=0.0))


def _box(mesh: CollisionMesh, here: Pose, there: Pose) -> _Array:
    """(2, 3) mm, of all that a part passes."""
    corners = np.vstack([here.point(mesh.part.corners), there.point(mesh.part.corners)])
    return np.array([corners.min(axis=0), corners.max(axis=0)])


def _is_flat_on(a: int, b: int, face: Contact, poses: Sequence[Pose]) -> bool:
    """Say whether two faces still look straight at each other."""
    assert isinstance(face.feature_a, PlaneFeature)
    assert isinstance(face.feature_b, PlaneFeature)
    cosine = poses[a].direction(face.feature_a.normal) @ poses[b].direction(face.feature_b.normal)
    return bool(cosine < -1 + _FLAT_ON)


def _gap(a: int, b: int, face: Contact, poses: Sequence[Pose]) -> float:
    """Return how far (mm) b's face stands before a's."""
    assert isinstance(face.feature_a, PlaneFeature)
    normal = poses[a].direction(face.feature_a.normal)
    return float(normal @ (poses[b].point(face.feature_b.point) - poses[a].point(face.feature_a.point)))
