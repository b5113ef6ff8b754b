"""The figures: what they draw, what a screen reader hears, and that no style slips past the policy."""

import re

import pytest
from lxml import etree

from rigid_bench.core.formats.message import UNSAID
from rigid_bench.core.grading.report.models import Gauge, RoseModel
from rigid_bench.web.figures.gauge import gauge_strip
from rigid_bench.web.figures.rose import freedom_rose


def classes(svg: str) -> list[str]:
    root = etree.fromstring(svg.encode())
    return [element.get("class") for element in root.iter() if element.get("class")]


@pytest.mark.parametrize(
    ("low", "high", "measured", "label", "marker"),
    [
        (16.3, 16.5, 16.42, "measured 16.42 mm, allowed 16.3 to 16.5 mm", "gauge-in"),
        (16.3, 16.5, 8.2, "measured 8.2 mm, allowed 16.3 to 16.5 mm", "gauge-out"),
        (16.3, 16.5, 900.0, "measured 900 mm, allowed 16.3 to 16.5 mm", "gauge-out"),
        (0.5, None, 0.2, "measured 0.2 mm, at least 0.5 mm", "gauge-out"),
        (None, 2.0, 1.0, "measured 1 mm, at most 2 mm", "gauge-in"),
        (3.0, 3.0, 3.0, "measured 3 mm, allowed 3 to 3 mm", "gauge-in"),
        (2.0, 4.0, None, "not measured, allowed 2 to 4 mm", ""),
    ],
)
def test_a_gauge_shows_the_value_on_its_scale(
    low: float | None, high: float | None, measured: float | None, label: str, marker: str
) -> None:
    svg = gauge_strip(Gauge(low=low, high=high, measured=measured, unit="mm"))
    assert f'aria-label="{label}"' in svg
    assert [name for name in classes(svg) if name in ("gauge-in", "gauge-out")] == ([marker] if marker else [])
    xs = [float(x) for x in re.findall(r'\bx\d?="(-?[\d.]+)"', svg)]
    assert all(0 <= x <= 176 for x in xs)
    assert "style=" not in svg


def test_a_rose_has_six_petals_and_rings_what_is_not_as_asked() -> None:
    rose = RoseModel(
        state="guided",
        slides=[True, False, False],
        turns=[False, False, True],
        required_slides=[True, False, False],
        required_turns=[False, False, False],
        words=UNSAID,
    )
    named = classes(freedom_rose(rose))
    assert [named.count(name) for name in ("petal-open", "petal-closed", "rose-wrong")] == [2, 4, 1]
    assert 'aria-label="guided: slide along X, turn about Z open"' in freedom_rose(rose)
