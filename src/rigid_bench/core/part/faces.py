"""The kinds of surface that are known by name, as plain values.

A surface is all the faces that carry on in each other: files split planes, round walls and
cones as they like, and a part's features do not depend on that.
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

_Array = NDArray[np.float64]
#: A wall that is open by less than this (rad) goes round, although a keyway or a flat opens it;
#: a half bore and the round end of a slot are open by pi.
_OPEN = math.radians(120)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Plane:
    """A flat surface."""

    #: Indices in `faces_of`.
    faces: tuple[int, ...]
    #: (3,) mm, the centre of the area.
    point: _Array
    #: (3,) unit, out of the material.
    normal: _Array
    #: mm2
    area: float

    def normals_at(self, points: _Array) -> _Array:
        """(n, 3) unit, out of the material, at (n, 3) points on the surface."""
        return np.broadcast_to(self.normal, points.shape)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Cylinder:
    """Round wall: cylinder faces of one axis and radius that belong together."""

    faces: tuple[int, ...]
    #: (3,) mm, on the axis where the wall begins.
    point: _Array
    #: (3,) unit, along the axis from `point`.
    direction: _Array
    #: mm
    radius: float
    #: mm along `direction`.
    length: float
    #: Material is outside the wall.
    is_hollow: bool
    #: Where the wall is, seen along the axis: the direction (3,) to the middle of each arc, and
    #: how far it goes round (rad). Arcs do not overlap.
    arcs: tuple[tuple[_Array, float], ...]
    #: mm2
    area: float
    #: How many flats stand in for the wall; 0 for a round one. The radius is then to their corners.
    facets: int = 0

    @property
    def sweep(self) -> float:
        """How far the wall goes round (rad), 2 pi for a whole one."""
        return sum(sweep for _, sweep in self.arcs)

    @property
    def goes_round(self) -> bool:
        """The wall has material (or air) all round it, but for a keyway or flats."""
        return widest_opening(self.arcs, self.direction) < _OPEN

    @property
    def end(self) -> _Array:
        """(3,) mm, on the axis where the wall ends."""
        return self.point + self.length * self.direction

    def normals_at(self, points: _Array) -> _Array:
        """(n, 3) unit, out of the material, at (n, 3) points on the surface."""
        offset = points - self.point
        radial = offset - np.outer(offset @ self.direction, self.direction)
        return _scaled(-radial if self.is_hollow else radial)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Cone:
    """A conical surface, as left by a drill, a countersink, a chamfer or a taper."""

    faces: tuple[int, ...]
    #: (3,) mm
    apex: _Array
    #: (3,) unit, from the apex into the cone.
    direction: _Array
    #: mm from the apex along `direction`: where the surface begins and ends.
    near: float
    far: float
    #: rad, between axis and wall.
    half_angle: float
    #: Material is outside.
    is_hollow: bool
    #: rad
    sweep: float
    area: float

    def radius_at(self, along: float) -> float:
        """mm, at a distance from the apex along the axis."""
        return along * math.tan(self.half_angle)

    def normals_at(self, points: _Array) -> _Array:
        """(n, 3) unit, out of the material, at (n, 3) points on the surface."""
        offset = points - self.apex
        radial = _scaled(offset - np.outer(offset @ self.direction, self.direction))
        outward = radial * math.cos(self.half_angle) - self.direction * math.sin(self.half_angle)
        return -outward if self.is_hollow else outward


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Sphere:
    """A part of a ball or of its socket."""

    faces: tuple[int, ...]
    #: (3,) mm, the centre.
    point: _Array
    radius: float
    is_hollow: bool
    area: float

    def normals_at(self, points: _Array) -> _Array:
        """(n, 3) unit, out of the material, at (n, 3) points on the surface."""
        outward = _scaled(points - self.point)
        return -outward if self.is_hollow else outward


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Torus:
    """A part of a ring, such as a rounded round edge."""

    faces: tuple[int, ...]
    #: (3,) mm, the centre.
    point: _Array
    #: (3,) unit, along the axis.
    direction: _Array
    #: mm, from the axis to the middle of the tube, and of the tube.
    major: float
    minor: float
    is_hollow: bool
    #: rad, round the axis and round the tube.
    sweep: float
    tube_sweep: float
    area: float

    def normals_at(self, points: _Array) -> _Array:
        """(n, 3) unit, out of the material, at (n, 3) points on the surface."""
        offset = points - self.point
        radial = _scaled(offset - np.outer(offset @ self.direction, self.direction))
        this_side, other_side = offset - self.major * radial, offset + self.major * radial
        # a tube wider than its ring reaches past the axis: its middle lies on the other side then
        away = [np.abs(np.linalg.norm(side, axis=-1) - self.minor) for side in (this_side, other_side)]
        outward = _scaled(np.where((away[1] < away[0])[:, None], other_side, this_side))
        return -outward if self.is_hollow else outward


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class OtherFace:
    """A face that is none of the above; known by kind, place and size only."""

    faces: tuple[int, ...]
    kind: str
    point: _Array
    area: float


Surface = Plane | Cylinder | Cone | Sphere | Torus | OtherFace


def _scaled(vectors: _Array) -> _Array:
    lengths = np.linalg.norm(vectors, axis=-1, keepdims=True)
    scaled: _Array = vectors / np.where(lengths > 0, lengths, 1)
    return scaled


def joined_arcs(arcs: tuple[tuple[_Array, float], ...], direction: _Array) -> tuple[tuple[_Array, float], ...]:
    """Join arcs round one axis where they overlap or meet.

    Parameters
    ----------
    arcs
        The direction (3,) to the middle of each, at right angles to the axis, and its sweep (rad).
    direction : (3,) float
        The axis.

    Returns
    -------
    tuple
        In the same form, without overlaps; one arc of 2 pi where they close.

    Examples
    --------
    >>> x, z = np.array([1.0, 0, 0]), np.array([0, 0, 1.0])
    >>> [sweep for _, sweep in joined_arcs(((x, math.pi), (-x, math.pi)), z)] == [2 * math.pi]
    True
    """
    if len(arcs) == 1:
        return arcs
    x = arcs[0][0]
    y = np.cross(direction, x)
    middles = [(math.atan2(float(middle @ y), float(middle @ x)), sweep) for middle, sweep in arcs]
    spans = sorted((at - sweep / 2, at + sweep / 2) for at, sweep in middles)
    joined = [list(spans[0])]
    for begin, end in [*spans[1:], (spans[0][0] + 2 * math.pi, spans[0][1] + 2 * math.pi)]:
        if begin <= joined[-1][1] + 1e-6:
            joined[-1][1] = max(joined[-1][1], end)
        else:
            joined.append([begin, end])
    if joined[0][1] - joined[0][0] > 2 * math.pi - 1e-6:
        return ((x, 2 * math.pi),)
    if len(joined) > 1:
        joined[0][0] = joined.pop()[0] - 2 * math.pi  # the last is the first again, perhaps with what ran into it
    return tuple((math.cos((a + b) / 2) * x + math.sin((a + b) / 2) * y, b - a) for a, b in joined)


def widest_opening(arcs: tuple[tuple[_Array, float], ...], direction: _Array) -> float:
    """Return the widest gap (rad) that arcs round an axis leave."""
    if len(arcs) == 1:
        return 2 * math.pi - arcs[0][1]
    x = arcs[0][0]
    y = np.cross(direction, x)
    spans = sorted(
        (at - sweep / 2, at + sweep / 2)
        for at, sweep in ((math.atan2(float(middle @ y), float(middle @ x)), sweep) for middle, sweep in arcs)
    )
    following = [*spans[1:], (spans[0][0] + 2 * math.pi, 0.0)]
    return max(after[0] - before[1] for before, after in zip(spans, following, strict=True))
