"""What mates are made of: scalar equations on the twist of one part less that of another.

Each has a residual (mm or rad) and one row on the twist of b less the twist of a, ``[angular, linear]`` about the
world's origin: the velocity of a point p is ``linear + angular x p``.
"""

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.formats.build import Mate
from rigid_bench.core.values.datums import AxisFeature, FrameFeature, PlaneFeature
from rigid_bench.core.values.frames import angle_between, any_normal, cross, turn_of

_Array = NDArray[np.float64]
_NONE, _WORLD = np.zeros(3), np.eye(3)
_NONE.flags.writeable = _WORLD.flags.writeable = False


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Equation:
    """One scalar equation of a mate."""

    #: mm, or rad where `is_angular`.
    residual: float
    #: (3,) on the angular part of the relative twist about `point`.
    angular: _Array
    #: (3,) on the linear part.
    linear: _Array
    #: (3,) mm: the linear part is the velocity of this point.
    point: _Array
    is_angular: bool
    #: Its row could as well point elsewhere here: two middles that meet and keep no distance.
    is_singular: bool = False

    def reversed(self) -> "Equation":
        """Return the same equation on the twist of a less the twist of b."""
        return Equation(
            residual=self.residual,
            angular=-self.angular,
            linear=-self.linear,
            point=self.point,
            is_angular=self.is_angular,
            is_singular=self.is_singular,
        )


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Row:
    """What an equation says of a twist, without its residual."""

    angular: _Array
    linear: _Array
    point: _Array
    is_angular: bool

    def equation(self, residual: float) -> Equation:
        """Return the equation that is off by so much, mm or rad."""
        return Equation(
            residual=residual,
            angular=self.angular,
            linear=self.linear,
            point=self.point,
            is_angular=self.is_angular,
        )


def turn(residual: float, axis: _Array) -> Equation:
    """Make the equation of a turn, rad, about an axis, (3,) unit."""
    return Equation(residual=residual, angular=axis, linear=_NONE, point=_NONE, is_angular=True)


def shift(residual: float, direction: _Array, point: _Array, *, angular: _Array | None = None) -> Equation:
    """Make the equation of a shift, mm, of a point, (3,) mm, along a direction, (3,) unit."""
    turning = _NONE if angular is None else angular
    return Equation(residual=residual, angular=turning, linear=direction, point=point, is_angular=False)


def sign(u: _Array, v: _Array, mate: Mate) -> float:
    """Return +1 where the directions shall agree, -1 where they shall oppose."""
    if mate.sense == "either":
        return 1.0 if u.dot(v) >= 0 else -1.0
    return 1.0 if mate.sense == "aligned" else -1.0


def parallel(u: _Array, v: _Array, mate: Mate) -> list[Equation]:
    """Keep two directions, (3,) unit, parallel, the way round that the mate's sense says: two equations."""
    wanted = sign(u, v, mate) * v
    off, first = angle_between(u, wanted), any_normal(u)
    axis = cross(u, wanted)
    size = math.hypot(*axis.tolist())
    # flipped right over, any axis across turns it back; the residual is then 180 degrees
    turned = axis * (off / size) if size > 1e-12 else first * off
    return [turn(float(turned.dot(t)), t) for t in (first, cross(u, first))]


def at_angle(u: _Array, v: _Array, angle: float) -> list[Equation]:
    """Keep two directions, (3,) unit, at an angle, rad: one equation."""
    axis = cross(u, v)
    size = float(np.linalg.norm(axis))
    return [turn(angle_between(u, v) - angle, axis / size if size > 1e-9 else any_normal(u))]


def on_plane(plane: PlaneFeature | FrameFeature, point: _Array, distance: float = 0.0) -> list[Equation]:
    """Keep a point, (3,) mm, on a plane, or at a signed distance from it, mm: one equation."""
    normal = plane.direction
    return [shift(float(normal.dot(point - plane.point)) - distance, normal, point)]


def on_axis(axis: AxisFeature | FrameFeature, point: _Array) -> list[Equation]:
    """Keep a point, (3,) mm, on an axis: two equations."""
    first, off = any_normal(axis.direction), point - axis.point
    return [shift(float(t.dot(off)), t, point) for t in (first, cross(axis.direction, first))]


def at_point(target: _Array, point: _Array) -> list[Equation]:
    """Keep a point at another, (3,) mm both: three equations."""
    return [shift(off, t, point) for off, t in zip((point - target).tolist(), _WORLD, strict=True)]


def away(target: _Array, point: _Array, distance: float, across: _Array | None = None) -> list[Equation]:
    """Keep a distance from a point, or (with `across`) from the line along it."""
    apart = point - target
    if across is not None:
        apart = apart - across * float(apart @ across)
    size = float(np.linalg.norm(apart))
    if size > 1e-9:
        return [shift(size - distance, apart / size, point)]
    direction = any_normal(across) if across is not None else _WORLD[0]
    return [replace(shift(size - distance, direction, point), is_singular=True)]


def frames_agree(a: FrameFeature, b: FrameFeature, mate: Mate) -> list[Equation]:
    """Keep two frames turned alike, b's z and the rest of it the way round that the sense says: three equations."""
    z = sign(a.direction, b.direction, mate) * b.direction
    target, actual = np.array([a.x, cross(a.direction, a.x), a.direction]), np.array([b.x, cross(z, b.x), z])
    turned = turn_of(actual.T.dot(target))
    return [turn(off, t) for off, t in zip(turned.tolist(), _WORLD, strict=True)]
