"""The kinds of face that are known by name, as plain values."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

#: A wall that goes round this far (rad) is a hole or boss although a keyway opens it;
#: a half bore and the round end of a slot go round by pi only.
_GOES_ROUND = math.radians(240)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Plane:
    """A flat face."""

    #: Index in `faces_of`.
    face: int
    #: (3,) mm, the centre of the face's area.
    point: NDArray[np.float64]
    #: (3,) unit, out of the material.
    normal: NDArray[np.float64]
    #: mm2
    area: float


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Cylinder:
    """Cylinder faces of one axis and radius that belong together, however the file splits them."""

    faces: tuple[int, ...]
    #: (3,) mm, on the axis where the wall begins.
    point: NDArray[np.float64]
    #: (3,) unit, along the axis from `point`.
    direction: NDArray[np.float64]
    #: mm
    radius: float
    #: mm along `direction`.
    length: float
    #: Material is outside the wall.
    is_hollow: bool
    #: How far the wall goes round (rad), 2 pi for a whole one.
    sweep: float
    #: mm2
    area: float

    @property
    def goes_round(self) -> bool:
        """The wall has material (or air) all round it, but for a keyway."""
        return self.sweep > _GOES_ROUND

    @property
    def end(self) -> NDArray[np.float64]:
        """(3,) mm, on the axis where the wall ends."""
        return self.point + self.length * self.direction


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Cone:
    """A conical face, as left by a drill or a countersink."""

    face: int
    #: (3,) mm
    apex: NDArray[np.float64]
    #: (3,) unit, from the apex into the cone.
    direction: NDArray[np.float64]
    #: mm from the apex along `direction`: where the face begins and ends.
    near: float
    far: float
    #: rad, between axis and wall.
    half_angle: float
    area: float


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class OtherFace:
    """A face that is none of the above; known by kind, place and size only."""

    face: int
    kind: str
    point: NDArray[np.float64]
    area: float
