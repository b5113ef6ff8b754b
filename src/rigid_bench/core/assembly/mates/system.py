"""A build as one system of equations: its mates' residuals and rows, ready for a rank or a step.

Every instance's twist is taken about its own middle, its angular columns are divided by
its own size, and angular rows are multiplied by the smaller size of the two, so that
every entry weighs alike: for parts of half a millimetre and of five metres, in one build
too, near and far.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.mates.equations import Equation, Row
from rigid_bench.core.assembly.mates.joints import Standing, limit_equations, standings
from rigid_bench.core.assembly.mates.registry import equations
from rigid_bench.core.formats.build import Build, Mate
from rigid_bench.core.values.datums import Feature, FrameFeature, PlaneFeature, PointFeature, SphereFeature, make_frame
from rigid_bench.core.values.frames import Pose, angle_between, cross_all, turn_of
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]
_Places = NDArray[np.int_]


@dataclass(frozen=True, slots=True, kw_only=True)
class Residual:
    """How far a mate is from holding."""

    mm: float
    rad: float

    def holds(self, tolerance: Tolerance) -> bool:
        """Say whether the mate holds within the format's tolerance."""
        return self.mm <= tolerance.mate_mm and self.rad <= tolerance.mate_rad


@dataclass(frozen=True, slots=True, eq=False)
class Rows:
    """The equations of some mates on the twists of their two instances."""

    #: How many each mate has.
    counts: list[int]
    #: (m,) each: the instances a and b of every row, and (m, 6) each: its entries on their twists.
    instances: tuple[_Places, _Places]
    entries: tuple[_Array, _Array]
    #: (m,) mm.
    residuals: _Array

    def by_mate(self) -> list[tuple[_Array, _Array]]:
        """Return the entries on a and on b, (k, 6) each, of every mate."""
        ends = np.cumsum(self.counts)
        on_a, on_b = (np.split(entries, ends)[:-1] for entries in self.entries)
        return list(zip(on_a, on_b, strict=True))


@dataclass(frozen=True, eq=False)
class System:
    """The mates of a build as equations on the twists of its instances."""

    build: Build
    tolerance: Tolerance

    @cached_property
    def mates(self) -> tuple[Mate, ...]:
        """The mates that groups stand for, then the build's own, with noise taken off features."""
        mates = [*_group_mates(self.build), *self.build.mates]
        return tuple(_without_noise(mates, self.tolerance))

    def among(self, moving: frozenset[int]) -> "System":
        """Return the system in which all other instances are held, with the mates of those that move alone."""
        instances = tuple(
            replace(instance, group=None, grounded=instance.grounded or index not in moving)
            for index, instance in enumerate(self.build.instances)
        )
        mates = tuple(mate for mate in self.mates if mate.a in moving or mate.b in moving)
        return System(replace(self.build, instances=instances, mates=mates), self.tolerance)

    def mates_of(self, index: int) -> frozenset[str]:
        """Return the ids of an instance's mates."""
        return frozenset(mate.id for mate in self.mates_by_instance[index])

    @cached_property
    def mates_by_instance(self) -> list[list[Mate]]:
        """The mates of each instance."""
        mates: list[list[Mate]] = [[] for _ in self.build.instances]
        for mate in self.mates:
            for index in {mate.a, mate.b}:
                mates[index].append(mate)
        return mates

    @cached_property
    def lengths(self) -> _Array:
        """(n,) mm, how far each instance's features lie from its middle; where they meet in a point, the least."""
        squares: list[list[float]] = [[] for _ in self.build.instances]
        for mate in self.mates:
            for index, feature in ((mate.a, mate.feature_a), (mate.b, mate.feature_b)):
                squares[index].append(float(np.sum((feature.point - self.middles[index]) ** 2)))
        spreads = np.array([float(np.sqrt(np.mean(square))) if square else 0.0 for square in squares])
        known = [float(size) for size in spreads if size > 1e-6]
        # a size that is too small only weighs turns less; one that is far too large would hide a constraint
        moving = [size for index, size in enumerate(spreads) if size > 1e-6 and index not in self.held]
        least = min(moving or known, default=1.0)
        lengths: _Array = np.where(spreads > 1e-6, spreads, least)
        return lengths

    @cached_property
    def middles(self) -> _Array:
        """(n, 3) mm, the middle of each instance's features in its own coordinates."""
        sums, counts = np.zeros((len(self.build.instances), 3)), np.zeros(len(self.build.instances))
        for mate in self.mates:
            for index, feature in ((mate.a, mate.feature_a), (mate.b, mate.feature_b)):
                sums[index] += feature.point
                counts[index] += 1
        middles: _Array = sums / np.maximum(counts, 1)[:, None]
        return middles

    @property
    def poses(self) -> list[Pose]:
        """The poses that the build gives."""
        return [instance.pose for instance in self.build.instances]

    @cached_property
    def held(self) -> list[int]:
        """Indices of the grounded instances."""
        return [index for index, instance in enumerate(self.build.instances) if instance.grounded]

    def mate_equations(self, mate: Mate, poses: Sequence[Pose]) -> list[Equation]:
        """List the equations of one mate where its instances stand."""
        a, b = poses[mate.a], poses[mate.b]
        known = self._known.get(id(mate))
        if known is not None and known[0] is mate and known[1] is a and known[2] is b:
            return known[3]  # residuals, ranks and rows ask for the same one after the other
        rows = equations(mate, mate.feature_a.moved(a), mate.feature_b.moved(b))
        self._known[id(mate)] = (mate, a, b, rows)
        return rows

    @cached_property
    def _known(self) -> dict[int, tuple[Mate, Pose, Pose, list[Equation]]]:
        return {}

    def residual(self, mate: Mate, poses: Sequence[Pose]) -> Residual:
        """Return how far a mate is from holding."""
        equations = self.mate_equations(mate, poses)
        return Residual(
            mm=math.hypot(*(equation.residual for equation in equations if not equation.is_angular)),
            rad=math.hypot(*(equation.residual for equation in equations if equation.is_angular)),
        )

    def mate_rows(self, mate: Mate, poses: Sequence[Pose]) -> tuple[_Array, _Array, _Array]:
        """Return a mate's rows on the twists of a and of b, (k, 6) each, and its residuals, (k,) mm."""
        rows = self.rows([mate], poses)
        return *rows.entries, rows.residuals

    def rows(self, mates: Sequence[Mate], poses: Sequence[Pose], *, limits: bool = False) -> Rows:
        """Return the rows of some mates.

        With `limits`, also those that bring joints back where they are beyond their limits.
        """
        equations = [self.mate_equations(mate, poses) for mate in mates]
        if limits:
            equations = [[*own, *limit_equations(mate, poses)] for mate, own in zip(mates, equations, strict=True)]
        counts = [len(own) for own in equations]
        every = [equation for own in equations for equation in own]
        ends = np.array([(mate.a, mate.b) for mate in mates], dtype=np.int64).reshape(-1, 2)
        a, b = np.repeat(ends, counts, axis=0).T
        joined = sorted({*ends.ravel().tolist()})
        turns = np.array([poses[index].rotation for index in joined]).reshape(-1, 3, 3)
        shifts = np.array([poses[index].position for index in joined]).reshape(-1, 3)
        middles = np.zeros((len(poses), 3))
        middles[joined] = (turns @ self.middles[joined][:, :, None])[..., 0] + shifts
        levers = np.minimum(self.lengths[a], self.lengths[b])
        scales = np.where(np.array([equation.is_angular for equation in every], dtype=bool), levers, 1.0)
        # of every equation its angular and linear part and its point, stacked once for both instances
        parts = [part for equation in every for part in (equation.angular, equation.linear, equation.point)]
        stacked, sides = np.array(parts).reshape(-1, 3, 3), np.array([a, b])
        on_a, on_b = scales[:, None] * _rows(stacked, middles[sides], self.lengths[sides, None])
        residuals = scales * np.array([equation.residual for equation in every])
        return Rows(counts, (a, b), (-on_a, on_b), residuals)

    @cached_property
    def has_limits(self) -> bool:
        """Some joint may go only so far."""
        return any(mate.limits is not None for mate in self.mates)

    def limited(self, poses: Sequence[Pose]) -> list[tuple[Mate, Standing, Row]]:
        """List the coordinates of all joints that have limits, where the instances stand."""
        return [(mate, standing, row) for mate in self.mates for standing, row in standings(mate, poses)]

    def rate(self, mate: Mate, row: Row, poses: Sequence[Pose], velocity: _Array) -> float:
        """Return how fast a joint's coordinate changes with a velocity of all instances, (6 n,)."""
        equation, rate = row.equation(0.0), 0.0
        for index, sign in ((mate.b, 1.0), (mate.a, -1.0)):
            stacked = np.array([(equation.angular, equation.linear, equation.point)])
            own = _rows(stacked, poses[index].point(self.middles[index]), self.lengths[index])[0]
            rate += sign * float(own @ velocity[6 * index : 6 * index + 6])
        return rate

    def stepped(self, poses: Sequence[Pose], step: _Array) -> list[Pose]:
        """Move every instance by its six entries of a step, (6 n,) mm, turning about its middle."""
        moved = list(poses)
        for index in np.flatnonzero(step.reshape(-1, 6).any(axis=1)).tolist():
            pose = poses[index]
            turn, shift = step[6 * index : 6 * index + 3] / self.lengths[index], step[6 * index + 3 : 6 * index + 6]
            middle = pose.point(self.middles[index])
            rotation = Pose.from_rotation_vector(turn, [0, 0, 0]).rotation @ pose.rotation
            moved[index] = Pose(rotation, middle + shift - rotation @ self.middles[index])
        return moved

    def displacement(self, before: Sequence[Pose], after: Sequence[Pose]) -> _Array:
        """Return how far every instance went, (6 n,) mm: its turn times its size, and the shift of its middle."""
        starts, ends = (np.array([pose.rotation for pose in poses]).reshape(-1, 3, 3) for poses in (before, after))
        shifts = np.array([end.position - start.position for start, end in zip(before, after, strict=True)])
        turns = np.array([turn_of(turned) for turned in ends @ starts.transpose(0, 2, 1)]).reshape(-1, 3)
        carried = ((ends - starts) @ self.middles[:, :, None])[..., 0]
        return np.hstack([turns * self.lengths[:, None], shifts.reshape(-1, 3) + carried]).ravel()

    @cached_property
    def free_columns(self) -> NDArray[np.bool_]:
        """Mark the columns of the instances that are not grounded, (6 n,)."""
        free = np.ones(6 * len(self.build.instances), dtype=bool)
        for index in self.held:
            free[6 * index : 6 * index + 6] = False
        return free


def _rows(stacked: _Array, middle: _Array, length: _Array) -> _Array:
    """Return equations' entries on twists about middles, (..., k, 6), angular ones divided by lengths.

    Parameters
    ----------
    stacked
        (k, 3, 3): the angular part, the linear part (none of an angular equation) and the point of each, mm.
    middle, length
        (..., k or 1, 3) mm and (..., k or 1, 1) mm.
    """
    arm = stacked[:, 2] - middle
    entries = np.empty((*arm.shape[:-1], 6))
    entries[..., :3] = (stacked[:, 0] + cross_all(arm, stacked[:, 1])) / length
    entries[..., 3:] = stacked[:, 1]
    return entries


def _group_mates(build: Build) -> Iterator[Mate]:
    """A group of n instances counts as n - 1 fixed mates, to its first."""
    first: dict[str, int] = {}
    for index, instance in enumerate(build.instances):
        if instance.group is None:
            continue
        if instance.group not in first:
            first[instance.group] = index
            continue
        lead = build.instances[first[instance.group]].pose
        frame = make_frame(np.zeros(3), np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0]))
        yield Mate(
            id=f"group {instance.group}: {instance.id}",
            kind="fixed",
            a=first[instance.group],
            feature_a=frame.moved(lead.inverse() @ instance.pose),
            b=index,
            feature_b=frame,
            sense="aligned",
        )


def _without_noise(mates: Sequence[Mate], tolerance: Tolerance) -> Iterator[Mate]:
    """Give features of one instance that differ by export noise the same directions and points."""
    directions: dict[int, list[_Array]] = {}
    points: dict[int, list[_Array]] = {}

    def clean(index: int, feature: Feature) -> Feature:
        point = _first_like(points.setdefault(index, []), feature.point, tolerance.agree_mm)
        if isinstance(feature, PointFeature):
            return PointFeature(point)
        if isinstance(feature, SphereFeature):
            return replace(feature, point=point)
        if isinstance(feature, FrameFeature):
            return FrameFeature(point, feature.direction, feature.x)
        direction = _like_direction(directions.setdefault(index, []), feature.direction, tolerance.agree_rad)
        if isinstance(feature, PlaneFeature):
            return PlaneFeature(point, direction)
        return replace(feature, point=point, direction=direction)

    for mate in mates:
        yield replace(mate, feature_a=clean(mate.a, mate.feature_a), feature_b=clean(mate.b, mate.feature_b))


def _first_like(known: list[_Array], point: _Array, near: float) -> _Array:
    for other in known:
        if np.linalg.norm(point - other) <= near:
            return other
    known.append(point)
    return point


def _like_direction(known: list[_Array], direction: _Array, near: float) -> _Array:
    for other in known:
        if angle_between(other, direction) <= near:
            return other
        if angle_between(-other, direction) <= near:
            return -other
    known.append(direction)
    return direction
