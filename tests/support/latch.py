"""A second exercise, with parts, names and checks of its own: nothing in the program knows it."""

from functools import cache
from typing import Any

from build123d import Align, Box, Cylinder, Part, Pos

from rigid_bench.demo.modelling import Placed, assembly_bytes, axis, cylinder, frame, json_bytes, plane, step_bytes

_MIN = (Align.MIN, Align.MIN, Align.MIN)
_BASE = (Align.CENTER, Align.CENTER, Align.MIN)
PIN_PLACES = ((10.0, 8.0), (50.0, 32.0))


def body() -> Part:
    plate = Box(60, 40, 4, align=_MIN)
    return plate - [Pos(x, y, -1) * Cylinder(2, 10, align=_BASE) for x, y in PIN_PLACES]


def bolt(width: float = 11.2) -> Part:
    return Box(40, width, 6, align=_MIN) - Pos(20, 5.6, -1) * Cylinder(2.1, 10, align=_BASE)


def pin(length: float = 12.0) -> Part:
    return Cylinder(2, length, align=_BASE)


def on(instance: str, feature: dict[str, Any]) -> dict[str, Any]:
    return {"instance": instance, **feature}


def pin_mates(number: int, kind: str = "coaxial") -> list[dict[str, Any]]:
    x, y = PIN_PLACES[number - 1]
    bore = axis((x, y, 0), (0, 0, 1))
    return [
        {
            "id": f"pin {number} in bore",
            "kind": kind,
            "a": on("body-1", bore),
            "b": on(f"pin-{number}", axis((0, 0, 0), (0, 0, 1))),
        },
        {
            "id": f"pin {number} flush",
            "kind": "coincident",
            "sense": "aligned",
            "a": on("body-1", plane((x, y, 0), (0, 0, -1))),
            "b": on(f"pin-{number}", plane((0, 0, 0), (0, 0, -1))),
        },
    ]


def bolt_joint() -> dict[str, Any]:
    return {
        "id": "bolt slides",
        "kind": "prismatic",
        "sense": "aligned",
        "a": on("body-1", frame((0, 14.4, 4), (1, 0, 0), (0, 0, 1))),
        "b": on("bolt-1", frame((0, 0, 0), (1, 0, 0), (0, 0, 1))),
    }


def poses(at: float = 5.0) -> dict[str, tuple[float, float, float]]:
    return {
        "body-1": (0, 0, 0),
        "bolt-1": (at, 14.4, 4),
        "pin-1": (*PIN_PLACES[0], 0),
        "pin-2": (*PIN_PLACES[1], 0),
    }


def build(mates: list[dict[str, Any]], *, source: str | None = None, grounded: str | None = "body-1") -> bytes:
    names = {"body": "Body", "bolt": "Bolt", "pin": "Dowel"}
    parts = [
        {"id": part, "name": name, **({"part": name} if source else {"file": f"{part}.step"})}
        for part, name in names.items()
    ]
    instances = [
        {
            "id": name,
            "part": name.split("-")[0],
            "grounded": name == grounded,
            "pose": {"position": position, "quaternion": [1, 0, 0, 0]},
        }
        for name, position in poses().items()
    ]
    document = {
        "format": "rigid-bench/build",
        "version": 1,
        "units": "mm",
        "parts": parts,
        "instances": instances,
        "mates": mates,
    }
    return json_bytes({**document, "source": source} if source else document)


def all_mates() -> list[dict[str, Any]]:
    return [bolt_joint(), *pin_mates(1), *pin_mates(2)]


def assembly(width: float = 11.2, *, pins: int = 2, at: float = 5.0) -> bytes:
    places = poses(at)
    placed = [Placed(name="Body", solid=body()), Placed(name="Bolt", solid=bolt(width), position=places["bolt-1"])]
    placed += [Placed(name="Dowel", solid=pin(), position=places[f"pin-{k + 1}"]) for k in range(pins)]
    return assembly_bytes(placed, "Latch")


def size_checks() -> list[dict[str, Any]]:
    return [*bolt_sizes(), *other_sizes()]


def bolt_sizes() -> list[dict[str, Any]]:
    side = [plane((0, 0, 0), (0, -1, 0)), plane((0, 11.2, 0), (0, 1, 0))]
    hole = cylinder((20, 5.6, 0), (0, 0, 1), 2.1)
    limits = {"minus": 0.1, "plus": 0.1}
    size = {"kind": "dimension", "marks": 1, "part": "bolt"}
    return [
        {
            **size,
            "id": "bolt.width",
            "title": "Bolt width",
            "measure": "length",
            "between": side,
            "nominal": "12 - 2 * 0.4",
            "tolerance": limits,
        },
        {
            **size,
            "id": "bolt.hole",
            "title": "Handle hole",
            "measure": "diameter",
            "of": hole,
            "nominal": 4.2,
            "tolerance": "ISO 2768-m",
        },
        {
            **size,
            "id": "bolt.middle",
            "title": "Hole in the middle",
            "measure": "position",
            "between": [hole, side[0]],
            "nominal": "bolt.width / 2",
            "tolerance": limits,
        },
        {
            **size,
            "id": "bolt.length",
            "title": "Bolt length",
            "measure": "extent",
            "axis": "x",
            "nominal": "4 cm",
            "tolerance": limits,
        },
    ]


def other_sizes() -> list[dict[str, Any]]:
    size = {"kind": "dimension", "marks": 1}
    return [
        {
            **size,
            "id": "pin.mass",
            "part": "pin",
            "title": "Dowel mass",
            "measure": "mass",
            "density": 7.85,
            "nominal": 1.184,
            "tolerance": {"minus": 0.01, "plus": 0.01},
        },
        {
            **size,
            "id": "body.bores",
            "part": "body",
            "title": "Two bores",
            "measure": "count",
            "of": cylinder((10, 8, 0), (0, 0, 1), 2),
            "nominal": 2,
            "tolerance": {"minus": 0, "plus": 0},
        },
    ]


def build_checks() -> list[dict[str, Any]]:
    return [
        {"id": "parts", "title": "All parts", "kind": "parts", "marks": 1},
        {"id": "base", "title": "Body grounded", "kind": "grounded", "marks": 1, "instance": "body-1"},
        {
            "id": "bolt.track",
            "title": "Bolt on its track",
            "kind": "relation",
            "marks": 1,
            "relation": "coincident",
            "sense": "opposed",
            "a": on("body-1", plane((0, 0, 4), (0, 0, 1))),
            "b": on("bolt-1", plane((0, 0, 0), (0, 0, -1))),
        },
        {
            "id": "bolt.free",
            "title": "Bolt slides",
            "kind": "freedom",
            "marks": 3,
            "instance": "bolt-1",
            "to": "body-1",
            "motions": [{"kind": "translation", "direction": [1, 0, 0]}],
        },
        {
            "id": "pin.free",
            "title": "Dowel held",
            "kind": "freedom",
            "marks": 1,
            "instance": "pin-2",
            "to": "ground",
            "motions": [],
        },
        {
            "id": "pins.gap",
            "title": "Bolt clear of the dowel",
            "kind": "gap",
            "marks": 1,
            "a": "bolt-1",
            "b": "pin-1",
            "min": 0.5,
        },
        {"id": "overlap", "title": "Nothing overlaps", "kind": "interference", "marks": 1},
    ]


def bundle(
    more: list[dict[str, Any]] | None = None, *, grounding: tuple[str, ...] = ("declared", "first", "origin")
) -> dict[str, bytes]:
    exercise = {
        "format": "rigid-bench/exercise",
        "version": 1,
        "id": "latch",
        "title": "Gate latch",
        "units": "mm",
        "parts": [
            {"id": "body", "name": "Body", "file": "body.step", "origin": "supplied", "count": 1},
            {"id": "bolt", "name": "Bolt", "file": "bolt.step", "origin": "made", "count": 1},
            {"id": "pin", "name": "Dowel", "file": "pin.step", "origin": "bought", "count": 2},
        ],
        "reference": "reference.build.json",
        "flow": "required",
        "grounding": grounding,
        "checks": size_checks() + build_checks() + (more or []),
        "stages": [
            {"name": "Parts right", "checks": ["bolt.width", "bolt.hole"]},
            {"name": "Whole build", "checks": ["*"]},
        ],
    }
    return {
        "exercise.json": json_bytes(exercise),
        "reference.build.json": build(all_mates()),
        **_models(),
    }


@cache
def _models() -> dict[str, bytes]:
    return {
        "body.step": step_bytes(body(), "Body"),
        "bolt.step": step_bytes(bolt(), "Bolt"),
        "pin.step": step_bytes(pin(), "Dowel"),
    }
