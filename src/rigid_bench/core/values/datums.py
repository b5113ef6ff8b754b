"""Features that mates and checks speak of: a plane, an axis, a cylinder, a point or a frame."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.values.frames import Pose, unit


@dataclass(frozen=True, slots=True, eq=False)
class PlaneFeature:
    """A flat face."""

    #: (3,) mm
    point: NDArray[np.float64]
    #: (3,) unit, out of the material.
    normal: NDArray[np.float64]

    @property
    def direction(self) -> NDArray[np.float64]:
        """(3,) unit, the normal: what `sense` compares."""
        return self.normal

    def moved(self, pose: Pose) -> "PlaneFeature":
        """Return the feature carried by a rigid motion."""
        return PlaneFeature(pose.point(self.point), pose.direction(self.normal))


@dataclass(frozen=True, slots=True, eq=False)
class AxisFeature:
    """A line with a direction."""

    #: (3,) mm
    point: NDArray[np.float64]
    #: (3,) unit
    direction: NDArray[np.float64]

    def moved(self, pose: Pose) -> "AxisFeature":
        """Return the feature carried by a rigid motion."""
        return AxisFeature(pose.point(self.point), pose.direction(self.direction))


@dataclass(frozen=True, slots=True, eq=False)
class CylinderFeature(AxisFeature):
    """A round wall: an axis with a radius."""

    #: mm
    radius: float

    def moved(self, pose: Pose) -> "CylinderFeature":
        """Return the feature carried by a rigid motion."""
        return CylinderFeature(pose.point(self.point), pose.direction(self.direction), self.radius)


@dataclass(frozen=True, slots=True, eq=False)
class CountersinkFeature(AxisFeature):
    """The countersink at the mouth of the hole about an axis."""

    def moved(self, pose: Pose) -> "CountersinkFeature":
        """Return the feature carried by a rigid motion."""
        return CountersinkFeature(pose.point(self.point), pose.direction(self.direction))


@dataclass(frozen=True, slots=True, eq=False)
class ConeFeature(AxisFeature):
    """A conical surface: a point of its axis, and the whole angle."""

    #: rad
    angle: float

    def moved(self, pose: Pose) -> "ConeFeature":
        """Return the feature carried by a rigid motion."""
        return ConeFeature(pose.point(self.point), pose.direction(self.direction), self.angle)


@dataclass(frozen=True, slots=True, eq=False)
class TorusFeature(AxisFeature):
    """A ring: its centre and axis, how far the middle of the tube is from it, and the tube's radius."""

    #: mm, both
    radius: float
    tube: float

    def moved(self, pose: Pose) -> "TorusFeature":
        """Return the feature carried by a rigid motion."""
        return TorusFeature(pose.point(self.point), pose.direction(self.direction), self.radius, self.tube)


@dataclass(frozen=True, slots=True, eq=False)
class SphereFeature:
    """A ball or its socket."""

    #: (3,) mm, the centre.
    point: NDArray[np.float64]
    #: mm
    radius: float

    def moved(self, pose: Pose) -> "SphereFeature":
        """Return the feature carried by a rigid motion."""
        return SphereFeature(pose.point(self.point), self.radius)


@dataclass(frozen=True, slots=True, eq=False)
class PointFeature:
    """A point."""

    #: (3,) mm
    point: NDArray[np.float64]

    def moved(self, pose: Pose) -> "PointFeature":
        """Return the feature carried by a rigid motion."""
        return PointFeature(pose.point(self.point))


@dataclass(frozen=True, slots=True, eq=False)
class FrameFeature:
    """A joint's frame: z is the joint's axis, x its zero direction."""

    #: (3,) mm
    point: NDArray[np.float64]
    #: (3,) unit
    direction: NDArray[np.float64]
    #: (3,) unit, at right angles to `direction`.
    x: NDArray[np.float64]

    def moved(self, pose: Pose) -> "FrameFeature":
        """Return the feature carried by a rigid motion."""
        return FrameFeature(pose.point(self.point), pose.direction(self.direction), pose.direction(self.x))


#: What a mate may join, and beside it what a check may name.
Feature = PlaneFeature | AxisFeature | CylinderFeature | PointFeature | FrameFeature | SphereFeature


def make_frame(origin: NDArray[np.float64], z: NDArray[np.float64], x: NDArray[np.float64]) -> FrameFeature:
    """Make a frame, its x turned square to z.

    Raises
    ------
    InvalidDocument
        z has no direction, or x is along z.
    """
    along = unit(z, where="frame z")
    across = np.asarray(x, dtype=float) - along * float(along @ np.asarray(x, dtype=float))
    return FrameFeature(np.asarray(origin, dtype=float), along, unit(across, where="frame x, apart from z"))
