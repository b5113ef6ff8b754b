"""A part's features as unknowns: where flat faces stand, how they slant, axes, radii, depths, roundings, chamfers."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.drawing.audit.size_equations import Row, Unknown
from rigid_bench.core.part.faces import Cone, Cylinder, Plane, Sphere, Surface, Torus
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.edge_treatments import find_chamfers, find_fillets
from rigid_bench.core.part.recognition.holes import find_holes
from rigid_bench.core.registration.correspond import flats_of
from rigid_bench.core.values.datums import (
    AxisFeature,
    ConeFeature,
    CylinderFeature,
    Feature,
    PlaneFeature,
    SphereFeature,
    TorusFeature,
)
from rigid_bench.core.values.frames import any_normal, cross, unit

_Array = NDArray[np.float64]
ALONG, ON = 1 - 1e-9, 1e-4
#: Degrees: slants of one turn, or square to each other, are drawn so.
_TURN = 90.0


@dataclass(frozen=True, slots=True, eq=False)
class _Axis:
    """Walls about one line."""

    point: _Array
    direction: _Array
    walls: tuple[int, ...]


class Unknowns:
    """The unknowns of a part, and the rows of what a drawing says of them.

    A flat face has the offset of its plane, n . x = h + s, and its slant; an axis two shifts square
    to it. What lies square to the part's main directions has no slant of its own; slants of one
    turn are one unknown.
    """

    def __init__(self, part: PartFeatures) -> None:
        self.part = part
        fillets, chamfers = find_fillets(part), find_chamfers(part)
        self.rounded = {fillet.surface: fillet.radius for fillet in fillets}
        self.chamfered = {chamfer.surface: chamfer for chamfer in chamfers}
        faces_of_chamfers = {face for k in self.chamfered for face in part.surfaces[k].faces}
        self.sunk = _countersinks(part)
        self.flats = [flat for flat in flats_of(part) if not set(flat.faces) <= faces_of_chamfers]
        self.walls = [
            (k, surface)
            for k, surface in enumerate(part.surfaces)
            if isinstance(surface, Cylinder) and k not in self.rounded
        ]
        self.frame = self._main_directions()
        self.axes = self._axes()
        self.all: list[Unknown] = []
        self._columns: dict[tuple[object, ...], int] = {}
        self._number()
        self.gauge = self._gauge()

    def _main_directions(self) -> _Array:
        """(3, 3) rows: the largest flat face's normal, the largest one square to it, and both's normal."""
        flats = sorted(self.flats, key=lambda flat: -flat.area)
        ways = [flat.normal for flat in flats] + [wall.direction for _, wall in self.walls] + [*np.eye(3)]
        first = ways[0]
        for axis in np.eye(3):  # drawn along the part's own axes, where that is so
            if abs(float(first @ axis)) > ALONG:
                first = axis
        second = next(way for way in [*ways, any_normal(first)] if abs(float(way @ first)) < 1e-9)
        return np.array([first, second, cross(first, second)])

    def _axes(self) -> list[_Axis]:
        groups: list[list[int]] = []
        for k, (_, wall) in enumerate(self.walls):
            for group in groups:
                other = self.walls[group[0]][1]
                apart = wall.point - other.point
                is_along = abs(float(wall.direction @ other.direction)) > ALONG
                if is_along and np.linalg.norm(cross(apart, other.direction)) < ON:
                    group.append(k)
                    break
            else:
                groups.append([k])
        return [
            _Axis(self.walls[group[0]][1].point, self.walls[group[0]][1].direction, tuple(group)) for group in groups
        ]

    def _slants(self, direction: _Array) -> list[tuple[tuple[object, ...], _Array]]:
        """Return the turns by which a direction may slant otherwise, each with the key that it shares."""
        along = np.abs(self.frame @ direction)
        if along.max() > ALONG:
            return []
        square = np.flatnonzero(along < 1e-9)
        if len(square):
            axis = self.frame[square[0]]
            others = [direction for k, direction in enumerate(self.frame) if k != square[0]]
            angle = math.degrees(math.atan2(float(direction @ others[1]), float(direction @ others[0]))) % _TURN
            return [(("slant", int(square[0]), round(angle, 4) % _TURN), axis)]
        first = any_normal(direction)
        key = tuple(np.round(direction * np.sign(direction[np.abs(direction).argmax()]), 6))
        return [(("slant", key, 0), first), (("slant", key, 1), cross(direction, first))]

    def _add(self, key: tuple[object, ...], unknown: Unknown) -> None:
        if key not in self._columns:
            self._columns[key] = len(self.all)
            self.all.append(unknown)

    def _number(self) -> None:
        for k, flat in enumerate(self.flats):
            feature: Feature = PlaneFeature(flat.point, flat.normal)
            self._add(("s", k), Unknown(kind="place", feature=feature, direction=flat.normal, area=flat.area))
            for key, turn in self._slants(flat.normal):
                way = cross(turn, flat.normal)
                self._add(key, Unknown(kind="slant", feature=feature, direction=way, area=flat.area))
        for k, axis in enumerate(self.axes):
            area = sum(self.walls[w][1].area for w in axis.walls)
            wall = self.walls[axis.walls[0]][1]
            feature = CylinderFeature(wall.point, wall.direction, wall.radius)
            for j, way in enumerate(self._square(axis.direction)):
                self._add(("u", k, j), Unknown(kind="place", feature=feature, direction=way, area=area))
            for key, turn in self._slants(axis.direction):
                way = cross(turn, axis.direction)
                self._add(key, Unknown(kind="slant", feature=feature, direction=way, area=area))
        for k, (_, wall) in enumerate(self.walls):
            feature = CylinderFeature(wall.point, wall.direction, wall.radius)
            radial = any_normal(wall.direction)
            self._add(("r", k), Unknown(kind="radius", feature=feature, direction=radial, area=wall.area))
            if wall.is_hollow:
                for end in self._open_ends(k):
                    unknown = Unknown(kind="depth", feature=feature, direction=wall.direction, area=wall.area)
                    self._add(("end", k, end), unknown)
        self._number_treatments()

    def _number_treatments(self) -> None:
        for surface in self.rounded:
            face = self.part.surfaces[surface]
            if isinstance(face, Cylinder):
                feature: Feature = CylinderFeature(face.point, face.direction, face.radius)
                way = any_normal(face.direction)
            else:
                assert isinstance(face, Torus)
                feature, way = (
                    TorusFeature(face.point, face.direction, face.major, face.minor),
                    any_normal(face.direction),
                )
            unknown = Unknown(kind="rounding", feature=feature, direction=way, area=face.area)
            self._add(("rounding", surface), unknown)
        for surface, chamfer in self.chamfered.items():
            face = self.part.surfaces[surface]
            if isinstance(face, Plane):
                feature, way = PlaneFeature(face.point, face.normal), face.normal
            else:
                assert isinstance(face, Cone)
                feature, way = cone_feature(face), face.direction
            self._add(("chamfer", surface), Unknown(kind="chamfer", feature=feature, direction=way, area=face.area))
            if abs(chamfer.legs[0] - chamfer.legs[1]) > ON:
                angle = Unknown(kind="chamfer angle", feature=feature, direction=way, area=face.area)
                self._add(("chamfer angle", surface), angle)
        for surface, face in enumerate(self.part.surfaces):
            if surface in self.rounded or surface in self.chamfered or isinstance(face, Plane | Cylinder):
                continue
            if isinstance(face, Cone) and face.is_hollow and face.near < ON:
                continue  # a drill's tip
            feature = self._shape_feature(face)
            unknown = Unknown(kind="shape", feature=feature, direction=self.frame[0], area=face.area)
            self._add(("shape", surface), unknown)
            if isinstance(face, Sphere):
                self._number_ball(surface, face)
            elif surface in self.sunk:
                unknown = Unknown(kind="countersink angle", feature=feature, direction=self.frame[0], area=face.area)
                self._add(("countersink angle", surface), unknown)

    def _shape_feature(self, face: Surface) -> Feature:
        if isinstance(face, Sphere):
            return SphereFeature(face.point, face.radius)
        if isinstance(face, Torus):
            return TorusFeature(face.point, face.direction, face.major, face.minor)
        return cone_feature(face) if isinstance(face, Cone) else AxisFeature(np.zeros(3), self.frame[0])

    def _number_ball(self, surface: int, ball: Sphere) -> None:
        """A ball on an axis may stand anywhere along it; one on no axis is taken to stand where it is drawn."""
        axis = next((axis for axis in self.axes if self._is_through(axis, ball.point, axis.direction)), None)
        if axis is not None:
            feature = SphereFeature(ball.point, ball.radius)
            self._add(
                ("ball", surface), Unknown(kind="place", feature=feature, direction=axis.direction, area=ball.area)
            )

    def _square(self, direction: _Array) -> _Array:
        """(2, 3): the main directions that are most square to an axis, made square to it."""
        order = np.argsort(np.abs(self.frame @ direction), kind="stable")
        first = unit(self.frame[order[0]] - float(self.frame[order[0]] @ direction) * direction)
        return np.array([first, cross(direction, first)])

    def _gauge(self) -> _Array:
        """(n, 3): the unknowns when the whole part is shifted."""
        gauge = np.zeros((len(self.all), 3))
        for key, column in self._columns.items():
            if key[0] in ("s", "u", "end", "ball"):
                gauge[column] = self.all[column].direction
        return gauge

    @cached_property
    def _axis_lines(self) -> tuple[_Array, _Array]:
        return _lines([(axis.point, axis.direction) for axis in self.axes])

    @cached_property
    def _wall_lines(self) -> tuple[_Array, _Array]:
        return _lines([(cylinder.point, cylinder.direction) for _, cylinder in self.walls])

    def _row(self) -> Row:
        return np.zeros(len(self.all))

    def _is_through(self, axis: _Axis, point: _Array, direction: _Array) -> bool:
        is_along = abs(float(axis.direction @ direction)) > ALONG
        return is_along and bool(np.linalg.norm(cross(point - axis.point, axis.direction)) < ON)

    def _foot(self, axis: int, direction: _Array) -> _Array:
        point = self.axes[axis].point
        return point - float(point @ direction) * direction

    def _unit(self, key: tuple[object, ...]) -> Row:
        row = self._row()
        row[self._columns[key]] = 1.0
        return row

    def _shift(self, axis: int, way: _Array) -> Row:
        """Return the row of an axis's shift along a way."""
        row = self._row()
        for j, own in enumerate(self._square(self.axes[axis].direction)):
            row[self._columns["u", axis, j]] += float(own @ way)
        return row

    def _axis_plane(self, axis: int, flat: int) -> Row:
        """Return the row of an axis's height over a flat face."""
        normal = self.flats[flat].normal
        row = self._shift(axis, normal) - self._unit(("s", flat))
        for key, turn in self._slants(normal):
            row[self._columns[key]] += float(cross(turn, normal) @ self.axes[axis].point) / self.part.size
        return row

    def _extreme(self, way: _Array) -> Row:
        """Return the row of how far the part reaches along a way."""
        flats = [k for k, flat in enumerate(self.flats) if float(flat.normal @ way) > ALONG]
        rounds = [
            (float(wall.point @ way) + wall.radius, k)
            for k, (_, wall) in enumerate(self.walls)
            if abs(float(wall.direction @ way)) < 1e-9 and not wall.is_hollow
        ]
        balls = [
            (float(face.point @ way) + face.radius, surface)
            for surface, face in enumerate(self.part.surfaces)
            if isinstance(face, Sphere) and not face.is_hollow and ("shape", surface) in self._columns
        ]
        level = max((float(self.flats[k].point @ way) for k in flats), default=-math.inf)
        reach = max(rounds, default=(-math.inf, -1))
        corner, planes = self._corner(way)
        ball = max(balls, default=(-math.inf, -1))
        if ball[0] > max(level, reach[0], corner) + ON:
            row = self._unit(("shape", ball[1]))
            if ("ball", ball[1]) in self._columns:
                column = self._columns["ball", ball[1]]
                row[column] = float(self.all[column].direction @ way)
            return row
        if corner > max(level, reach[0]) + ON and planes:
            return self._of_corner(way, planes)
        if not flats and not rounds:
            return self._row()
        if level >= reach[0] - ON:
            return self._unit(("s", max(flats, key=lambda k: float(self.flats[k].point @ way))))
        return self._shift(self._axis_of(reach[1]), way) + self._unit(("r", reach[1]))

    def _corner(self, way: _Array) -> tuple[float, list[int]]:
        """Return how far the furthest corner of flat faces reaches, and the faces that meet there."""
        best, meeting, where = -math.inf, list[int](), np.zeros(3)
        for surface, plane in enumerate(self.part.surfaces):
            if isinstance(plane, Plane):
                starts, _ = self.part.edges.polylines(surface)
                furthest = starts[np.argmax(starts @ way)]
                if float(furthest @ way) > best + ON:
                    best, where = float(furthest @ way), furthest
        for k, flat in enumerate(self.flats):
            if abs(float((where - flat.point) @ flat.normal)) < ON:
                meeting.append(k)
        return best, meeting

    def _of_corner(self, way: _Array, planes: Sequence[int]) -> Row:
        """Return the row of where flat faces meet, along a way: n . dx + (turn x n) . x = s for each."""
        normals = np.array([self.flats[k].normal for k in planes])
        weights = np.linalg.lstsq(normals.T, way, rcond=None)[0]
        where = np.linalg.lstsq(
            normals, np.array([float(self.flats[k].normal @ self.flats[k].point) for k in planes]), rcond=None
        )[0]
        row = self._row()
        for weight, k in zip(weights, planes, strict=True):
            row += weight * self._unit(("s", k))
            for key, turn in self._slants(self.flats[k].normal):
                across = cross(turn, self.flats[k].normal)
                row[self._columns[key]] -= weight * float(across @ where) / self.part.size
        return row

    def _find(self, feature: Feature) -> tuple[Literal["s", "u"], int] | None:
        if isinstance(feature, PlaneFeature):
            for k, flat in enumerate(self.flats):
                is_level = abs(float((feature.point - flat.point) @ flat.normal)) < ON
                if is_level and float(feature.normal @ flat.normal) > ALONG:
                    return "s", k
        if isinstance(feature, AxisFeature):
            on = _through(self._axis_lines, feature)
            return ("u", int(on[0])) if len(on) else None
        return None

    def _wall_of(self, feature: Feature) -> int | None:
        if not isinstance(feature, AxisFeature):
            return None
        walls: list[tuple[float, int]] = [
            (abs(wall.radius - feature.radius) if isinstance(feature, CylinderFeature) else 0.0, k)
            for k in _through(self._wall_lines, feature).tolist()
            if (wall := self.walls[k][1])
        ]
        near = [candidate for candidate in walls if candidate[0] < ON]
        if len(near) > 1:  # of walls of one axis and radius, the one whose stretch holds the point

            def outside(candidate: tuple[float, int]) -> float:
                wall = self.walls[candidate[1]][1]
                along = float((feature.point - wall.point) @ wall.direction)
                return max(0.0, -along, along - wall.length)

            return min(near, key=outside)[1]
        return near[0][1] if near else None

    def _axis_of(self, wall: int) -> int:
        return next(k for k, axis in enumerate(self.axes) if wall in axis.walls)

    def _flat_with(self, faces: Sequence[int]) -> int | None:
        return next((k for k, flat in enumerate(self.flats) if set(faces) <= set(flat.faces)), None)

    def _flat_at(self, point: _Array, direction: _Array) -> int | None:
        return next(
            (
                k
                for k, flat in enumerate(self.flats)
                if abs(float(flat.normal @ direction)) > ALONG and abs(float((point - flat.point) @ flat.normal)) < ON
            ),
            None,
        )

    def _open_ends(self, wall: int) -> list[int]:
        """Return the ends of a wall (0, 1) that no flat face gives, such as over a drill's tip."""
        own = self.walls[wall][1]
        ends = ((0, own.point), (1, own.end))
        missing = [end for end, level in ends if self._flat_at(level, own.direction) is None]
        tips = [
            surface
            for surface in self.part.surfaces
            if isinstance(surface, Cone) and surface.is_hollow and surface.near < ON
            and np.linalg.norm(cross(surface.apex - own.point, own.direction)) < ON
        ]  # fmt: skip
        return missing if tips else []


def cone_feature(cone: Cone) -> ConeFeature:
    """Return a cone as a check names it: by the middle of its axis."""
    return ConeFeature(cone.apex + (cone.near + cone.far) / 2 * cone.direction, cone.direction, 2 * cone.half_angle)


def _countersinks(part: PartFeatures) -> frozenset[int]:
    """Return the places of the cones that are the mouths of holes."""
    sunk = [hole for hole in find_holes(part) if hole.entry == "countersink"]
    return frozenset(
        number
        for number, face in enumerate(part.surfaces)
        if isinstance(face, Cone)
        and face.is_hollow
        and face.near > ON
        and any(
            np.linalg.norm(cross(face.apex - hole.cylinder.point, hole.cylinder.direction)) < ON
            and abs(2 * face.far * math.tan(face.half_angle) - hole.entry_diameter) < ON
            for hole in sunk
        )
    )


def _lines(given: Sequence[tuple[_Array, _Array]]) -> tuple[_Array, _Array]:
    """Return points and directions, (n, 3) each."""
    return np.array([point for point, _ in given]).reshape(-1, 3), np.array([way for _, way in given]).reshape(-1, 3)


def _through(lines: tuple[_Array, _Array], feature: AxisFeature) -> NDArray[np.int64]:
    """Return the places of the lines on which an axis lies."""
    points, ways = lines
    apart = points - feature.point
    beside = apart - np.outer(apart @ feature.direction, feature.direction)
    is_along = np.abs(ways @ feature.direction) > ALONG
    return np.flatnonzero(is_along & (np.linalg.norm(beside, axis=1) < ON))


def is_one(a: Feature, b: Feature) -> bool:
    """Say whether two features are of one face."""
    if isinstance(a, PlaneFeature) and isinstance(b, PlaneFeature):
        return float(a.normal @ b.normal) > ALONG and abs(float((a.point - b.point) @ a.normal)) < ON
    if isinstance(a, SphereFeature) and isinstance(b, SphereFeature):
        return bool(np.linalg.norm(a.point - b.point) < ON) and abs(a.radius - b.radius) < ON
    if isinstance(a, AxisFeature) and isinstance(b, AxisFeature):
        if not _is_one_round(a, b):
            return False
        is_along = abs(float(a.direction @ b.direction)) > ALONG
        return is_along and bool(np.linalg.norm(cross(a.point - b.point, a.direction)) < ON)
    return False


def _is_one_round(a: AxisFeature, b: AxisFeature) -> bool:
    """Say whether two round features of one axis have the sizes of one; a bare axis tells none from another."""
    if isinstance(a, CylinderFeature) and isinstance(b, CylinderFeature):
        return abs(a.radius - b.radius) < ON
    if isinstance(a, TorusFeature) and isinstance(b, TorusFeature):
        is_there = bool(np.linalg.norm(a.point - b.point) < ON)
        return is_there and abs(a.radius - b.radius) < ON and abs(a.tube - b.tube) < ON
    if isinstance(a, ConeFeature) and isinstance(b, ConeFeature):
        # of two chamfers at the ends of one shaft, the one whose middle is named
        return bool(np.linalg.norm(a.point - b.point) < ON) and abs(a.angle - b.angle) < 1e-4
    return AxisFeature in (type(a), type(b)) or type(a) is type(b)
