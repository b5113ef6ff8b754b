"""What the kernel is known to get wrong, and noise: one line or a report, in seconds, and the next file is measured."""

import io
import re
from collections.abc import Iterator

import pytest
from build123d import Box, Compound, Edge, Pos, Solid, Sphere
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakePolygon
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.gp import gp_Pnt, gp_Vec
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS
from OCP.XCAFDoc import XCAFDoc_DocumentTool

from rigid_bench.core.formats.content.step_text import check_text
from rigid_bench.core.formats.measure import MeasureReport
from rigid_bench.core.kernel.distance import measure_gap
from rigid_bench.core.values.errors import RigidBenchError, UnreadableFile
from rigid_bench.jobs.sandbox import Limits, Sandbox
from tests.support.shapes import features, plate_with_four_holes, step

GOOD = step(plate_with_four_holes(), "NAME")


@pytest.fixture(scope="module")
def measuring() -> Iterator[Sandbox]:
    with Sandbox(Limits(seconds=8)) as sandbox:
        yield sandbox


def outcome(measuring: Sandbox, data: bytes) -> MeasureReport | str:
    """Return the report, or the one line that the user gets."""
    line = ""
    try:
        measure: MeasureReport = measuring.run("measuring.measure_step", data, "kit.step", None, name="kit.step")
    except RigidBenchError as exc:
        line = str(exc)
    assert "\n" not in line
    return line or measure


def first(pattern: bytes, replacement: bytes, data: bytes = GOOD) -> bytes:
    changed, count = re.subn(pattern, replacement, data, count=1)
    assert count, pattern
    return changed


def deep_assembly(levels: int, copies: int) -> bytes:
    """An assembly of assemblies: a few lines that stand for copies ** levels parts."""
    document = TDocStd_Document(TCollection_ExtendedString("deep"))
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    label = tool.AddShape(Box(1, 1, 1).solid().wrapped, False)
    for _ in range(levels):
        above = tool.NewShape()
        for _ in range(copies):
            tool.AddComponent(above, label, TopLoc_Location())
        label = above
    tool.UpdateAssemblies()
    writer = STEPCAFControl_Writer()
    writer.Transfer(document)
    stream = io.BytesIO()
    writer.WriteStream(stream)
    return stream.getvalue()


@pytest.mark.parametrize(
    "data",
    [
        first(rb"=\s*PLANE\('',#(\d+)\)", rb"=OFFSET_SURFACE('',#0,1.,.F.)").replace(b"#0,1.", b"#1,1."),
        re.sub(rb"#(\d+)\s*=\s*PLANE\('',#\d+\)", rb"#\1=OFFSET_SURFACE('',#\1,1.,.F.)", GOOD),
        re.sub(rb"CARTESIAN_POINT\('',\(-?\d[^)]*\)\)", b"CARTESIAN_POINT('',(NAN,1.E308,-1.E308))", GOOD),
        re.sub(rb"CYLINDRICAL_SURFACE\('',#(\d+),4\.\)", rb"CYLINDRICAL_SURFACE('',#\1,1.E308)", GOOD),
        re.sub(rb"#(\d+) = CARTESIAN_POINT\([^;]*;", b"", GOOD),
        first(rb"CLOSED_SHELL\('',\(#\d+,", b"CLOSED_SHELL('',("),
        step(Compound(children=[Edge.make_line((0, 0, 0), (1, 1, 1)), Edge.make_circle(4)]), "Wires"),
        b"ISO-10303-21;" + b"\x9f\xe2" * 5000 + b"END-ISO-10303-21;",
        first(rb"NAME", b"9" * 300_000),
        first(rb"\b4\.\)", b"4." + b"0" * 300_000 + b")"),
    ],
    ids=[
        "offset",
        "self",
        "nan",
        "huge radius",
        "no points",
        "face gone",
        "wires",
        "noise",
        "long name",
        "long number",
    ],
)
def test_a_known_trap_ends_in_one_line_or_a_report(measuring: Sandbox, data: bytes) -> None:
    outcome(measuring, data)
    after = outcome(measuring, GOOD)
    assert isinstance(after, MeasureReport)
    assert after.parts[0].extents == [80.0, 60.0, 6.0]


@pytest.mark.parametrize(
    ("number", "said"),
    [(b"NAN", "not a number"), (b"-inf", "not a number"), (b"1.#QNAN", "not a number"), (b"1.E+308", "larger than")],
)
def test_a_number_that_cannot_be_meant_is_refused_before_the_kernel_sees_it(number: bytes, said: str) -> None:
    """On some of these the kernel never ends."""
    with pytest.raises(UnreadableFile, match=said):
        check_text(
            re.sub(rb"(CARTESIAN_POINT\('',\()-?\d[^,]*,", rb"\g<1>" + number + b",", GOOD, count=1), name="a.step"
        )
    check_text(GOOD.replace(b"'NAME'", b"'(NAN)'"), name="a.step")  # a name may say so


def test_a_missing_face_is_not_measured_in_silence(measuring: Sandbox) -> None:
    measure = outcome(measuring, first(rb"CLOSED_SHELL\('',\(#\d+,", b"CLOSED_SHELL('',("))
    assert isinstance(measure, str) or not measure.parts[0].closed


def test_an_assembly_that_multiplies_is_counted_before_it_is_expanded(measuring: Sandbox) -> None:
    refusal = outcome(measuring, deep_assembly(levels=4, copies=11))
    assert isinstance(refusal, str)
    assert "14641 instances, more than 10000" in refusal


def test_latin_1_and_missing_names_are_shown_as_text(measuring: Sandbox) -> None:
    for name in (b"Gr\xf6\xdfe", b"", b"<script>alert(1)</script>"):
        measure = outcome(measuring, GOOD.replace(b"NAME", name))
        assert isinstance(measure, MeasureReport)
        assert measure.parts[0].name.isprintable()
        assert measure.parts[0].name


def test_a_crossed_sketch_is_no_solid() -> None:
    """The kernel calls a bow-tie prism valid."""
    corners = [(0, 0), (10, 10), (10, 0), (0, 10)]
    wire = BRepBuilderAPI_MakePolygon(*[gp_Pnt(x, y, 0) for x, y in corners], True).Wire()
    face = BRepBuilderAPI_MakeFace(wire).Face()
    with pytest.raises(RigidBenchError, match="no volume"):
        features(Solid(BRepPrimAPI_MakePrism(face, gp_Vec(0, 0, 5)).Shape()))


def test_an_inside_out_solid_is_turned_right() -> None:
    turned = features(Solid(TopoDS.Solid(plate_with_four_holes().solid().wrapped.Reversed())))
    assert turned.volume == pytest.approx(features(plate_with_four_holes()).volume)
    assert all(wall.is_hollow for wall in turned.cylinders)


def test_a_ball_within_a_box_overlaps_it() -> None:
    """Between compounds the kernel's distance is that of the skins."""
    ball, box = (Pos(0, 0, 0) * Sphere(5)).solid().wrapped, Box(40, 40, 40).solid().wrapped
    assert measure_gap(ball, box).gap_mm == 0


@settings(max_examples=15, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(cuts=st.lists(st.tuples(st.floats(0, 1), st.binary(max_size=6), st.integers(0, 40)), min_size=1, max_size=4))
def test_a_damaged_file_never_harms_the_caller(measuring: Sandbox, cuts: list[tuple[float, bytes, int]]) -> None:
    data = GOOD
    for share, noise, removed in cuts:
        at = int(share * len(data))
        data = data[:at] + noise + data[at + removed :]
    outcome(measuring, data)
