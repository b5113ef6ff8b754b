"""Every kind of mate: how far it is from holding, and the rows it adds on two twists.

A mate is a list of scalar equations. Each has a residual (mm or rad) and one row on the
twist of b less the twist of a, ``[angular, linear]`` about the world's origin: the
velocity of a point p is ``linear + angular x p``. Vocabulary as in ISO 10303-109
(constraints) and ISO 10303-105 (kinematic pairs).
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.formats.build import Mate
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, FrameFeature, PlaneFeature
from rigid_bench.core.values.errors import InvalidDocument, NotSupported
from rigid_bench.core.values.frames import angle_between, any_normal, cross, turn_of

_Array = NDArray[np.float64]


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

    def reversed(self) -> "Equation":
        """Return the same equation on the twist of a less the twist of b."""
        return Equation(
            residual=self.residual,
            angular=-self.angular,
            linear=-self.linear,
            point=self.point,
            is_angular=self.is_angular,
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


def _turn(residual: float, axis: _Array) -> Equation:
    return Equation(residual=residual, angular=axis, linear=np.zeros(3), point=np.zeros(3), is_angular=True)


def _shift(residual: float, direction: _Array, point: _Array, *, angular: _Array | None = None) -> Equation:
    turning = np.zeros(3) if angular is None else angular
    return Equation(residual=residual, angular=turning, linear=direction, point=point, is_angular=False)


# --- what directions can do ---------------------------------------------------------------


def _sign(u: _Array, v: _Array, mate: Mate) -> float:
    """+1 where the directions shall agree, -1 where they shall oppose."""
    if mate.sense == "either":
        return 1.0 if u @ v >= 0 else -1.0
    return 1.0 if mate.sense == "aligned" else -1.0


def _parallel(u: _Array, v: _Array, mate: Mate) -> list[Equation]:
    wanted = _sign(u, v, mate) * v
    off = angle_between(u, wanted)
    axis = cross(u, wanted)
    size = float(np.linalg.norm(axis))
    # flipped right over, any axis across turns it back; the residual is then 180 degrees
    turn = axis * (off / size) if size > 1e-12 else any_normal(u) * off
    first = any_normal(u)
    return [_turn(float(turn @ t), t) for t in (first, cross(u, first))]


def _at_angle(u: _Array, v: _Array, angle: float) -> list[Equation]:
    axis = cross(u, v)
    size = float(np.linalg.norm(axis))
    return [_turn(angle_between(u, v) - angle, axis / size if size > 1e-9 else any_normal(u))]


# --- where points can be ------------------------------------------------------------------


def _on_plane(plane: PlaneFeature | FrameFeature, point: _Array, distance: float = 0.0) -> list[Equation]:
    normal = plane.direction
    return [_shift(float(normal @ (point - plane.point)) - distance, normal, point)]


def _on_axis(axis: AxisFeature | FrameFeature, point: _Array) -> list[Equation]:
    first = any_normal(axis.direction)
    return [_shift(float(t @ (point - axis.point)), t, point) for t in (first, cross(axis.direction, first))]


def _at_point(target: _Array, point: _Array) -> list[Equation]:
    return [_shift(float(t @ (point - target)), t, point) for t in np.eye(3)]


def _away(target: _Array, point: _Array, distance: float, across: _Array | None = None) -> list[Equation]:
    """Keep a distance from a point, or (with `across`) from the line along it."""
    apart = point - target
    if across is not None:
        apart = apart - across * float(apart @ across)
    size = float(np.linalg.norm(apart))
    if size < 1e-9:
        direction = any_normal(across) if across is not None else np.array([1.0, 0.0, 0.0])
    else:
        direction = apart / size
    return [_shift(size - distance, direction, point)]


# --- the kinds, for operands in the order of the pairing ------------------------------------


def _frames_agree(a: FrameFeature, b: FrameFeature, mate: Mate) -> list[Equation]:
    z = _sign(a.direction, b.direction, mate) * b.direction
    target = np.column_stack([a.x, cross(a.direction, a.x), a.direction])
    actual = np.column_stack([b.x, cross(z, b.x), z])
    turn = turn_of(actual @ target.T)
    return [_turn(float(turn @ t), t) for t in np.eye(3)]


def _along_z(a: FrameFeature, offset: float) -> _Array:
    return a.point + offset * a.direction


def _screw(a: FrameFeature, b: FrameFeature, mate: Mate) -> list[Equation]:
    if not mate.pitch:
        raise _needs(mate, "a pitch other than 0")
    lead = mate.pitch / (2 * math.pi)
    travel = float(a.direction @ (b.point - a.point))
    turned = math.atan2(float(cross(a.x, b.x) @ a.direction), float(a.x @ b.x))
    # a turn is only seen up to whole ones: take the whole turns that the travel shows
    turned += 2 * math.pi * round((travel / lead - turned) / (2 * math.pi))
    advance = _shift(travel - lead * turned, a.direction, b.point, angular=-lead * a.direction)
    return [*_coaxial(a, b, mate), advance]


def _tangent_plane(cylinder: CylinderFeature, plane: PlaneFeature, mate: Mate) -> list[Equation]:
    height = float(plane.normal @ (cylinder.point - plane.point))
    touch = _on_plane(plane, cylinder.point, math.copysign(cylinder.radius, height))[0]
    # the plane is the second operand here, so the point's row counts the other way
    return [*_at_angle(cylinder.direction, plane.normal, math.pi / 2), touch.reversed()]


def _tangent_cylinders(a: CylinderFeature, b: CylinderFeature, mate: Mate) -> list[Equation]:
    apart = abs(a.radius - b.radius) if mate.inside else a.radius + b.radius
    return [*_parallel(a.direction, b.direction, mate), *_away(a.point, b.point, apart, a.direction)]


def _needs(mate: Mate, what: str) -> InvalidDocument:
    return InvalidDocument(f"mate '{mate.id}'", f"a mate of kind '{mate.kind}' needs {what}", "Add it to the mate")


def _value(mate: Mate) -> float:
    if mate.value is None:
        raise _needs(mate, "a value")
    return mate.value


def _angle(a: Feature, b: Feature, mate: Mate) -> list[Equation]:
    value = _value(mate)
    if not 0 < value < 180:
        raise InvalidDocument(
            f"mate '{mate.id}'",
            f"an angle of {value:g} degrees is not between 0 and 180",
            "Use 'parallel' for 0 and 180",
        )
    return _at_angle(_direction(a), _direction(b), math.radians(value))


def _direction(feature: Feature) -> _Array:
    direction: _Array = feature.direction  # type: ignore[union-attr]  # pairings with points never come here
    return direction


def _plane_distance(a: PlaneFeature, b: PlaneFeature, mate: Mate) -> list[Equation]:
    return [*_parallel(a.normal, b.normal, mate), *_on_plane(a, b.point, _value(mate))]


def _axis_plane(plane: PlaneFeature, axis: AxisFeature, distance: float) -> list[Equation]:
    return [*_at_angle(plane.normal, axis.direction, math.pi / 2), *_on_plane(plane, axis.point, distance)]


def _coaxial(a: AxisFeature | FrameFeature, b: AxisFeature | FrameFeature, mate: Mate) -> list[Equation]:
    return [*_parallel(a.direction, b.direction, mate), *_on_axis(a, b.point)]


def _axis_distance(a: AxisFeature, b: AxisFeature, mate: Mate) -> list[Equation]:
    if _value(mate) == 0:
        return _coaxial(a, b, mate)
    return [*_parallel(a.direction, b.direction, mate), *_away(a.point, b.point, _value(mate), a.direction)]


def _point_axis_distance(axis: AxisFeature, point: Feature, mate: Mate) -> list[Equation]:
    if _value(mate) == 0:
        return _on_axis(axis, point.point)
    return _away(axis.point, point.point, _value(mate), axis.direction)


def _point_distance(a: Feature, b: Feature, mate: Mate) -> list[Equation]:
    return _at_point(a.point, b.point) if _value(mate) == 0 else _away(a.point, b.point, _value(mate))


Rule = Callable[..., list[Equation]]

#: kind -> pairing -> rule. The rule gets its operands in the order of the pairing.
KINDS: dict[str, dict[tuple[str, str], Rule]] = {
    "coincident": {
        ("plane", "plane"): lambda a, b, m: [*_parallel(a.normal, b.normal, m), *_on_plane(a, b.point)],
        ("plane", "axis"): lambda a, b, m: _axis_plane(a, b, 0.0),
        ("plane", "point"): lambda a, b, m: _on_plane(a, b.point),
        ("axis", "point"): lambda a, b, m: _on_axis(a, b.point),
        ("point", "point"): lambda a, b, m: _at_point(a.point, b.point),
    },
    "distance": {
        ("plane", "plane"): _plane_distance,
        ("plane", "axis"): lambda a, b, m: _axis_plane(a, b, _value(m)),
        ("axis", "axis"): _axis_distance,
        ("plane", "point"): lambda a, b, m: _on_plane(a, b.point, _value(m)),
        ("axis", "point"): _point_axis_distance,
        ("point", "point"): _point_distance,
    },
    "coaxial": {("axis", "axis"): _coaxial},
    "parallel": {
        ("plane", "plane"): lambda a, b, m: _parallel(a.normal, b.normal, m),
        ("axis", "axis"): lambda a, b, m: _parallel(a.direction, b.direction, m),
        ("plane", "axis"): lambda a, b, m: _at_angle(a.normal, b.direction, math.pi / 2),
    },
    "perpendicular": {
        ("plane", "plane"): lambda a, b, m: _at_angle(a.normal, b.normal, math.pi / 2),
        ("axis", "axis"): lambda a, b, m: _at_angle(a.direction, b.direction, math.pi / 2),
        ("plane", "axis"): lambda a, b, m: _parallel(a.normal, b.direction, m),
    },
    "angle": {("plane", "plane"): _angle, ("axis", "axis"): _angle},
    "tangent": {("cylinder", "plane"): _tangent_plane, ("cylinder", "cylinder"): _tangent_cylinders},
    "fixed": {("frame", "frame"): lambda a, b, m: [*_frames_agree(a, b, m), *_at_point(a.point, b.point)]},
    "revolute": {
        ("frame", "frame"): lambda a, b, m: [
            *_parallel(a.direction, b.direction, m),
            *_at_point(_along_z(a, m.offset), b.point),
        ]
    },
    "prismatic": {("frame", "frame"): lambda a, b, m: [*_frames_agree(a, b, m), *_on_axis(a, b.point)]},
    "screw": {("frame", "frame"): _screw},
    "cylindrical": {("frame", "frame"): _coaxial, ("axis", "axis"): _coaxial},
    "planar": {
        pairing: lambda a, b, m: [*_parallel(a.direction, b.direction, m), *_on_plane(a, b.point, m.offset)]
        for pairing in (("frame", "frame"), ("plane", "plane"))
    },
    "spherical": {("point", "point"): lambda a, b, m: _at_point(a.point, b.point)},
}

_FEATURE_NAMES = {"PlaneFeature": "plane", "AxisFeature": "axis", "PointFeature": "point", "FrameFeature": "frame"}


def _names(feature: Feature) -> Sequence[str]:
    """What a feature can serve as: a cylinder also serves as its axis."""
    return ("cylinder", "axis") if isinstance(feature, CylinderFeature) else (_FEATURE_NAMES[type(feature).__name__],)


def _find_rule(mate: Mate) -> tuple[Rule, bool]:
    """Return the rule for a mate, and whether its operands change places."""
    pairings = KINDS.get(mate.kind)
    if pairings is None:
        raise NotSupported(
            f"mate '{mate.id}'", f"there is no kind of mate '{mate.kind}'", f"The kinds are: {', '.join(sorted(KINDS))}"
        )
    for first in _names(mate.feature_a):
        for second in _names(mate.feature_b):
            if (first, second) in pairings:
                return pairings[first, second], False
            if (second, first) in pairings:
                return pairings[second, first], True
    offered = ", ".join("-".join(pairing) for pairing in pairings)
    given = f"{_names(mate.feature_a)[0]}-{_names(mate.feature_b)[0]}"
    raise InvalidDocument(
        f"mate '{mate.id}'", f"a mate of kind '{mate.kind}' does not join {given}", f"It joins: {offered}"
    )


def equations(mate: Mate, a: Feature, b: Feature) -> list[Equation]:
    """List the equations of a mate.

    Parameters
    ----------
    mate
        Kind, value, sense and the rest.
    a, b
        Its features, in the world's coordinates.

    Returns
    -------
    list of Equation
        On the twist of b less the twist of a; as many as the format's table says.

    Raises
    ------
    NotSupported
        The kind is not known.
    InvalidDocument
        The kind does not join these features, or a value is missing or cannot be meant.
    """
    rule, is_swapped = _find_rule(mate)
    if not is_swapped:
        return rule(a, b, mate)
    return [equation.reversed() for equation in rule(b, a, mate)]


def check_mate(mate: Mate) -> None:
    """Refuse a mate that cannot be meant, whatever the pose.

    Raises
    ------
    NotSupported, InvalidDocument
        As `equations` does.
    """
    equations(mate, mate.feature_a, mate.feature_b)
