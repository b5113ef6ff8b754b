"""The sheet on paper: standard scales, views where the projection puts them, sizes, blanks for a test."""

import io
import re

import pytest
from pypdf import PdfReader

from rigid_bench.web.print.sheet import projection_symbol
from tests import school as people
from tests.school import School, Visitor


def pages(address: str, school: School, query: str = "") -> list[tuple[str, tuple[float, float]]]:
    path = f"/classes/{school.class_id}/exercises/{school.version_id}/sheet.pdf{query}"
    found = PdfReader(io.BytesIO(Visitor(address, people.STUDENT).get(path).content)).pages
    return [
        (" ".join(each.extract_text().split()), (float(each.mediabox.width), float(each.mediabox.height)))
        for each in found
    ]


@pytest.mark.parametrize(("query", "wide"), [("", 842), ("?paper=a3", 1191)])
def test_each_part_has_a_page_with_its_sizes_at_a_standard_scale(
    address: str, school: School, query: str, wide: int
) -> None:
    """A4 is 297 mm long, 842 points; A3 420 mm, 1191 points (ISO 216)."""
    found = pages(address, school, query)
    assert len(found) == 4  # three parts and the assembly
    assert all(round(size[0]) == wide for _, size in found)
    drawer = next(text for text, _ in found if "Seed drawer: Drawer" in text)
    assert "66.8 − 2 × 3 − 2 × 0.4" in drawer
    assert re.search(r"Scale (1:2|1:1|2:1|1:5)", drawer)
    assert "third angle" in drawer
    assert "Class One" in drawer


def test_a_variant_with_blanks_says_no_size(address: str, school: School) -> None:
    drawer = next(text for text, _ in pages(address, school, "?blanks=true") if "Seed drawer: Drawer" in text)
    assert "Drawer width" in drawer
    assert "66.8" not in drawer


def test_first_angle_says_so_and_has_its_own_symbol(address: str, school: School) -> None:
    assert any("first angle" in text for text, _ in pages(address, school, "?angle=first"))
    assert projection_symbol("first") != projection_symbol("third")
    assert (
        Visitor(address, people.STUDENT)
        .get(f"/classes/{school.class_id}/exercises/{school.version_id}/sheet.pdf?paper=a9")
        .status_code
        == 422
    )


def test_in_both_units_the_other_one_stands_in_brackets(address: str, school: School) -> None:
    drawer = next(text for text, _ in pages(address, school, "?both=true") if "Seed drawer: Drawer" in text)
    assert "90 ±0.1 [3.543]" in drawer
    assert "Ø8.4 ±0.1 [0.331]" in drawer
