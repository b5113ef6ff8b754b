"""What a drawing says of a part's unknowns, as equations: what is drawn so, and what its dimensions give."""

import itertools
import math
from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.drawing.audit.size_equations import Row
from rigid_bench.core.drawing.audit.unknowns import ALONG, ON, Unknowns, is_one
from rigid_bench.core.part.faces import Cylinder, Plane
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, PlaneFeature, PointFeature
from rigid_bench.core.values.frames import cross, unit

_Array = NDArray[np.float64]


class DrawingRows(Unknowns):
    """A part's unknowns, with the rows of what a drawing says of them."""

    # what is drawn so

    def tangencies(self) -> Iterator[Row]:
        """Yield the rows of round walls that run into flat faces without a kink."""
        for k, (surface, wall) in enumerate(self.walls):
            for edge, other in self.part.edges.neighbours(surface):
                if not self.part.edges.is_smooth(edge) or not isinstance(self.part.surfaces[other], Plane):
                    continue
                flat = self._flat_with(self.part.surfaces[other].faces)
                if flat is None or abs(float(self.flats[flat].normal @ wall.direction)) > 1e-6:
                    continue
                side = float((wall.point - self.flats[flat].point) @ self.flats[flat].normal)
                yield self._axis_plane(self._axis_of(k), flat) - math.copysign(1.0, side) * self._unit(("r", k))

    def equal_treatments(self) -> Iterator[Row]:
        """Yield the rows of roundings and chamfers of one size: one dimension says them all."""
        for name, sizes in (
            ("rounding", self.rounded),
            ("chamfer", {k: chamfer.legs for k, chamfer in self.chamfered.items()}),
            (
                "chamfer angle",
                {k: chamfer.legs for k, chamfer in self.chamfered.items() if ("chamfer angle", k) in self._columns},
            ),
        ):
            first: dict[object, int] = {}
            for surface, size in sizes.items():
                if size in first:
                    yield self._unit((name, surface)) - self._unit((name, first[size]))
                first.setdefault(size, surface)

    def mirrored(self, plane: PlaneFeature) -> list[Row]:
        """Return the rows of what stands on both sides of a plane of symmetry alike."""
        rows: list[Row] = []

        def image(point: _Array) -> _Array:
            return point - 2 * float((point - plane.point) @ plane.normal) * plane.normal

        def turned(way: _Array) -> _Array:
            return way - 2 * float(way @ plane.normal) * plane.normal

        for k, flat in enumerate(self.flats):
            for m, other in enumerate(self.flats):
                is_level = abs(float((image(flat.point) - other.point) @ other.normal)) < ON
                if m >= k and float(turned(flat.normal) @ other.normal) > ALONG and is_level:
                    # the plane of symmetry itself is where the two, or the middle of all, put it
                    rows.append(self._unit(("s", k)) - self._unit(("s", m)))
        for k, axis in enumerate(self.axes):
            for m, other_axis in enumerate(self.axes):
                apart = cross(image(axis.point) - other_axis.point, other_axis.direction)
                if m < k or np.linalg.norm(apart) > ON:
                    continue
                if abs(float(turned(axis.direction) @ other_axis.direction)) < ALONG:
                    continue
                for way in np.eye(3):
                    row = self._shift(k, turned(way)) - self._shift(m, way)
                    if np.any(np.abs(row) > 1e-12):
                        rows.append(row)
                rows += [
                    self._unit(("r", a)) - self._unit(("r", b))
                    for a in axis.walls
                    for b in other_axis.walls
                    if a != b and abs(self.walls[a][1].radius - self.walls[b][1].radius) < ON
                ]
        return rows

    # what dimensions say

    def distance(self, a: Feature, b: Feature, *, axis: str | None = None) -> Row | None:
        """Return the row of a distance between two flat faces, a face and an axis, or two axes."""
        first, second = self._find(a), self._find(b)
        if first is None or second is None:
            return None
        (kind_a, k), (kind_b, m) = first, second
        if kind_a == kind_b == "s":
            sign = 1.0 if float(self.flats[k].normal @ self.flats[m].normal) < 0 else -1.0
            return self._unit(("s", k)) + sign * self._unit(("s", m))
        if kind_a == kind_b == "u":
            if axis in ("x", "y", "z"):
                way = np.eye(3)["xyz".index(axis)]
            else:
                apart = self.axes[m].point - self.axes[k].point
                apart = apart - float(apart @ self.axes[k].direction) * self.axes[k].direction
                if np.linalg.norm(apart) < ON:
                    return None
                way = unit(apart)
            return self._shift(m, way) - self._shift(k, way)
        flat, line = (k, m) if kind_a == "s" else (m, k)
        return self._axis_plane(line, flat)

    def radius(self, feature: Feature) -> Row | None:
        """Return the row of a diameter or radius."""
        wall = self._wall_of(feature)
        return self.treatment(feature) if wall is None else self._unit(("r", wall))

    def depth(self, feature: Feature) -> Row | None:
        """Return the row of a hole's depth, between where it begins and ends."""
        k = self._wall_of(feature)
        if k is None:
            return None
        wall = self.walls[k][1]
        row, count = self._row(), 0
        for end, sign in ((0, -1.0), (1, 1.0)):
            level = wall.point if end == 0 else wall.end
            flat = self._flat_at(level, wall.direction)
            if flat is not None:
                row += sign * float(self.flats[flat].normal @ wall.direction) * self._unit(("s", flat))
                count += 1
            elif ("end", k, end) in self._columns:
                row += sign * self._unit(("end", k, end))
                count += 1
        return row if count == 2 else None

    def is_through(self, feature: Feature) -> bool:
        """Say whether a hole opens at both ends: its depth then says "through", and is no dimension given twice."""
        k = self._wall_of(feature)
        if k is None:
            return False
        wall = self.walls[k][1]
        ends = [self._flat_at(level, wall.direction) for level in (wall.point, wall.end)]
        outward = [
            sign * float(self.flats[flat].normal @ wall.direction) > 0
            for flat, sign in zip(ends, (-1, 1), strict=True)
            if flat is not None
        ]
        return len(outward) == 2 and all(outward)

    def extent(self, axis: int) -> Row:
        """Return the row of an overall size."""
        way = np.eye(3)[axis]
        return self._extreme(way) + self._extreme(-way)

    def angle(self, a: Feature, b: Feature) -> Row | None:
        """Return the row of an angle between two directions."""
        ways = [feature.direction for feature in (a, b) if isinstance(feature, PlaneFeature | AxisFeature)]
        if len(ways) != 2:
            return None
        across = cross(ways[0], ways[1])
        row = self._row()
        for way, sign in zip(ways, (1.0, -1.0), strict=True):
            for key, turn in self._slants(way):
                if key in self._columns:
                    row[self._columns[key]] += sign * float(turn @ across)
        return row

    def treatment(self, feature: Feature, *, is_angle: bool = False) -> Row | None:
        """Return the row of a rounding's radius, a chamfer's leg, or its angle."""
        name = "chamfer angle" if is_angle else "chamfer"
        for key, column in self._columns.items():
            if key[0] in ((name,) if is_angle else ("rounding", "chamfer")):
                own = self.all[column].feature
                if is_one(own, feature):
                    return self._unit(key)
        return None

    def round_size(self, feature: Feature) -> Row | None:
        """Return the row of the size of a ball, of a ring's tube, or of a cone's angle."""
        own = (key for key in self._columns if key[0] in ("shape", "rounding"))
        return next((self._unit(key) for key in own if is_one(self.all[self._columns[key]].feature, feature)), None)

    def countersink(self, feature: Feature, *, is_angle: bool) -> Row | None:
        """Return the row of a countersink's diameter or angle, by the axis of its hole."""
        if not isinstance(feature, AxisFeature):
            return None
        axis = AxisFeature(feature.point, feature.direction)
        for surface in self.sunk:
            key = ("countersink angle" if is_angle else "shape", surface)
            if is_one(self.all[self._columns[key]].feature, axis):
                return self._unit(key)
        return None

    def edge_distance(self, feature: Feature) -> Row | None:
        """Return the row of a hole's distance from the nearest flat outside."""
        known = self._find(feature)
        if known is None or known[0] != "u":
            return None
        axis = self.axes[known[1]]
        beside = [k for k, flat in enumerate(self.flats) if abs(float(flat.normal @ axis.direction)) < 1e-9]
        if not beside:
            return None
        point = axis.point
        nearest = min(beside, key=lambda k: abs(float((point - self.flats[k].point) @ self.flats[k].normal)))
        return self._axis_plane(known[1], nearest)

    def same_holes(self, feature: Feature) -> list[Row]:
        """Return the rows of "4 x": all holes like the one named are of one radius, depth and mouth."""
        k = self._wall_of(feature)
        if k is None:
            return []
        own, rows = self.walls[k][1], list[Row]()
        for m, (_, wall) in enumerate(self.walls):
            if m == k or wall.is_hollow != own.is_hollow or abs(wall.radius - own.radius) > ON:
                continue
            rows.append(self._unit(("r", m)) - self._unit(("r", k)))
            rows += self._same_depth(k, m)
            for w, v in itertools.product(self._beside(k), self._beside(m)):
                one, other = self.walls[w][1], self.walls[v][1]
                if abs(one.radius - other.radius) < ON and one.is_hollow == other.is_hollow:
                    rows.append(self._unit(("r", v)) - self._unit(("r", w)))
                    rows += self._same_depth(w, v)
            rows += self._same_mouth(own, wall)
        return rows

    def _beside(self, k: int) -> list[int]:
        """List the other walls about the axis of one, such as its counterbore."""
        return [w for w in self.axes[self._axis_of(k)].walls if w != k]

    def _same_depth(self, k: int, m: int) -> list[Row]:
        one, other = self.walls[k][1], self.walls[m][1]
        if abs(one.length - other.length) > ON:
            return []
        depths = [self.depth(CylinderFeature(wall.point, wall.direction, wall.radius)) for wall in (one, other)]
        if depths[0] is None or depths[1] is None:
            return []
        row = depths[1] - depths[0]
        return [row] if np.any(row) else []

    def _same_mouth(self, one: Cylinder, other: Cylinder) -> list[Row]:
        """Return the rows of two countersinks alike."""
        mouths = [
            next((key for surface in self.sunk if self._is_mouth(key := ("shape", surface), wall)), None)
            for wall in (one, other)
        ]
        if mouths[0] is None or mouths[1] is None:
            return []
        angles = [("countersink angle", key[1]) for key in mouths if key]
        return [self._unit(mouths[1]) - self._unit(mouths[0]), self._unit(angles[1]) - self._unit(angles[0])]

    def _is_mouth(self, key: tuple[object, ...], wall: Cylinder) -> bool:
        return is_one(self.all[self._columns[key]].feature, AxisFeature(wall.point, wall.direction))

    def polygon(self, feature: Feature) -> list[Row]:
        """Return the rows of a regular polygon across its flats: its sides are equally far from its middle."""
        side = self._find(feature)
        if side is None or side[0] != "s":
            return []
        normal = self.flats[side[1]].normal
        for axis in self.frame:
            if abs(float(axis @ normal)) > 1e-9:
                continue
            sides = self._sides_of_polygon(side[1], axis)
            if len(sides) > 2:
                return self._equally_far(sides)
        return []

    def _sides_of_polygon(self, first: int, axis: _Array) -> list[int]:
        """List the flat faces that stand evenly about an axis, of like area, with the first among them."""
        own = self.flats[first]
        round_it = [
            k
            for k, flat in enumerate(self.flats)
            if abs(float(flat.normal @ axis)) < 1e-9 and abs(flat.area / own.area - 1) < 1e-3
        ]
        turns = np.sort([math.atan2(float(self.flats[k].normal @ cross(axis, own.normal)),
                                    float(self.flats[k].normal @ own.normal)) for k in round_it])  # fmt: skip
        steps = np.diff([*turns, turns[0] + 2 * math.pi])
        middle = np.mean([self.flats[k].point for k in round_it], axis=0)
        away = [float((self.flats[k].point - middle) @ self.flats[k].normal) for k in round_it]
        return round_it if np.ptp(steps) < 1e-6 and np.ptp(away) < ON else []

    def _equally_far(self, sides: Sequence[int]) -> list[Row]:
        """Each side's offset less that of the middle, which moves with all of them, is half the size across."""
        middle = [
            sum((2 / len(sides) * float(self.flats[k].normal @ way) * self._unit(("s", k)) for k in sides), self._row())
            for way in np.eye(3)
        ]
        rows = []
        for k in sides:
            of_middle = sum((float(self.flats[k].normal[j]) * middle[j] for j in range(3)), self._row())
            rows.append(self._unit(("s", k)) - of_middle)
            rows += [self._unit(key) for key, _ in self._slants(self.flats[k].normal)]
        return rows

    def corner_distance(self, a: Feature, b: Feature) -> Row | None:
        """Return the row of a distance from a corner to a flat face, or to another corner."""
        points = [point_feature for point_feature in (a, b) if isinstance(point_feature, PointFeature)]
        plane = next((plane_feature for plane_feature in (a, b) if isinstance(plane_feature, PlaneFeature)), None)
        if plane is not None and points:
            flat = self._find(plane)
            if flat is None or flat[0] != "s":
                return None
            way = self.flats[flat[1]].normal
            row = self._at_corner(points[0].point, way)
            return None if row is None else row - self._unit(("s", flat[1]))
        if len(points) != 2 or np.linalg.norm(points[1].point - points[0].point) < ON:
            return None
        way = unit(points[1].point - points[0].point)
        first, second = (self._at_corner(point.point, way) for point in points)
        return None if first is None or second is None else second - first

    def _at_corner(self, point: _Array, way: _Array) -> Row | None:
        """Return the row of how far a corner stands along a way, by the flat faces that meet there."""
        meeting = [k for k, flat in enumerate(self.flats) if abs(float((point - flat.point) @ flat.normal)) < ON]
        normals = np.array([self.flats[k].normal for k in meeting]).reshape(-1, 3)
        weights = np.linalg.lstsq(normals.T, way, rcond=None)[0] if meeting else np.zeros(0)
        if not meeting or np.linalg.norm(normals.T @ weights - way) > 1e-6:
            return None
        return self._of_corner(way, meeting)

    def holes_of(self, diameter: float) -> list[Row]:
        """Return the rows of a hole table for one diameter: size, place from the overall box, depth."""
        rows: list[Row] = []
        for k, (_, wall) in enumerate(self.walls):
            if not wall.is_hollow or abs(2 * wall.radius - diameter) > ON:
                continue
            rows.append(self._unit(("r", k)))
            axis = self._axis_of(k)
            rows += [self._shift(axis, way) + self._extreme(-way) for way in self._square(wall.direction)]
            depth = self.depth(CylinderFeature(wall.point, wall.direction, wall.radius))
            rows += [] if depth is None else [depth]
        return rows

    def pattern(self, feature: Feature, *, is_circle: bool) -> list[Row]:
        """Return the rows of a pattern of equal holes: evenly spaced on a circle, or in line."""
        k = self._wall_of(feature)
        if k is None:
            return []
        own = self.walls[k][1]
        like = [
            a
            for a, axis in enumerate(self.axes)
            if any(abs(self.walls[w][1].radius - own.radius) < ON for w in axis.walls)
            and abs(float(axis.direction @ own.direction)) > ALONG
        ]
        if len(like) < 2:
            return []
        points = np.array([self._foot(a, own.direction) for a in like])
        return self._circle(like, points, own.direction) if is_circle else self._line(like, points)

    def _circle(self, like: Sequence[int], points: _Array, direction: _Array) -> list[Row]:
        """The members keep their places on the circle, whose diameter is given; the centre moves with them."""
        middle = points.mean(axis=0)
        rows = []
        for a, point in zip(like, points, strict=True):
            radial = unit(point - middle)
            for way in (radial, cross(direction, radial)):
                mean = sum((self._shift(b, way) for b in like), self._row()) / len(like)
                rows.append(self._shift(a, way) - mean)
        others = [(k, axis) for k, axis in enumerate(self.axes) if k not in like]
        centred = next((k for k, axis in others if self._is_through(axis, middle, direction)), None)
        if centred is not None:
            for way in self._square(direction):
                mean = sum((self._shift(b, way) for b in like), self._row()) / len(like)
                rows.append(mean - self._shift(centred, way))
        return rows

    def _line(self, like: Sequence[int], points: _Array) -> list[Row]:
        """Neighbours keep their distance, and the row its direction."""
        order = np.argsort(points @ unit(points[-1] - points[0]))
        return [
            self._shift(like[int(b)], way) - self._shift(like[int(a)], way)
            for a, b in itertools.pairwise(order)
            for way in self._square(self.axes[like[0]].direction)
        ]
