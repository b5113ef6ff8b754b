"""The sheet on paper: standard paper and scales, sizes in the drawing, sums beside it, blanks for a test."""

import io
import re

import pytest
from pypdf import PdfReader

from tests.support import school as people
from tests.support.school import School, Visitor


def base(school: School) -> str:
    return f"/classes/{school.class_id}/exercises/{school.version_id}"


def pages(address: str, school: School, query: str = "") -> list[tuple[str, tuple[float, float]]]:
    page_objects = PdfReader(
        io.BytesIO(Visitor(address, people.STUDENT).get(f"{base(school)}/sheet.pdf{query}").content)
    ).pages
    return [
        (" ".join(page.extract_text().split()), (float(page.mediabox.width), float(page.mediabox.height)))
        for page in page_objects
    ]


def drawer(address: str, school: School, query: str = "") -> str:
    return next(text for text, _ in pages(address, school, query) if "Drawer" in text and "Part drawing" in text)


@pytest.mark.parametrize(("query", "wide", "count"), [("", 842, 6), ("?paper=a3", 1191, 5)])
def test_each_part_has_a_sheet_at_a_standard_scale(
    address: str, school: School, query: str, wide: int, count: int
) -> None:
    """A4 is 297 mm long, 842 points; A3 420 mm, 1191 points (ISO 216)."""
    pages_shown = pages(address, school, query)
    # three parts (on A3 two of them share a paper), the assembly together and apart, and what stands beside it all
    assert len(pages_shown) == count
    assert all(round(size[0]) == wide for _, size in pages_shown[:-1])
    text = drawer(address, school, query)
    assert re.search(r"Scale (1:2|1:1|2:1|1:5)", text)
    assert "Class One" in text
    assert "66.8 − 2 × 3 − 2 × 0.4" in pages_shown[-1][0]
    assert "Qty" in pages_shown[count - 3][0]


def test_a_variant_with_blanks_says_no_size(address: str, school: School) -> None:
    whole = " ".join(text for text, _ in pages(address, school, "?blanks=true"))
    assert "Drawer width" in whole
    assert "66.8" not in whole
    assert "90 ±0.1" not in whole


def test_in_both_units_the_other_one_stands_in_brackets(address: str, school: School) -> None:
    text = drawer(address, school, "?both=true")
    assert "90 ±0.1 [3.543]" in text
    assert "Ø8.4 ±0.1 [0.331]" in text


def test_the_views_change_places_with_the_projection(address: str, school: School) -> None:
    visitor = Visitor(address, people.STUDENT)
    third, first = (visitor.get(f"{base(school)}/sheet/drawer.svg?angle={angle}").text for angle in ("third", "first"))
    assert third.startswith("<svg")
    assert "@font-face" in third
    assert third != first
    assert visitor.get(f"{base(school)}/sheet.pdf?paper=a9").status_code == 422


def test_a_sheet_is_given_as_dxf_and_one_that_there_is_not_is_not_found(address: str, school: School) -> None:
    visitor = Visitor(address, people.STUDENT)
    given = visitor.get(f"{base(school)}/sheet/assembly.dxf")
    assert given.headers["content-type"] == "image/vnd.dxf"
    assert given.content.startswith(b"  0\nSECTION")
    assert visitor.get(f"{base(school)}/sheet/handle.svg").status_code == 404
    assert visitor.get(f"{base(school)}/sheet/drawer.step").status_code == 422
