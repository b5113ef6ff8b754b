"""Parts made from a table of sizes, and what an exercise asks of them: for planting slips in one size at a time."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from build123d import (
    Align,
    Axis,
    Box,
    Cylinder,
    GeomType,
    Plane,
    Polyline,
    Pos,
    Rot,
    SlotOverall,
    chamfer,
    extrude,
    fillet,
    make_face,
    mirror,
    scale,
)  # fmt: skip

from rigid_bench.core.exercise.bundle import Exercise, read_exercise
from rigid_bench.demo.modelling import Vector, cylinder, json_bytes, plane, step_bytes

Sizes = dict[str, Any]
#: Id, measure, which size (or the nominal itself), and the features.
Row = tuple[str, str, str | float, dict[str, Any]]
_CORNER, _FOOT = (Align.MIN,) * 3, (Align.CENTER, Align.CENTER, Align.MIN)
_X, _Y, _Z = (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class SizedPart:
    """A part that is made from sizes, in its own unit."""

    name: str
    units: str
    sizes: Sizes
    solid: Callable[[Sizes], Any]
    rows: Callable[[Sizes], list[Row]]

    @property
    def mm(self) -> float:
        """Millimetres in the unit."""
        return 25.4 if self.units == "in" else 1.0

    def made(self, changes: Sizes) -> Any:
        """Return the solid, mm, with some sizes changed; `scale` and `mirror` change the whole."""
        sizes = {**self.sizes, **{name: value for name, value in changes.items() if name not in ("scale", "mirror")}}
        solid = scale(self.solid(sizes), self.mm) if self.units == "in" else self.solid(sizes)
        solid = mirror(solid, Plane.XZ) if changes.get("mirror") else solid
        return scale(solid, changes["scale"]) if "scale" in changes else solid

    def exercise(self) -> Exercise:
        """Return an exercise that asks all rows, nothing besides, and the volume."""
        tolerance = 0.1 / self.mm
        checks: list[dict[str, Any]] = []
        for name, measure, size, features in self.rows(self.sizes):
            nominal = self.sizes[size] if isinstance(size, str) else size
            check = {"id": name, "title": f"Size {name}", "kind": "dimension", "part": "p", "marks": 1}
            checks.append({**check, "measure": measure, "nominal": nominal, **features})
            if not measure.endswith("count"):
                checks[-1]["tolerance"] = {"minus": tolerance, "plus": tolerance}
        volume = self.made({}).volume / self.mm**3
        checks.append({"id": "extras", "title": "Nothing besides", "kind": "extras", "part": "p", "marks": 1})
        checks.append({"id": "volume", "title": "Volume", "kind": "dimension", "part": "p", "marks": 1,
                       "measure": "volume", "nominal": round(volume, 6),
                       "tolerance": {"minus": volume / 1000, "plus": volume / 1000}})  # fmt: skip
        document = {"format": "rigid-bench/exercise", "version": 1, "id": self.name, "title": self.name.title(),
                    "units": self.units, "checks": checks,
                    "parts": [{"id": "p", "name": self.name.title(), "file": "p.step"}]}  # fmt: skip
        return read_exercise({"exercise.json": json_bytes(document), "p.step": step_bytes(self.made({}), self.name)})


def _between(*features: Any) -> dict[str, Any]:
    return {"between": list(features)}


def _bracket(s: Sizes) -> Any:
    own = Box(s["long"], s["wide"], s["foot"], align=_CORNER) + Box(s["back"], s["wide"], s["high"], align=_CORNER)
    boss = Pos(s["back"], s["wide"] / 2, s["bore_up"]) * Rot(0, 90, 0)
    own += boss * Cylinder(s["boss"] / 2, s["boss_long"], align=_FOOT)
    if s["rib"]:
        near, low = s["back"], s["foot"]
        outline = Polyline((near, low), (near + 34, low), (near, low + 27), close=True)
        own += extrude(make_face(Plane.XZ * outline), s["rib"], dir=(0, 1, 0))
    own -= Pos(-1, s["wide"] / 2, s["bore_up"]) * Rot(0, 90, 0) * Cylinder(s["bore"] / 2, 200, align=_FOOT)
    for place in (s["hole_in"], s["wide"] - s["hole_in"])[: s["holes"]]:
        own -= Pos(s["hole_along"], place, 0) * Cylinder(s["hole"] / 2, 40)
    if s["more"]:
        own -= Pos(60, s["wide"] / 2, 0) * Cylinder(2, 40)
    return own - Pos(44, 37.44, 0) * extrude(SlotOverall(19, s["slot"]), 15, both=True)


def _bracket_rows(s: Sizes) -> list[Row]:
    rear, front = plane((0, 0, 0), (-1, 0, 0)), plane((0, 0, 0), (0, -1, 0))
    below, inner = plane((0, 0, 0), (0, 0, -1)), plane((s["back"], 0, s["high"]), _X)
    hole = cylinder((s["hole_along"], s["hole_in"], 0), _Z, s["hole"] / 2)
    bore = cylinder((0, s["wide"] / 2, s["bore_up"]), _X, s["bore"] / 2)
    boss_end = plane((s["back"] + s["boss_long"], s["wide"] / 2 + s["boss"] / 2 - 1, s["bore_up"]), _X)
    return [
        ("long", "length", "long", _between(rear, plane((s["long"], 0, 0), _X))),
        ("wide", "length", "wide", _between(front, plane((0, s["wide"], 0), _Y))),
        ("foot", "thickness", "foot", _between(below, plane((s["long"], 0, s["foot"]), _Z))),
        ("high", "length", "high", _between(below, plane((0, 0, s["high"]), _Z))),
        ("back", "thickness", "back", _between(rear, inner)),
        ("hole", "diameter", "hole", {"of": hole}),
        ("holes", "count", "holes", {"of": hole}),
        ("hole_along", "position", "hole_along", _between(hole, rear)),
        ("hole_in", "position", "hole_in", _between(hole, front)),
        ("bore", "diameter", "bore", {"of": bore}),
        ("bore_up", "position", "bore_up", _between(bore, below)),
        ("boss", "diameter", "boss", {"of": cylinder((s["back"], s["wide"] / 2, s["bore_up"]), _X, s["boss"] / 2)}),
        ("boss_long", "length", "boss_long", _between(inner, boss_end)),
        ("rib", "thickness", "rib", _between(front, plane((s["back"] + 1, s["rib"], s["foot"] + 1), _Y))),
    ]


def _spindle(s: Sizes) -> Any:
    steps = ((0.0, "head"), (s["head_long"], "body"), (s["head_long"] + s["body_long"], "neck"))
    start = s["head_long"] + s["body_long"]
    end = start + s["neck_long"]

    def bar(at: float, across: float, long: float) -> Any:
        return Pos(at, 0, 0) * Rot(0, 90, 0) * Cylinder(across / 2, long, align=_FOOT)

    (own, *rest) = (bar(at, s[name], s[f"{name}_long"]) for at, name in steps)
    for step in rest:
        own += step
    circles = own.edges().filter_by(GeomType.CIRCLE)
    if s["rounding"]:
        foot = [edge for edge in circles if abs(edge.center().X - start) + abs(edge.radius - s["neck"] / 2) < 1e-6]
        own = fillet(foot, s["rounding"])
    if s["bevel"]:
        tip = [edge for edge in own.edges().filter_by(GeomType.CIRCLE) if abs(edge.center().X - end) < 1e-6]
        own = chamfer(tip, s["bevel"])
    if s["groove"]:
        own -= bar(start + 12, 120, s["groove_wide"]) - bar(start + 12, s["groove"], s["groove_wide"])
    if s["bore"]:
        own -= bar(-1, s["bore"], s["bore_deep"] + 1)
    return own - Pos(s["cross_along"], 0, 0) * Cylinder(s["cross"] / 2, 100) if s["cross"] else own


def _spindle_rows(s: Sizes) -> list[Row]:
    first, second = s["head_long"], s["head_long"] + s["body_long"]
    end, groove = second + s["neck_long"], second + 12
    left, tip = plane((0, 0, s["head"] / 2 - 1), (-1, 0, 0)), plane((end, 0, s["neck"] / 2 - 3), _X)
    step, shoulder = plane((first, 0, s["head"] / 2 - 1), _X), plane((second, 0, s["body"] / 2 - 1), _X)
    cross = cylinder((s["cross_along"], 0, 0), _Z, s["cross"] / 2)
    height = s["groove"] / 2 + 0.5
    ring = {"point": (second + s["rounding"], 0, 0), "direction": _X, "tube": s["rounding"],
            "radius": s["neck"] / 2 + s["rounding"]}  # fmt: skip

    def wall(at: float, across: float) -> dict[str, Any]:
        return {"of": cylinder((at, 0, 0), _X, across / 2)}

    return [
        ("head", "diameter", "head", wall(1, s["head"])),
        ("body", "diameter", "body", wall(first + 1, s["body"])),
        ("neck", "diameter", "neck", wall(second + 5, s["neck"])),
        ("head_long", "length", "head_long", _between(left, step)),
        ("body_long", "length", "body_long", _between(step, shoulder)),
        ("neck_long", "length", "neck_long", _between(shoulder, tip)),
        ("bore", "diameter", "bore", wall(1, s["bore"])),
        ("bore_deep", "depth", "bore_deep", wall(1, s["bore"])),
        ("cross", "diameter", "cross", {"of": cross}),
        ("cross_along", "position", "cross_along", _between(cross, left)),
        ("groove", "diameter", "groove", wall(groove + 1, s["groove"])),
        ("groove_wide", "length", "groove_wide",
         _between(plane((groove, 0, height), _X), plane((groove + s["groove_wide"], 0, height), (-1, 0, 0)))),
        ("rounding", "tube_radius", "rounding", {"of": {"torus": ring}}),
    ]  # fmt: skip


def _cover(s: Sizes) -> Any:
    own = Box(s["long"], s["wide"], s["thick"], align=_FOOT)
    own = fillet(own.edges().filter_by(Axis.Z), s["corner"]) if s["corner"] else own
    corners = [(x, y) for x in (-1, 1) for y in (-1, 1)][: s["screws"]]
    for x, y in corners:
        place = Pos(x * s["apart_long"] / 2, y * s["apart_wide"] / 2, 0)
        own -= place * Cylinder(s["hole"] / 2, 4)
        if s["sunk"]:
            own -= place * Pos(0, 0, s["thick"] - s["sunk_deep"]) * Cylinder(s["sunk"] / 2, 4, align=_FOOT)
    own -= Cylinder(s["bore"] / 2, 4)
    for k in range(s["round"]):
        turn = math.radians(90 + 360 / s["round"] * k)
        own -= Pos(s["circle"] / 2 * math.cos(turn), s["circle"] / 2 * math.sin(turn), 0) * Cylinder(s["small"] / 2, 4)
    return own


def _cover_rows(s: Sizes) -> list[Row]:
    def at(x: int, y: int, across: float) -> dict[str, Any]:
        return cylinder((x * s["apart_long"] / 2, y * s["apart_wide"] / 2, 0), _Z, across / 2)

    def side(point: Vector, normal: Vector) -> dict[str, Any]:
        return plane(point, normal)

    hole, small = at(-1, -1, s["hole"]), cylinder((0, s["circle"] / 2, 0), _Z, s["small"] / 2)
    corner = cylinder((s["long"] / 2 - s["corner"], s["wide"] / 2 - s["corner"], 0), _Z, s["corner"])
    return [
        ("long", "length", "long",
         _between(side((-s["long"] / 2, 0, 0.1), (-1, 0, 0)), side((s["long"] / 2, 0, 0.1), _X))),
        ("wide", "length", "wide",
         _between(side((0, -s["wide"] / 2, 0.1), (0, -1, 0)), side((0, s["wide"] / 2, 0.1), _Y))),
        ("thick", "thickness", "thick", _between(side((1.8, 0, 0), (0, 0, -1)), side((1.8, 0, s["thick"]), _Z))),
        ("corner", "radius", "corner", {"of": corner}),
        ("hole", "diameter", "hole", {"of": hole}),
        ("screws", "count", "screws", {"of": hole}),
        ("apart_long", "position", "apart_long", _between(hole, at(1, -1, s["hole"]))),
        ("apart_wide", "position", "apart_wide", _between(hole, at(-1, 1, s["hole"]))),
        ("sunk", "diameter", "sunk", {"of": at(-1, -1, s["sunk"])}),
        ("sunk_deep", "depth", "sunk_deep", {"of": at(-1, -1, s["sunk"])}),
        ("bore", "diameter", "bore", {"of": cylinder((0, 0, 0), _Z, s["bore"] / 2)}),
        ("small", "diameter", "small", {"of": small}),
        ("round", "pattern_count", "round", {"of": small}),
        ("circle", "pitch_circle", "circle", {"of": small}),
    ]  # fmt: skip


def _case(s: Sizes) -> Any:
    own = Box(s["long"], s["wide"], s["high"], align=_FOOT)
    hollow = Box(s["long"] - 2 * s["wall"], s["wide"] - 2 * s["wall"], 200, align=_FOOT)
    own -= Pos(0, 0, s["floor"]) * hollow
    for x in (-1, 1):
        for y in (-1, 1):
            place = Pos(x * s["posts_long"] / 2, y * s["posts_wide"] / 2, s["floor"] - 0.5)
            own += place * Cylinder(s["post"] / 2, s["post_high"] + 0.5, align=_FOOT)
            own -= place * Pos(0, 0, 0.5 + s["post_high"] - s["screw_deep"]) * Cylinder(s["screw"] / 2, 60, align=_FOOT)
    own -= Pos(0, 0, s["port_up"]) * Rot(0, 90, 0) * Cylinder(s["port"] / 2, 400, align=_FOOT)
    return own


def _case_rows(s: Sizes) -> list[Row]:
    across, along = s["wide"] / 2, s["long"] / 2
    left, right = plane((-along, 0, 1), (-1, 0, 0)), plane((along, across - 1, 1), _X)
    below, floor = plane((0, 0, 0), (0, 0, -1)), plane((0, 0, s["floor"]), _Z)
    post = (-s["posts_long"] / 2, -s["posts_wide"] / 2, s["floor"] + 1)
    beside, behind = (-post[0], post[1], post[2]), (post[0], -post[1], post[2])
    screw, boss = cylinder(post, _Z, s["screw"] / 2), cylinder(post, _Z, s["post"] / 2)
    port = cylinder((along, 0, s["port_up"]), _X, s["port"] / 2)
    top = s["floor"] + s["post_high"]
    return [
        ("long", "length", "long", _between(left, right)),
        ("wide", "length", "wide", _between(plane((0, -across, 1), (0, -1, 0)), plane((0, across, 1), _Y))),
        ("high", "length", "high", _between(below, plane((along - 0.5, 0, s["high"]), _Z))),
        ("wall", "thickness", "wall", _between(left, plane((-along + s["wall"], 0, s["high"] - 1), _X))),
        ("floor", "thickness", "floor", _between(below, floor)),
        ("post", "diameter", "post", {"of": boss}),
        ("post_high", "length", "post_high", _between(floor, plane((post[0] + s["post"] / 2 - 0.3, post[1], top), _Z))),
        ("screw", "diameter", "screw", {"of": screw}),
        ("screw_deep", "depth", "screw_deep", {"of": screw}),
        ("posts_long", "position", "posts_long", _between(screw, cylinder(beside, _Z, s["screw"] / 2))),
        ("posts_wide", "position", "posts_wide", _between(screw, cylinder(behind, _Z, s["screw"] / 2))),
        ("port", "diameter", "port", {"of": port}),
        ("port_up", "position", "port_up", _between(port, below)),
    ]  # fmt: skip


def _lever(s: Sizes) -> Any:
    own = Cylinder(s["big"] / 2, s["big_high"], align=_FOOT)
    own += Pos(s["reach"], 0, 0) * Cylinder(s["small"] / 2, s["small_high"], align=_FOOT)
    own += Pos(0, -s["web_wide"] / 2, 0) * Box(s["reach"], s["web_wide"], s["web"], align=_CORNER)
    own -= Cylinder(s["big_bore"] / 2, 100) + Pos(s["reach"], 0, 0) * Cylinder(s["small_bore"] / 2, 100)
    key = Box(s["big_bore"] / 2 + s["key_deep"], s["key"], 200, align=(Align.MIN, Align.CENTER, Align.CENTER))
    return own - Rot(0, 0, 90) * key


def _lever_rows(s: Sizes) -> list[Row]:
    below, top = plane((s["reach"] / 2, 0, 0), (0, 0, -1)), plane((s["reach"] / 2, 0, s["web"]), _Z)
    big, small = cylinder((0, 0, 0), _Z, s["big_bore"] / 2), cylinder((s["reach"], 0, 0), _Z, s["small_bore"] / 2)
    half, up = s["web_wide"] / 2, s["web"] / 2
    left, right = plane((s["reach"] / 2, -half, up), (0, -1, 0)), plane((s["reach"] / 2, half, up), _Y)
    deep, wall = s["big_bore"] / 2 + s["key_deep"] - 0.2, s["key"] / 2
    return [
        ("reach", "position", "reach", _between(big, small)),
        ("big", "diameter", "big", {"of": cylinder((0, 0, s["big_high"] - 1), _Z, s["big"] / 2)}),
        ("small", "diameter", "small", {"of": cylinder((s["reach"], 0, s["small_high"] - 1), _Z, s["small"] / 2)}),
        ("big_bore", "diameter", "big_bore", {"of": big}),
        ("small_bore", "diameter", "small_bore", {"of": small}),
        ("big_high", "length", "big_high", _between(below, plane((0, -s["big"] / 2 + 1, s["big_high"]), _Z))),
        ("small_high", "length", "small_high",
         _between(below, plane((s["reach"], s["small"] / 2 - 1, s["small_high"]), _Z))),
        ("web", "thickness", "web", _between(below, top)),
        ("web_wide", "length", "web_wide", _between(left, right)),
        ("key", "length", "key", _between(plane((-wall, deep, 1), _X), plane((wall, deep, 1), (-1, 0, 0)))),
    ]  # fmt: skip


def _rail(s: Sizes) -> Any:
    own = Box(s["long"], s["wide"], s["high"], align=_CORNER)
    own -= Pos(-1, s["groove_in"], s["high"] - s["groove_deep"]) * Box(400, s["groove"], 60, align=_CORNER)
    for k in range(s["holes"]):
        place = Pos(s["first"] + k * s["pitch"], s["hole_in"], 0)
        own -= place * Cylinder(s["hole"] / 2, 200)
        own -= place * Pos(0, 0, s["high"] - s["sunk_deep"]) * Cylinder(s["sunk"] / 2, 60, align=_FOOT)
    if s["notch"]:
        own -= Pos(s["long"] - s["notch"], -1, -1) * Box(60, 200, s["notch_high"] + 1, align=_CORNER)
    return own


def _rail_rows(s: Sizes) -> list[Row]:
    left, right = plane((0, 1, 1), (-1, 0, 0)), plane((s["long"], 1, s["high"] - 1), _X)
    front, back = plane((1, 0, 1), (0, -1, 0)), plane((1, s["wide"], 1), _Y)
    below, top = plane((1, 1, 0), (0, 0, -1)), plane((1, 0.5, s["high"]), _Z)
    floor = plane((1, s["groove_in"] + 1, s["high"] - s["groove_deep"]), _Z)
    near = plane((1, s["groove_in"], s["high"] - 1), _Y)
    far = plane((1, s["groove_in"] + s["groove"], s["high"] - 1), (0, -1, 0))
    hole = cylinder((s["first"], s["hole_in"], 0), _Z, s["hole"] / 2)
    sunk = cylinder((s["first"], s["hole_in"], s["high"] - 1), _Z, s["sunk"] / 2)
    return [
        ("long", "length", "long", _between(left, right)),
        ("wide", "length", "wide", _between(front, back)),
        ("high", "length", "high", _between(below, top)),
        ("groove", "length", "groove", _between(near, far)),
        ("groove_in", "length", "groove_in", _between(front, near)),
        ("groove_deep", "depth", "groove_deep", _between(top, floor)),
        ("hole", "diameter", "hole", {"of": hole}),
        ("holes", "count", "holes", {"of": hole}),
        ("first", "position", "first", _between(hole, left)),
        ("hole_in", "position", "hole_in", _between(hole, front)),
        ("pitch", "pitch", "pitch", {"of": hole}),
        ("sunk", "diameter", "sunk", {"of": sunk}),
        ("sunk_deep", "depth", "sunk_deep", {"of": sunk}),
        ("notch", "length", "notch",
         _between(right, plane((s["long"] - s["notch"], 1, 1), _X))),
        ("notch_high", "length", "notch_high",
         _between(below, plane((s["long"] - 1, 1, s["notch_high"]), (0, 0, -1)))),
    ]  # fmt: skip


PARTS = (
    SizedPart(name="bracket", units="mm", solid=_bracket, rows=_bracket_rows, sizes={
        "long": 90.0, "wide": 52.0, "foot": 6.0, "high": 64.0, "back": 8.0, "hole": 6.6, "hole_along": 71.0,
        "hole_in": 13.0, "holes": 2, "bore": 18.0, "bore_up": 41.0, "boss": 28.0, "boss_long": 14.0, "rib": 5.0,
        "slot": 7.0, "more": False}),
    SizedPart(name="spindle", units="mm", solid=_spindle, rows=_spindle_rows, sizes={
        "head": 32.0, "head_long": 21.0, "body": 24.0, "body_long": 37.0, "neck": 17.0, "neck_long": 29.0,
        "bore": 9.0, "bore_deep": 33.0, "cross": 5.5, "cross_along": 11.0, "bevel": 1.5, "groove": 13.0,
        "groove_wide": 2.6, "rounding": 2.0}),
    SizedPart(name="cover", units="in", solid=_cover, rows=_cover_rows, sizes={
        "long": 5.5, "wide": 3.75, "thick": 0.625, "corner": 0.375, "hole": 0.257, "screws": 4, "apart_long": 4.5,
        "apart_wide": 2.75, "sunk": 0.4375, "sunk_deep": 0.25, "bore": 1.125, "small": 0.201, "circle": 2.25,
        "round": 5}),
    SizedPart(name="case", units="mm", solid=_case, rows=_case_rows, sizes={
        "long": 84.0, "wide": 58.0, "high": 31.0, "wall": 2.4, "floor": 3.2, "post": 7.4, "post_high": 9.0,
        "screw": 2.7, "screw_deep": 7.0, "posts_long": 66.0, "posts_wide": 41.0, "port": 8.5, "port_up": 19.0}),
    SizedPart(name="lever", units="mm", solid=_lever, rows=_lever_rows, sizes={
        "reach": 78.0, "big": 31.0, "small": 19.0, "big_bore": 16.0, "small_bore": 8.4, "big_high": 17.0,
        "small_high": 12.0, "web": 7.0, "web_wide": 14.0, "key": 5.0, "key_deep": 2.3}),
    SizedPart(name="rail", units="mm", solid=_rail, rows=_rail_rows, sizes={
        "long": 142.0, "wide": 46.0, "high": 27.0, "groove": 11.0, "groove_in": 28.0, "groove_deep": 9.5, "hole": 5.6,
        "holes": 5, "first": 15.5, "hole_in": 13.0, "pitch": 23.0, "sunk": 9.8, "sunk_deep": 4.4, "notch": 16.0,
        "notch_high": 12.5}),
)  # fmt: skip
