"""Sheets written down: SVG that stands alone, DXF that its library finds nothing wrong with."""

import io
from xml.etree import ElementTree

import pytest
from ezdxf.filemanagement import read as read_dxf

from rigid_bench.core.drawing.lettering import text_width
from rigid_bench.core.drawing.report import SheetReport
from rigid_bench.core.drawing.writers.dxf import sheet_dxf
from rigid_bench.core.drawing.writers.svg import sheet_svg
from tests.core.drawing.drawn_parts import demo, sheets

pytestmark = pytest.mark.thorough

SVG = "{http://www.w3.org/2000/svg}"


@pytest.fixture(scope="module")
def jig() -> SheetReport:
    return sheets(demo("jig"))[0]


def test_svg_is_as_large_as_the_paper_and_groups_what_belongs_to_a_check(jig: SheetReport) -> None:
    root = ElementTree.fromstring(sheet_svg(jig, label="Jig & more"))
    assert (root.get("width"), root.get("height"), root.get("viewBox")) == ("297mm", "210mm", "0 0 297 210")
    named = {check for group in root.iter(f"{SVG}g") for check in (group.get("data-check") or "").split()}
    assert named == {check for dimension in jig.dimensions for check in dimension.checks}
    assert root.find(f"{SVG}title") is not None


def test_hidden_lines_are_dashed_and_outlines_twice_as_wide_as_what_is_narrow(jig: SheetReport) -> None:
    """ISO 128-2: two widths of line, 2 to 1."""
    root = ElementTree.fromstring(sheet_svg(jig, label="Jig"))
    paths = [path for path in root.iter(f"{SVG}path") if path.get("class")]
    kinds = {path.get("class"): path for path in paths}
    assert any(path.get("stroke-dasharray") for path in paths if path.get("class") == "drawn-hidden")
    assert kinds["drawn-outline"].get("stroke-dasharray") is None
    widths = [float(kinds[name].get("stroke-width") or 0) for name in ("drawn-outline", "drawn-hidden")]
    assert widths[0] == 2 * widths[1]


def test_a_trimmed_sheet_leaves_the_margin_out_and_a_file_has_its_letters(jig: SheetReport) -> None:
    root = ElementTree.fromstring(sheet_svg(jig, label="Jig", trimmed=True))
    left, _, wide, _ = (float(value) for value in (root.get("viewBox") or "").split())
    assert (left, wide) == (14.0, 279.0)
    assert "base64," in sheet_svg(jig, label="Jig", font=b"wOF2")


@pytest.mark.parametrize("name", ["jig", "drawer", "mast"])
def test_dxf_is_without_fault_and_has_real_dimensions_that_measure_right(name: str) -> None:
    for sheet in sheets(demo(name)):
        document = read_dxf(io.StringIO(sheet_dxf(sheet).decode()))
        audit = document.audit()
        assert not audit.errors
        assert not audit.fixes
        lines = {line.dimension for line in sheet.lines if line.kind == "dimension"}
        dimensions = list(document.modelspace().query("DIMENSION"))
        assert len(dimensions) == len(lines)
        for dimension in dimensions:
            text = dimension.dxf.text.strip("()").lstrip("Ø").split(" ")[0].rstrip("*")
            if text.replace(".", "").isdigit():
                factor = dimension.override().get("dimlfac")
                assert dimension.get_measurement() * factor == pytest.approx(float(text), abs=0.02)
        assert {layer.dxf.name for layer in document.layers} >= {"OUTLINE", "FRAME", "TEXT"}


def test_letters_are_as_wide_as_the_shipped_font_has_them() -> None:
    """Figures are 592 thousandths wide or so: ten of them, 3.5 mm high, about 30 mm."""
    assert text_width("0123456789", 3.5) == pytest.approx(10 * text_width("0", 3.5), rel=0.1)
    assert text_width("Ø10", 7.0) == pytest.approx(2 * text_width("Ø10", 3.5))
