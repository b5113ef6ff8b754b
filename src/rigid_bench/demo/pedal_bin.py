"""The pedal-bin linkage: four bars, one motion. A given side plate, a pedal, a rod and a lid arm.

The step on the pedal lifts the lid through the rod. The exercise is about turning joints: four of
them close a loop, and one motion is left. A wrong build differs in one known way, and says which
checks its slip reaches.
"""

import math
from dataclasses import dataclass, field, replace
from typing import Any

from build123d import Align, Box, Cylinder, Part, Pos

from rigid_bench.demo.complete import complete
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

_UP: Vector = (0, 0, 1)
_DOWN: Vector = (0, 0, -1)
_ALONG: Vector = (1, 0, 0)
_ON_AXIS = (Align.CENTER, Align.CENTER, Align.MIN)
_FLAT = (Align.MIN, Align.CENTER, Align.MIN)
#: Where the lid's pin stands from the pedal's, on the given plate; its pins and their length.
_LID_PIN, _PIN, _PIN_LENGTH = (110.0, 180.0), 8.0, 12.0
#: Levers run this far off the plate, and the rod this far off the levers.
_OFF = 1.0
_LEVER, _ROD = 6.0, 5.0
_NAMES = {"plate": "Side plate", "pedal": "Pedal", "rod": "Rod", "arm": "Lid arm"}
_ALL = tuple(f"{part}-1" for part in _NAMES)


@dataclass(frozen=True, slots=True, kw_only=True)
class Sizes:
    """All sizes of the three levers, mm."""

    pedal: float = 60.0
    rod: float = 165.0
    arm: float = 45.0
    width: float = 16.0
    pivot: float = 8.2
    stud: float = 6.0
    arm_stud: float = 6.0
    eye: float = 6.2


def plate() -> Part:
    """The given plate; the pedal's pin is at the origin."""
    board = Pos(-20, -20, -_LEVER) * Box(160, 230, _LEVER, align=(Align.MIN, Align.MIN, Align.MIN))
    return board + [Pos(x, y, 0) * Cylinder(_PIN / 2, _PIN_LENGTH, align=_ON_AXIS) for x, y in ((0, 0), _LID_PIN)]


def _bar(length: float, width: float, thickness: float) -> Part:
    ends = [Pos(x, 0, 0) * Cylinder(width / 2, thickness, align=_ON_AXIS) for x in (0, length)]
    return Box(length, width, thickness, align=_FLAT) + ends


def _lever(length: float, sizes: Sizes, stud: float) -> Part:
    """A bar with a bore at the origin and a stud at its other end."""
    bar = _bar(length, sizes.width, _LEVER) - Cylinder(sizes.pivot / 2, 100)
    return bar + Pos(length, 0, _LEVER) * Cylinder(stud / 2, _OFF + _ROD + 2, align=_ON_AXIS)


def rod(sizes: Sizes) -> Part:
    """A bar with an eye at each end."""
    return _bar(sizes.rod, sizes.width, _ROD) - [Pos(x, 0, 0) * Cylinder(sizes.eye / 2, 100) for x in (0, sizes.rod)]


def _solids(sizes: Sizes) -> dict[str, Part]:
    return {
        "plate": plate(),
        "pedal": _lever(sizes.pedal, sizes, sizes.stud),
        "rod": rod(sizes),
        "arm": _lever(sizes.arm, sizes, sizes.arm_stud),
    }


def _places(sizes: Sizes) -> dict[str, tuple[Vector, float]]:
    """Where each part stands with the pedal level, and its turn (rad); two circles meet at the lid's stud."""
    foot = (sizes.pedal, 0.0)
    apart = math.hypot(_LID_PIN[0] - foot[0], _LID_PIN[1] - foot[1])
    along = (apart**2 + sizes.rod**2 - sizes.arm**2) / (2 * apart)
    lean = math.atan2(_LID_PIN[1] - foot[1], _LID_PIN[0] - foot[0]) + math.acos(along / sizes.rod)
    head = (foot[0] + sizes.rod * math.cos(lean), foot[1] + sizes.rod * math.sin(lean))
    return {
        "plate": ((0, 0, 0), 0.0),
        "pedal": ((0, 0, _OFF), 0.0),
        "rod": ((*foot, 2 * _OFF + _LEVER), lean),
        "arm": ((*_LID_PIN, _OFF), math.atan2(head[1] - _LID_PIN[1], head[0] - _LID_PIN[0])),
    }


def _on(part: str, feature: dict[str, Any]) -> dict[str, Any]:
    return {"instance": f"{part}-1", **feature}


def _on_pin(part: str, x: float, y: float) -> list[dict[str, Any]]:
    """A lever on one of the plate's pins: one axis, and its distance from the plate."""
    return [
        {
            "id": f"{part} on its pin",
            "kind": "coaxial",
            "a": _on("plate", axis((x, y, 0), _UP)),
            "b": _on(part, axis((0, 0, 0), _UP)),
        },
        {
            "id": f"{part} off the plate",
            "kind": "distance",
            "value": _OFF,
            "sense": "opposed",
            "a": _on("plate", plane((x, y, 0), _UP)),
            "b": _on(part, plane((0, 0, 0), _DOWN)),
        },
    ]


def _in_eye(name: str, part: str, length: float, eye: float) -> dict[str, Any]:
    """An eye of the rod on the stud of a lever."""
    return {
        "id": name,
        "kind": "revolute",
        "sense": "aligned",
        "a": _on(part, frame((length, 0, _LEVER + _OFF), _UP, _ALONG)),
        "b": _on("rod", frame((eye, 0, 0), _UP, _ALONG)),
    }


def _mates(sizes: Sizes, left_out: str | None, *, is_fixed: bool) -> list[dict[str, Any]]:
    fixed: dict[str, Any] = {"id": "pedal fixed", "kind": "fixed", "sense": "aligned"}
    fixed["a"], fixed["b"] = (_on(part, frame((0, 0, z), _UP, _ALONG)) for part, z in (("plate", _OFF), ("pedal", 0)))
    mates = [
        *([fixed] if is_fixed else _on_pin("pedal", 0, 0)),
        *_on_pin("arm", *_LID_PIN),
        _in_eye("rod on the pedal", "pedal", sizes.pedal, 0),
        _in_eye("rod on the arm", "arm", sizes.arm, sizes.rod),
    ]
    return [mate for mate in mates if mate["id"] != left_out]


def build_file(
    sizes: Sizes, *, left_out: str | None = None, is_fixed: bool = False, source: str | None
) -> dict[str, Any]:
    """Write the build file; one mate may be left out, or the pedal fixed."""
    places = _places(sizes)
    document: dict[str, Any] = {
        "format": "rigid-bench/build",
        "version": 1,
        "units": "mm",
        "parts": [
            {"id": part, "name": name, **({"part": name} if source else {"file": f"{part}.step"})}
            for part, name in _NAMES.items()
        ],
        "instances": [
            {
                "id": f"{part}-1",
                "part": part,
                "grounded": part == "plate",
                "pose": {"position": at, "quaternion": [math.cos(turn / 2), 0, 0, math.sin(turn / 2)]},
            }
            for part, (at, turn) in places.items()
        ],
        "mates": _mates(sizes, left_out, is_fixed=is_fixed),
    }
    return {**document, "source": source} if source else document


def _dimension(name: str, title: str, measure: str, nominal: float | str, **more: Any) -> dict[str, Any]:
    fields = {"id": name, "title": title, "kind": "dimension", "marks": 1, "part": name.split(".")[0]}
    return {**fields, "measure": measure, "nominal": nominal, **more}


def _dimensions(s: Sizes) -> list[dict[str, Any]]:
    bore = cylinder((0, 0, 3), _UP, s.pivot / 2)
    pedal_stud, arm_stud = (cylinder((x, 0, 10), _UP, s.stud / 2) for x in (s.pedal, s.arm))
    near, far = (cylinder((x, 0, 2), _UP, s.eye / 2) for x in (0, s.rod))
    faces = [plane((s.pedal / 2, 0, 0), _DOWN), plane((s.pedal / 2, 0, _LEVER), _UP)]
    return [
        _dimension("pedal.length", "Pedal, bore to stud", "position", s.pedal, between=[bore, pedal_stud]),
        _dimension("pedal.bore", "Pedal bore", "diameter", "8 + 2*0.1", of=bore, hint="The pin, and the gap twice."),
        _dimension("pedal.stud", "Pedal stud", "diameter", s.stud, of=pedal_stud),
        _dimension("pedal.thickness", "Pedal thickness", "thickness", _LEVER, between=faces),
        _dimension("rod.length", "Rod, eye to eye", "position", s.rod, between=[near, far]),
        _dimension("rod.eye", "Rod eyes", "diameter", s.eye, of=near),
        _dimension("rod.eyes", "Number of eyes", "count", 2, of=near),
        _dimension("arm.length", "Lid arm, bore to stud", "position", s.arm, between=[bore, arm_stud]),
        _dimension("arm.bore", "Lid arm bore", "diameter", s.pivot, of=bore),
        _dimension("arm.stud", "Lid arm stud", "diameter", s.stud, of=arm_stud),
    ]


def _turns(part: str, title: str, x: float, y: float) -> dict[str, Any]:
    motion = {"kind": "rotation", "axis": {"point": [x, y, 0], "direction": _UP}}
    fields = {"kind": "freedom", "marks": 2, "instance": f"{part}-1", "to": "plate-1", "motions": [motion]}
    return {"id": f"{part}.turns", "title": title, **fields}


def _shares(name: str, title: str, a: dict[str, Any], b: dict[str, Any]) -> dict[str, Any]:
    return {"id": name, "title": title, "kind": "relation", "marks": 1, "relation": "coaxial", "a": a, "b": b}


def _assembly_checks(s: Sizes) -> list[dict[str, Any]]:
    pin, lid_pin = (_on("plate", axis((x, y, 6), _UP)) for x, y in ((0, 0), _LID_PIN))
    pedal, arm = (_on(part, axis((0, 0, 3), _UP)) for part in ("pedal", "arm"))
    studs = {part: _on(part, axis((x, 0, 10), _UP)) for part, x in (("pedal", s.pedal), ("arm", s.arm))}
    near, far = (_on("rod", axis((x, 0, 2), _UP)) for x in (0, s.rod))
    return [
        {"id": "parts", "title": "All parts", "kind": "parts", "marks": 1},
        {"id": "base", "title": "Plate grounded", "kind": "grounded", "marks": 1, "instance": "plate-1"},
        _shares("pedal.pin", "Pedal on its pin", pin, pedal),
        _shares("arm.pin", "Lid arm on its pin", lid_pin, arm),
        _shares("rod.pedal", "Rod on the pedal's stud", studs["pedal"], near),
        _shares("rod.arm", "Rod on the arm's stud", studs["arm"], far),
        _turns("pedal", "Pedal turns", 0, 0),
        _turns("arm", "Lid arm turns", *_LID_PIN),
        {"id": "one", "title": "One motion in all", "kind": "mobility", "marks": 3, "count": 1},
        {"id": "gap", "title": "Pedal runs free", "kind": "gap", "marks": 1, "a": "pedal-1", "b": "plate-1",
         "min": 0.05, "max": 0.2},
        {"id": "overlap", "title": "Nothing overlaps", "kind": "interference", "marks": 1},
    ]  # fmt: skip


def bundle() -> dict[str, bytes]:
    """Make the exercise bundle: its files by name."""
    sizes = Sizes()
    dimensions = _dimensions(sizes)
    made = {"origin": "made", "process": "printed"}  # pedal and arm carry studs, which no sheet gives
    exercise = {
        "format": "rigid-bench/exercise",
        "version": 1,
        "id": "pedal-bin-linkage",
        "title": "Pedal-bin linkage",
        "intro": "Model pedal, rod and lid arm to the sheet and join them to the given side plate. Step on the pedal, "
        "and the lid must rise: four turning joints, and one motion in all.",
        "units": "mm",
        "parts": [
            {"id": part, "name": name, "file": f"{part}.step", **({"origin": "supplied"} if part == "plate" else made)}
            for part, name in _NAMES.items()
        ],
        "reference": "reference.build.json",
        "flow": "required",
        "grounding": ["declared"],
        "uses": ["nips"],
        "tolerance": "as modelled",
        "checks": dimensions + _assembly_checks(sizes),
        "stages": [
            {"name": "Parts right", "checks": [dimension["id"] for dimension in dimensions]},
            {"name": "Linkage runs", "checks": ["*"]},
        ],
    }
    return complete(
        {
            "exercise.json": json_bytes(exercise),
            "reference.build.json": json_bytes(build_file(sizes, source=None)),
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
    #: The mate that was forgotten.
    left_out: str | None = None
    is_fixed: bool = False
    #: Checks that fall, with the code of the cause where one is to be named.
    falls: tuple[tuple[str, str | None], ...] = ()
    unchecked: tuple[str, ...] = ()

    def files(self) -> dict[str, bytes]:
        """Make the files that the student hands in."""
        solids = _solids(self.sizes)
        placed = [
            Placed(name=_NAMES[part], solid=solids[part], position=at, turn=(0, 0, math.degrees(turn)))
            for part, (at, turn) in _places(self.sizes).items()
        ]
        document = build_file(self.sizes, left_out=self.left_out, is_fixed=self.is_fixed, source="bin.step")
        return {"bin.step": assembly_bytes(placed, "Pedal bin"), "bin.build.json": json_bytes(document)}


_S = Sizes()
SAMPLES = (
    SampleBuild(name="bin-right", slip="none"),
    SampleBuild(
        name="bin-joint-short",
        slip="the rod's joint on the lid arm forgotten",
        left_out="rod on the arm",
        falls=(("one", "motion-too-many"),),
    ),
    SampleBuild(
        name="bin-pedal-fixed",
        slip="the pedal fixed where it should turn",
        is_fixed=True,
        falls=(
            ("pedal.turns", "fixed-where-it-should-move"),
            ("arm.turns", "follows"),
            ("one", "follows"),
        ),
    ),
    SampleBuild(
        name="bin-rod-short",
        slip="two digits of the rod's length changed places",
        sizes=replace(_S, rod=156.0),
        falls=(("rod.length", None),),
    ),
    SampleBuild(
        name="bin-radius-for-diameter",
        slip="the pedal bore's radius typed for its diameter",
        sizes=replace(_S, pivot=4.1),
        falls=(
            ("pedal.bore", "radius-for-diameter"),
            ("arm.bore", "radius-for-diameter"),
            ("gap", "follows"),
            ("overlap", "follows"),
        ),
    ),
    SampleBuild(
        name="bin-thin-stud",
        slip="the lid arm's stud half as thick",
        sizes=replace(_S, arm_stud=3.0),
        falls=(("arm.stud", "radius-for-diameter"),),
    ),
)
