"""Sample parts by name, as solids of the modelling library, and as STEP files."""

import io
import math
import re
import tempfile
from pathlib import Path
from typing import Any

from build123d import Box, Compound, Cone, Cylinder, Plane, Pos, Rot, Solid, Sphere, Torus, export_step, mirror
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.gp import gp_Pnt, gp_Trsf
from OCP.Interface import Interface_Static
from OCP.STEPControl import STEPControl_StepModelType, STEPControl_Writer

from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.tolerance import Tolerance

TOLERANCE = Tolerance()


def features(shape: Any) -> PartFeatures:
    return read_features(shape.solid().wrapped, tolerance=TOLERANCE)


def step(shape: Any, name: str = "Part") -> bytes:
    shape.label = name
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "part.step"
        export_step(shape, path)
        return path.read_bytes()


_MILLIMETRE = re.compile(rb"\(\s*LENGTH_UNIT\(\)\s*NAMED_UNIT\(\*\)\s*SI_UNIT\(\.MILLI\.,\.METRE\.\)\s*\);")
_INCH = b"(CONVERSION_BASED_UNIT('INCH',#900001) LENGTH_UNIT() NAMED_UNIT(#900002));"
_METRE = b"(LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT($,.METRE.));"
_WHAT_AN_INCH_IS = b"""DATA;
#900001=LENGTH_MEASURE_WITH_UNIT(LENGTH_MEASURE(25.4),#900003);
#900002=DIMENSIONAL_EXPONENTS(1.,0.,0.,0.,0.,0.,0.);
#900003=(LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT(.MILLI.,.METRE.));"""


def inch_step(shape: Any, name: str = "Part") -> bytes:
    """A STEP file whose numbers are inches: of a shape scaled down, so that it is as large as the shape."""
    data, count = _MILLIMETRE.subn(_INCH, step(scaled(shape, 1 / 25.4), name))
    assert count
    return data.replace(b"DATA;", _WHAT_AN_INCH_IS, 1)


def metre_step(shape: Any, name: str = "Part") -> bytes:
    """A STEP file whose numbers are metres."""
    data, count = _MILLIMETRE.subn(_METRE, step(scaled(shape, 1 / 1000), name))
    assert count
    return data


def in_schema(shape: Any, schema: str) -> bytes:
    """A STEP file of another application protocol."""
    before = Interface_Static.CVal_s("write.step.schema")
    Interface_Static.SetCVal_s("write.step.schema", schema)
    try:
        writer, stream = STEPControl_Writer(), io.BytesIO()
        writer.Transfer(shape.solid().wrapped, STEPControl_StepModelType.STEPControl_AsIs)
        writer.WriteStream(stream)
        return stream.getvalue()
    finally:
        Interface_Static.SetCVal_s("write.step.schema", before)


def scaled(shape: Any, factor: float) -> Compound:
    """The solids of a shape, larger or smaller."""
    change = gp_Trsf()
    change.SetScale(gp_Pnt(0, 0, 0), factor)
    return Compound(children=[Solid(BRepBuilderAPI_Transform(s.wrapped, change, True).Shape()) for s in shape.solids()])


def plate_with_four_holes(diameter: float = 8.0) -> Any:
    """80 x 60 x 6, holes 20 and 15 from the middle."""
    holes = [Pos(x, y, 0) * Cylinder(diameter / 2, 20) for x in (-20, 20) for y in (-15, 15)]
    return Box(80, 60, 6) - holes


def handed_bracket() -> Any:
    """An L with one hole: it has a mirror image, and no symmetry."""
    corner = Box(40, 30, 5) + Pos(-17.5, 0, 15) * Box(5, 30, 30)
    return corner - Pos(8, 6, 0) * Cylinder(3, 20)


def stepped_block() -> Any:
    """Blind hole with a drill point, counterbore, boss."""
    block = Box(60, 40, 20)
    blind = Pos(-20, 0, 4) * Cylinder(3, 12) + Pos(-20, 0, -3) * Cone(0, 3, 2)
    bore = Pos(0, 0, 0) * Cylinder(3, 30) + Pos(0, 0, 8) * Cylinder(6, 8)
    return block - blind - bore + Pos(20, 0, 15) * Cylinder(5, 10)


def slotted_plate() -> Any:
    """A slot with round ends, and a half bore in the edge: neither is a hole."""
    slot = Box(20, 6, 30) + Pos(-10, 0, 0) * Cylinder(3, 30) + Pos(10, 0, 0) * Cylinder(3, 30)
    return Box(60, 40, 5) - slot - Pos(0, 20, 0) * Cylinder(5, 30)


def kit() -> Any:
    """A sub-assembly within an assembly: two rods in a turned frame, and a plate."""
    plate = plate_with_four_holes()
    plate.label = "Base plate"
    rods = []
    for k, x in enumerate((0, 10)):
        rod = Pos(x, 0, 0) * Cylinder(4, 30)
        rod.label = f"Rod {k}"
        rods.append(rod)
    frame = Compound(label="Frame", children=rods)
    frame.location = Pos(0, 0, 50) * Rot(0, 90, 0)
    return Compound(label="Kit", children=[plate, frame])


PI = math.pi
#: name, solid, volume and area by formula.
SOLIDS = [
    ("box", Box(3, 4, 5), 60, 2 * (12 + 15 + 20)),
    ("cylinder", Cylinder(2, 7), PI * 4 * 7, 2 * PI * 2 * (2 + 7)),
    ("frustum", Cone(3, 1, 4), PI * 4 / 3 * (9 + 3 + 1), PI * (9 + 1 + (3 + 1) * math.sqrt(4 + 16))),
    ("sphere", Sphere(5), 4 / 3 * PI * 125, 4 * PI * 25),
    ("torus", Torus(10, 2), 2 * PI**2 * 10 * 4, 4 * PI**2 * 10 * 2),
    ("plate", plate_with_four_holes(), 28800 - 4 * PI * 16 * 6, 11280 - 8 * PI * 16 + 4 * PI * 8 * 6),
]


def mirrored(shape: Any) -> Any:
    return mirror(shape, about=Plane.YZ)
