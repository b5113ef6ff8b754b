"""A base plate with a cover above it and a stop block on it: its exercise, its build, and what goes wrong with them."""

import random
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from rigid_bench.core.practice.plate import Hole, Plate, face
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.wording.language import N_, _

PARTS = ("base", "cover", "block")
_UP, _DOWN = [0.0, 0.0, 1.0], [0.0, 0.0, -1.0]
_SQUARE = {"position": [0.0, 0.0, 0.0], "quaternion": [1.0, 0.0, 0.0, 0.0]}
#: mm by which a hole's rim is drawn off its face.
_RIM = 0.3
#: mm between the cover and the block.
_APART = 3.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Stack:
    """The three parts and where they stand; mm, the base's lower left front corner at the origin."""

    base: Plate
    cover: Plate
    block: Plate
    #: The cover's corner from the base's, and its height above the base's top.
    cover_at: tuple[float, float]
    gap: float
    #: The block's corner from the base's; it stands on the base.
    block_at: tuple[float, float]

    def plates(self) -> dict[str, Plate]:
        """Return the parts by id."""
        return {"base": self.base, "cover": self.cover, "block": self.block}


def stack_by_lot(chance: random.Random) -> Stack:
    """Draw one by lot."""
    wide, deep, thick = float(chance.randint(90, 120)), float(chance.randint(50, 70)), float(chance.randint(10, 16))
    across, along, thin = float(chance.randint(36, 46)), float(chance.randint(26, 36)), float(chance.randint(6, 9))
    near, far = float(chance.randint(8, 10)), across - float(chance.randint(7, 11))
    blind = Hole(name="C", x=across / 2 + chance.choice((-3.0, 3.0)), y=6.0, diameter=4.0, depth=thin - 2)
    at = (float(chance.randint(6, 12)), float(chance.randint(6, 12)))
    holes = tuple(
        Hole(name=name, x=x, y=along / 2, diameter=diameter)
        for name, x, diameter in (("A", near, 6.0), ("B", far, 5.0))
    )
    side, other, high = (float(value) for value in chance.sample(range(12, 22), 3))
    block_at = (wide - side - chance.randint(5, 10), deep - other - chance.randint(5, 10))
    gap = float(chance.randint(2, 5))
    if at[0] + across + _APART > block_at[0]:
        raise Unfit
    if any(abs(2 * gap - value) < 0.5 for value in (thick, thin)) or near + far == across:
        raise Unfit  # two slips would look alike, or the cover could go on either way round
    return Stack(
        base=Plate(
            length=wide,
            width=deep,
            thickness=thick,
            holes=tuple(replace(own, x=own.x + at[0], y=own.y + at[1]) for own in holes),
        ),
        cover=Plate(length=across, width=along, thickness=thin, holes=(*holes, blind)),
        block=Plate(length=side, width=other, thickness=high, holes=()),
        cover_at=at,
        gap=gap,
        block_at=block_at,
    )


def _operand(instance: str, feature: Mapping[str, Any]) -> dict[str, Any]:
    return {"instance": instance, **feature}


def _level(z: float, normal: list[float]) -> dict[str, Any]:
    return {"plane": {"point": [0.0, 0.0, z], "normal": normal}}


def _axis(hole: Hole) -> dict[str, Any]:
    return {"axis": {"point": [hole.x, hole.y, 0.0], "direction": _UP}}


def build_document(stack: Stack) -> dict[str, Any]:
    """Return the build as it is asked."""
    base, cover, block = stack.base, stack.cover, stack.block
    poses = {
        "base": [0.0, 0.0, 0.0],
        "cover": [*stack.cover_at, base.thickness + stack.gap],
        "block": [*stack.block_at, base.thickness],
    }
    mates: list[dict[str, Any]] = [
        {
            "id": f"m{k + 1}",
            "kind": "coaxial",
            "a": _operand("base-1", _axis(base.holes[k])),
            "b": _operand("cover-1", _axis(cover.holes[k])),
        }
        for k in (0, 1)
    ]
    mates.append(_gap(stack, stack.gap))
    mates.append(
        {
            "id": "m4",
            "kind": "coincident",
            "sense": "opposed",
            "a": _operand("base-1", _level(base.thickness, _UP)),
            "b": _operand("block-1", _level(0.0, _DOWN)),
        }
    )
    for name, which, value in (("m5", "left", stack.block_at[0]), ("m6", "front", stack.block_at[1])):
        mates.append(
            {
                "id": name,
                "kind": "distance",
                "sense": "aligned",
                "value": -value,
                "a": _operand("base-1", face(base, which)),
                "b": _operand("block-1", face(block, which)),
            }
        )
    return {
        "format": "rigid-bench/build",
        "version": 1,
        "units": "mm",
        "parts": [{"id": part, "name": part.capitalize(), "file": f"{part}.step"} for part in PARTS],
        "instances": [
            {"id": f"{part}-1", "part": part, "grounded": part == "base", "pose": {**_SQUARE, "position": poses[part]}}
            for part in PARTS
        ],
        "mates": mates,
    }


def _gap(stack: Stack, value: float) -> dict[str, Any]:
    return {
        "id": "m3",
        "kind": "distance",
        "sense": "opposed",
        "value": value,
        "a": _operand("base-1", _level(stack.base.thickness, _UP)),
        "b": _operand("cover-1", _level(0.0, _DOWN)),
    }


def exercise_document(stack: Stack) -> dict[str, Any]:
    """Return the exercise that asks for it; the reference is `reference.build.json`."""
    base = stack.base

    def relation(check: str, title: str, part: str, **more: Any) -> dict[str, Any]:
        return {
            "id": check,
            "title": title,
            "kind": "relation",
            "marks": 1,
            "sense": "opposed",
            **more,
            "a": _operand("base-1", _level(base.thickness, _UP)),
            "b": _operand(f"{part}-1", face(stack.plates()[part], "bottom")),
        }

    def held(part: str) -> dict[str, Any]:
        return {
            "id": f"{part}.held",
            "title": _("{part} held", part=part.capitalize()),
            "kind": "freedom",
            "marks": 1,
            "instance": f"{part}-1",
            "to": "base-1",
            "motions": [],
        }

    return {
        "format": "rigid-bench/exercise",
        "version": 1,
        "id": "stack",
        "title": _("Cover and stop"),
        "units": "mm",
        "grounding": ["declared"],
        "parts": [{"id": part, "name": part.capitalize(), "file": f"{part}.step", "origin": "made"} for part in PARTS],
        "reference": "reference.build.json",
        "checks": [
            {"id": "parts", "title": _("All parts"), "kind": "parts", "marks": 1},
            {"id": "ground", "title": _("Base grounded"), "kind": "grounded", "marks": 1, "instance": "base-1"},
            relation("cover.gap", _("Cover above the base"), "cover", relation="distance", value=stack.gap),
            relation("block.seat", _("Block on the base"), "block", relation="coincident"),
            held("cover"),
            held("block"),
        ],
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class StackFault:
    """A build with one thing wrong."""

    build: dict[str, Any]
    #: The part where it is.
    part: str
    #: The cause code that a card gives it.
    slip: str
    why: str


def _changed(
    stack: Stack,
    *,
    without: tuple[str, ...] = (),
    poses: Mapping[str, Any] | None = None,
    mate: Mapping[str, Any] | None = None,
    grounded: bool = True,
) -> dict[str, Any]:
    build = build_document(stack)
    mates = [
        dict(mate) if mate and mate["id"] == own["id"] else own for own in build["mates"] if own["id"] not in without
    ]
    instances = [
        {**own, "pose": (poses or {}).get(own["part"], own["pose"]), "grounded": own["grounded"] and grounded}
        for own in build["instances"]
    ]
    return {**build, "instances": instances, "mates": mates}


def _offset_sign(stack: Stack) -> StackFault:
    pose = {**_SQUARE, "position": [*stack.cover_at, stack.base.thickness - stack.gap]}
    build = _changed(stack, poses={"cover": pose}, mate=_gap(stack, -stack.gap))
    why = _("The cover stands {gap:g} mm below the top of the base; it should stand as much above it.", gap=stack.gap)
    return StackFault(build=build, part="cover", slip="offset-sign", why=why)


def _far_side(stack: Stack) -> StackFault:
    pose = {**_SQUARE, "position": [*stack.cover_at, stack.gap]}
    mate = {**_gap(stack, -stack.gap), "sense": "aligned", "a": _operand("base-1", _level(0.0, _DOWN))}
    why = _("The gap of the cover was given from the underside of the base; it should be from its top.")
    return StackFault(build=_changed(stack, poses={"cover": pose}, mate=mate), part="cover", slip="far-side", why=why)


def _turned_over(stack: Stack) -> StackFault:
    x, y = stack.cover_at
    place = [x, y + stack.cover.width, stack.base.thickness + stack.gap + stack.cover.thickness]
    pose = {"position": place, "quaternion": [0.0, 1.0, 0.0, 0.0]}
    mate = {**_gap(stack, stack.gap), "b": _operand("cover-1", _level(stack.cover.thickness, _UP))}
    why = _("The cover lies on its head: its blind hole looks at the base.")
    return StackFault(
        build=_changed(stack, poses={"cover": pose}, mate=mate), part="cover", slip="turned-over", why=why
    )


def _not_held(stack: Stack) -> StackFault:
    why = _("The block stands where it should, and no mate holds it there.")
    build = _changed(stack, without=("m4", "m5", "m6"))
    return StackFault(build=build, part="block", slip="placed-not-held", why=why)


def _one_short(stack: Stack) -> StackFault:
    why = _("The cover has one bore in line and not the other: it can still swing about it.")
    return StackFault(build=_changed(stack, without=("m2",)), part="cover", slip="mate-short", why=why)


def _no_ground(stack: Stack) -> StackFault:
    why = _("The base is not grounded: all of it can float away together.")
    return StackFault(build=_changed(stack, grounded=False), part="base", slip="nothing-grounded", why=why)


#: What is planted, by what a card names it.
FAULTS: dict[str, Callable[[Stack], StackFault]] = {
    "offset-sign": _offset_sign,
    "far-side": _far_side,
    "turned-over": _turned_over,
    "placed-not-held": _not_held,
    "mate-short": _one_short,
    "nothing-grounded": _no_ground,
}
#: What each is called when one chooses among them.
SLIPS = {
    "offset-sign": N_("the offset has the wrong sign"),
    "far-side": N_("the far side was used for the seat"),
    "turned-over": N_("a part is turned over"),
    "placed-not-held": N_("a part stands right and nothing holds it"),
    "mate-short": N_("one mate is missing"),
    "nothing-grounded": N_("nothing is grounded"),
}


def mate_texts(build: Mapping[str, Any]) -> dict[str, str]:
    """Say what each mate of such a build joins."""
    texts = {}
    for mate in build["mates"]:
        one, other = (mate[side]["instance"].removesuffix("-1") for side in "ab")
        what = {"coaxial": _("share an axis"), "coincident": _("meet"), "distance": _("keep a distance")}[mate["kind"]]
        sign = 1 if mate["id"] == "m3" else -1  # outward faces of one side look the same way: further in is less
        value = _(" of {distance:g} mm", distance=sign * mate["value"]) if "value" in mate else ""
        texts[mate["id"]] = _(
            "{what}{value}: {own_side} of the {one}, {other_side} of the {other}",
            what=what,
            value=value,
            own_side=_side(mate["a"]),
            one=one,
            other_side=_side(mate["b"]),
            other=other,
        )
    return texts


def _side(operand: Mapping[str, Any]) -> str:
    if "axis" in operand:
        return "a bore"
    normal = tuple(round(value) for value in operand["plane"]["normal"])
    names = {(0, 0, 1): "top", (0, 0, -1): "underside", (-1, 0, 0): "left face", (0, -1, 0): "front"}
    return names[normal]


def shapes_of(stack: Stack) -> dict[str, list[dict[str, Any]]]:
    """Return what is drawn of the parts: blocks, and the rims of their holes."""
    return {f"{part}-1": _drawn(plate) for part, plate in stack.plates().items()}


def _drawn(plate: Plate) -> list[dict[str, Any]]:
    middle = [plate.length / 2, plate.width / 2, plate.thickness / 2]
    size = [plate.length, plate.width, plate.thickness]
    drawn: list[dict[str, Any]] = [
        {"block": {"centre": middle, "size": size, "x": [1.0, 0.0, 0.0], "y": [0.0, 1.0, 0.0]}}
    ]
    for hole in plate.holes:
        ends = [(plate.thickness, _RIM)] + ([(0.0, -_RIM)] if hole.depth is None else [])
        drawn += [
            {"rod": {"start": [hole.x, hole.y, z], "end": [hole.x, hole.y, z + rim], "radius": hole.diameter / 2}}
            for z, rim in ends
        ]
    return drawn
