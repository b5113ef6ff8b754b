"""How far a part slides until flat faces square to its way meet: exact, without triangles and without the kernel.

Walls along the way stay where they are as a part slides. What it runs into it meets with a face that looks ahead, so
that on most parts the flat faces alone say where.
"""

import itertools
import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.contact.clearance import PlacedSolid
from rigid_bench.core.assembly.contact.contacts import PlacedFaces, common_place
from rigid_bench.core.kernel.meshes.swept_contact import CONTACT_MM
from rigid_bench.core.part.face_boxes import face_box
from rigid_bench.core.part.faces import Cylinder, Plane, Surface
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.frames import any_normal

_Array = NDArray[np.float64]
#: Cosines that are rounding; mm: levels that are one.
_SQUARE, _LEVEL = 1e-9, 1e-6


def flat_meeting(moving: PlacedSolid, other: PlacedSolid, direction: _Array) -> float | None:
    """Return how far a part slides until it meets another that it does not overlap where it stands.

    Parameters
    ----------
    moving, other
        Where they stand.
    direction
        (3,) unit, in the world.

    Returns
    -------
    float or None
        mm; infinite where the other is not on its way; None where triangles must be asked: faces that are not square to
        the way may meet first, or outlines only graze.
    """
    if moving.part.is_mesh or other.part.is_mesh:
        return None
    square = _square_to(moving, direction)
    one, two = _Seen(moving, square), _Seen(other, square)
    limit = _earliest(one, two)
    if limit < -_LEVEL:
        return None
    ways = sorted(
        (way, i, j)
        for i, j in itertools.product(one.looking(1), two.looking(-1))
        if (way := two.level(j) - one.level(i)) > -CONTACT_MM  # places are rounded
    )
    for way, i, j in ways:
        if way > limit + _LEVEL:
            return None
        if common_place(one.faces, i, two.faces, j) is not None:
            return max(way, 0.0)
        if _lie_over(one.flat_box(i), two.flat_box(j)):
            return None
    return None if math.isfinite(limit) else math.inf


def _square_to(solid: PlacedSolid, direction: _Array) -> _Array:
    """Return two ways across and one along, (3, 3); across as the largest wall along it looks: boxes are tight then."""
    walls = [(plane.area, solid.pose.direction(plane.normal)) for plane in solid.part.planes]
    along = [(area, normal) for area, normal in walls if abs(float(normal @ direction)) < _SQUARE]
    first = max(along, key=lambda wall: wall[0])[1] if along else any_normal(direction)
    return np.array([first, np.cross(direction, first), direction])


def _earliest(one: "_Seen", two: "_Seen") -> float:
    """Return after how many mm at least a face that is not square to the way may meet anything that looks at it."""
    ahead, back = one.slanted(), two.slanted()
    flats_ahead, flats_back = ([seen.flat_box(k) for k in seen.looking(way)] for seen, way in ((one, 1), (two, -1)))
    return min(_least_way(ahead, back + flats_back), _least_way(flats_ahead, back))


def _least_way(ahead: Sequence[_Array], back: Sequence[_Array]) -> float:
    """Return how far the first of some boxes goes at least until it may meet one of the others; infinite for none."""
    near, far = (np.array(boxes).reshape(-1, 2, 3) for boxes in (ahead, back))
    is_over = _lie_over(near[:, None], far[None])
    ways = far[None, :, 0, 2] - near[:, None, 1, 2]
    return float(ways[is_over & (far[None, :, 1, 2] > near[:, None, 0, 2])].min(initial=math.inf))


def _lie_over(one: _Array, two: _Array) -> NDArray[np.bool_]:
    """Say whether boxes, (..., 2, 3), lie over each other as they are seen along the way."""
    first, second = (
        np.all(low[..., 0, :2] < high[..., 1, :2] - _LEVEL, axis=-1) for low, high in ((one, two), (two, one))
    )
    over: NDArray[np.bool_] = first & second
    return over


class _Seen:
    """A part as it is seen along a way."""

    def __init__(self, solid: PlacedSolid, square: _Array) -> None:
        self.faces = PlacedFaces(solid.part, solid.pose)
        self._part: PartFeatures = solid.part
        #: Across and along the way, in the part's coordinates, and where its origin is seen.
        self._square, self._origin = square @ solid.pose.rotation, square @ solid.pose.position
        self._cosines = self.faces.normals @ square[2]
        self._levels = self.faces.points @ square[2]

    def looking(self, way: int) -> list[int]:
        """List the flat faces that look ahead (1) or back (-1), by their place among these."""
        numbers: list[int] = np.flatnonzero(way * self._cosines > 1 - _SQUARE).tolist()
        return numbers

    def level(self, plane: int) -> float:
        """Return how far along the way a flat face lies, mm."""
        return float(self._levels[plane])

    def flat_box(self, plane: int) -> _Array:
        """Return the box of a flat face, (2, 3) mm: across the way twice, and along it."""
        return self._box(self.faces.numbers[plane])

    def slanted(self) -> list[_Array]:
        """List the boxes of the faces that lie neither along the way nor square to it."""
        return [
            self._box(number)
            for number, surface in enumerate(self._part.surfaces)
            if not self._is_along_or_square(surface)
        ]

    def _is_along_or_square(self, surface: Surface) -> bool:
        if isinstance(surface, Plane):
            cosine = abs(float(surface.normal @ self._square[2]))
            return cosine < _SQUARE or cosine > 1 - _SQUARE
        return isinstance(surface, Cylinder) and abs(float(surface.direction @ self._square[2])) > 1 - _SQUARE

    def _box(self, number: int) -> _Array:
        box: _Array = face_box(self._part, number, self._square) + self._origin
        return box
