"""Charts and codes of pages: each bar as high as its number says, read back from the drawing."""

import xml.etree.ElementTree as ET

import pytest

from rigid_bench.core.values.errors import FormRejected
from rigid_bench.web.figures.histogram import bars, histogram
from rigid_bench.web.figures.progress import WeekOfDrills, progress_chart
from rigid_bench.web.figures.svg import element, n
from rigid_bench.web.files import kind_of, safe_file, split_evidence


def drawn(svg: str, kind: str) -> list[ET.Element]:
    return [own for own in ET.fromstring(svg).iter() if own.get("class") == kind]


def heights(svg: str) -> list[float]:
    return [float(own.get("height", 0)) for own in drawn(svg, "chart-bar")]


def week(number: int, answered: int, right: int) -> WeekOfDrills:
    return WeekOfDrills(year=2026, number=number, answered=answered, right=right)


def test_a_weeks_bar_is_as_high_as_the_share_that_was_right() -> None:
    chart = progress_chart([week(40, 10, 10), week(41, 8, 4), week(42, 5, 0)])
    whole, half, none = heights(chart)
    assert (half / whole, none) == (pytest.approx(0.5, abs=0.01), 0)
    label = ET.fromstring(chart).get("aria-label") or ""
    assert label.startswith("2026, week 40: 10 of 10 right; 2026, week 41: 4 of 8 right")


def test_of_many_weeks_the_newest_are_drawn() -> None:
    chart = progress_chart([week(k, 10, k) for k in range(1, 11)])
    assert 3 < len(heights(chart)) < 10
    assert "week 10:" in chart
    assert "week 1:" not in chart


def test_values_stand_in_bins_and_the_band_lies_under_them() -> None:
    chart = histogram([16.3, 16.4, 16.4, 16.4, 8.2], 16.3, 16.5)
    counts = [text for own in drawn(chart, "chart-text") if (text := own.text or "").isdigit()]
    assert sum(map(int, counts)) == 5
    (band,) = drawn(chart, "gauge-band")
    x, width = float(band.get("x", 0)), float(band.get("width", 0))
    inside = [own for own in drawn(chart, "chart-bar") if x - 15 <= float(own.get("x", 0)) <= x + width + 15]
    assert len(inside) == len(heights(chart)) - 1, "the radius stands apart"
    assert "5 values from 8.2 to 16.4" in chart


@pytest.mark.parametrize(("low", "high"), [(None, 3.0), (1.0, None), (None, None)])
def test_an_open_band_and_values_that_are_all_alike_are_drawn(low: float | None, high: float | None) -> None:
    assert sum(1 for height in heights(histogram([2.0, 2.0, 2.0], low, high)) if height) == 1


def test_a_slips_bar_is_as_long_as_its_count() -> None:
    chart = bars([("radius typed", 8, 2), ("mirrored", 4, 4)], most=8)
    first, second = (float(own.get("width", 0)) for own in drawn(chart, "chart-bar"))
    still_open = [float(own.get("width", 0)) for own in drawn(chart, "chart-open")]
    assert second / first == pytest.approx(0.5, abs=0.01)
    assert still_open == pytest.approx([first / 4, second], abs=0.1)


def test_what_people_wrote_is_text_in_a_figure() -> None:
    written = element("text", x=1.50, class_="a", data_name='<"b">')
    assert written == '<text x="1.5" class="a" data-name="&lt;&#34;b&#34;&gt;"></text>'
    assert [n(value) for value in (2.0, 2.346, 0.0, -1.5)] == ["2", "2.35", "0", "-1.5"]


@pytest.mark.parametrize(
    ("content", "kind"),
    [
        (b"\x89PNG\r\n\x1a\n...", "image/png"),
        (b"\xff\xd8\xff\xe0", "image/jpeg"),
        (b"%PDF-1.7", "application/pdf"),
        (b"RIFF\x10\0\0\0WEBPVP8 ", "image/webp"),
        (b"RIFF\x10\0\0\0WAVEfmt ", None),
        (b"<svg onload='x()'/>", None),
        (b"<html>", None),
        (b"", None),
    ],
)
def test_evidence_is_known_by_its_content_and_never_runs(content: bytes, kind: str | None) -> None:
    assert kind_of(content) == kind
    answer = safe_file('a"b\nö.png', content)
    assert answer.media_type == (kind or "application/octet-stream")
    shown = "inline" if (kind or "").startswith("image/") else "attachment"
    assert answer.headers["content-disposition"] == f'{shown}; filename="a_b__.png"'


def test_pictures_are_parted_from_what_is_measured() -> None:
    files = {"kit.step": b"ISO-10303-21;", "photo.png": b"\x89PNG\r\n\x1a\n"}
    assert split_evidence(files) == ({"kit.step": files["kit.step"]}, {"photo.png": files["photo.png"]})
    with pytest.raises(FormRejected, match="larger than 10 MB"):
        split_evidence({"photo.png": b"\x89PNG\r\n\x1a\n" + bytes(10_000_000)})
