"""The weather mast: the whole job. A base, a mast screwed on it, a collar that slides, a vane and a rotor that turn.

Screws, dowels and the ball bearing are bought in, with sizes from the tables. A wrong build
differs in one known way, and says which checks its slip reaches.
"""

import math
from dataclasses import dataclass, field, replace
from typing import Any

from build123d import Align, Box, Cylinder, Part, Pos, scale

from rigid_bench.core.standards.bearings import BEARINGS
from rigid_bench.core.standards.fasteners import SOCKET
from rigid_bench.core.standards.threads import clearance_hole
from rigid_bench.demo.complete import complete
from rigid_bench.demo.modelling import Placed, Vector, assembly_bytes, axis, cylinder, json_bytes, on, plane, step_bytes

_UP: Vector = (0, 0, 1)
_DOWN: Vector = (0, 0, -1)
_STANDING = (Align.CENTER, Align.CENTER, Align.MIN)
#: M5: head, and clearance hole of the medium series; the thread's core is drilled 4.2.
_SCREW, _CLEARANCE, _CORE = SOCKET[5], (clearance_hole(5) or (0.0, 0.0, 0.0))[1], 4.2
_BEARING = BEARINGS["608"]
_BORE, _RING, _WIDTH = _BEARING.bore, _BEARING.outside, _BEARING.width
_BASE, _FLANGE, _TUBE, _REACH = 12.0, 8.0, 20.0, 16.0
#: Diameters of the circles on which the screws and the dowels stand.
_SCREWS, _DOWELS = 44.0, 44.0
_COLLAR_AT, _COLLAR_HEIGHT = 80.0, 20.0
_NAMES = {
    "base": "Base",
    "mast": "Mast",
    "bearing": "Bearing 608",
    "collar": "Collar",
    "vane": "Vane",
    "rotor": "Rotor",
    "screw": "Screw M5 x 16",
    "dowel": "Dowel",
}
_ALL = ("base-1", "mast-1", "bearing-1", "collar-1", "vane-1", "rotor-1",
        *(f"screw-{k}" for k in range(1, 5)), "dowel-1", "dowel-2")  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Sizes:
    """The sizes of the made parts that a slip may reach, mm."""

    height: float = 200.0
    spigot: float = _BORE
    collar: float = _TUBE + 0.4
    vane: float = _TUBE + 0.4
    rotor: float = _RING
    #: The bearing that was brought in.
    ring: float = _RING


def _round(diameter: float, height: float, at: float = 0.0) -> Part:
    return Pos(0, 0, at) * Cylinder(diameter / 2, height, align=_STANDING)


def _circle(diameter: float, count: int, start: float = 0.0) -> list[tuple[float, float]]:
    turns = [math.radians(start + 360 * k / count) for k in range(count)]
    return [(diameter / 2 * math.cos(turn), diameter / 2 * math.sin(turn)) for turn in turns]


def _solids(s: Sizes) -> dict[str, Part]:
    screws, dowels = _circle(_SCREWS, 4, 45), _circle(_DOWELS, 2)
    base = Pos(0, 0, _BASE / 2) * Box(120, 100, _BASE)
    base -= [Pos(x, y, 2) * Cylinder(_CORE / 2, 100, align=_STANDING) for x, y in screws]
    base -= [Pos(x, y, 4) * Cylinder(2, 100, align=_STANDING) for x, y in dowels]
    mast = _round(60, _FLANGE) + _round(_TUBE, s.height) + _round(12, 1, s.height)
    mast += _round(s.spigot, _WIDTH, s.height + 1)
    mast -= [Pos(x, y, -1) * Cylinder(_CLEARANCE / 2, _FLANGE + 2, align=_STANDING) for x, y in screws]
    mast -= [Pos(x, y, -1) * Cylinder(2, _FLANGE + 2, align=_STANDING) for x, y in dowels]
    collar = _round(36, _COLLAR_HEIGHT) + Pos(20, 0, _COLLAR_HEIGHT / 2) * Box(12, 10, _COLLAR_HEIGHT)
    vane = _round(30, 15) + Pos(50, 0, 7.5) * Box(80, 3, 15) + Pos(80, 0, 15) * Box(20, 3, 30)
    rotor = _round(34, 10) + Pos(0, 0, 7) * Box(140, 10, 6) + Pos(66, 0, 12) * Box(8, 10, 8)
    head = _round(_SCREW.head, _SCREW.height)
    return {
        "base": base,
        "mast": mast,
        "bearing": _round(s.ring, _WIDTH) - _round(_BORE, 100, -10),
        "collar": collar - _round(s.collar, 100, -10),
        "vane": vane - _round(s.vane, 100, -10),
        "rotor": rotor - _round(s.rotor, _WIDTH, 0) - _round(14, _WIDTH + 1),
        "screw": head + _round(5, _REACH, -_REACH),
        "dowel": _round(4, 14),
    }


def _places(s: Sizes, *, lift: float = 0.0) -> dict[str, Vector]:
    """Where each instance stands; the vane on the collar, the rotor on the bearing. All of the mast may be lifted."""
    top = _BASE + s.height + 1 + lift
    places: dict[str, Vector] = {
        "base-1": (0, 0, 0),
        "mast-1": (0, 0, _BASE + lift),
        "bearing-1": (0, 0, top),
        "collar-1": (0, 0, _COLLAR_AT + lift),
        "vane-1": (0, 0, _COLLAR_AT + _COLLAR_HEIGHT + lift),
        "rotor-1": (0, 0, top),
    }
    places |= {f"screw-{k}": (x, y, _BASE + _FLANGE) for k, (x, y) in enumerate(_circle(_SCREWS, 4, 45), 1)}
    return places | {f"dowel-{k}": (x, y, 4) for k, (x, y) in enumerate(_circle(_DOWELS, 2), 1)}


def _sum(a: Vector, b: Vector) -> Vector:
    return a[0] + b[0], a[1] + b[1], a[2] + b[2]


def _pair(name: str, a: str, b: str, *, at: float, x: float = 0, y: float = 0) -> list[dict[str, Any]]:
    """One axis, and a face of b on a face of a."""
    return [
        {
            "id": f"{name} on its axis",
            "kind": "coaxial",
            "sense": "aligned",
            "a": on(a, axis((x, y, 0), _UP)),
            "b": on(b, axis((0, 0, 0), _UP)),
        },
        {
            "id": f"{name} on its seat",
            "kind": "coincident",
            "sense": "opposed",
            "a": on(a, plane((x, y, at), _UP)),
            "b": on(b, plane((0, 0, 0), _DOWN)),
        },
    ]


def _mates(s: Sizes) -> list[dict[str, Any]]:
    screws, dowels = _circle(_SCREWS, 4, 45), _circle(_DOWELS, 2)
    x, y = dowels[0]
    return [
        *_pair("mast", "base-1", "mast-1", at=_BASE),
        {
            "id": "mast turned right",
            "kind": "coaxial",
            "a": on("base-1", axis((x, y, 0), _UP)),
            "b": on("mast-1", axis((x, y, 0), _UP)),
        },
        *_pair("bearing", "mast-1", "bearing-1", at=s.height + 1),
        {
            "id": "collar on the mast",
            "kind": "cylindrical",
            "sense": "aligned",
            "a": on("mast-1", axis((0, 0, 0), _UP)),
            "b": on("collar-1", axis((0, 0, 0), _UP)),
        },
        *_pair("vane", "collar-1", "vane-1", at=_COLLAR_HEIGHT),
        *_pair("rotor", "bearing-1", "rotor-1", at=0)[:1],
        {
            "id": "rotor on its seat",
            "kind": "coincident",
            "sense": "opposed",
            "a": on("bearing-1", plane((8, 0, _WIDTH), _UP)),
            "b": on("rotor-1", plane((8, 0, _WIDTH), _DOWN)),
        },
        *(
            mate
            for k, (u, v) in enumerate(screws, 1)
            for mate in _pair(f"screw {k}", "mast-1", f"screw-{k}", at=_FLANGE, x=u, y=v)
        ),
        *(
            mate
            for k, (u, v) in enumerate(dowels, 1)
            for mate in _pair(f"dowel {k}", "base-1", f"dowel-{k}", at=4, x=u, y=v)
        ),
    ]


def build_file(sample: "SampleBuild", *, source: str | None) -> dict[str, Any]:
    """Write the build file of a sample."""
    s, there = sample.sizes, [instance for instance, _ in sample.places()]
    used = list(dict.fromkeys(instance.rsplit("-", 1)[0] for instance in there))
    mates = [
        mate
        for mate in _mates(s)
        if {mate["a"]["instance"], mate["b"]["instance"]} <= set(there) and mate["id"] not in sample.undone
    ]
    document: dict[str, Any] = {
        "format": "rigid-bench/build",
        "version": 1,
        "units": "mm",
        "parts": [
            {"id": part, "name": _NAMES[part], **({"part": _NAMES[part]} if source else {"file": f"{part}.step"})}
            for part in used
        ],
        "instances": [
            {
                "id": instance if k < len(there) - len(sample.twice) else f"{instance}-again",
                "part": instance.rsplit("-", 1)[0],
                "grounded": instance == sample.grounded,
                "pose": {"position": place, "quaternion": [0, 1, 0, 0] if instance in sample.over else [1, 0, 0, 0]},
            }
            for k, (instance, place) in enumerate(sample.places())
        ],
        "mates": mates,
    }
    return {**document, "source": source} if source else document


def _dimension(name: str, title: str, measure: str, nominal: float | str, **more: Any) -> dict[str, Any]:
    fields = {"id": name, "title": title, "kind": "dimension", "marks": 1, "part": name.split(".")[0]}
    return {**fields, "measure": measure, "nominal": nominal, **more}


def _dimensions(s: Sizes) -> list[dict[str, Any]]:
    spigot = cylinder((0, 0, s.height + 4), _UP, s.spigot / 2)
    shoulder = [plane((25, 0, 0), _DOWN), plane((5, 0, s.height + 1), _UP)]
    return [
        _dimension("mast.height", "Mast to its shoulder", "length", s.height + 1, between=shoulder),
        _dimension("mast.spigot", "Spigot for the bearing", "diameter", s.spigot, of=spigot, tolerance="h6"),
        _dimension(
            "collar.bore", "Collar bore", "diameter", "20 + 2*0.2", of=cylinder((0, 0, 10), _UP, s.collar / 2),
            tolerance={"minus": 0.1, "plus": 0.1}, hint="The tube, and the gap twice.",
        ),
        _dimension("vane.bore", "Vane bore", "diameter", s.vane, of=cylinder((0, 0, 7), _UP, s.vane / 2),
                   tolerance={"minus": 0.1, "plus": 0.1}),
        _dimension("rotor.bore", "Rotor bore", "diameter", s.rotor, of=cylinder((0, 0, 3), _UP, s.rotor / 2),
                   tolerance="H7"),
    ]  # fmt: skip


def _free(name: str, title: str, instance: str, to: str, *kinds: str) -> dict[str, Any]:
    line = {"axis": {"point": [0, 0, 0], "direction": _UP}}
    motions = [{"kind": kind, **(line if kind == "rotation" else {"direction": _UP})} for kind in kinds]
    fields = {"kind": "freedom", "marks": 2, "instance": instance, "to": to, "motions": motions}
    return {"id": name, "title": title, **fields}


def _seated(name: str, title: str, a: dict[str, Any], b: dict[str, Any]) -> dict[str, Any]:
    fields = {"kind": "relation", "marks": 1, "relation": "coincident", "sense": "opposed"}
    return {"id": name, "title": title, **fields, "a": a, "b": b}


def _assembly_checks(s: Sizes) -> list[dict[str, Any]]:
    walls = [cylinder((0, 0, 100), _UP, _TUBE / 2), cylinder((0, 0, 10), _UP, s.collar / 2)]
    thread = math.pi / 4 * (25 - _CORE**2) * (_REACH - _FLANGE)
    threads = [
        {"a": "base-1", "b": f"screw-{k}", "min": thread - 5, "max": thread + 5, "why": "thread shown plain"}
        for k in range(1, 5)
    ]
    return [
        {"id": "parts", "title": "All parts", "kind": "parts", "marks": 2},
        {"id": "base", "title": "Base grounded", "kind": "grounded", "marks": 1, "instance": "base-1"},
        _seated("mast.seat", "Mast on the base",
                on("base-1", plane((30, 10, _BASE), _UP)), on("mast-1", plane((25, 5, 0), _DOWN))),
        _seated("bearing.seat", "Bearing on the shoulder",
                on("mast-1", plane((5, 0, s.height + 1), _UP)), on("bearing-1", plane((5, 0, 0), _DOWN))),
        _seated("vane.seat", "Vane on the collar",
                on("collar-1", plane((15, 0, _COLLAR_HEIGHT), _UP)), on("vane-1", plane((12, 0, 0), _DOWN))),
        _free("mast.held", "Mast held", "mast-1", "base-1"),
        _free("collar.slides", "Collar slides and turns", "collar-1", "mast-1", "translation", "rotation"),
        _free("vane.turns", "Vane turns on the collar", "vane-1", "collar-1", "rotation"),
        _free("rotor.turns", "Rotor turns", "rotor-1", "mast-1", "rotation"),
        {"id": "four", "title": "Four motions in all", "kind": "mobility", "marks": 2, "count": 4},
        {"id": "collar.gap", "title": "Collar runs on the mast", "kind": "gap", "marks": 1, "a": "mast-1",
         "b": "collar-1", "between": walls, "fit": "slide, printed"},
        {"id": "overlap", "title": "Nothing overlaps but threads", "kind": "interference", "marks": 2,
         "expected": threads},
        {"id": "explained", "title": "Fits explained", "kind": "judged", "marks": 3, "levels": [
            {"name": "not yet", "text": "no reason given for the gaps", "marks": 0},
            {"name": "begun", "text": "a gap is named, without a reason", "marks": 1},
            {"name": "sound", "text": "each fit with its gap and why", "marks": 3},
        ]},
    ]  # fmt: skip


def bundle() -> dict[str, bytes]:
    """Make the exercise bundle: its files by name."""
    sizes = Sizes()
    dimensions = _dimensions(sizes)
    origins = {"base": "supplied", "bearing": "bought", "screw": "bought", "dowel": "bought"}
    counts = {"screw": 4, "dowel": 2}
    across: Vector = (0, 1, 0)
    symmetric = {"mast": [across, (1, 0, 0)], "collar": [across], "vane": [across], "rotor": [across]}
    exercise = {
        "format": "rigid-bench/exercise",
        "version": 1,
        "id": "weather-mast",
        "title": "Weather mast",
        "intro": "The whole job: screw the mast to the base, let the collar slide, the vane turn on the collar and the "
        "rotor on its bearing. Screws are shown plain, so they overlap their holes: that is meant.",
        "units": "mm",
        "parts": [
            {
                "id": part,
                "name": name,
                "file": f"{part}.step",
                "origin": origins.get(part, "made"),
                "count": counts.get(part, 1),
                "symmetric": [plane((0, 0, 0), way) for way in symmetric.get(part, ())],
                **({} if part in origins else {"process": "printed" if part != "mast" else "turned"}),
            }
            for part, name in _NAMES.items()
        ],
        "reference": "reference.build.json",
        "flow": "required",
        "grounding": ["declared", "origin"],
        "uses": ["turning parts"],
        "tolerance": "as modelled",
        "checks": dimensions + _assembly_checks(sizes),
        "stages": [
            {"name": "Parts right", "checks": [dimension["id"] for dimension in dimensions]},
            {"name": "Mast stands and turns", "checks": ["*"]},
        ],
    }
    return complete(
        {
            "exercise.json": json_bytes(exercise),
            "reference.build.json": json_bytes(build_file(SampleBuild(name="reference", slip="none"), source=None)),
            **{f"{part}.step": step_bytes(solid, _NAMES[part]) for part, solid in _solids(sizes).items()},
        }
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class SampleBuild:
    """A sample build with the slip in it, and the checks that the slip reaches."""

    name: str
    #: What was done wrong, in a few words.
    slip: str
    sizes: Sizes = field(default_factory=Sizes)
    grounded: str | None = "base-1"
    left_out: tuple[str, ...] = ()
    #: Mates that were forgotten.
    undone: tuple[str, ...] = ()
    #: mm by which all that stands on the mast is off its seat.
    lift: float = 0.0
    #: Where an instance stands beside its place, mm; and about which axis it is turned over.
    moved: tuple[tuple[str, Vector], ...] = ()
    over: tuple[str, ...] = ()
    #: Instances of which a second one hides in the first.
    twice: tuple[str, ...] = ()
    #: The collar's sizes were typed in inches.
    in_inches: bool = False
    #: Collar and vane were joined to one body.
    is_merged: bool = False
    #: Checks that fall, with the code of the cause where one is to be named.
    falls: tuple[tuple[str, str | None], ...] = ()
    #: One row is judged by a person.
    unchecked: tuple[str, ...] = ("explained",)

    def places(self) -> list[tuple[str, Vector]]:
        """Return where each instance stands, in the file's order; those that are there twice come twice."""
        places, beside = _places(self.sizes, lift=self.lift), dict(self.moved)
        there = [instance for instance in _ALL if instance not in self.left_out]
        if self.is_merged:
            there.remove("vane-1")
        return [
            (instance, _sum(places[instance], beside.get(instance, (0, 0, 0)))) for instance in (*there, *self.twice)
        ]

    def files(self) -> dict[str, bytes]:
        """Make the files that the student hands in."""
        solids = _solids(self.sizes)
        if self.in_inches:
            solids["collar"] = scale(solids["collar"], 25.4)
        if self.is_merged:
            solids["collar"] += Pos(0, 0, _COLLAR_HEIGHT) * solids["vane"]
        placed = [
            Placed(
                name=_NAMES[instance.rsplit("-", 1)[0]],
                solid=solids[instance.rsplit("-", 1)[0]],
                position=place,
                turn=(180, 0, 0) if instance in self.over else (0, 0, 0),
            )
            for instance, place in self.places()
        ]
        document = build_file(self, source="mast.step")
        return {"mast.step": assembly_bytes(placed, "Weather mast"), "mast.build.json": json_bytes(document)}


_S = Sizes()
SAMPLES = (
    SampleBuild(name="mast-right", slip="none"),
    SampleBuild(
        name="mast-screw-missing",
        slip="one screw of four forgotten",
        left_out=("screw-3",),
        falls=(("parts", "part-missing"),),
    ),
    SampleBuild(
        name="mast-vane-loose",
        slip="the vane's seat forgotten: it lies there and is not held",
        undone=("vane on its seat",),
        falls=(("vane.turns", "mate-short"), ("four", "follows")),
    ),
    SampleBuild(
        name="mast-bearing-wrong",
        slip="a bearing with another outside brought in",
        sizes=replace(_S, ring=24.0, rotor=24.0),
        falls=(("rotor.bore", None), ("parts", "bought-wrong-size")),
    ),
    SampleBuild(
        name="mast-collar-tight",
        slip="the collar's bore without its gap",
        sizes=replace(_S, collar=20.0),
        falls=(("collar.bore", None), ("collar.gap", "follows")),
    ),
    SampleBuild(
        name="mast-vane-radius",
        slip="the vane bore's radius typed for its diameter",
        sizes=replace(_S, vane=10.2),
        falls=(("vane.bore", "radius-for-diameter"), ("overlap", "follows")),
    ),
    SampleBuild(
        name="mast-no-dowels",
        slip="both dowels forgotten",
        left_out=("dowel-1", "dowel-2"),
        falls=(("parts", "part-missing"),),
    ),
    SampleBuild(
        name="mast-lifted",
        slip="all that stands on the base 3 mm off its seat: one move, said once",
        lift=3.0,
        falls=(("mast.seat", "group-move"), ("four", "clash"), ("overlap", "follows")),
    ),
    SampleBuild(
        name="mast-turning",
        slip="the mate forgotten that keeps the mast from turning",
        undone=("mast turned right",),
        falls=(("mast.held", "mate-short"), ("four", "follows")),
    ),
    SampleBuild(
        name="mast-screw-twice",
        slip="a second screw in the place of the first",
        twice=("screw-2",),
        falls=(("parts", "duplicate"), ("four", "follows"), ("overlap", "follows")),
    ),
    SampleBuild(
        name="mast-rotor-over",
        slip="the rotor upside down on its bearing",
        over=("rotor-1",),
        moved=(("rotor-1", (0, 0, 15)),),
        undone=("rotor on its axis", "rotor on its seat"),
        falls=(("rotor.turns", "placed-not-held"), ("four", "follows"), ("overlap", "out-of-place")),
    ),
    SampleBuild(
        name="mast-vane-inside",
        slip="the vane's seat on the far side of the collar: off by its height",
        moved=(("vane-1", (0, 0, -20)),),
        undone=("vane on its seat",),
        falls=(("vane.seat", "far-side"), ("vane.turns", "mate-short"), ("four", "follows"), ("overlap", "follows")),
    ),
    SampleBuild(
        name="mast-bearing-left",
        slip="the bearing left where it was drawn",
        moved=(("bearing-1", (0, 0, -213)),),
        undone=("bearing on its axis", "bearing on its seat", "rotor on its axis", "rotor on its seat"),
        falls=(
            ("bearing.seat", "left-at-origin"),
            ("rotor.turns", "placed-not-held"),
            ("four", "follows"),
            ("overlap", "nested"),
        ),
    ),
    SampleBuild(
        name="mast-vane-dragged",
        slip="the vane dragged into place by hand",
        moved=(("vane-1", (0.137, -0.062, 0.21)),),
        undone=("vane on its axis", "vane on its seat"),
        falls=(("vane.seat", None), ("vane.turns", "placed-not-held"), ("four", "follows")),
    ),
    SampleBuild(
        name="mast-mast-grounded",
        slip="the mast grounded and not the base",
        grounded="mast-1",
        falls=(("base", "wrong-part-grounded"),),
    ),
    SampleBuild(
        name="mast-collar-inches",
        slip="the collar modelled in inches",
        in_inches=True,
        falls=(("collar.bore", "unit-of-part"),),
    ),
    SampleBuild(
        name="mast-merged",
        slip="vane and collar joined to one body",
        is_merged=True,
        falls=(
            ("parts", "merged"),
            *((follower, "follows") for follower in ("collar.bore", "vane.seat", "collar.slides", "vane.turns")),
            ("four", "motion-too-few"),
            ("collar.gap", "follows"),
        ),
    ),
    SampleBuild(
        name="mast-nothing-grounded",
        slip="none: nothing is grounded, but the base is on the origin",
        grounded=None,
        falls=(),
    ),
)
