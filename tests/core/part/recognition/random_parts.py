"""Random plates with a feature in each cell, with what was made; and the disguises a file may give a part."""

import math
import random
from collections import Counter
from dataclasses import dataclass, field
from typing import Any

from build123d import Axis, Box, Cone, Cylinder, Location, Pos, RegularPolygon, Rot, Solid, chamfer, extrude, fillet
from OCP.BRep import BRep_Builder
from OCP.BRepAlgoAPI import BRepAlgoAPI_Splitter
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.collections import List_TopoDS_Shape
from OCP.gp import gp_Dir, gp_Pln, gp_Pnt
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Shell, TopoDS_Solid

CELL, THICK = 24.0, 14.0


@dataclass
class Made:
    """A part and what was cut into it: sizes to 0.001 mm, counted."""

    shape: Any
    holes: Counter[tuple[object, ...]] = field(default_factory=Counter)
    bosses: Counter[tuple[object, ...]] = field(default_factory=Counter)
    slots: Counter[tuple[object, ...]] = field(default_factory=Counter)
    pockets: Counter[tuple[object, ...]] = field(default_factory=Counter)
    polygons: Counter[tuple[object, ...]] = field(default_factory=Counter)
    fillets: Counter[float] = field(default_factory=Counter)
    chamfers: Counter[tuple[float, ...]] = field(default_factory=Counter)


def r3(value: float) -> float:
    return round(value, 3) + 0.0


def size(rng: random.Random, low: float, high: float) -> float:
    return round(rng.uniform(low, high), 2)


def make_part(seed: int, cells: tuple[int, int] = (3, 2)) -> Made:
    rng = random.Random(seed)
    nx, ny = cells
    made = Made(Box(CELL * nx, CELL * ny, THICK))
    for i in range(nx):
        for j in range(ny):
            at = Pos(CELL * (i - (nx - 1) / 2), CELL * (j - (ny - 1) / 2), THICK / 2)
            rng.choice(FEATURES)(made, at * Rot(0, 0, rng.uniform(0, 90)), rng)
    corners = [e for e in made.shape.edges().filter_by(Axis.Z) if abs(abs(e.center().X) - CELL * nx / 2) < 1e-3]
    corners = [e for e in corners if abs(abs(e.center().Y) - CELL * ny / 2) < 1e-3]
    count, treatment = rng.randint(1, 4), rng.choice(("fillet", "chamfer", "none"))
    if treatment == "fillet":
        radius = size(rng, 1, 4)
        made.shape = fillet(corners[:count], radius)
        made.fillets[radius] += count
    elif treatment == "chamfer":
        legs = sorted((size(rng, 1, 4), size(rng, 1, 4)))
        for corner in corners[:count]:
            edge = next(e for e in made.shape.edges() if (e.center() - corner.center()).length < 1e-3)
            made.shape = chamfer(edge, *legs)
        made.chamfers[tuple(legs)] += count
    return made


def plain_hole(made: Made, at: Location, rng: random.Random) -> None:
    radius = size(rng, 1, 8)
    made.shape -= at * Cylinder(radius, 3 * THICK)
    made.holes[(r3(2 * radius), THICK, True, "plain", 0.0)] += 1


def drilled_hole(made: Made, at: Location, rng: random.Random) -> None:
    radius, depth = size(rng, 1, 5), size(rng, 2, 9)
    tip = radius / math.tan(math.radians(59))
    tool = Pos(0, 0, -depth / 2) * Cylinder(radius, depth) + Pos(0, 0, -depth - tip / 2) * Cone(0, radius, tip)
    made.shape -= at * tool
    made.holes[(r3(2 * radius), depth, False, "plain", r3(tip))] += 1


def counterbored_hole(made: Made, at: Location, rng: random.Random) -> None:
    radius, depth = size(rng, 1, 4), size(rng, 2, 8)
    made.shape -= at * (Cylinder(radius, 3 * THICK) + Pos(0, 0, -depth / 2) * Cylinder(radius + 2, depth))
    made.holes[(r3(2 * radius), r3(THICK - depth), True, "counterbore", 0.0)] += 1


def countersunk_hole(made: Made, at: Location, rng: random.Random) -> None:
    radius, deep = size(rng, 1, 4), size(rng, 1, 3)
    made.shape -= at * (Cylinder(radius, 3 * THICK) + Pos(0, 0, -deep / 2) * Cone(radius, radius + deep, deep))
    made.holes[(r3(2 * radius), r3(THICK - deep), True, "countersink", 0.0)] += 1


def boss(made: Made, at: Location, rng: random.Random) -> None:
    radius, height = size(rng, 1, 9), size(rng, 2, 20)
    made.shape += at * Pos(0, 0, height / 2) * Cylinder(radius, height)
    made.bosses[(r3(2 * radius), height)] += 1


def slot(made: Made, at: Location, rng: random.Random) -> None:
    width, straight = size(rng, 2, 8), size(rng, 2, 10)
    through = rng.random() < 0.5
    depth = THICK if through else size(rng, 2, 10)
    tool = Box(straight, width, 2 * depth)
    for side in (-1, 1):
        tool += Pos(side * straight / 2, 0, 0) * Cylinder(width / 2, 2 * depth)
    made.shape -= at * tool
    made.slots[(width, r3(straight + width), depth, through)] += 1


def pocket(made: Made, at: Location, rng: random.Random) -> None:
    length, width, depth = size(rng, 9, 16), size(rng, 5, 8.9), size(rng, 2, 10)
    corner = rng.choice((0.0, size(rng, 0.5, 2.4)))
    tool = Box(length, width, 2 * depth)
    if corner:
        tool = fillet(tool.edges().filter_by(Axis.Z), corner)
        made.fillets[corner] += 4
    made.shape -= at * tool
    made.pockets[(length, width, depth, corner)] += 1


def socket(made: Made, at: Location, rng: random.Random) -> None:
    sides, depth, radius = rng.choice((3, 5, 6, 8)), size(rng, 2, 10), size(rng, 3, 9)
    made.shape -= at * Pos(0, 0, -depth) * extrude(RegularPolygon(radius, sides), 2 * depth)
    across = 2 * radius * math.cos(math.pi / sides) if sides % 2 == 0 else radius * (1 + math.cos(math.pi / sides))
    made.polygons[(sides, r3(across), depth)] += 1


def nothing(made: Made, at: Location, rng: random.Random) -> None:
    """Leave the cell plain."""


FEATURES = [
    plain_hole, drilled_hole, counterbored_hole, countersunk_hole, boss, slot, pocket, socket, nothing,
]  # fmt: skip


def moved(shape: Any, rng: random.Random) -> Any:
    turn = Rot(rng.uniform(0, 360), rng.uniform(0, 360), rng.uniform(0, 360))
    return Pos(*(rng.uniform(-300, 300) for _ in range(3))) * turn * shape


def split_faces(shape: Any, rng: random.Random) -> Solid:
    """Cut the faces, not the solid, along two planes through it, as some exports do."""
    solid = shape.solid()
    shell = TopExp_Explorer(solid.wrapped, TopAbs_ShapeEnum.TopAbs_SHELL).Current()
    middle = solid.bounding_box().center()
    arguments, tools = List_TopoDS_Shape(), List_TopoDS_Shape()
    arguments.Append(shell)
    for _ in range(2):
        way = gp_Dir(rng.uniform(-1, 1), rng.uniform(-1, 1), rng.uniform(-1, 1))
        plane = gp_Pln(gp_Pnt(middle.X + rng.uniform(-3, 3), middle.Y, middle.Z), way)
        tools.Append(BRepBuilderAPI_MakeFace(plane, -500, 500, -500, 500).Face())
    splitter = BRepAlgoAPI_Splitter()
    splitter.SetArguments(arguments)
    splitter.SetTools(tools)
    splitter.Build()
    builder, whole, result = BRep_Builder(), TopoDS_Shell(), TopoDS_Solid()
    builder.MakeShell(whole)
    faces = TopExp_Explorer(splitter.Shape(), TopAbs_ShapeEnum.TopAbs_FACE)
    while faces.More():
        builder.Add(whole, TopoDS.Face(faces.Current()))
        faces.Next()
    whole.Closed(True)
    builder.MakeSolid(result)
    builder.Add(result, whole)
    return Solid(result)
