"""Can each part be brought to its place without passing through others? Found by taking the build apart.

A part that can leave along a straight line, or turn out on its joint first, came in that way.
Directions come from the contacts: away from the faces that it touches, along the holes that it
sits in, and along the lines in which two faces guide it.
"""

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.contact.clearance import clearance, fine_mesh, least_gap, place
from rigid_bench.core.assembly.contact.contacts import find_contacts
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.kernel.meshes.linear_travel import free_travel
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.datums import AxisFeature, PlaneFeature
from rigid_bench.core.values.frames import Pose, unit
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]
Placing = tuple[PartFeatures, Pose]
#: A direction goes against a face when it is this far from level with it.
_AGAINST = 1e-6
#: rad: a part is turned on its joint in steps of so much, half round each way.
_TURN = math.radians(5)
#: Every so many steps it is tried whether the part can leave from there.
_TRIED_EVERY = 6
#: Directions tried for one part at most.
_MOST = 24


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Way:
    """How an instance leaves its place; it came in the other way round."""

    #: Its place in the build.
    instance: int
    #: (3,) unit, in the world: straight out.
    direction: _Array
    #: It turns on its joint first, by so much (rad), before it leaves; None for one straight move.
    turn: Motion | None = None
    amount: float = 0.0


def removal_sequence(
    placed: Mapping[int, Placing],
    motions: Mapping[int, Sequence[Motion]],
    *,
    tolerance: Tolerance,
    last: int | None = None,
) -> list[Way]:
    """Take a build apart, one instance after the other.

    Parameters
    ----------
    placed
        Each instance's part, and where it stands, by its place in the build.
    motions
        What an instance's mates leave free, in the world; those that turn are tried where no
        straight line leads out.
    tolerance
        For contacts and overlaps.
    last
        The instance that stays to the end: the base.

    Returns
    -------
    list of Way
        In the order in which they leave. Those that are missing are shut in; the last one left
        needs no way.
    """
    bench = _Bench(placed, tolerance)
    left = list(placed)
    ways: list[Way] = []
    while len(left) > 1:
        # whole rounds, so that a build comes apart from the outside in
        candidates = [
            way
            for instance in left
            if instance != last and (way := bench.way(instance, left, motions.get(instance, ())))
        ]
        if not candidates:
            break
        for way in candidates[: len(left) - 1]:
            ways.append(way)
            left.remove(way.instance)
    return ways


def blockers(instance: int, placed: Mapping[int, Placing], ways: Sequence[Way], *, tolerance: Tolerance) -> list[int]:
    """List the instances that shut one in: those that are left with it and stop it on some line."""
    gone = {way.instance for way in ways}
    left = [instance for instance in placed if instance not in gone]
    bench = _Bench(placed, tolerance)
    lines = bench.directions(instance, left)
    return [other for other in left if other != instance and any(bench.stops(instance, other, line) for line in lines)]


class _Bench:
    """The parts where they stand, and what was found of them so far."""

    def __init__(self, placed: Mapping[int, Placing], tolerance: Tolerance) -> None:
        self.placed, self.tolerance = placed, tolerance
        indices = list(placed)
        contacts = find_contacts([placed[index] for index in indices], tolerance=tolerance)
        self.contacts = [(indices[contact.a], indices[contact.b], contact) for contact in contacts]
        self._meshes = {index: fine_mesh(*placing) for index, placing in placed.items()}
        self._stops: dict[tuple[int, int, bytes], bool] = {}

    def stops(self, instance: int, other: int, direction: _Array) -> bool:
        """Say whether another instance is in the way along a direction."""
        key = (instance, other, np.round(direction, 6).tobytes())
        if key not in self._stops:
            self._stops[key] = free_travel(self._meshes[instance], self._meshes[other], direction) < math.inf
        return self._stops[key]

    def way(self, instance: int, left: Sequence[int], motions: Sequence[Motion]) -> Way | None:
        """Find how an instance can leave those that are left."""
        others = [other for other in left if other != instance]
        directions = self.directions(instance, left, motions)
        for direction in directions:
            if not any(self.stops(instance, other, direction) for other in others):
                return Way(instance=instance, direction=direction)
        turns = [motion for motion in motions if motion.kind == "rotation" and motion.finite]
        turned = (self._turned_out(instance, others, turn, directions) for turn in turns)
        return next((way for way in turned if way), None)

    def _turned_out(
        self, instance: int, others: Sequence[int], motion: Motion, directions: Sequence[_Array]
    ) -> Way | None:
        """Turn a part on its joint until it can leave straight, or something stops it."""
        part, pose = self.placed[instance]
        watched = [other for other in others if not _overlaps((part, pose), self.placed[other], self.tolerance)]
        for way in (1, -1):
            for number in range(1, round(math.pi / _TURN) + 1):
                there = (part, Pose.about(way * number * _TURN * motion.direction, motion.point) @ pose)
                if any(_overlaps(there, self.placed[other_instance], self.tolerance) for other_instance in watched):
                    break
                if number % _TRIED_EVERY:
                    continue
                mesh = fine_mesh(*there)
                for direction in directions:
                    if all(free_travel(mesh, self._meshes[other], direction) == math.inf for other in others):
                        return Way(instance=instance, direction=direction, turn=motion, amount=way * number * _TURN)
        return None

    def directions(self, instance: int, left: Sequence[int], motions: Sequence[Motion] = ()) -> list[_Array]:
        """List the directions in which a part may leave as far as its own contacts go, likeliest first."""
        pose = self.placed[instance][1]
        faces: list[_Array] = []
        axes: list[_Array] = []
        for a, b, contact in self.contacts:
            if instance not in (a, b) or a not in left or b not in left:
                continue
            feature = contact.feature_a if instance == a else contact.feature_b
            if contact.kind == "meet" and contact.touches and isinstance(feature, PlaneFeature):
                faces.append(pose.direction(feature.normal))
            elif contact.kind == "seated" and isinstance(feature, AxisFeature):
                axes.append(pose.direction(feature.direction))
        faces = _apart(faces)
        axes += [motion.direction for motion in motions if motion.kind == "translation"]
        crossed = [np.cross(one, two) for one, two in itertools.combinations(faces, 2)]
        lines = [*axes, *(unit(crossing) for crossing in crossed if np.linalg.norm(crossing) > _AGAINST)]
        away = -np.sum(faces, axis=0) if faces else np.zeros(3)
        tried = [way for line in lines for way in (line, -line)] + [-face for face in faces]
        tried += [unit(away)] if np.linalg.norm(away) > _AGAINST else []
        if not tried:  # it touches nothing: along its own faces
            tried = [pose.direction(plane.normal) for plane in self.placed[instance][0].planes]
            tried += [*np.eye(3), *-np.eye(3)]
        return [way for way in _apart(tried) if all(float(way @ face) < _AGAINST for face in faces)][:_MOST]


def _overlaps(a: Placing, b: Placing, tolerance: Tolerance) -> bool:
    if least_gap(*a, *b, fine=True) > 0:
        return False
    return clearance(place("a", *a), place("b", *b), tolerance=tolerance).state == "interfering"


def _apart(directions: Sequence[_Array]) -> list[_Array]:
    """Return the directions without those that come again."""
    kept: list[_Array] = []
    for direction in directions:
        if not any(float(direction @ other) > 1 - _AGAINST for other in kept):
            kept.append(direction)
    return kept
