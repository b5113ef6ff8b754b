"""Putting a mechanism together in the world's coordinates; the build file comes out in the parts' own."""

import math
import random
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.values.frames import Pose, any_normal, unit

_Array = NDArray[np.float64]
Vector = Sequence[float] | _Array
X, Y, Z = (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)
_DIGITS = 9


@dataclass(frozen=True, slots=True, kw_only=True)
class Mechanism:
    """A build with what is drawn of it."""

    #: As in a build file.
    build: dict[str, Any]
    #: By instance: what it is called in sentences.
    names: dict[str, str]
    #: By instance: blocks, rods and balls in the part's coordinates, mm.
    shapes: dict[str, list[dict[str, Any]]]
    #: By mate: what its two features are called.
    features: dict[str, tuple[str, str]]
    #: Instances that a question may be about.
    asked: list[str]
    #: The instance that drives it and how, for one degree of freedom: its motion in the world.
    drive: tuple[str, dict[str, Any]] | None = None
    #: Instances whose answer to the drive is worth a question.
    driven: list[str] = field(default_factory=list)


@dataclass(slots=True)
class _Body:
    name: str
    grounded: bool
    pose: Pose
    shapes: list[dict[str, Any]]


class Maker:
    """Takes parts and mates in the world's coordinates.

    Examples
    --------
    >>> maker = Maker(random.Random(1))
    >>> maker.part("plate", [block((0, 0, 3), (60, 40, 6))], at=(0, 0, 0), grounded=True)
    >>> maker.part("pin", [rod((0, 0, 0), (0, 0, 20), 4)], at=(0, 0, 0))
    >>> maker.mate("coaxial", "plate", "pin", axis((0, 0, 0), Z), names=("bore", "shank"))
    'm1'
    >>> maker.done(asked=["pin"]).build["mates"][0]["kind"]
    'coaxial'
    """

    def __init__(self, chance: random.Random) -> None:
        self._chance = chance
        self._bodies: dict[str, _Body] = {}
        self._mates: list[dict[str, Any]] = []
        self._features: dict[str, tuple[str, str]] = {}

    def part(
        self, name: str, shapes: Sequence[Mapping[str, Any]], *, at: Vector = (0, 0, 0), grounded: bool = False
    ) -> None:
        """Add a part, drawn in the world; its own coordinates begin at `at`, turned by a quarter or none."""
        quarter = self._chance.choice((0, 1, 2, 3)) * math.pi / 2
        cos, sin = round(math.cos(quarter)), round(math.sin(quarter))
        pose = Pose(np.array([[cos, -sin, 0], [sin, cos, 0], [0, 0, 1]], dtype=float), np.array(at, dtype=float))
        own = [_placed(shape, pose.inverse()) for shape in shapes]
        self._bodies[name] = _Body(name, grounded, pose, own)

    def mate(
        self,
        kind: str,
        a: str,
        b: str,
        feature: Mapping[str, Any],
        other: Mapping[str, Any] | None = None,
        *,
        names: tuple[str, str],
        **more: Any,
    ) -> str:
        """Mate two parts by features in the world, `other` being the second's where it is another; return its id."""
        name = f"m{len(self._mates) + 1}"
        sides = {
            side: {"instance": _id(body), **_placed(what, self._bodies[body].pose.inverse())}
            for side, body, what in (("a", a, feature), ("b", b, feature if other is None else other))
        }
        self._mates.append({"id": name, "kind": kind, **sides, **more})
        self._features[name] = names
        return name

    def done(
        self,
        *,
        asked: Sequence[str],
        drive: tuple[str, dict[str, Any]] | None = None,
        driven: Sequence[str] = (),
        turn: bool = True,
    ) -> Mechanism:
        """Return the mechanism, set down anyhow: turned by quarters about the world's axes where `turn` says so."""
        whole = _quarters(self._chance) if turn else Pose(np.eye(3), np.zeros(3))
        instances = []
        for body in self._bodies.values():
            pose = whole @ body.pose
            instances.append(
                {
                    "id": _id(body.name),
                    "part": body.name.replace(" ", "-"),
                    "grounded": body.grounded,
                    "pose": {"position": _list(pose.position), "quaternion": _list(pose.quaternion())},
                }
            )
        parts = [{"id": body.name.replace(" ", "-"), "name": body.name.capitalize()} for body in self._bodies.values()]
        build = {
            "format": "rigid-bench/build", "version": 1, "units": "mm", "parts": parts, "instances": instances,
            "mates": self._mates,
        }  # fmt: skip
        moved = None
        if drive is not None:
            moved = (_id(drive[0]), _placed_motion(drive[1], whole))
        return Mechanism(
            build=build,
            names={_id(name): name for name in self._bodies},
            shapes={_id(name): body.shapes for name, body in self._bodies.items()},
            features=self._features,
            asked=[_id(name) for name in asked],
            drive=moved,
            driven=[_id(name) for name in driven],
        )


def _id(name: str) -> str:
    return f"{name.replace(' ', '-')}-1"


def plane(point: Vector, normal: Vector) -> dict[str, Any]:
    """Return a plane feature."""
    return {"plane": {"point": list(point), "normal": list(normal)}}


def axis(point: Vector, direction: Vector) -> dict[str, Any]:
    """Return an axis feature."""
    return {"axis": {"point": list(point), "direction": list(direction)}}


def point(place: Vector) -> dict[str, Any]:
    """Return a point feature."""
    return {"point": list(place)}


def frame(origin: Vector, z: Vector, x: Vector | None = None) -> dict[str, Any]:
    """Return a joint's frame; without an x any at right angles to its z."""
    across = any_normal(unit(np.array(z, dtype=float))).tolist() if x is None else list(x)
    return {"frame": {"origin": list(origin), "z": list(z), "x": across}}


def block(centre: Vector, size: Vector) -> dict[str, Any]:
    """Return a block along the axes, for drawing."""
    return {"block": {"centre": list(centre), "size": list(size), "x": list(X), "y": list(Y)}}


def bar(start: Vector, end: Vector, width: float, height: float) -> dict[str, Any]:
    """Return a flat link from one place to another in a level plane, for drawing."""
    a, b = np.array(start, dtype=float), np.array(end, dtype=float)
    along = unit(b - a)
    size = [float(np.linalg.norm(b - a)) + width, width, height]
    across = np.cross(np.array(Z), along)
    return {"block": {"centre": ((a + b) / 2).tolist(), "size": size, "x": along.tolist(), "y": across.tolist()}}


def rod(start: Vector, end: Vector, radius: float) -> dict[str, Any]:
    """Return a round bar, for drawing."""
    return {"rod": {"start": list(start), "end": list(end), "radius": radius}}


def ball(centre: Vector, radius: float) -> dict[str, Any]:
    """Return a ball, for drawing."""
    return {"ball": {"centre": list(centre), "radius": radius}}


#: What of a feature or shape is a place, and what a direction.
_PLACES, _WAYS = ("point", "origin", "centre", "start", "end"), ("normal", "direction", "z", "x", "y")


def _placed(given: Mapping[str, Any], pose: Pose) -> dict[str, Any]:
    """Return a feature or shape carried by a rigid motion."""
    ((kind, own),) = given.items()
    if kind == "point":
        return {kind: _list(pose.point(np.array(own, dtype=float)))}
    moved = dict(own)
    for name in _PLACES:
        if name in moved:
            moved[name] = _list(pose.point(np.array(moved[name], dtype=float)))
    for name in _WAYS:
        if name in moved:
            moved[name] = _list(pose.direction(np.array(moved[name], dtype=float)))
    return {kind: moved}


def _placed_motion(motion: Mapping[str, Any], pose: Pose) -> dict[str, Any]:
    if motion["kind"] == "translation":
        return {"kind": "translation", "direction": _list(pose.direction(np.array(motion["direction"], dtype=float)))}
    return {"kind": "rotation", **_placed({"axis": motion["axis"]}, pose)}


def turning(place: Vector, way: Vector = Z) -> dict[str, Any]:
    """Return a turn about a line of the world."""
    return {"kind": "rotation", "axis": {"point": list(place), "direction": list(way)}}


def sliding(way: Vector) -> dict[str, Any]:
    """Return a slide along a direction of the world."""
    return {"kind": "translation", "direction": list(way)}


def _quarters(chance: random.Random) -> Pose:
    """Return one of the 24 ways to set a block down with its edges along the axes, by lot."""
    first, second = chance.sample(range(3), 2)
    x, y = np.zeros(3), np.zeros(3)
    x[first], y[second] = chance.choice((-1, 1)), chance.choice((-1, 1))
    return Pose(np.array([x, y, np.cross(x, y)]).T, np.zeros(3))


def _list(values: "_Array | Sequence[float]") -> list[float]:
    return [round(float(value), _DIGITS) + 0.0 for value in values]
