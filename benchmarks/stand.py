"""A stand of four parts, to plant slips of mating in: base, post with a flat, arm that turns on it, pin with a head."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from build123d import Align, Box, Cylinder, Pos, Rot
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from rigid_bench.core.exercise.bundle import Exercise, read_exercise
from rigid_bench.demo.modelling import Vector, axis, cylinder, frame, json_bytes, on, plane, step_bytes

_CORNER, _FOOT = (Align.MIN,) * 3, (Align.CENTER, Align.CENTER, Align.MIN)
UP, DOWN, X, Y, FRONT = (0, 0, 1), (0, 0, -1), (1, 0, 0), (0, 1, 0), (0, -1, 0)
SIZES = {"post": 12.0, "bore": 12.3, "pin": 6.0, "thick": 12.0}
#: mm: of the arm above the base.
HEIGHT = 58.0
_POST_AT, _SEAT, _ARM_HIGH, _HALF_ARM = -15.0, 6.0, 24.0, 14.0
_Array = NDArray[np.float64]


def solids(sizes: Mapping[str, float]) -> dict[str, Any]:
    """Return the four solids by part."""
    thick = sizes["thick"]
    base = Box(80, 56, thick, align=_FOOT) - Pos(_POST_AT, 0, thick - _SEAT) * Cylinder(6.05, 50, align=_FOOT)
    base -= [Pos(x, y, 0) * Cylinder(r, 40) for x, y, r in ((-32, 0, 2.75), (32, 0, 2.75), (20, 14, 4))]
    post = Cylinder(sizes["post"] / 2, 110, align=_FOOT)
    post -= Pos(sizes["post"] / 2 - 1.5, -20, 80) * Box(40, 40, 50, align=_CORNER)
    arm = Pos(-12, -_HALF_ARM, 0) * Box(60, 2 * _HALF_ARM, _ARM_HIGH, align=_CORNER) - Cylinder(sizes["bore"] / 2, 60)
    arm -= [Pos(x, 0, 12) * Rot(90, 0, 0) * Cylinder(3.1, 80) for x in (30, 40)]
    arm -= Pos(34, -_HALF_ARM, 20) * Box(14, 10, 4, align=_CORNER)
    pin = Cylinder(sizes["pin"] / 2, 34, align=_FOOT) + Pos(0, 0, -4) * Cylinder(5, 4, align=_FOOT)
    return {"base": base, "post": post, "arm": arm, "pin": pin}


@dataclass(frozen=True, slots=True, kw_only=True)
class Stand:
    """A build of the stand, right but for what is given."""

    sizes: Mapping[str, float] = field(default_factory=dict)
    grounded: str = "base-1"
    height: float = HEIGHT
    #: Mates that were not made, and those made besides or in place of one of the same id.
    lacks: tuple[str, ...] = ()
    others: tuple[dict[str, Any], ...] = ()
    #: Which of the arm's cross holes, by its place, and from which side.
    hole: float = 30.0
    side: int = -1
    is_upside_down: bool = False
    is_at_origin: bool = False
    without: str = ""
    #: mm by which the post stands too high.
    post_up: float = 0.0

    def files(self) -> dict[str, bytes]:
        """Return a build file and a STEP file of each part."""
        sizes = {**SIZES, **self.sizes}
        shown = {part: solid for part, solid in solids(sizes).items() if part != self.without}
        places = self._places(sizes["thick"])
        mates = [
            mate
            for mate in self.mates(sizes)
            if not {f"{self.without}-1"} & {mate["a"]["instance"], mate["b"]["instance"]}
        ]
        build = {
            "format": "rigid-bench/build",
            "version": 1,
            "units": "mm",
            "parts": [{"id": part, "name": part.title(), "file": f"{part}.step"} for part in shown],
            "instances": [
                {"id": f"{part}-1", "part": part, "grounded": f"{part}-1" == self.grounded, "pose": places[part]}
                for part in shown
            ],
            "mates": mates,
        }
        return {
            "stand.build.json": json_bytes(build),
            **{f"{part}.step": step_bytes(solid, part.title()) for part, solid in shown.items()},
        }

    def _places(self, thick: float) -> dict[str, dict[str, list[float]]]:
        turned = np.diag([1.0, -1.0, -1.0]) if self.is_upside_down else np.eye(3)
        arm = np.array([_POST_AT, 0, thick + self.height + (_ARM_HIGH if self.is_upside_down else 0)])
        across = np.array([[1, 0, 0], [0, 0, -self.side], [0, self.side, 0]], dtype=float)
        pin = turned @ np.array([self.hole, self.side * _HALF_ARM, 12.0]) + arm
        poses = {
            "base": (np.eye(3), np.zeros(3)),
            "post": (np.eye(3), np.array([_POST_AT, 0, thick - _SEAT + self.post_up])),
            "arm": (turned, arm),
            "pin": (turned @ across, pin),
        }
        nowhere = (np.eye(3), np.zeros(3))
        return {part: _pose(*(nowhere if self.is_at_origin else pose)) for part, pose in poses.items()}

    def mates(self, s: Mapping[str, float]) -> list[dict[str, Any]]:
        """Return its mates, by its sizes."""
        beside: Vector = (0, self.side, 0)
        under = plane((20, 0, _ARM_HIGH), UP) if self.is_upside_down else plane((20, 0, 0), DOWN)
        mates = [
            _mate("post in base", "coaxial", on("base-1", axis((_POST_AT, 0, 0), UP)),
                  on("post-1", axis((0, 0, 0), UP))),
            _mate("post seated", "coincident", on("base-1", plane((_POST_AT, 0, s["thick"] - _SEAT), UP)),
                  on("post-1", plane((0, 0, 0), DOWN)), sense="opposed"),
            _mate("post turned", "parallel", on("base-1", plane((40, 0, 1), X)),
                  on("post-1", plane((s["post"] / 2 - 1.5, 0, 105), X)), sense="aligned"),
            _mate("arm on post", "coaxial", on("post-1", axis((0, 0, 0), UP)), on("arm-1", axis((0, 0, 0), UP))),
            _mate("arm height", "distance", on("base-1", plane((0, 20, s["thick"]), UP)), on("arm-1", under),
                  sense="opposed", value=self.height),
            _mate("pin in arm", "coaxial", on("arm-1", axis((self.hole, 0, 12), Y)), on("pin-1", axis((0, 0, 0), UP))),
            _mate("pin head", "coincident", on("arm-1", plane((10, self.side * _HALF_ARM, 5), beside)),
                  on("pin-1", plane((4, 0, 0), UP)), sense="opposed"),
        ]  # fmt: skip
        replaced = {*self.lacks, *(mate["id"] for mate in self.others)}
        return [*(mate for mate in mates if mate["id"] not in replaced), *self.others]


def fixed_arm() -> dict[str, Any]:
    """Return a mate that fixes the arm where it should turn."""
    a = on("base-1", frame((_POST_AT, 0, SIZES["thick"] + HEIGHT), UP, X))
    return _mate("arm fixed", "fixed", a, on("arm-1", frame((0, 0, 0), UP, X)), sense="aligned")


def held_once_more() -> dict[str, Any]:
    """Return a mate that keeps the arm from turning."""
    a = on("base-1", plane((0, 28, 3), Y))
    return _mate("square", "parallel", a, on("arm-1", plane((10, _HALF_ARM, 5), Y)), sense="aligned")


def arm_on_base() -> dict[str, Any]:
    """Return a mate that seats the arm on the base, its height forgotten."""
    a = on("base-1", plane((0, 20, SIZES["thick"]), UP))
    return _mate("arm height", "coincident", a, on("arm-1", plane((20, 0, 0), DOWN)), sense="opposed")


def post_on_top() -> dict[str, Any]:
    """Return a mate that seats the post on the base's top and not in its pocket."""
    a = on("base-1", plane((0, 20, SIZES["thick"]), UP))
    return _mate("post seated", "coincident", a, on("post-1", plane((0, 0, 0), DOWN)), sense="opposed")


def exercise() -> Exercise:
    """Return what is asked of the stand: four sizes, six seats, three freedoms, a gap, and the whole."""
    right = Stand().files()
    thick = SIZES["thick"]
    turn = {"kind": "rotation", "axis": {"point": (_POST_AT, 0, 0), "direction": UP}}

    def across(name: str, part: str) -> dict[str, Any]:
        wall = cylinder((0, 0, 1), UP, SIZES[name] / 2)
        return {**_size(f"{part} {name}", part, SIZES[name]), "measure": "diameter", "of": wall}

    def row(name: str, kind: str, **more: Any) -> dict[str, Any]:
        return {"id": name, "title": name.capitalize(), "kind": kind, "marks": 1, **more}

    def free(part: str, to: str, *motions: dict[str, Any]) -> dict[str, Any]:
        return row(f"{part} free", "freedom", instance=f"{part}-1", to=f"{to}-1", motions=list(motions))

    seats = [
        row(mate["id"], "relation", relation=mate["kind"],
            **{key: value for key, value in mate.items() if key not in ("id", "kind")})
        for mate in Stand().mates(SIZES)
        if mate["id"] != "post turned"
    ]  # fmt: skip
    checks = [
        across("post", "post"), across("bore", "arm"), across("pin", "pin"),
        {**_size("base thick", "base", thick), "measure": "thickness",
         "between": [plane((0, 20, 0), DOWN), plane((0, 20, thick), UP)]},
        row("parts", "parts"), row("grounded", "grounded", instance="base-1"), *seats,
        free("post", "base"), free("arm", "base", turn), free("pin", "arm"),
        row("gap", "gap", a="post-1", b="arm-1", min=0.1, max=0.2),
        row("overlap", "interference"), row("mobility", "mobility", count=1),
    ]  # fmt: skip
    document = {
        "format": "rigid-bench/exercise", "version": 1, "id": "stand", "title": "Stand", "grounding": ["declared"],
        "parts": [{"id": part, "name": part.title(), "file": f"{part}.step"} for part in solids(SIZES)],
        "reference": "stand.build.json", "checks": checks,
    }  # fmt: skip
    return read_exercise({"exercise.json": json_bytes(document), **right})


def _size(name: str, part: str, nominal: float) -> dict[str, Any]:
    limits = {"minus": 0.1, "plus": 0.1}
    return {"id": name, "title": name.capitalize(), "kind": "dimension", "marks": 1, "part": part, "nominal": nominal,
            "tolerance": limits}  # fmt: skip


def _mate(name: str, kind: str, a: dict[str, Any], b: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {"id": name, "kind": kind, "a": a, "b": b, **more}


def _pose(rotation: _Array, position: _Array) -> dict[str, list[float]]:
    x, y, z, w = Rotation.from_matrix(rotation).as_quat().tolist()
    return {"position": position.tolist(), "quaternion": [w, x, y, z]}
