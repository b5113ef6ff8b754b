"""The seed drawer: a given housing, a drawer that slides in it, a knob that is held in its front.

One parametric model gives the reference and every sample build; a wrong build differs in
one known way, and says which checks its slip reaches.
"""

from dataclasses import dataclass, field
from typing import Any

from build123d import Align, Box, Cylinder, Part, Pos, Rot

from rigid_bench.demo.modelling import (
    Placed,
    Vector,
    assembly_bytes,
    axis,
    cylinder,
    frame,
    json_bytes,
    plane,
    step_bytes,
)

_MIN = (Align.MIN, Align.MIN, Align.MIN)
_ALONG_X = Rot(0, 90, 0)
_ON_AXIS = (Align.CENTER, Align.CENTER, Align.MIN)


@dataclass(frozen=True, slots=True, kw_only=True)
class Sizes:
    """All sizes of drawer and knob, mm."""

    length: float = 90.0
    width: float = 60.0
    height: float = 30.0
    wall: float = 3.0
    front: float = 3.0
    floor: float = 3.0
    hole: float = 8.4
    hole_height: float = 15.0
    hole_from_side: float = 30.0
    spigot: float = 8.0
    spigot_length: float = 10.0
    pilot: float = 4.0
    pilot_depth: float = 8.0


#: The housing is given: outside 95 x 66.8 x 36.8, walls 3.
HOUSING_WALL, SPACE = 3.0, (92.0, 60.8, 30.8)
GAP = 0.4


def housing() -> Part:
    """The given housing, open at the front (x = 0); the origin is a corner of the space inside."""
    length, width, height = SPACE
    w = HOUSING_WALL
    outside = Pos(0, -w, -w) * Box(length + w, width + 2 * w, height + 2 * w, align=_MIN)
    return outside - Pos(-1, 0, 0) * Box(length + 1, width, height, align=_MIN)


def drawer(sizes: Sizes) -> Part:
    """The drawer, its front at x = 0 with the hole for the knob, open at the top."""
    s = sizes
    outside = Box(s.length, s.width, s.height, align=_MIN)
    inside = Box(s.length - s.front - s.wall, s.width - 2 * s.wall, s.height, align=_MIN)
    hole = Pos(-1, s.hole_from_side, s.hole_height) * _ALONG_X * Cylinder(s.hole / 2, s.front + 2, align=_ON_AXIS)
    return outside - Pos(s.front, s.wall, s.floor) * inside - hole


def knob(sizes: Sizes) -> Part:
    """The knob: a square head, its shoulder at x = 0, and a spigot with a blind pilot hole for the screw."""
    s = sizes
    head = Pos(-10, -8, -8) * Box(10, 16, 16, align=_MIN)
    spigot = _ALONG_X * Cylinder(s.spigot / 2, s.spigot_length, align=_ON_AXIS)
    pilot = (
        Pos(s.spigot_length - s.pilot_depth, 0, 0) * _ALONG_X * Cylinder(s.pilot / 2, s.pilot_depth + 1, align=_ON_AXIS)
    )
    return head + spigot - pilot


def _placed(sizes: Sizes, *, has_knob: bool) -> list[Placed]:
    parts = [
        Placed(name="Housing", solid=housing()),
        Placed(name="Drawer", solid=drawer(sizes), position=(0, GAP, 0)),
    ]
    front = (0, GAP + sizes.hole_from_side, sizes.hole_height)
    return [*parts, Placed(name="Knob", solid=knob(sizes), position=front)] if has_knob else parts


def _on(instance: str, feature: dict[str, Any]) -> dict[str, Any]:
    return {"instance": instance, **feature}


_FRONT: Vector = (-1, 0, 0)
_BACK: Vector = (1, 0, 0)
_LEFT: Vector = (0, -1, 0)
_RIGHT: Vector = (0, 1, 0)
_UP: Vector = (0, 0, 1)
_DOWN: Vector = (0, 0, -1)


def _sliding_mates() -> list[dict[str, Any]]:
    return [
        {
            "id": "drawer on floor",
            "kind": "coincident",
            "sense": "opposed",
            "a": _on("housing-1", plane((40, 30, 0), _UP)),
            "b": _on("drawer-1", plane((40, 30, 0), _DOWN)),
        },
        {
            "id": "drawer beside wall",
            "kind": "distance",
            "value": GAP,
            "sense": "opposed",
            "a": _on("housing-1", plane((40, 0, 15), _RIGHT)),
            "b": _on("drawer-1", plane((40, 0, 15), _LEFT)),
        },
    ]


def _fixing_mate() -> dict[str, Any]:
    return {
        "id": "drawer fixed",
        "kind": "fixed",
        "sense": "aligned",
        "a": _on("housing-1", frame((0, GAP, 0), _UP, _BACK)),
        "b": _on("drawer-1", frame((0, 0, 0), _UP, _BACK)),
    }


def _knob_mates(sizes: Sizes) -> list[dict[str, Any]]:
    hole = (0, sizes.hole_from_side, sizes.hole_height)
    return [
        {
            "id": "knob on front",
            "kind": "coincident",
            "sense": "opposed",
            "a": _on("drawer-1", plane((0, 5, 5), _FRONT)),
            "b": _on("knob-1", plane((0, 6, 6), _BACK)),
        },
        {
            "id": "knob in hole",
            "kind": "coaxial",
            "a": _on("drawer-1", axis(hole, _BACK)),
            "b": _on("knob-1", axis((0, 0, 0), _BACK)),
        },
        {
            "id": "knob upright",
            "kind": "parallel",
            "sense": "aligned",
            "a": _on("drawer-1", plane((40, 1, sizes.height), _UP)),
            "b": _on("knob-1", plane((-5, 0, 8), _UP)),
        },
    ]


def build_file(
    sizes: Sizes,
    *,
    grounded: str | None = "housing-1",
    is_fixed: bool = False,
    has_knob: bool = True,
    source: str | None,
) -> dict[str, Any]:
    """Write the build file of an assembly.

    Parameters
    ----------
    sizes
        Where the mates' faces are.
    grounded
        The instance that is grounded, or None.
    is_fixed
        The drawer is fixed instead of sliding.
    has_knob
        Whether there is a knob.
    source
        The STEP assembly with the parts; None names a file for each part.
    """
    names = ["Housing", "Drawer", "Knob"][: 3 if has_knob else 2]
    positions = {each.name: each.position for each in _placed(sizes, has_knob=has_knob)}
    mates = [_fixing_mate()] if is_fixed else _sliding_mates()
    document: dict[str, Any] = {
        "format": "rigid-bench/build",
        "version": 1,
        "units": "mm",
        "parts": [
            {"id": name.lower(), "name": name, **({"part": name} if source else {"file": f"{name.lower()}.step"})}
            for name in names
        ],
        "instances": [
            {
                "id": f"{name.lower()}-1",
                "part": name.lower(),
                "grounded": grounded == f"{name.lower()}-1",
                "pose": {"position": positions[name], "quaternion": [1, 0, 0, 0]},
            }
            for name in names
        ],
        "mates": mates + (_knob_mates(sizes) if has_knob else []),
    }
    return {**document, "source": source} if source else document


def _dimension(name: str, title: str, marks: float, measure: str, nominal: float | str, **more: Any) -> dict[str, Any]:
    part = name.split(".")[0]
    return {
        "id": name,
        "title": title,
        "kind": "dimension",
        "marks": marks,
        "part": part,
        "measure": measure,
        "nominal": nominal,
        "tolerance": {"minus": 0.1, "plus": 0.1},
        "near": {"factor": 2, "share": 0.5},
        **more,
    }


def _dimensions(s: Sizes) -> list[dict[str, Any]]:
    """The thirteen sizes that are asked for."""
    hole = cylinder((0, s.hole_from_side, s.hole_height), _BACK, s.hole / 2)
    spigot = cylinder((0, 0, 0), _BACK, s.spigot / 2)
    pilot = cylinder((s.spigot_length, 0, 0), _BACK, s.pilot / 2)
    front, back = plane((0, 5, 5), _FRONT), plane((s.length, 5, 5), _BACK)
    left, right = plane((40, 0, 15), _LEFT), plane((40, s.width, 15), _RIGHT)
    bottom, top = plane((40, 30, 0), _DOWN), plane((40, 1, s.height), _UP)
    return [
        _dimension("drawer.length", "Drawer length", 2, "length", s.length, between=[front, back]),
        _dimension(
            "drawer.width",
            "Drawer width",
            3,
            "length",
            "66.8 - 2*3 - 2*0.4",
            between=[left, right],
            hint="The housing outside, less its two walls, less the gap on both sides.",
        ),
        _dimension("drawer.height", "Drawer height", 2, "length", s.height, between=[bottom, top]),
        _dimension("drawer.wall", "Side wall", 2, "thickness", s.wall, between=[left, plane((40, s.wall, 15), _RIGHT)]),
        _dimension("drawer.floor", "Floor", 2, "thickness", s.floor, between=[bottom, plane((40, 30, s.floor), _UP)]),
        _dimension("drawer.hole", "Hole for the knob", 2, "diameter", s.hole, of=hole),
        _dimension("drawer.hole.height", "Hole above the bottom", 1, "position", s.hole_height, between=[hole, bottom]),
        _dimension("drawer.hole.side", "Hole from the side", 1, "position", s.hole_from_side, between=[hole, left]),
        _dimension(
            "knob.head",
            "Knob head",
            1,
            "length",
            16,
            between=[plane((-5, -8, 0), _LEFT), plane((-5, 8, 0), _RIGHT)],
        ),
        _dimension("knob.spigot", "Spigot", 2, "diameter", s.spigot, of=spigot),
        _dimension(
            "knob.spigot.length",
            "Spigot length",
            1,
            "length",
            s.spigot_length,
            between=[plane((0, 6, 6), _BACK), plane((s.spigot_length, 3, 0), _BACK)],
        ),
        _dimension("knob.pilot", "Pilot hole", 2, "diameter", s.pilot, of=pilot),
        _dimension("knob.pilot.depth", "Pilot hole depth", 1, "depth", s.pilot_depth, of=pilot),
    ]


def _gap(name: str, title: str, housing_face: dict[str, Any], drawer_face: dict[str, Any]) -> dict[str, Any]:
    return {
        "id": name,
        "title": title,
        "kind": "gap",
        "marks": 1,
        "a": "housing-1",
        "b": "drawer-1",
        "min": 0.3,
        "max": 0.6,
        "between": [housing_face, drawer_face],
    }


def _freedom(name: str, title: str, marks: float, to: str, *motions: dict[str, Any], hint: str = "") -> dict[str, Any]:
    return {
        "id": name,
        "title": title,
        "kind": "freedom",
        "marks": marks,
        "instance": f"{name.split('.')[0]}-1",
        "to": to,
        "motions": list(motions),
        "hint": hint,
    }


def _assembly_checks(s: Sizes) -> list[dict[str, Any]]:
    slide = {"kind": "translation", "direction": _BACK}
    come_out = "It should come out towards you, and do nothing else."
    right_wall, right_side = plane((40, SPACE[1], 15), _LEFT), plane((40, s.width, 15), _RIGHT)
    return [
        {"id": "parts", "title": "All parts", "kind": "parts", "marks": 1},
        {"id": "base", "title": "Housing grounded", "kind": "grounded", "marks": 1, "instance": "housing-1"},
        {
            "id": "drawer.seat",
            "title": "Drawer on the floor",
            "kind": "relation",
            "marks": 2,
            "relation": "coincident",
            "sense": "opposed",
            "a": _on("housing-1", plane((40, 30, 0), _UP)),
            "b": _on("drawer-1", plane((40, 30, 0), _DOWN)),
        },
        _freedom("drawer.free", "Drawer slides", 3, "housing-1", slide, hint=come_out),
        _freedom("knob.free", "Knob held", 2, "drawer-1"),
        _gap("gap.left", "Gap on the left", plane((40, 0, 15), _RIGHT), plane((40, 0, 15), _LEFT)),
        _gap("gap.right", "Gap on the right", right_wall, right_side),
        {"id": "overlap", "title": "Nothing overlaps", "kind": "interference", "marks": 2},
    ]


def bundle() -> dict[str, bytes]:
    """Make the exercise bundle: its files by name."""
    sizes = Sizes()
    dimensions = _dimensions(sizes)
    exercise = {
        "format": "rigid-bench/exercise",
        "version": 1,
        "id": "seed-drawer",
        "title": "Seed drawer",
        "intro": "Model the drawer and its knob for the given housing. The drawer slides with 0.4 mm a side; "
        "the knob is held in its front.",
        "units": "mm",
        "parts": [
            {"id": "housing", "name": "Housing", "file": "housing.step", "origin": "supplied", "process": "printed"},
            {"id": "drawer", "name": "Drawer", "file": "drawer.step", "origin": "made", "process": "printed"},
            {"id": "knob", "name": "Knob", "file": "knob.step", "origin": "made", "process": "milled"},
        ],
        "reference": "reference.build.json",
        "flow": "required",
        "grounding": ["declared"],
        "checks": dimensions + _assembly_checks(sizes),
        "stages": [
            {"name": "Parts right", "checks": [each["id"] for each in dimensions]},
            {"name": "Assembly right", "checks": ["*"]},
        ],
    }
    return {
        "exercise.json": json_bytes(exercise),
        "reference.build.json": json_bytes(build_file(sizes, source=None)),
        "housing.step": step_bytes(housing(), "Housing"),
        "drawer.step": step_bytes(drawer(sizes), "Drawer"),
        "knob.step": step_bytes(knob(sizes), "Knob"),
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class SampleBuild:
    """A sample build with the slip in it, and the checks that the slip reaches."""

    name: str
    #: What was done wrong, in a few words.
    slip: str
    sizes: Sizes = field(default_factory=Sizes)
    grounded: str | None = "housing-1"
    is_fixed: bool = False
    has_knob: bool = True
    #: Whether a build file was handed in beside the STEP assembly.
    has_build: bool = True
    #: Checks that fall, with the code of the cause where one is to be named.
    falls: tuple[tuple[str, str | None], ...] = ()
    #: Checks that cannot be made.
    unchecked: tuple[str, ...] = ()

    def files(self) -> dict[str, bytes]:
        """Make the files that the student hands in."""
        files = {"drawer.step": assembly_bytes(_placed(self.sizes, has_knob=self.has_knob), "Seed drawer")}
        if self.has_build:
            document = build_file(
                self.sizes,
                grounded=self.grounded,
                is_fixed=self.is_fixed,
                has_knob=self.has_knob,
                source="drawer.step",
            )
            files["drawer.build.json"] = json_bytes(document)
        return files


_KNOB_SIZES = ("knob.head", "knob.spigot", "knob.spigot.length", "knob.pilot", "knob.pilot.depth")

SAMPLES = (
    SampleBuild(name="right", slip="none"),
    SampleBuild(
        name="radius-for-diameter",
        slip="the pilot hole's radius typed for its diameter",
        sizes=Sizes(pilot=2.0),
        falls=(("knob.pilot", "radius-for-diameter"),),
    ),
    SampleBuild(
        name="too-wide",
        slip="the drawer 1 mm too wide, so that it cuts into the housing",
        sizes=Sizes(width=61.0),
        falls=(("drawer.width", None), ("gap.right", "follows"), ("overlap", "follows")),
    ),
    SampleBuild(
        name="nothing-grounded",
        slip="nothing grounded",
        grounded=None,
        falls=(("base", "nothing-grounded"),),
    ),
    SampleBuild(
        name="fixed",
        slip="the drawer fixed so that it cannot slide",
        is_fixed=True,
        falls=(("drawer.free", "fixed-where-it-should-move"),),
    ),
    SampleBuild(
        name="no-knob",
        slip="the knob missing",
        has_knob=False,
        falls=(
            *((check, "part-missing") for check in _KNOB_SIZES),
            ("parts", "part-missing"),
            ("knob.free", "part-missing"),
        ),
    ),
    SampleBuild(
        name="thin-wall",
        slip="the side wall 2 instead of 3",
        sizes=Sizes(wall=2.0),
        falls=(("drawer.wall", None),),
    ),
    SampleBuild(
        name="a-shade-wide",
        slip="the drawer 0.15 mm too wide: near, and its gap on one side too tight",
        sizes=Sizes(width=60.15),
        falls=(("drawer.width", None), ("gap.right", "follows")),
    ),
    SampleBuild(
        name="one-gap-only",
        slip="the gap taken off once and not on both sides",
        sizes=Sizes(width=60.4),
        falls=(("drawer.width", None), ("gap.right", "follows")),
    ),
    SampleBuild(
        name="thin-floor",
        slip="the floor 0.15 mm too thin: near",
        sizes=Sizes(floor=2.85),
        falls=(("drawer.floor", None),),
    ),
    SampleBuild(
        name="edge-for-centre",
        slip="the hole placed by its edge and not by its middle",
        sizes=Sizes(hole_from_side=34.2),
        falls=(("drawer.hole.side", "edge-for-centre"),),
    ),
    SampleBuild(
        name="decimal-point",
        slip="the pilot hole's depth with the point in the wrong place",
        sizes=Sizes(pilot_depth=0.8),
        falls=(("knob.pilot.depth", "decimal-point"),),
    ),
    SampleBuild(
        name="wall-outward",
        slip="the walls grown outward: two walls too wide",
        sizes=Sizes(width=66.0),
        falls=(("drawer.width", "wall"), ("gap.right", "follows"), ("overlap", "follows")),
    ),
    SampleBuild(
        name="step-only",
        slip="the STEP file alone, without its build file",
        has_build=False,
        unchecked=("base", "drawer.free", "knob.free"),
    ),
)
